"""Periods on real calendars."""

from __future__ import annotations

import datetime as dt
import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from oat_tide.core.periods.calendar import (
    KINDS,
    NONE,
    Grid,
    Habit,
    Whole,
    begun_whole,
    complete,
    date_of,
    day_number,
    expected_weekdays,
    habit,
    last_complete,
    spoken,
    wholeness,
)

DAYS = st.dates(dt.date(1985, 1, 1), dt.date(2070, 12, 31))
GRIDS = st.builds(Grid, st.sampled_from(KINDS), st.integers(0, 6), st.integers(1, 12))
CLOSED_SUNDAY = (True,) * 6 + (False,)


def day(text: str) -> int:
    return day_number(dt.date.fromisoformat(text))


class Periods(unittest.TestCase):
    @given(GRIDS, DAYS)
    def test_a_day_lies_in_its_period_and_in_no_other(self, grid: Grid, date: dt.date) -> None:
        number = day_number(date)
        period = grid.period(number)
        self.assertLessEqual(grid.first_day(period), number)
        self.assertLessEqual(number, grid.last_day(period))
        self.assertEqual(grid.period(grid.first_day(period)), period)
        self.assertEqual(grid.period(grid.last_day(period)), period)
        self.assertEqual(grid.period(grid.last_day(period) + 1), period + 1)

    @given(DAYS)
    def test_weeks_from_monday_are_iso_weeks(self, date: dt.date) -> None:
        grid = Grid("week")
        period = grid.period(day_number(date))
        iso = date.isocalendar()
        self.assertEqual(int(grid.years([period])[0]), iso.year)
        self.assertEqual(int(grid.places([period])[0]), iso.week)

    @given(st.integers(0, 6), DAYS)
    def test_weeks_begin_on_the_weekday_asked(self, weekday: int, date: dt.date) -> None:
        grid = Grid("week", weekday)
        first = grid.first_day(grid.period(day_number(date)))
        self.assertEqual(date_of(first).weekday(), weekday)
        self.assertEqual(grid.last_day(grid.period(first)) - first, 6)

    @given(GRIDS, DAYS)
    def test_places_count_from_one_through_each_year(self, grid: Grid, date: dt.date) -> None:
        period = grid.period(day_number(date))
        year = int(grid.years([period])[0])
        start = grid.year_first(year)
        self.assertEqual(int(grid.places([period])[0]), period - start + 1)
        self.assertEqual(int(grid.places([start])[0]), 1)
        self.assertEqual(int(grid.years([start - 1])[0]), year - 1)

    def test_a_fiscal_year_from_april_names_its_quarters(self) -> None:
        quarter = Grid("quarter", year_start=4)
        self.assertEqual(quarter.label(quarter.period(day("2026-05-10"))), "Q1 2026/27")
        self.assertEqual(quarter.label(quarter.period(day("2026-03-31"))), "Q4 2025/26")
        year = Grid("year", year_start=4)
        self.assertEqual(date_of(year.first_day(year.period(day("2026-03-31")))), dt.date(2025, 4, 1))
        self.assertEqual(year.label(year.period(day("1999-06-01"))), "1999/00")

    def test_labels_always_know_their_year(self) -> None:
        number = day("2026-03-05")
        said = [Grid(kind).label(Grid(kind).period(number)) for kind in KINDS]
        self.assertEqual(
            said, ["5 Mar 2026", "W10 2026", "28 days from 12 Feb 2026", "Mar 2026", "Q1 2026", "2026"]
        )


class TheYearBefore(unittest.TestCase):
    def before(self, kind: str, text: str) -> int:
        grid = Grid(kind)  # type: ignore[arg-type]
        return int(grid.year_before([grid.period(day(text))])[0])

    def test_days_go_by_month_and_day(self) -> None:
        self.assertEqual(self.before("day", "2025-02-28"), day("2024-02-28"))
        self.assertEqual(self.before("day", "2025-03-01"), day("2024-03-01"))
        self.assertEqual(self.before("day", "2024-02-29"), NONE)

    def test_weeks_lie_fifty_two_weeks_back_and_week_53_has_none(self) -> None:
        grid = Grid("week")
        self.assertEqual(self.before("week", "2021-03-03"), grid.period(day("2021-03-03")) - 52)
        self.assertEqual(dt.date(2020, 12, 31).isocalendar().week, 53)
        self.assertEqual(self.before("week", "2020-12-31"), NONE)

    @given(st.sampled_from(["month", "quarter", "year"]), DAYS)
    def test_longer_periods_keep_their_place(self, kind: str, date: dt.date) -> None:
        grid = Grid(kind)  # type: ignore[arg-type]
        period = grid.period(day_number(date))
        other = int(grid.year_before([period])[0])
        self.assertEqual(int(grid.places([other])[0]), int(grid.places([period])[0]))
        self.assertEqual(int(grid.years([other])[0]), int(grid.years([period])[0]) - 1)


