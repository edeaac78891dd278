"""Easter, and the days of a period on which one sells."""

from __future__ import annotations

import datetime as dt
import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from oat_tide.core.periods.calendar import Grid, date_of, day_number
from oat_tide.core.periods.holidays import Holiday, before_holiday, easter, selling_days

GOOD_FRIDAY, NEW_YEAR = Holiday("Good Friday", from_easter=-2), Holiday("New Year", 1, 1)


class Easter(unittest.TestCase):
    def test_known_dates(self) -> None:
        for year, month, day in (
            (1961, 4, 2), (2000, 4, 23), (2008, 3, 23), (2019, 4, 21), (2024, 3, 31), (2025, 4, 20),
            (2026, 4, 5), (2038, 4, 25),
        ):  # fmt: skip
            self.assertEqual(easter(year), dt.date(year, month, day))

    @given(st.integers(1900, 2300))
    def test_it_is_a_sunday_between_22_march_and_25_april(self, year: int) -> None:
        found = easter(year)
        self.assertEqual(found.weekday(), 6)
        self.assertTrue(dt.date(year, 3, 22) <= found <= dt.date(year, 4, 25))


class SellingDays(unittest.TestCase):
    def months(self, first: str, count: int, **more: object) -> list[float]:
        grid = Grid("month")
        period = grid.period(day_number(dt.date.fromisoformat(first)))
        return selling_days(grid, period, count, range(5), **more).tolist()  # type: ignore[arg-type]

    def test_worked_example(self) -> None:
        # January 2026 begins on a Thursday: 22 days from Monday to Friday; February 20, March 22, April 22.
        self.assertEqual(self.months("2026-01-01", 4), [22, 20, 22, 22])
        # New Year is a Thursday; Good Friday the 3rd of April; one closed Monday.
        closed = [day_number(dt.date(2026, 2, 16))]
        found = self.months("2026-01-01", 4, closed=closed, holidays=(NEW_YEAR, GOOD_FRIDAY))
        self.assertEqual(found, [21, 19, 22, 21])

    def test_easter_moves_a_day_from_one_month_to_another(self) -> None:
        march_and_april = {
            year: self.months(f"{year}-03-01", 2, holidays=(GOOD_FRIDAY,)) for year in (2024, 2026)
        }
        # Good Friday lies on 29 March 2024 and on 3 April 2026.
        self.assertEqual(march_and_april, {2024: [20, 22], 2026: [22, 21]})

    def test_a_day_that_is_not_there_is_none(self) -> None:
        leap = Holiday("Leap day", 2, 29)
        self.assertIsNone(leap.in_year(2025))
        self.assertEqual(leap.in_year(2024), dt.date(2024, 2, 29))

    @given(st.integers(0, 400), st.sets(st.integers(0, 6)))
    def test_they_are_counted_day_by_day(self, first: int, weekdays: set[int]) -> None:
        grid = Grid("week")
        found = selling_days(grid, 2600 + first, 3, weekdays)
        for place, count in enumerate(found):
            days = range(grid.first_day(2600 + first + place), grid.last_day(2600 + first + place) + 1)
            self.assertEqual(count, sum(date_of(day).weekday() in weekdays for day in days))


class Moving(unittest.TestCase):
    def test_the_days_before_easter_go_to_the_months_that_they_lie_in(self) -> None:
        grid = Grid("month")
        first = grid.period(day_number(dt.date(2020, 1, 1)))
        share = before_holiday(grid, first, 24, 0, 10)
        # 12 April 2020: all ten in April; 4 April 2021: 25 to 31 March, and three in April.
        np.testing.assert_allclose(share[14] - share[2], 0.7)
        np.testing.assert_allclose(share[15] - share[3], -0.7)
        np.testing.assert_allclose(share[[0, 5, 8, 12]], 0)

    @given(st.integers(-60, 60), st.integers(1, 60))
    def test_what_is_moved_adds_up_to_nothing_over_many_years(self, from_easter: int, days: int) -> None:
        grid = Grid("month")
        first = grid.period(day_number(dt.date(2000, 1, 1)))
        share = before_holiday(grid, first, 28 * 12, from_easter, days)
        np.testing.assert_allclose(share.sum(), 0, atol=1e-9)
        # So it does of each month of the year by itself.
        np.testing.assert_allclose(share.reshape(28, 12).sum(0), 0, atol=1e-9)
