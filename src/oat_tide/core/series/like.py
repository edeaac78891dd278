"""Periods that are alike, and the median of what is known."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import Grid


def like_places(grid: Grid, first: int, count: int) -> NDArray[np.int64]:
    """What like periods share: the place in the year, of days the weekday; years are all alike."""
    periods = np.arange(first, first + count)
    if grid.kind == "day":
        return (periods + 3) % 7
    if grid.kind == "year" or not count:
        return np.zeros(count, np.int64)
    return np.minimum(grid.places(periods), grid.cycle)


def median_known(values: Values) -> Values:
    """The median of what is known along the last axis; NaN where nothing is. Quicker than nanmedian."""
    if not values.shape[-1]:
        return np.full(values.shape[:-1], np.nan)
    ordered = np.sort(values, axis=-1)
    known = (~np.isnan(ordered)).sum(-1)
    low, high = np.maximum((known - 1) // 2, 0), np.minimum(known // 2, ordered.shape[-1] - 1)
    pair = np.take_along_axis(ordered, np.stack((low, high), -1), -1)
    return np.where(known > 0, pair.mean(-1), np.nan)
