"""Years laid over each other, running and trailing totals, the usual, and the tally."""

from __future__ import annotations

import datetime as dt
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from oat_tide.core.comparison.overlay import laid_over, overlay
from oat_tide.core.comparison.sums import (
    running,
    running_count,
    running_starts,
)
from oat_tide.core.comparison.tally import tally
from oat_tide.core.comparison.usual import of_years, usual
from oat_tide.core.periods.calendar import Grid, day_number

NAN = float("nan")
CELLS = st.lists(st.one_of(st.none(), st.integers(-500, 999)), min_size=1, max_size=50)


def row(cells: list[int | None]) -> np.ndarray[tuple[int, int], np.dtype[np.float64]]:
    return np.array([[np.nan if cell is None else cell for cell in cells]], float)


def at(kind: str, text: str, **more: int) -> int:
    grid = Grid(kind, **more)  # type: ignore[arg-type]
    return grid.period(day_number(dt.date.fromisoformat(text)))


class Overlaid(unittest.TestCase):
    def test_months_of_fiscal_years(self) -> None:
        grid = Grid("month", year_start=4)
        over = overlay(grid, at("month", "2023-02-01"), 16)
        self.assertEqual((over.years, over.places), ((2022, 2023, 2024), 12))
        self.assertEqual(over.column[0].tolist(), [-1] * 10 + [0, 1])
        self.assertEqual(over.column[1].tolist(), list(range(2, 14)))

    def test_leap_days_and_week_53_have_places_of_their_own(self) -> None:
        over = overlay(Grid("day"), at("day", "2023-01-01"), 731)
        self.assertEqual(over.places, 366)
        feb29 = 31 + 28
        self.assertEqual(over.column[0, feb29], -1)
        self.assertEqual(over.column[1, feb29], 365 + feb29)
        self.assertEqual(over.column[0, feb29 + 1], feb29)
        self.assertEqual(over.column[:, 365].tolist(), [364, 730])
        weeks = overlay(Grid("week"), at("week", "2020-01-01"), 110)
        self.assertEqual(weeks.column[:, 52].tolist(), [52, -1, -1])

    @settings(max_examples=40, deadline=None)
    @given(
        st.sampled_from(["day", "week", "month", "quarter"]),
        st.integers(-200, 3000),
        st.integers(1, 900),
        st.integers(1, 12),
    )
    def test_every_period_stands_once(self, kind: str, first: int, count: int, start: int) -> None:
        over = overlay(Grid(kind, year_start=start), first, count)  # type: ignore[arg-type]
        held = over.column[over.column >= 0]
        self.assertEqual(sorted(held.tolist()), list(range(count)))
        values = np.arange(count, dtype=float)[None]
        laid = laid_over(values, over)
        self.assertEqual(np.nansum(laid), values.sum())
        np.testing.assert_array_equal(np.nonzero(over.column >= 0)[1][np.argsort(held)], over.place)


class Totals(unittest.TestCase):
    @settings(max_examples=80, deadline=None)
    @given(CELLS, st.integers(1, 12))
    def test_the_running_total_is_the_plain_one(self, cells: list[int | None], length: int) -> None:
        group = np.arange(len(cells)) // length
        found = running(row(cells), group, 1.0)[0]
        known_now = ~np.isnan(row(cells))
        gone = running_count(~known_now & (np.cumsum(known_now, axis=1) > 0), group)[0]
        born = next((i for i, cell in enumerate(cells) if cell is not None), len(cells))
        for i in range(len(cells)):
            inside = cells[max(i // length * length, born) : i + 1]
            known = [cell for cell in inside if cell is not None]
            if i < born or not known:
                self.assertTrue(np.isnan(found[i]))
            else:
                self.assertEqual(found[i], sum(known))
            self.assertEqual(gone[i], len(inside) - len(known))


class Usual(unittest.TestCase):
    @settings(max_examples=50, deadline=None)
    @given(st.lists(st.integers(1, 999), min_size=24, max_size=60))
    def test_ratios_to_the_usual_average_100_at_every_place(self, cells: list[int]) -> None:
        place = np.arange(len(cells)) % 12
        values = row(list(cells))
        ratio = values / usual(values, place)
        for month in range(12):
            self.assertAlmostEqual(float(ratio[0, place == month].mean()), 1.0)

    def test_the_mean_is_of_what_is_known(self) -> None:
        values = row([10, None, 30, 50, 4, None])
        np.testing.assert_array_equal(
            usual(values, np.arange(6) % 2)[0], [44 / 3, 50, 44 / 3, 50, 44 / 3, 50]
        )

    def test_of_earlier_years(self) -> None:
        laid = np.array([[[1.0, 4, NAN], [3, NAN, NAN], [8, 2, NAN]]])
        np.testing.assert_array_equal(of_years(laid, "mean")[0], [4, 3, NAN])
        np.testing.assert_array_equal(of_years(laid, "median")[0], [3, 3, NAN])
        np.testing.assert_array_equal(of_years(laid, "lowest")[0], [1, 2, NAN])
        np.testing.assert_array_equal(of_years(laid, "highest")[0], [8, 4, NAN])


class Tallies(unittest.TestCase):
    def test_a_stretch(self) -> None:
        values = np.array([100.0, 110, NAN, 121, 69])
        found = tally(values, np.array([0, 1, 2, 3]), Grid("month"), at("month", "2024-01-01"))
        self.assertEqual((found.count, found.total, found.steps), (3, 331, 3))
        self.assertAlmostEqual(found.mean, 331 / 3)
        self.assertEqual((found.median, found.lowest, found.highest), (110, 100, 121))
        self.assertEqual(found.change, 21)
        self.assertAlmostEqual(found.change_share, 21)
        self.assertAlmostEqual(found.compound, 100 * (1.21 ** (1 / 3) - 1))
        self.assertAlmostEqual(found.share, 100 * 331 / 400)

    def test_one_period_and_none(self) -> None:
        one = tally(np.array([5.0]), np.array([0]), Grid("year"), 50)
        self.assertEqual((one.count, one.total, one.steps), (1, 5, 0))
        self.assertTrue(np.isnan(one.change) and np.isnan(one.compound))
        self.assertEqual(tally(np.array([NAN]), np.array([0, 7]), Grid("year"), 50).count, 0)


class RunningStarts(unittest.TestCase):
    def test_a_total_starts_with_its_group_once_the_series_is_known(self) -> None:
        nan = float("nan")
        values = np.array([[nan, 2, 3, 4, 5, nan, 7], [1, 2, 3, nan, 5, 6, 7]])
        starts = running_starts(values, np.array([0, 0, 0, 1, 1, 2, 2]))
        # The first series begins with its second period; a hole at a group's start is not stepped over.
        self.assertEqual(starts.tolist(), [[0, 1, 1, 3, 3, 5, 5], [0, 0, 0, 3, 3, 5, 5]])

    def test_of_no_periods_there_are_none(self) -> None:
        self.assertEqual(running_starts(np.empty((2, 0)), np.empty(0, int)).shape, (2, 0))
