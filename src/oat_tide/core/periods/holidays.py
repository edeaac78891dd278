"""Selling days: the weekdays on which one sells, less closed days and holidays, fixed or counted from Easter.

Source of Easter: Meeus, Astronomical Algorithms (1991), chapter 8, for the Gregorian calendar.
"""

from __future__ import annotations

import datetime as dt
import functools
from collections.abc import Collection, Sequence
from dataclasses import dataclass

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import Days, Grid, date_of, day_number


@dataclass(frozen=True, slots=True)
class Holiday:
    """A day of every year.

    Attributes:
        name: what it is called.
        month, day: of a fixed one; 0 for one that is counted from Easter.
        from_easter: days after Easter Sunday, below 0 before it.
    """

    name: str
    month: int = 0
    day: int = 0
    from_easter: int = 0

    def in_year(self, year: int) -> dt.date | None:
        """Return its date in a year; None for 29 February of a common year."""
        if not self.month:
            return easter(year) + dt.timedelta(days=self.from_easter)
        try:
            return dt.date(year, self.month, self.day)
        except ValueError:
            return None


def easter(year: int) -> dt.date:
    """Easter Sunday of a year of the Gregorian calendar (Meeus, 1991)."""
    a = year % 19
    b, c = divmod(year, 100)
    d, e = divmod(b, 4)
    g = (8 * b + 13) // 25
    h = (19 * a + b - d - g + 15) % 30
    i, k = divmod(c, 4)
    along = (32 + 2 * e + 2 * i - h - k) % 7
    m = (a + 11 * h + 22 * along) // 451
    month, day = divmod(h + along - 7 * m + 114, 31)
    return dt.date(year, month, day + 1)


def selling_days(
    grid: Grid,
    first: int,
    count: int,
    weekdays: Collection[int],
    closed: Collection[int] = (),
    holidays: Sequence[Holiday] = (),
) -> Values:
    """(count,) the days of each period on which one sells.

    Args:
        first: the first period.
        weekdays: on which one sells, 0 Monday to 6 Sunday.
        closed: day numbers that one does not sell on.
    """
    if not count:
        return np.zeros(0)
    edges = grid.first_days(np.arange(first, first + count + 1))
    days = np.arange(edges[0], edges[-1])
    sold = np.isin((days + 3) % 7, list(weekdays))
    years = range(date_of(int(days[0])).year, date_of(int(days[-1])).year + 1)
    free = [each for holiday in holidays for year in years if (each := holiday.in_year(year)) is not None]
    sold &= ~np.isin(days, [*closed, *map(day_number, free)])
    running = np.concatenate(([0], np.cumsum(sold)))
    found: Values = (running[edges[1:] - edges[0]] - running[edges[:-1] - edges[0]]).astype(np.float64)
    return found


@functools.lru_cache(32)
def before_holiday(grid: Grid, first: int, count: int, from_easter: int, days: int) -> Values:
    """(count,) the share of the days before a moving holiday that lies in each period, off its usual share.

    The usual share of a period is the mean over 28 years of the like periods, so that what is moved from one
    period to another adds up to nothing in the long run.

    Args:
        first: the first period.
        from_easter: the holiday, in days after Easter Sunday.
        days: over how many days before it one sells more.
    """
    if not count:
        return np.zeros(0)
    periods = np.arange(first, first + count)
    years = grid.years(periods)
    shares = np.zeros(count)
    for year in range(int(years.min()) - 1, int(years.max()) + 2):
        shares += _share_before(grid, periods, year, from_easter, days)
    return shares - _usual_share(grid, periods, from_easter, days)


_USUAL_YEARS = range(2000, 2028)


def _share_before(grid: Grid, periods: Days, year: int, from_easter: int, days: int) -> Values:
    """The share of the days before the holiday of a calendar year in each period."""
    end = day_number(easter(year)) + from_easter
    low, high = grid.first_days(periods), grid.first_days(periods + 1)
    held: Values = np.maximum(np.minimum(high, end) - np.maximum(low, end - days), 0) / days
    return held


def _usual_share(grid: Grid, periods: Days, from_easter: int, days: int) -> Values:
    """The mean share of the like periods of many years."""
    place = grid.places(periods)
    each, back = np.unique(place, return_inverse=True)
    shares = np.zeros(len(each))
    for year in _USUAL_YEARS:
        like = grid.year_first(year) + each - 1
        # A fiscal year holds the Easter of its own calendar year, of the one before or of the one after.
        for near in (year - 1, year, year + 1):
            shares += _share_before(grid, like, near, from_easter, days)
    usual: Values = (shares / len(_USUAL_YEARS))[back]
    return usual
