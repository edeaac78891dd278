"""The tie-out: worked examples of what ties, what does not, and by how much."""

from __future__ import annotations

import dataclasses
import datetime as dt
import unittest
from decimal import Decimal
from types import SimpleNamespace
from typing import Any, cast

import numpy as np

from oat_tide.core.periods.calendar import Grid, day_number
from oat_tide.core.series.panel import Panel
from oat_tide.core.series.reading import FileTie, Held, Reading
from oat_tide.core.series.tie_out import tie_out
from tests.core.series.test_panel import panel


def held(lines: int, amount: str = "0") -> Held:
    return Held(lines, Decimal(amount))


PARTS = held(4, "60.65"), held(1, "3"), held(1, "5"), held(1, "2")
FILE = FileTie("sales.csv", "commas", held(7, "70.65"), *PARTS)
"""Seven lines: four used, one of a budget, one set aside, one total row."""


def reading(file: FileTie, members: tuple[tuple[str, ...], ...], exact: bool = True) -> Reading:
    """What the tie-out asks of a reading."""

    def added(what: str) -> Decimal:
        return cast(Decimal, getattr(file, what).amount)

    years = ((2020, Decimal("60.65")),)
    told: Any = SimpleNamespace(files=(file,), members=members, exact=exact, years=years, added=added)
    return cast(Reading, told)


def series() -> Panel:
    """p0, p1 and p2 in Jan and Feb 2020: 30.1 + 10.2 + 20.3 and 0.05 = 60.65."""
    return panel([[30.1, 0.05], [10.2, 0], [20.3, 0]], scale=100.0)


MEMBERS = (("p0", "p1", "p2"), ("north", "south"))


class TyingOut(unittest.TestCase):
    def test_it_ties_in_lines_in_the_measure_by_year_and_by_dimension(self) -> None:
        tie = tie_out(reading(FILE, MEMBERS), series())
        self.assertTrue(tie.ties)
        self.assertEqual((tie.lines, tie.gap, tie.digits), (0, 0, 0))
        self.assertEqual(tie.source, Decimal("70.65"))
        self.assertEqual((tie.used, tie.series), (Decimal("60.65"), Decimal("60.65")))
        self.assertEqual(tie.levels, (Decimal("60.65"), Decimal("60.65")))
        (year,) = tie.years
        self.assertEqual((year.year, year.series, year.levels), (2020, year.used, (year.used, year.used)))

    def test_a_cent_less_in_the_series_is_told_as_the_gap(self) -> None:
        less = panel([[30.1, 0.04], [10.2, 0], [20.3, 0]], scale=100.0)
        tie = tie_out(reading(FILE, MEMBERS), less)
        self.assertEqual((tie.ties, tie.gap), (False, Decimal("-0.01")))
        self.assertFalse(tie.year_ties(tie.years[0]))

    def test_a_line_that_is_nowhere_does_not_tie_though_the_sums_do(self) -> None:
        lost = dataclasses.replace(FILE, read=held(8, "70.65"))
        self.assertEqual(lost.left_over, 1)
        tie = tie_out(reading(lost, MEMBERS), series())
        self.assertEqual((tie.lines, tie.gap, tie.ties), (1, 0, False))

    def test_what_is_withheld_counts_as_held(self) -> None:
        whole = series()
        withheld = np.zeros((3, 2))
        withheld[1, 1] = 4.0
        made = Panel("with", whole.grid, whole.first, whole.keys, whole.values.copy(), whole.lines.copy(),
                     whole.flags.copy(), 100.0, withheld=withheld)  # fmt: skip
        more = dataclasses.replace(FILE, read=held(8, "74.65"), used=held(5, "64.65"))
        tie = tie_out(reading(more, MEMBERS), made)
        self.assertEqual((tie.withheld, tie.gap), (4, 0))

    def test_sums_that_cannot_be_exact_tie_to_twelve_digits(self) -> None:
        tie = tie_out(reading(FILE, MEMBERS, exact=False), series())
        self.assertEqual(tie.digits, 15)
        size = Decimal(10**15)
        self.assertTrue(tie.same(size, size + 1000, size))
        self.assertFalse(tie.same(size, size + 1001, size))

    def test_weeks_fit_into_no_calendar_year(self) -> None:
        grid = Grid("week")
        first = grid.period(day_number(dt.date(2020, 1, 6)))
        counts, flags = np.ones((1, 1), np.int64), np.zeros((1, 1), np.uint8)
        weeks = Panel("weeks", grid, first, (("p0", "south"),), np.array([[60.65]]), counts, flags, 100.0)
        tie = tie_out(reading(FILE, (("p0",), ("south",))), weeks)
        self.assertEqual((tie.years, tie.ties), ((), True))

    def test_many_members_are_added_up_in_one_go_to_the_same(self) -> None:
        many = panel([[n / 100, 1.0] for n in range(100)], scale=100.0)
        members = (tuple(f"p{n}" for n in range(100)), ("north", "south"))
        tie = tie_out(reading(FILE, members), many)
        # 0.01 + ... + 0.99 = 49.5, and 100.
        self.assertEqual(set(tie.levels), {Decimal("149.5")})
