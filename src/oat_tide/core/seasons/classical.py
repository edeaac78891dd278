"""Decomposition by the centred moving average, and simple averages of seasons.

Sources: Macaulay, The Smoothing of Time Series (1931), for the ratio to the centred average; Makridakis,
Wheelwright and Hyndman, Forecasting: Methods and Applications (1998), 3/4.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import Days
from oat_tide.core.seasons.indices import Joined, factor, joined, scaled
from oat_tide.core.smoothing.sums import window_mean
from oat_tide.core.smoothing.windows import centred, holds

_FILLS = 2
"""Times that a period not known is filled anew with its level and index."""


@dataclass(frozen=True, eq=False, slots=True)
class Classical:
    """A decomposition, with every figure on the way.

    Attributes:
        filled: (series, periods) what the centred average is taken of: periods not known are filled with
            their local level and index.
        trend: (series, periods) the centred average; NaN in the first and last half cycle.
        ratios: (series, periods) actual over trend, or less it; NaN where either is not known.
        joined: (series, cycle) the ratios of each season joined.
        counts: (series, cycle) from how many.
        factor: (series, 1) what they are multiplied by, or shifted by.
        indices: (series, cycle) so that they average 1, or 0.
    """

    filled: Values
    trend: Values
    ratios: Values
    joined: Values
    counts: NDArray[np.int64]
    factor: Values
    indices: Values


def centred_average(values: Values, cycle: int, scale: float = 1.0) -> Values:
    """The centred moving average over a cycle, by the 2xM rule where that is even.

    Args:
        values: (series, periods); NaN is not known.
        scale: minor units in one unit.

    Returns:
        (series, periods); NaN where a window is not full or holds a period not known.
    """
    parts = []
    for window in centred(cycle, values.shape[1]):
        full = holds(values, window).counts(short=False, skips=False)
        parts.append(np.where(full, window_mean(values, window, scale), np.nan))
    found: Values = parts[0] if len(parts) == 1 else (parts[0] + parts[1]) / 2
    return found


def classical(
    values: Values,
    place: Days,
    cycle: int,
    multiplicative: bool,
    how: Joined = "mean",
    counted: NDArray[np.bool_] | None = None,
    scale: float = 1.0,
    trend: Values | None = None,
) -> Classical:
    """Ratio to, or difference from, the centred moving average.

    A period not known is filled with its local level and index, twice over; its own ratio does not count.

    Args:
        values: (series, periods); NaN is not known, before the first known period nothing is filled.
        place: (periods,) the season of each period, from 0.
        counted: (series, periods) whose ratios count; None for all.
        trend: the centred average of the values as they are, where it is known already.
    """
    first = centred_average(values, cycle, scale) if trend is None else trend
    found = _once(values, values, first, place, cycle, multiplicative, how, counted)
    gaps = gaps_within(values)
    if gaps.any():
        for _ in range(_FILLS):
            filled = np.where(gaps, _expected(values, found.indices, place, cycle, multiplicative), values)
            again = centred_average(filled, cycle)
            found = _once(values, filled, again, place, cycle, multiplicative, how, counted)
    return found


def _once(
    values: Values,
    filled: Values,
    trend: Values,
    place: Days,
    cycle: int,
    multiplicative: bool,
    how: Joined,
    counted: NDArray[np.bool_] | None,
) -> Classical:
    with np.errstate(invalid="ignore", divide="ignore"):
        ratios = np.where(trend > 0, values / trend, np.nan) if multiplicative else values - trend
    joint, counts = joined(
        ratios if counted is None else np.where(counted, ratios, np.nan), place, cycle, how
    )
    by, indices = factor(joint, multiplicative), scaled(joint, multiplicative)
    return Classical(filled, trend, ratios, joint, counts, by, indices)


def gaps_within(values: Values) -> NDArray[np.bool_]:
    """(series, periods) those not known between the first known period of each series and its last."""
    gone = np.isnan(values)
    if not gone.any():
        return gone
    after = np.maximum.accumulate(~gone, axis=1)
    before = np.maximum.accumulate(~gone[:, ::-1], axis=1)[:, ::-1]
    return np.asarray(gone & after & before)


def _expected(values: Values, indices: Values, place: Days, cycle: int, multiplicative: bool) -> Values:
    """(series, periods) the local level, of what is known in a cycle around, with the index of the season."""
    neutral = 1.0 if multiplicative else 0.0
    index = np.where(np.isnan(indices), neutral, indices)[:, place]
    with np.errstate(invalid="ignore", divide="ignore"):
        level_of = values / index if multiplicative else values - index
    level = np.mean([window_mean(level_of, window) for window in centred(cycle, values.shape[1])], axis=0)
    found: Values = level * index if multiplicative else level + index
    return found


def whole_years(values: Values, place: Days, cycle: int, years: Days) -> Values:
    """(series, periods) values of the years whose every season is known; NaN in the others.

    Args:
        years: (periods,) the year of each period.
    """
    kept = np.full(values.shape, np.nan)
    for year in np.unique(years):
        at = years == year
        if len(np.unique(place[at])) == cycle:
            own = values[:, at]
            kept[:, at] = np.where(~np.isnan(own).any(1, keepdims=True), own, np.nan)
    return kept


def simple(
    values: Values,
    place: Days,
    cycle: int,
    years: Days,
    multiplicative: bool,
    counted: NDArray[np.bool_] | None = None,
    scale: float = 1.0,
) -> Classical:
    """Simple averages: the mean of each season over, or less, the mean of all, on whole years only.

    They take in some of the trend: in a growing year the later seasons stand higher for that alone. What
    each period is over, or off, the mean of all is its ratio; that of a year which is not whole is none.
    The trend beside them is the centred average, which is blank around periods not known.

    Args:
        years: (periods,) the year of each period; one with a season that is not known is left out.
        counted: (series, periods) those that count; None for all.
    """
    kept = whole_years(values, place, cycle, years)
    seasons, counts = joined(kept if counted is None else np.where(counted, kept, np.nan), place, cycle)
    mean = mean_of_seasons(seasons)
    with np.errstate(invalid="ignore", divide="ignore"):
        ratios = np.where(mean > 0, kept / mean, np.nan) if multiplicative else kept - mean
        indices = np.where(mean > 0, seasons / mean, np.nan) if multiplicative else seasons - mean
    neutral = np.where(np.isnan(mean), np.nan, 1.0 if multiplicative else 0.0)
    return Classical(values, centred_average(values, cycle, scale), ratios, indices, counts, neutral, indices)


def mean_of_seasons(seasons: Values) -> Values:
    """(series, 1) the mean of the seasons that are known; NaN of none."""
    known = ~np.isnan(seasons)
    many = known.sum(1, keepdims=True)
    total = np.where(known, seasons, 0.0).sum(1, keepdims=True)
    mean: Values = np.divide(total, many, out=np.full(total.shape, np.nan), where=many > 0)
    return mean


def season_of(indices: Values, place: Days) -> Values:
    """(series, periods) the index of each period's season."""
    return indices[:, place]


def without_season(values: Values, season: Values, multiplicative: bool) -> Values:
    """(series, periods) values with their season taken out; NaN where it is not above zero, or not known.

    Args:
        season: (series, periods) the index of each period's season.
    """
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.where(season > 0, values / season, np.nan) if multiplicative else values - season


def remainder_of(values: Values, trend: Values, season: Values, multiplicative: bool) -> Values:
    """(series, periods) what trend and season leave: the product of the three is the actual, or their sum."""
    if not multiplicative:
        left: Values = values - trend - season
        return left
    expected = trend * season
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.where(expected > 0, values / expected, np.nan)
