"""Years of whole weeks and blocks of days, held against what the trade's calendars say."""

from __future__ import annotations

import datetime as dt
import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from oat_tide.core.periods import patterns
from oat_tide.core.periods.calendar import (
    NONE,
    Grid,
    Kind,
    Whole,
    complete,
    date_of,
    day_number,
    last_complete,
)

ANCHOR = day_number(dt.date(2023, 1, 29))
"""A Sunday: the retail year of 2023 began on it and had 53 weeks."""


def grid(kind: Kind, pattern: str = "4-5-4", long_period: int = 12) -> Grid:
    return Grid(kind, 0, 1, pattern, ANCHOR, long_period)


class WholeWeeks(unittest.TestCase):
    def test_years_begin_nearest_to_the_anchor_s_month_and_day(self) -> None:
        year = grid("year")
        # The retail calendar of the trade: 2022 begins 30 Jan, 2023 29 Jan (53 weeks), 2024 4 Feb.
        begins = [date_of(year.first_day(year.year_first(y))).isoformat() for y in (2022, 2023, 2024, 2025)]
        self.assertEqual(begins, ["2022-01-30", "2023-01-29", "2024-01-28", "2025-01-26"])

    def test_periods_are_of_four_and_five_weeks(self) -> None:
        month = grid("month", "4-4-5")
        first = month.year_first(2024)
        weeks = np.diff(month.first_days(np.arange(first, first + 13))) // 7
        self.assertEqual(weeks.tolist()[:12], [4, 4, 5] * 4)
        self.assertEqual(month.label(first), "P1 2024/25")
        self.assertEqual(month.label(first + 11), "P12 2024/25")

    def test_week_53_goes_where_it_is_asked_to(self) -> None:
        long_years = [
            y
            for y in range(2010, 2040)
            if grid("year").last_day(grid("year").year_first(y))
            - grid("year").first_day(grid("year").year_first(y))
            + 1
            == 371
        ]
        self.assertTrue(5 <= len(long_years) <= 6, long_years)
        for long_period in (1, 12):
            month = grid("month", "4-5-4", long_period)
            first = month.year_first(long_years[0])
            days = np.diff(month.first_days(np.arange(first, first + 13)))
            self.assertEqual(days.sum(), 371)
            self.assertEqual(days[long_period - 1] // 7, (4 if long_period in (1, 12) else 5) + 1)

    def test_weeks_are_numbered_from_the_year_s_own_first(self) -> None:
        week = grid("week")
        first = week.year_first(2024)
        self.assertEqual(week.first_day(first), grid("year").first_day(grid("year").year_first(2024)))
        self.assertEqual(week.label(first), "W1 2024/25")

    @given(st.integers(-20_000, 40_000), st.sampled_from(["4-4-5", "4-5-4", "5-4-4"]), st.integers(1, 12))
    def test_every_day_lies_in_one_period_and_periods_nest(self, day: int, pattern: str, long: int) -> None:
        held = {}
        for kind in ("week", "month", "quarter", "year"):
            own = grid(kind, pattern, long)  # type: ignore[arg-type]
            period = own.period(day)
            held[kind] = own.first_day(period), own.last_day(period)
            self.assertLessEqual(held[kind][0], day)
            self.assertLessEqual(day, held[kind][1])
            self.assertEqual((held[kind][1] - held[kind][0] + 1) % 7, 0)
        for inner, outer in (("week", "month"), ("month", "quarter"), ("quarter", "year")):
            self.assertLessEqual(held[outer][0], held[inner][0])
            self.assertLessEqual(held[inner][1], held[outer][1])


class Blocks(unittest.TestCase):
    def test_blocks_of_days_from_a_date(self) -> None:
        own = Grid("block", anchor=day_number(dt.date(2024, 3, 5)), days=28)
        period = own.period(day_number(dt.date(2024, 4, 2)))
        self.assertEqual(own.label(period), "28 days from 2 Apr 2024")
        self.assertEqual(date_of(own.last_day(period)), dt.date(2024, 4, 29))
        self.assertEqual(own.cycle, 13)
        self.assertEqual(int(own.year_before([period])[0]), period - 13)
        odd = Grid("block", days=10)
        self.assertEqual(int(odd.year_before([5])[0]), NONE)


class ClosedDays(unittest.TestCase):
    def test_a_month_that_ends_in_closed_days_is_complete_before_them(self) -> None:
        month = Grid("month")
        december = month.period(day_number(dt.date(2024, 12, 1)))
        upto = day_number(dt.date(2024, 12, 23))
        closed = frozenset(range(upto + 1, upto + 9))
        self.assertFalse(complete(month, december, upto))
        self.assertTrue(complete(month, december, upto, Whole(closed=closed)))
        self.assertEqual(last_complete(month, upto, Whole(closed=closed)), december)


class Starts(unittest.TestCase):
    def test_years_of_whole_weeks_one_by_one(self) -> None:
        """From the Sunday 29 Jan 2023: 52 or 53 weeks on, the Sunday nearest to 29 January."""
        first = 2022 - patterns.FIRST_YEAR
        starts = [date_of(int(day)).isoformat() for day in patterns.year_starts(ANCHOR)[first : first + 5]]
        self.assertEqual(starts, ["2022-01-30", "2023-01-29", "2024-01-28", "2025-01-26", "2026-02-01"])

    def test_periods_of_a_year_of_53_weeks_with_the_long_one_where_it_was_asked_for(self) -> None:
        """2025 runs from 26 Jan 2025 to 31 Jan 2026: 4, 5, 4 weeks a quarter and a fifth in its period 4."""
        at = 12 * (2025 - patterns.FIRST_YEAR)
        starts = patterns.period_starts(ANCHOR, "4-5-4", 4)[at : at + 13]
        weeks = (np.diff(starts) // 7).tolist()
        self.assertEqual(weeks, [4, 5, 4, 5, 5, 4, 4, 5, 4, 4, 5, 4])

    def test_a_leap_day_as_the_anchor_is_the_28th_in_other_years(self) -> None:
        starts = patterns.year_starts(day_number(dt.date(2024, 2, 29)))
        days = [date_of(int(day)) for day in starts]
        self.assertTrue(all(abs((day - dt.date(day.year, 2, 28)).days) <= 4 for day in days))
        self.assertIn(dt.date(2024, 2, 29), days)
