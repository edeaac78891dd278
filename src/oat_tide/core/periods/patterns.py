"""Years of whole weeks: 4-4-5 calendars and their kin, from an anchor date.

A year begins on the weekday of the anchor, on the day nearest to the anchor's month and day; it has 52 or
53 weeks, cut into twelve periods of four or five, and the 53rd goes to a period of the user's choice.
"""

from __future__ import annotations

import datetime as dt
import functools
import itertools

import numpy as np

FIRST_YEAR, LAST_YEAR = 1850, 2250
WEEKS = {"4-4-5": (4, 4, 5), "4-5-4": (4, 5, 4), "5-4-4": (5, 4, 4)}
_EPOCH = 719163


@functools.lru_cache(64)
def year_starts(anchor: int) -> np.ndarray[tuple[int], np.dtype[np.int64]]:
    """The first day of each year from FIRST_YEAR on, as day numbers.

    Args:
        anchor: the day number of a day on which a year begins.
    """
    day = dt.date.fromordinal(anchor + _EPOCH)
    starts = []
    for year in range(FIRST_YEAR, LAST_YEAR + 1):
        # 29 February of other years is taken for the 28th.
        near = dt.date(year, day.month, min(day.day, 28) if day.month == 2 else day.day).toordinal() - _EPOCH
        off = (near - anchor) % 7
        starts.append(near - off if off <= 3 else near - off + 7)
    return np.array(starts, np.int64)


@functools.lru_cache(64)
def period_starts(anchor: int, pattern: str, long_period: int) -> np.ndarray[tuple[int], np.dtype[np.int64]]:
    """The first day of each of the twelve periods of each year from FIRST_YEAR on.

    Args:
        pattern: one of WEEKS.
        long_period: the period, 1 to 12, that week 53 goes to.
    """
    years = year_starts(anchor)
    weeks = np.array(WEEKS[pattern] * 4)
    starts = []
    for start, end in itertools.pairwise(years):
        own = weeks.copy()
        own[long_period - 1] += (end - start) // 7 - 52
        starts.append(start + 7 * np.concatenate(([0], np.cumsum(own)[:-1])))
    return np.concatenate(starts)
