"""Odd periods: those that stand far from their series' own level and season, by medians.

The level of a period is the running median around it; what is usual for its place in the year (of days, in
the week) is the median of figure over level at like places; both together are what was to be expected. A
period is odd when it is off by more than 3.5 times the robust spread of all periods (the modified z-score
of Iglewicz and Hoaglin, 1993) and by more than 8 %.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray

from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import Grid, Kind

HALF: dict[Kind, int] = {"day": 14, "week": 13, "block": 6, "month": 6, "quarter": 2, "year": 2}
"""Periods on either side that a level is the median of."""
TIMES, LEAST = 3.5, 8.0
FEWEST = 3
"""Like places that it takes to tell what is usual there."""
_NORMAL = 1.4826
"""Makes the median deviation of normal errors their standard deviation."""


@dataclass(frozen=True, eq=False, slots=True)
class Odd:
    """All (series, periods); NaN where it cannot be told.

    Attributes:
        around: the running median around a period.
        ratio: of the figure to that.
        usual: the median ratio at its place in the year.
        expected: the two multiplied.
        off: how far the figure is from that, in %.
        spread: (series, 1) robust spread of off, in %.
        place: (periods,) the place that like periods share.
        told: whether there are enough like places to tell what is usual there; else it is taken for 1.
        odd: whether a period is.
    """

    around: Values
    ratio: Values
    usual: Values
    expected: Values
    off: Values
    spread: Values
    place: NDArray[np.int64]
    told: NDArray[np.bool_]
    odd: NDArray[np.bool_]


def find_odd(values: Values, grid: Grid, first: int) -> Odd:
    """Hold every period against its level and season.

    Args:
        values: (series, periods), NaN where not known or not whole.
        first: the first period.
    """
    count = values.shape[1]
    place = like_places(grid, first, count)
    around = running_median(values, HALF[grid.kind])
    with np.errstate(invalid="ignore", divide="ignore"):
        ratio = np.where(around > 0, values / around, np.nan)
        usual, told = np.ones_like(values), np.zeros(values.shape, bool)
        for each in np.unique(place):
            at = place == each
            told[:, at] = (~np.isnan(ratio[:, at])).sum(1, keepdims=True) >= FEWEST
            usual[:, at] = median_known(ratio[:, at])[:, None]
        usual = np.where(told, usual, 1.0)
        expected = np.where(np.isnan(ratio), np.nan, around * usual)
        off = np.where(expected > 0, 100 * (values / expected - 1), np.nan)
    spread = _NORMAL * median_known(np.abs(off))[:, None]
    with np.errstate(invalid="ignore"):
        odd = (np.abs(off) > TIMES * spread) & (np.abs(off) > LEAST)
    return Odd(around, ratio, usual, expected, off, spread, place, told, odd)


def like_places(grid: Grid, first: int, count: int) -> NDArray[np.int64]:
    """What like periods share: the place in the year, of days the weekday; years are all alike."""
    periods = np.arange(first, first + count)
    if grid.kind == "day":
        return (periods + 3) % 7
    if grid.kind == "year" or not count:
        return np.zeros(count, np.int64)
    return np.minimum(grid.places(periods), grid.cycle)


def running_median(values: Values, half: int) -> Values:
    """The running median (Tukey, 1977) of up to 2 * half + 1 periods around each.

    NaN with fewer than half + 1 known ones.
    """
    around = np.pad(values, ((0, 0), (half, half)), constant_values=np.nan)
    if not values.shape[1]:
        return values.copy()
    windows = sliding_window_view(around, 2 * half + 1, axis=1)
    known = (~np.isnan(windows)).sum(2)
    return np.where(known > half, median_known(windows), np.nan)


def median_known(values: Values) -> Values:
    """The median of what is known along the last axis; NaN where nothing is. Quicker than nanmedian."""
    if not values.shape[-1]:
        return np.full(values.shape[:-1], np.nan)
    ordered = np.sort(values, axis=-1)
    known = (~np.isnan(ordered)).sum(-1)
    low, high = np.maximum((known - 1) // 2, 0), np.minimum(known // 2, ordered.shape[-1] - 1)
    pair = np.take_along_axis(ordered, np.stack((low, high), -1), -1)
    return np.where(known > 0, pair.mean(-1), np.nan)
