"""Panels: exact totals, views and what may be seen."""

from __future__ import annotations

import pickle
import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from oat_tide.core.periods.calendar import Grid
from oat_tide.core.series.panel import FILLED, INCOMPLETE, LEFT_OUT, Panel, fits_key, narrowed, sight


def panel(values: list[list[float]], scale: float = 1.0, flags: list[list[int]] | None = None) -> Panel:
    array = np.array(values, float)
    keys = tuple((f"p{i}", "north" if i % 2 else "south") for i in range(len(values)))
    lines = np.where(np.isnan(array) | (array == 0), 0, 1).astype(np.int64)
    marks = np.zeros(array.shape, np.uint8) if flags is None else np.array(flags, np.uint8)
    return Panel(("test", str(values)), Grid("month"), 600, keys, array, lines, marks, scale)


class Totals(unittest.TestCase):
    def test_money_adds_up_to_the_last_unit(self) -> None:
        many = panel([[0.1]] * 10, scale=10.0)
        self.assertNotEqual(sum([0.1] * 10), 1.0)
        self.assertEqual(many.total((None, None)).values[0, 0], 1.0)

    @given(st.lists(st.integers(-(10**9), 10**9), min_size=1, max_size=12))
    def test_totals_are_exact_in_cents(self, cents: list[int]) -> None:
        made = panel([[each / 100] for each in cents], scale=100.0)
        self.assertEqual(made.total((None, None)).values[0, 0], sum(cents) / 100)

    def test_a_level_takes_the_series_that_fit(self) -> None:
        made = panel([[1, 2], [10, 20], [100, 200]])
        self.assertEqual(made.total((None, "south")).values.tolist(), [[101, 202]])
        self.assertEqual(made.total(("p1", None)).values.tolist(), [[10, 20]])
        self.assertEqual(made.total(("p1", None)).keys, (("p1", None),))

    def test_unknown_only_where_no_part_is_known(self) -> None:
        made = panel([[np.nan, 1, 0], [np.nan, np.nan, 0]])
        total = made.total((None, None))
        np.testing.assert_array_equal(total.values, [[np.nan, 1, 0]])
        self.assertEqual(total.flags[0].tolist(), [0, 0, FILLED])

    def test_part_passes_up_and_a_filled_period_does_not_hide_lines(self) -> None:
        made = panel([[5, 0], [3, 4]], flags=[[0, FILLED | INCOMPLETE], [0, INCOMPLETE]])
        self.assertEqual(made.total((None, None)).flags[0].tolist(), [0, INCOMPLETE])

    def test_a_series_that_is_not_there_is_unknown(self) -> None:
        self.assertTrue(np.isnan(panel([[1.0]]).total(("nobody", None)).values).all())


class Views(unittest.TestCase):
    def test_a_cut_copies_nothing_and_nothing_can_be_written(self) -> None:
        made = panel([[1, 2, 3]])
        cut = made.cut(1, 3)
        self.assertTrue(np.shares_memory(cut.values, made.values))
        self.assertEqual((cut.first, cut.columns), (601, 2))
        with self.assertRaises(ValueError):
            cut.values[0, 0] = 9

    def test_panels_are_equal_by_their_recipe(self) -> None:
        self.assertEqual(panel([[1.0]]), panel([[1.0]]))
        self.assertEqual(hash(panel([[1.0]])), hash(panel([[1.0]])))
        self.assertNotEqual(panel([[1.0]]), panel([[2.0]]))

    def test_sight_parts_what_lies_up_to_the_as_of_from_what_came_after(self) -> None:
        seen = sight(narrowed(panel([[1, 2, 3, 4]]), (None, None)), 601, 602)
        self.assertEqual(seen.past.values.tolist(), [[1, 2]])
        self.assertEqual(seen.later.values.tolist(), [[3, 4]])
        self.assertTrue(seen.moved_back)
        self.assertEqual(seen.values.tolist(), [[1, 2, 3, 4]])

    def test_an_as_of_before_the_data_sees_nothing(self) -> None:
        self.assertEqual(sight(narrowed(panel([[1, 2]]), (None, None)), 599, 599).past.columns, 0)


class Parts(unittest.TestCase):
    def test_which_series_belong_to_a_level(self) -> None:
        own = ("Oat drink", "North")
        for wanted, fits in (((None, None), True), (("Oat drink", None), True), ((None, "South"), False)):
            self.assertEqual(fits_key(own, wanted), fits)

    def test_what_lines_come_to_is_their_mean_times_their_number(self) -> None:
        lines = np.array([[3, 2, 0]])
        values = np.array([[0.1, 2.5, np.nan]])
        flags = np.zeros((1, 3), np.uint8)
        means = Panel("means", Grid("month"), 0, (("A",),), values, lines, flags, 10.0, totalled="mean")
        # 3 x 0.1 is a whole number of tenths again, not 0.30000000000000004.
        np.testing.assert_array_equal(means.amounts, [[0.3, 5.0, np.nan]])
        self.assertIs(panel([[1, 2]]).amounts.base, None)

    def test_rulings_change_flags_and_settled_and_nothing_else(self) -> None:
        made = panel([[1, 2, 3]])
        flags, settled = np.array([[0, LEFT_OUT, 0]], np.uint8), np.array([[1.0, 9, 3]])
        ruled = made.with_rulings("ruled", flags, settled)
        self.assertEqual((ruled.values is made.values, ruled.settled.tolist()), (True, [[1, 9, 3]]))
        self.assertEqual((ruled.stamp, ruled.flags.tolist()), ("ruled", [[0, LEFT_OUT, 0]]))
        self.assertFalse(ruled.settled.flags.writeable)

    def test_a_copy_of_another_process_is_equal_and_cannot_be_written(self) -> None:
        made = panel([[1, 2], [3, 4]], scale=100.0)
        copy = pickle.loads(pickle.dumps(made))
        self.assertEqual((copy, copy.values.tolist(), copy.scale), (made, made.values.tolist(), 100.0))
        for array in (copy.values, copy.lines, copy.flags, copy.settled, copy.unread, copy.withheld):
            with self.assertRaises(ValueError):
                array[0, 0] = 5