class CompletePeriods(unittest.TestCase):
    def test_a_month_that_ends_on_a_closed_sunday_is_complete_on_the_saturday(self) -> None:
        month = Grid("month")
        may = month.period(day("2026-05-01"))
        self.assertEqual(dt.date(2026, 5, 31).weekday(), 6)
        self.assertTrue(complete(month, may, day("2026-05-30"), Whole(CLOSED_SUNDAY)))
        self.assertFalse(complete(month, may, day("2026-05-29"), Whole(CLOSED_SUNDAY)))
        self.assertFalse(complete(month, may, day("2026-05-30")))

    def test_the_last_complete_period(self) -> None:
        month = Grid("month")
        self.assertEqual(last_complete(month, day("2026-10-13")), month.period(day("2026-09-01")))
        self.assertEqual(last_complete(month, day("2026-10-31")), month.period(day("2026-10-01")))
        week = Grid("week")
        self.assertEqual(
            last_complete(week, day("2026-10-17"), Whole(CLOSED_SUNDAY)), week.period(day("2026-10-17"))
        )

    def test_a_period_begun_before_the_data_is_not_whole(self) -> None:
        month = Grid("month")
        january = month.period(day("2023-01-01"))
        self.assertEqual(dt.date(2023, 1, 1).weekday(), 6)
        self.assertTrue(begun_whole(month, january, day("2023-01-02"), Whole(CLOSED_SUNDAY)))
        self.assertFalse(begun_whole(month, january, day("2023-01-03"), Whole(CLOSED_SUNDAY)))

    @given(GRIDS, DAYS)
    def test_every_weekday_expected_means_complete_on_the_last_day_only(
        self, grid: Grid, date: dt.date
    ) -> None:
        number = day_number(date)
        period = grid.period(number)
        self.assertEqual(complete(grid, period, number), number == grid.last_day(period))

    def test_where_lines_come_on_few_days_their_usual_places_tell(self) -> None:
        month = Grid("month")
        lasts = ["2024-01-25", "2024-02-24", "2024-03-23", "2024-04-25", "2024-05-25", "2024-06-24"]
        selling = np.array([day(text) for text in lasts])
        # Up to June: places of the last lines 24, 23, 22, 24, 24 from the first; nine tenths lie at 24.
        found = habit(month, selling, day("2024-06-24"))
        self.assertEqual(found, Habit(last=24, soonest=22, first=24, days=1))
        june = month.period(day("2024-06-01"))
        for upto, whole in (("2024-06-22", False), ("2024-06-24", True), ("2024-06-25", True)):
            seen = Whole(habit=found, selling=selling[selling <= day(upto)])
            self.assertEqual(complete(month, june, day(upto), seen), whole, upto)
        self.assertTrue(begun_whole(month, june, day("2024-06-20"), Whole(habit=found)))
        self.assertFalse(begun_whole(month, june, day("2024-06-27"), Whole(habit=found)))

    def test_many_days_or_few_periods_tell_no_such_places(self) -> None:
        month = Grid("month")
        every = np.arange(day("2024-01-01"), day("2024-09-01"))
        self.assertIsNone(habit(month, every, day("2024-08-15")))
        self.assertIsNone(habit(month, every[::40], day("2024-02-15")))

    def test_weekdays_that_usually_sell_are_learnt_from_the_last_year(self) -> None:
        days = np.arange(day("2024-01-01"), day("2026-01-01"))
        weekdays = days[(days + 3) % 7 < 5]
        one_sunday = np.sort(np.append(weekdays, day("2025-06-15")))
        found = expected_weekdays(one_sunday, day("2025-12-31"))
        self.assertEqual(found, (True,) * 5 + (False, False))

    def test_later_lines_decide_nothing(self) -> None:
        days = np.arange(day("2024-01-01"), day("2026-01-01"))
        weekdays_first = days[((days + 3) % 7 < 5) | (days > day("2025-01-05"))]
        early = expected_weekdays(weekdays_first, day("2025-01-05"))
        self.assertEqual(early, (True,) * 5 + (False, False))


class SpokenDates(unittest.TestCase):
    def test_each_form_stands_for_its_first_and_last_day(self) -> None:
        for text, first, last in (
            ("2026-03-31", "2026-03-31", "2026-03-31"),
            ("2026-02", "2026-02-01", "2026-02-28"),
            ("2024Q1", "2024-01-01", "2024-03-31"),
            ("2020-W53", "2020-12-28", "2021-01-03"),
            ("2026", "2026-01-01", "2026-12-31"),
        ):
            with self.subTest(text):
                self.assertEqual(tuple(map(str, spoken(text))), (first, last))

    def test_what_is_no_date_is_refused(self) -> None:
        for text in ("", "March", "2026-13", "2026-02-30", "2021-W53", "26-03"):
            with self.subTest(text), self.assertRaises(ValueError):
                spoken(text)


class InWords(unittest.TestCase):
    def test_a_period_in_full_and_its_year(self) -> None:
        march = day("2026-03-05")
        for grid, full, adverb in (
            (Grid("day"), "5 Mar 2026", "per day"),
            (Grid("week"), "W10 2026", "per week"),
            (Grid("month"), "Mar 2026", "per month"),
            (Grid("quarter"), "Q1 2026", "per quarter"),
            (Grid("quarter", year_start=4), "Q4 2025/26", "per quarter"),
            (Grid("year", year_start=4), "2025/26", "per year"),
            (Grid("block", days=28, anchor=march), "28 days from 5 Mar 2026", "per 28 days"),
        ):
            with self.subTest(full):
                period = grid.period(march)
                self.assertEqual((grid.label(period), grid.per_period), (full, adverb))
        self.assertEqual(Grid("month", year_start=7).year_label(1999), "1999/00")


class WhatLinesTell(unittest.TestCase):
    def test_later_lines_decide_nothing(self) -> None:
        """Up to Friday 28 March 2025 only weekdays sell; Sundays that sell later do not count."""
        days = np.arange(day("2024-06-03"), day("2025-06-30"))
        open_ = days[((days + 3) % 7 < 5) | (days > day("2025-03-28"))]
        by = wholeness(Grid("month"), open_, day("2025-03-28"))
        self.assertEqual(by.expected, (True,) * 5 + (False,) * 2)
        self.assertEqual(int(by.selling[-1]), day("2025-03-28"))
        self.assertEqual(by.habit, None)
