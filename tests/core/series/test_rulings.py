"""Rulings on periods: which series and periods they reach."""

from __future__ import annotations

import datetime as dt
import unittest

import numpy as np

from oat_tide.core.periods.calendar import Grid, day_number
from oat_tide.core.series.panel import INCOMPLETE, LEFT_OUT, REPLACED, TOUCHED, Panel
from oat_tide.core.series.rulings import Ruling, at, ruled

KEYS = (("Bran", "North"), ("Bran", "South"), ("Oats", "North"))
FIRST = Grid("month").period(day_number(dt.date(2024, 1, 1)))


def panel(kind: str = "month", keys: tuple[tuple[str | None, ...], ...] = KEYS) -> Panel:
    grid = Grid(kind)  # type: ignore[arg-type]
    first = grid.period(day_number(dt.date(2024, 1, 1)))
    shape = len(keys), 6
    flags = np.zeros(shape, np.uint8)
    flags[:, 5] = INCOMPLETE
    values = np.arange(shape[0] * 6, dtype=float).reshape(shape)
    return Panel(("p", kind, keys), grid, first, keys, values, np.ones(shape, np.int64), flags)


def ruling(
    act: str,
    key: tuple[str | None, ...] = (None, None),
    first: str = "2024-02-01",
    last: str = "2024-02-29",
    value: float = 0,
) -> Ruling:
    days = [day_number(dt.date.fromisoformat(text)) for text in (first, last)]
    return Ruling(key, days[0], days[1], act, value, "why")


class Reach(unittest.TestCase):
    def flagged(self, made: Panel, flag: int) -> list[tuple[int, int]]:
        return [(int(r), int(c)) for r, c in np.argwhere(made.flags & flag)]

    def test_leaving_out_reaches_every_series_within(self) -> None:
        made = ruled(panel(), (ruling("leave out", ("Bran", None)),))
        self.assertEqual(self.flagged(made, LEFT_OUT), [(0, 1), (1, 1)])
        self.assertEqual(self.flagged(made, TOUCHED), [(0, 1), (1, 1)])

    def test_a_wider_series_or_period_is_only_touched(self) -> None:
        wide = ruled(panel(keys=((None, None),)), (ruling("leave out", ("Bran", None)),))
        self.assertEqual((self.flagged(wide, LEFT_OUT), self.flagged(wide, TOUCHED)), ([], [(0, 1)]))
        quarter = ruled(panel("quarter"), (ruling("leave out"),))
        self.assertEqual(self.flagged(quarter, LEFT_OUT), [])
        self.assertEqual(self.flagged(quarter, TOUCHED), [(0, 0), (1, 0), (2, 0)])

    def test_an_expected_figure_counts_for_exactly_one(self) -> None:
        made = ruled(panel(), (ruling("expected", ("Bran", "South"), value=77.5),))
        self.assertEqual(self.flagged(made, REPLACED), [(1, 1)])
        self.assertEqual(made.settled[1, 1], 77.5)
        self.assertEqual(made.values[1, 1], 7)
        self.assertTrue(np.array_equal(made.settled[[0, 2]], made.values[[0, 2]]))

    def test_a_part_period_can_be_taken_as_whole(self) -> None:
        made = ruled(panel(), (ruling("whole", ("Oats", None), "2024-06-01", "2024-06-30"),))
        self.assertEqual(self.flagged(made, INCOMPLETE), [(0, 5), (1, 5)])

    def test_rulings_of_a_period(self) -> None:
        rulings = (ruling("note", ("Bran", None)), ruling("note", ("Oats", None)))
        days = rulings[0].first, rulings[0].last
        self.assertEqual(at(rulings, ("Bran", "North"), *days), rulings[:1])
        self.assertEqual(at(rulings, (None, "North"), *days), ())
        self.assertEqual(at(rulings, (None, None), *days), rulings)
        self.assertEqual(at(rulings, (None, None), days[1] + 1, days[1] + 5), ())

    def test_nothing_ruled_is_the_same_panel(self) -> None:
        made = panel()
        self.assertIs(ruled(made, ()), made)
