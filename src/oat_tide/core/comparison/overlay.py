"""Years laid over each other by their places: months by name, weeks by number, days by month and day.

Weeks carry the numbers of ISO 8601 where they begin on Monday and the year in January.
"""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import Days, Grid, day_number

_LEAP = 2024
"""A year with a 29 February, on which days of any year find their place."""


@dataclass(frozen=True, eq=False, slots=True)
class Overlay:
    """Where the periods of each year stand when years are laid over each other.

    Attributes:
        years: fiscal years, the earliest first.
        places: how many places a year has: 12 months, 53 weeks, 366 days.
        column: (years, places) the column of each period, -1 where the year has none or the data do not.
        place: (periods,) the place of each column, from 0.
    """

    years: tuple[int, ...]
    places: int
    column: Days
    place: Days


def overlay(grid: Grid, first: int, count: int) -> Overlay:
    """Lay the years over each other.

    Months and quarters stand by their number in the fiscal year, weeks by their week number (week 53 alone
    in the last place), days by month and day, so that 29 February has a place of its own.
    """
    periods = np.arange(first, first + count)
    place = _day_places(grid, periods) if grid.kind == "day" else grid.places(periods) - 1
    of_year = grid.years(periods)
    years = tuple(int(year) for year in np.unique(of_year))
    most = {"day": 366, "week": 53}.get(grid.kind, int(place.max(initial=grid.cycle - 1)) + 1)
    column = np.full((len(years), most), -1, np.int64)
    if count:
        column[of_year - years[0], place] = np.arange(count)
    return Overlay(years, most, column, place)


def with_any(over: Overlay, holds: NDArray[np.bool_]) -> Overlay:
    """Return the overlay without empty years, such as one of which the data hold only three days.

    Args:
        holds: (periods,) of the columns.
    """
    if not holds.any():
        return over
    there = np.flatnonzero(((over.column >= 0) & holds[np.maximum(over.column, 0)]).any(axis=1))
    return replace(over, years=tuple(over.years[each] for each in there), column=over.column[there])


def _day_places(grid: Grid, days: Days) -> Days:
    """The place of each day in a leap year that begins as the fiscal year does."""
    dates = days.astype("datetime64[D]")
    months = dates.astype("datetime64[M]")
    day = (dates - months.astype("datetime64[D]")).astype(np.int64)
    month = months.astype(np.int64) % 12
    first = day_number(dt.date(_LEAP, 1, 1))
    starts = np.array([day_number(dt.date(_LEAP, each, 1)) - first for each in range(1, 13)])
    places: Days = (starts[month] + day - starts[grid.year_start - 1]) % 366
    return places


def laid_over(values: Values, over: Overlay) -> Values:
    """(series, years, places) of (series, periods)."""
    return np.where(over.column >= 0, values[:, np.maximum(over.column, 0)], np.nan)
