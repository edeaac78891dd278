"""Dates typed as people write them, the as-of typed and picked, and what a switch of period keeps."""

from __future__ import annotations

import datetime as dt
import unittest

from PyQt6.QtCore import QDate, Qt
from PyQt6.QtTest import QTest

from oat_tide.core.periods.calendar import date_of
from oat_tide.core.series.reading import Pattern
from oat_tide.desk.look import dates
from tests.desk.case import DeskCase
from tests.helpers import daily, wavy


class Typed(unittest.TestCase):
    def setUp(self) -> None:
        self.addCleanup(dates.use_locale)

    def test_dates_are_read_as_they_are_written(self) -> None:
        day = dt.date(2026, 3, 5)
        dates._order[0] = True
        for text in (
            "2026-03-05",
            "05/03/2026",
            "5.3.2026",
            "5 Mar 2026",
            "5. March 2026",
            "5/3/26",
            " 5  Mar 2026 ",
        ):
            self.assertEqual(dates.days_of(text), (day, day), text)
        dates._order[0] = False
        self.assertEqual(dates.days_of("03/05/2026"), (day, day))
        # Only the other order makes a date of it.
        self.assertEqual(dates.days_of("31/03/2026")[0], dt.date(2026, 3, 31))
        self.assertEqual(dates.days_of("Feb 2024"), (dt.date(2024, 2, 1), dt.date(2024, 2, 29)))

    def test_what_is_no_date_is_refused(self) -> None:
        for text in ("31 Foo 2026", "32/13/2026", "30 Feb 2026", "soon", "", "5/5"):
            with self.assertRaises(ValueError, msg=text):
                dates.days_of(text)

    def test_the_order_is_that_of_the_file_where_it_tells(self) -> None:
        dates.use_order_of([Pattern("05/03/2024", 9, "04/05/2024", "5 Apr 2024")])
        self.assertEqual(dates.days_of("03/05/2026")[0], dt.date(2026, 3, 5))
        dates.use_order_of([Pattern("05/03/2024", 9, "04/05/2024", "4 May 2024")])
        self.assertEqual(dates.days_of("03/05/2026")[0], dt.date(2026, 5, 3))


class AsOf(DeskCase):
    def setUp(self) -> None:
        super().setUp()
        self.open(self.file(daily(500, wavy)))
        self.stage("history")
        self.header = self.window.header

    def test_it_is_typed(self) -> None:
        self.click(self.header.as_of)
        self.header.days.line.setText("Nov 2024")
        QTest.keyClick(self.header.days.line, Qt.Key.Key_Return)
        self.settle()
        self.assertEqual(self.plan.as_of, dt.date(2024, 11, 30))
        self.assertIn("As of Nov 2024", self.header.as_of.text())

    def test_what_cannot_be_is_said_and_nothing_moves(self) -> None:
        self.click(self.header.as_of)
        for text, said in (("soon", "is not a date"), ("2019", "before the first day")):
            self.header.days.line.setText(text)
            QTest.keyClick(self.header.days.line, Qt.Key.Key_Return)
            self.assertIn(said, self.header.days.said.text())
            self.assertTrue(self.header.days.isVisible())
        self.assertIsNone(self.plan.as_of)
        self.header.days.close()

    def test_it_is_picked_and_the_last_day_is_home(self) -> None:
        self.click(self.header.as_of)
        self.header.days.calendar.clicked.emit(QDate(2024, 10, 31))
        self.settle()
        self.assertEqual(self.plan.as_of, dt.date(2024, 10, 31))
        self.click(self.header.as_of)
        last = self.header.days.last
        self.header.days.calendar.clicked.emit(QDate(last.year, last.month, last.day))
        self.settle()
        self.assertIsNone(self.plan.as_of)

    def test_how_time_is_cut_stands_where_the_period_is_chosen(self) -> None:
        self.click(self.header.cut)
        titles = [control.control.title for control in self.header.cuts.controls]
        self.assertEqual(titles, ["Fiscal year begins in", "Weeks begin on", "Months"])
        self.header.cuts.controls[1].turn(5)
        self.settle()
        self.assertEqual(self.plan.periods.week_start, 5)

    def test_weeks_name_their_days(self) -> None:
        self.window.choose_kind("week")
        self.settle()
        axis = self.window.deck.axis
        self.assertTrue(axis._within(3).startswith("Mon "))
        self.click(self.header.cut)
        self.header.cuts.controls[1].turn(5)
        self.settle()
        self.assertTrue(axis._within(3).startswith("Sat "))
        self.assertIn(" – Fri ", axis._within(3))


class Switch(DeskCase):
    def test_a_switch_of_period_keeps_the_stretch_and_the_cursor(self) -> None:
        self.open(self.file(daily(900, wavy)))
        self.stage("history")
        deck = self.window.deck
        deck.scale.settled = True
        deck.scale.look(10.0, 12.0)  # November 2024 to October 2025
        deck.tide.standing = (0, 15)  # April 2025
        self.window.choose_kind("day")
        self.settle()
        grid, first = deck.deck.grid, deck.deck.first
        start, stop = deck.scale.visible()
        self.assertLessEqual(abs(date_of(grid.first_day(first + start)) - dt.date(2024, 11, 1)).days, 2)
        self.assertAlmostEqual(stop - start, 365, delta=2)
        self.assertEqual(grid.label(first + deck.tide.standing[1]), "1 Apr 2025")
        self.window.choose_kind("month")
        self.settle()
        self.assertEqual(tuple(round(each) for each in (deck.scale.start, deck.scale.count)), (10, 12))
        self.assertEqual(deck.tide.standing, (0, 15))
