"""How a source tells time: a line a sale, or one row a period."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from oat_tide.core.language import phrase
from oat_tide.core.periods.calendar import Days, Grid, Kind, date_of
from oat_tide.intake.cells import dates


@dataclass(frozen=True, slots=True)
class Rhythm:
    """How a source tells time.

    Attributes:
        grid: the periods to begin with.
        kind: the shortest period that is told apart.
        said: what shows it; empty for a line a sale.
    """

    grid: Grid
    kind: Kind
    said: str = ""


def rhythm(days: Days, precision: int) -> Rhythm:
    """The rhythm of the distinct days of a source.

    Args:
        days: sorted distinct day numbers.
        precision: what most dates name: a day, a week, a month, a quarter or a year.
    """
    if precision == dates.YEAR:
        return Rhythm(Grid("year"), "year", phrase("one row a year"))
    if precision == dates.QUARTER:
        return Rhythm(Grid("quarter"), "quarter", phrase("one row a quarter"))
    if precision == dates.WEEK:
        return Rhythm(Grid("week"), "week", phrase("one row a week, by its ISO number"))
    firsts = _months_begun(days)
    if firsts is not None and (len(days) >= 3 or precision == dates.MONTH):
        return _of_months(firsts, days)
    weekday = (days + 3) % 7
    if len(days) >= 4 and (weekday == weekday[0]).all():
        return _of_weeks(int(weekday[0]))
    return Rhythm(Grid("month"), "day")


def _months_begun(days: Days) -> Days | None:
    """The month after each date's own when all are month ends, its own when all are month starts."""
    month = Grid("month")
    own = month.at(days)
    if (month.first_days(own) == days).all():
        return own
    if (month.first_days(own + 1) - 1 == days).all():
        return own + 1
    return None


def _of_months(firsts: Days, days: Days) -> Rhythm:
    where = phrase("first") if date_of(int(days[0])).day == 1 else phrase("last")
    place = int(firsts[0]) % 12
    if len(days) >= 2 and (firsts % 12 == place).all():
        return Rhythm(
            Grid("year", year_start=place + 1),
            "year",
            phrase("one row a year, dated its {where} day", where=where),
        )
    if len(days) >= 3 and (firsts % 3 == place % 3).all() and (np.diff(firsts) == 3).any():
        grid = Grid("quarter", year_start=place % 3 + 1)
        return Rhythm(grid, "quarter", phrase("one row a quarter, dated its {where} day", where=where))
    return Rhythm(Grid("month"), "month", phrase("one row a month, dated its {where} day", where=where))


def _of_weeks(weekday: int) -> Rhythm:
    """Dates on a Sunday end an ISO week and on a Saturday a week from Sunday; others begin a week."""
    if weekday == 6:
        return Rhythm(Grid("week"), "week", phrase("one row a week, dated its last day"))
    if weekday == 5:
        return Rhythm(Grid("week", week_start=6), "week", phrase("one row a week, dated its last day"))
    return Rhythm(Grid("week", week_start=weekday), "week", phrase("one row a week, dated its first day"))


ALLOWED: dict[Kind, tuple[Kind, ...]] = {
    "day": ("day", "week", "block", "month", "quarter", "year"),
    "week": ("week",),
    "block": ("block",),
    "month": ("month", "quarter", "year"),
    "quarter": ("quarter", "year"),
    "year": ("year",),
}
"""The periods that a source of each rhythm can be totalled by; weeks fit into nothing longer."""
