"""A total in parts: worked examples, and that all adds up for any total, lock, pack and table."""

from __future__ import annotations

import itertools
import unittest

import numpy as np
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from scipy.optimize import linprog

from oat_tide.core.spread import Unmet, controlled, fitted, largest_remainders, spread

C = np.array([0.795980, 1.092578, 1.289581, 0.821861])
"""Indices of quarters, of the worked examples."""
FREE = np.ones(4, np.bool_)
NONE = np.zeros(4, np.int64)


class Periods(unittest.TestCase):
    def test_by_index(self) -> None:
        # 198.995, 273.1445, 322.39525, 205.46525: 998 rounded down, and the first and the last go up.
        self.assertEqual(spread(1000, C, NONE, FREE).parts.tolist(), [199, 273, 322, 206])

    def test_packs_and_what_fills_none(self) -> None:
        # 83 packs of 12 are 996.
        found = spread(1000, C, NONE, FREE, pack=12)
        self.assertEqual(found.parts.tolist(), [192, 276, 324, 204 + 4])
        self.assertEqual((found.rest, found.rest_in), (4, 3))
        self.assertEqual(spread(1000, C, NONE, FREE, 12, 1).parts.tolist(), [192, 276 + 4, 324, 204])

    def test_locks(self) -> None:
        # 700 are left for 1, 1 and 2 in 4; a tie goes to the earliest.
        locked, free = np.array([0, 300, 0, 0]), np.array([True, False, True, True])
        self.assertEqual(
            spread(1000, np.array([1.0, 9, 1, 2]), locked, free).parts.tolist(), [175, 300, 175, 350]
        )
        self.assertEqual(spread(5, np.ones(4), NONE, FREE).parts.tolist(), [2, 1, 1, 1])

    def test_what_cannot_be_met_says_which(self) -> None:
        lock, free = np.array([300, 0, 0, 0]), np.array([False, True, True, True])
        for reason, by, call in (
            ("total", 0, lambda: spread(0, C, NONE, FREE)),
            ("nothing", 0, lambda: spread(9, np.zeros(0), np.zeros(0, np.int64), np.zeros(0, np.bool_))),
            ("locks", 200, lambda: spread(100, C, lock, free)),
            ("lack", 700, lambda: spread(1000, C, lock, ~FREE)),
            ("weight", 0, lambda: spread(1000, np.zeros(4), lock, free)),
            ("pack", 10, lambda: spread(310, C, lock, free, pack=12)),
        ):
            with self.subTest(reason), self.assertRaises(Unmet) as raised:
                call()
            self.assertEqual((raised.exception.reason, raised.exception.by), (reason, by))

    @settings(deadline=None, max_examples=150)
    @given(
        st.lists(st.tuples(st.floats(0, 1e6), st.integers(0, 10**6), st.booleans()), min_size=1, max_size=60),
        st.integers(0, 10**9),
        st.integers(1, 500),
    )
    def test_parts_add_up_for_any_total_lock_and_pack(
        self, parts: list[tuple[float, int, bool]], left: int, pack: int
    ) -> None:
        weights, locked, free = (np.array(each) for each in zip(*parts, strict=True))
        free = free.astype(bool)
        assume(free.any() and weights[free].sum() > 0 and not 0 < left < pack)
        total = int(locked[~free].sum()) + left
        assume(total > 0)
        found = spread(total, weights, locked, free, pack)
        self.assertEqual(int(found.parts.sum()), total)
        np.testing.assert_array_equal(found.parts[~free], locked[~free])
        own = found.parts.copy()
        if found.rest_in >= 0:
            own[found.rest_in] -= found.rest
        self.assertTrue((own[free] % pack == 0).all())
        self.assertTrue((np.abs(own[free] - found.shares[free]) < pack + found.rest + 1e-3).all())


