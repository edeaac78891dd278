"""What periods at one place of the year come to: the usual, and the mean, median or range of years.

The usual is the Buys Ballot mean of a place over all years (Buys Ballot, 1847), in the units of the series.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import Days
from oat_tide.core.series.like import median_known


def usual(values: Values, place: Days) -> Values:
    """The mean of all periods at the same place, for every period; NaN where none is known."""
    out = np.full_like(values, np.nan)
    for each in np.unique(place):
        at = place == each
        known = ~np.isnan(values[:, at])
        count = known.sum(1)
        with np.errstate(invalid="ignore", divide="ignore"):
            mean = np.where(known, values[:, at], 0.0).sum(1) / count
        out[:, at] = np.where(count > 0, mean, np.nan)[:, None]
    return out


def of_years(laid: Values, kind: str) -> Values:
    """What the years come to at each place (the mean: Buys Ballot, 1847; the median: Tukey, 1977).

    Args:
        laid: (series, years, places), in the units of the series.
        kind: "mean", "median", "lowest" or "highest".

    Returns:
        (series, places); NaN where no year is known.
    """
    known = ~np.isnan(laid)
    count = known.sum(1)
    if kind == "mean":
        with np.errstate(invalid="ignore", divide="ignore"):
            return np.where(count > 0, np.where(known, laid, 0.0).sum(1) / count, np.nan)
    if kind == "median":
        return median_known(np.moveaxis(laid, 1, -1))
    reduce = np.fmin.reduce if kind == "lowest" else np.fmax.reduce
    found: NDArray[np.float64] = reduce(laid, axis=1, initial=np.nan)
    return found
