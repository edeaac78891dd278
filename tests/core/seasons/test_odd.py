"""Odd periods by medians: worked examples, and the slow rule against the fast one."""

from __future__ import annotations

import statistics
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from oat_tide.core.periods.calendar import Grid
from oat_tide.core.seasons.odd import find_odd, line_by_medians, running_median
from oat_tide.core.series.like import like_places, median_known

MONTHS = Grid("month")


class Level(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(st.lists(st.one_of(st.none(), st.integers(-50, 999)), min_size=1, max_size=40), st.integers(1, 7))
    def test_the_running_median_is_the_plain_one(self, cells: list[int | None], half: int) -> None:
        values = np.array([[np.nan if cell is None else cell for cell in cells]], float)
        found = running_median(values, half)[0]
        for at in range(len(cells)):
            known = [cell for cell in cells[max(at - half, 0) : at + half + 1] if cell is not None]
            if len(known) > half:
                self.assertEqual(found[at], statistics.median(known))
            else:
                self.assertTrue(np.isnan(found[at]))

    def test_like_places(self) -> None:
        january = MONTHS.period(0)
        self.assertEqual(like_places(MONTHS, january, 14).tolist(), [*range(1, 13), 1, 2])
        # 1 January 1970 was a Thursday.
        self.assertEqual(like_places(Grid("day"), 0, 4).tolist(), [3, 4, 5, 6])


class Odd(unittest.TestCase):
    def seasonal(self, years: int = 6) -> np.ndarray[tuple[int, int], np.dtype[np.float64]]:
        """A steady level with a strong December."""
        year = [100.0, 98, 102, 101, 99, 100, 103, 97, 100, 101, 99, 180]
        wobble = np.array([(-1) ** i * (i % 5) / 2 for i in range(12 * years)])
        return np.array([year * years]) + wobble

    def test_a_hole_is_odd_and_a_season_is_not(self) -> None:
        values = self.seasonal()
        values[0, 37] *= 0.6
        odd = find_odd(values, MONTHS, 0)
        self.assertEqual(np.flatnonzero(odd.odd[0]).tolist(), [37])
        self.assertAlmostEqual(odd.off[0, 37], -40, delta=3)
        self.assertAlmostEqual(odd.expected[0, 37], values[0, 37] / 0.6, delta=3)

    def test_what_is_not_known_is_neither(self) -> None:
        values = self.seasonal()
        values[0, 10:14] = np.nan
        odd = find_odd(values, MONTHS, 0)
        self.assertTrue(np.isnan(odd.expected[0, 10:14]).all())
        self.assertFalse(odd.odd[0].any())

    def test_nothing_and_little(self) -> None:
        for count in (0, 1, 3):
            odd = find_odd(np.ones((2, count)), MONTHS, 5)
            self.assertFalse(odd.odd.any())
            self.assertEqual(odd.off.shape, (2, count))


class MedianOfWhatIsKnown(unittest.TestCase):
    def test_by_hand(self) -> None:
        nan = float("nan")
        rows = np.array([[3, 1, 2, nan], [nan, 4, 1, nan], [nan] * 4, [9, nan, nan, nan]])
        np.testing.assert_array_equal(median_known(rows), [2, 2.5, nan, 9])
        self.assertEqual(median_known(np.empty((2, 0))).shape, (2,))

    @given(st.lists(st.one_of(st.none(), st.floats(-1e6, 1e6)), min_size=1, max_size=9))
    def test_it_is_the_plain_median(self, row: list[float | None]) -> None:
        known = [each for each in row if each is not None]
        found = median_known(np.array([[np.nan if each is None else each for each in row]]))[0]
        np.testing.assert_allclose(found, statistics.median(known) if known else np.nan, rtol=1e-12)

    def test_what_is_usual_needs_two_ratios(self) -> None:
        odd = find_odd(np.arange(1.0, 25)[None], Grid("month"), 0)
        # Of two years of months the mean around is known for one, of five for four.
        self.assertFalse(odd.told.any())
        self.assertTrue(find_odd(np.arange(1.0, 61)[None], Grid("month"), 0).told.any())


class Ends(unittest.TestCase):
    def test_a_line_by_medians_is_not_moved_by_one_of_five(self) -> None:
        at = np.array([3, 4, 5, 7, 8])
        line = line_by_medians(np.array([2.0, 0, -2, 99, -8]), at)
        np.testing.assert_allclose(line(np.array([3, 7, 10])), [2, -6, -12])
        # On logarithms where all are above zero: three times as much in two periods.
        grown = line_by_medians(3.0 ** (at / 2), at)
        np.testing.assert_allclose(grown(np.array([1, 9])), [3**0.5, 3**4.5])

    def test_exact_growth_has_no_odd_period(self) -> None:
        for kind, rate, count in (("month", 1.05, 60), ("quarter", 1.1, 24), ("year", 1.3, 12)):
            self.assertFalse(find_odd(200 * rate ** np.arange(count)[None], Grid(kind), 0).odd.any())  # type: ignore[arg-type]

    def test_clean_series_have_few_and_an_odd_end_is_found(self) -> None:
        rng = np.random.default_rng(21)
        t = np.arange(36)
        mean = (200 + 2.0 * t) * (1 + 0.3 * np.sin(2 * np.pi * t / 12))
        values = mean * (1 + rng.normal(0, 0.05, (400, 36)))
        odd = find_odd(values, MONTHS, 0).odd
        for part in (odd, odd[:, :6], odd[:, -6:]):
            self.assertLess(100 * part.mean(), 3)
        values[:, -1] = mean[-1] * 1.3
        self.assertGreater(100 * find_odd(values, MONTHS, 0).odd[:, -1].mean(), 85)