class Tables(unittest.TestCase):
    def test_three_by_three_by_hand(self) -> None:
        # Rows 4, 3 and 3 of 10, columns 5, 3 and 2: shares row x column / 10.
        rows, columns = np.array([4, 3, 3]), np.array([5, 3, 2])
        shares = np.outer(rows, columns) / 10
        # 2, 1.2, 0.8; twice 1.5, 0.9, 0.6. Rounded to the nearest the rows would have 4, 4 and 4.
        found = controlled(shares, rows, columns)
        self.assertEqual(found.sum(0).tolist(), [5, 3, 2])
        self.assertEqual(found.sum(1).tolist(), [4, 3, 3])
        self.assertEqual(found[0].tolist(), [2, 1, 1])
        # Of the two rows alike one gets 2, 1 and 0, the other 1, 1 and 1.
        self.assertEqual(sorted(map(tuple, found[1:].tolist())), [(1, 1, 1), (2, 1, 0)])

    @settings(deadline=None, max_examples=200)
    @given(st.integers(1, 3), st.integers(1, 4), st.integers(1, 60), st.integers(0, 2**32 - 1))
    def test_rows_columns_and_total_are_exact_and_nothing_departs_less(
        self, many: int, wide: int, total: int, seed: int
    ) -> None:
        rng = np.random.default_rng(seed)
        table = rng.random((many, wide)) * (rng.random((many, wide)) > 0.2) + 1e-3
        rows, columns = (largest_remainders(table.sum(axis) / table.sum() * total, total) for axis in (1, 0))
        shares = fitted(table, rows.astype(float), columns.astype(float))
        found = controlled(shares, rows, columns)
        np.testing.assert_array_equal(found.sum(1), rows)
        np.testing.assert_array_equal(found.sum(0), columns)
        self.assertLess(np.abs(found - shares).max(), 1 + 1e-6)
        self.assertAlmostEqual(np.abs(found - shares).sum(), least_departure(shares, rows, columns), places=6)

    @settings(deadline=None, max_examples=25)
    @given(st.integers(1, 400), st.integers(1, 53), st.integers(0, 2**32 - 1))
    def test_large_tables_add_up(self, many: int, wide: int, seed: int) -> None:
        rng = np.random.default_rng(seed)
        total = int(rng.integers(1, 100_000))
        table = np.outer(rng.gamma(1, 1, many) + 1e-6, rng.gamma(2, 1, wide) + 1e-6)
        rows, columns = (largest_remainders(table.sum(axis) / table.sum() * total, total) for axis in (1, 0))
        found = controlled(fitted(table, rows.astype(float), columns.astype(float)), rows, columns)
        np.testing.assert_array_equal(found.sum(1), rows)
        np.testing.assert_array_equal(found.sum(0), columns)
        self.assertGreaterEqual(found.min(), 0)

    def test_a_table_that_scaling_alone_comes_near_to_only_slowly(self) -> None:
        # Both rows that nearly all belong to the first column are to share it with the second.
        table = np.array([[0.779, 0.001], [0.001, 0.715], [0.761, 0.001]])
        rows, columns = np.array([1.0, 1, 1]), np.array([2.0, 1])
        found = fitted(table, rows, columns)
        np.testing.assert_allclose(found.sum(1), rows, atol=1e-8)
        np.testing.assert_allclose(found.sum(0), columns, atol=1e-8)
        # In proportion to the table: the cross ratios of any two rows and columns are those of the table.
        for one, other in ((0, 1), (1, 2), (0, 2)):
            cross = [t[one, 0] * t[other, 1] / (t[one, 1] * t[other, 0]) for t in (table, found)]
            self.assertAlmostEqual(cross[1] / cross[0], 1, places=6)

    @settings(deadline=None, max_examples=100)
    @given(st.integers(1, 5), st.integers(1, 5), st.integers(1, 30), st.integers(0, 2**32 - 1))
    def test_it_fits_wherever_any_table_with_its_zeros_does(
        self, many: int, wide: int, total: int, seed: int
    ) -> None:
        rng = np.random.default_rng(seed)
        table = rng.random((many, wide)) * (rng.random((many, wide)) > rng.choice((0.0, 0.3, 0.6)))
        table *= 10.0 ** rng.integers(-6, 7, (many, wide))
        rows = np.bincount(rng.integers(0, many, total), minlength=many).astype(float)
        columns = np.bincount(rng.integers(0, wide, total), minlength=wide).astype(float)
        at = np.arange(many * wide)
        sums = [at // wide == row for row in range(many)] + [at % wide == column for column in range(wide)]
        bounds = [(0, None if cell > 0 else 0) for cell in table.ravel()]
        any_does = linprog(
            np.zeros(many * wide), A_eq=np.array(sums, float), b_eq=[*rows, *columns], bounds=bounds
        ).status
        try:
            found = fitted(table, rows, columns)
        except Unmet:
            self.assertNotEqual(any_does, 0)
            return
        self.assertEqual(any_does, 0)
        np.testing.assert_allclose(found.sum(1), rows, atol=1e-7)
        np.testing.assert_allclose(found.sum(0), columns, atol=1e-7)

    def test_margins_that_zeros_leave_apart_name_the_row(self) -> None:
        # The first child sells in the first period alone, which is too small for its share.
        with self.assertRaises(Unmet) as raised:
            fitted(np.array([[1.0, 0], [1, 1]]), np.array([8.0, 2]), np.array([3.0, 7]))
        self.assertEqual((raised.exception.reason, raised.exception.place), ("apart", 0))
        with self.assertRaises(Unmet) as raised:
            fitted(np.array([[0.0, 0], [1, 1]]), np.array([8.0, 2]), np.array([3.0, 7]))
        self.assertEqual((raised.exception.reason, raised.exception.place), ("row", 0))
        with self.assertRaises(Unmet) as raised:
            fitted(np.array([[1.0, 0], [1, 0]]), np.array([8.0, 2]), np.array([3.0, 7]))
        self.assertEqual((raised.exception.reason, raised.exception.place), ("column", 1))


def least_departure(shares: np.ndarray, rows: np.ndarray, columns: np.ndarray) -> float:
    """The least total departure of all tables next to the shares, every one of them tried."""
    floors = np.floor(shares + 1e-9)
    free = np.argwhere(shares - floors > 1e-9)
    best = np.inf
    for ups in itertools.product((0, 1), repeat=len(free)):
        table = floors.copy()
        table[tuple(free.T)] += ups
        if (table.sum(1) == rows).all() and (table.sum(0) == columns).all():
            best = min(best, float(np.abs(table - shares).sum()))
    return best


if __name__ == "__main__":
    unittest.main()
