"""Seasonal-trend decomposition by local regression, written from the paper.

Source: Cleveland, Cleveland, McRae and Terpenning, STL: A Seasonal-Trend Decomposition Procedure Based on
Loess, Journal of Official Statistics 6 (1990), 3-73; sections are named as there. Periods not known have no
weight in any regression, and every part is reckoned for them all the same (section 2.4).
"""

from __future__ import annotations

import functools
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.exact import Values
from oat_tide.core.rows import columns_of
from oat_tide.core.series.like import median_known

INNER, ROBUST_INNER, ROBUST_OUTER = 2, 1, 15
"""Passes of the inner loop, and of both loops where it is robust (section 3.3 and 3.4)."""
_AT_A_TIME = 1 << 22
"""Cells of windows that are reckoned at a time."""


@dataclass(frozen=True, eq=False, slots=True)
class Decomposition:
    """What a series is taken apart into; the sum of the three is the series.

    Attributes:
        trend, season, remainder: (series, periods).
        weights: (series, periods) how much each period counted: 1 but for wild ones where it is robust.
    """

    trend: Values
    season: Values
    remainder: Values
    weights: Values


def loess(values: Values, weights: Values, span: int, first: int = 0, count: int | None = None) -> Values:
    """Local linear regression at places of an evenly spaced series (section 2.1).

    The span nearest points have the tricube of their distance for a weight; a span longer than the series
    widens the distance by half of what it is longer, as the authors' own program has it.

    Args:
        values: (series, periods); those of no weight are not looked at.
        weights: (series, periods) of each point.
        first: the first place, in periods from the first one; it may lie before it.
        count: how many places there are; None for one a period.

    Returns:
        (series, count); NaN where no point has a weight.
    """
    periods = values.shape[1]
    places = periods if count is None else count
    near = _near(periods, span, first, places)
    out = np.empty((len(values), places))
    step = max(_AT_A_TIME // max(near.index.size, 1), 1)
    for row in range(0, len(values), step):
        rows = slice(row, row + step)
        own, weigh = values[rows], weights[rows]
        # Where all points count alike they are the same sums of neighbours for every series.
        alike = (weigh == weigh[:, :1]).all(1) & (weigh[:, 0] > 0)
        found = np.empty((len(own), places))
        found[alike] = np.einsum("rpn,pn->rp", columns_of(own[alike], near.index), near.even)
        found[~alike] = _weighed(
            columns_of(own[~alike], near.index),
            columns_of(weigh[~alike], near.index) * near.tricube,
            near,
        )
        out[rows] = found
    return out


@dataclass(frozen=True, eq=False, slots=True)
class _Near:
    """The points near each place, which are the same for every series.

    Attributes:
        index: (places, near) which they are.
        off: (places, near) how far they lie after the place.
        tricube: (places, near) the weight of their distance.
        even: (places, near) what each counts in the regression where all points weigh alike.
        least: the spread of points below which they bear no slope.
    """

    index: NDArray[np.int64]
    off: Values
    tricube: Values
    even: Values
    least: float


@functools.lru_cache(256)
def _near(periods: int, span: int, first: int, places: int) -> _Near:
    many, at = min(span, periods), first + np.arange(places)
    left = np.clip(at - (many - 1) // 2, 0, periods - many)
    index = left[:, None] + np.arange(many)
    off = (index - at[:, None]).astype(np.float64)
    far = np.abs(off).max(1) + max(span - periods, 0) // 2
    share = np.minimum(np.abs(off) / np.maximum(far, 1e-12)[:, None], 1.0)
    tricube = np.where(share <= 0.001, 1.0, np.where(share <= 0.999, (1 - share**3) ** 3, 0.0))
    near = _Near(index, off, tricube, tricube, 0.001 * (periods - 1))
    total, once, twice = (np.einsum("pn,pn->p", tricube, off**power) for power in range(3))
    level, slope = _counts(total, once, twice, near.least)
    return replace(near, even=tricube * (level[:, None] + slope[:, None] * off))


def _counts(total: Values, first: Values, second: Values, least: float) -> tuple[Values, Values]:
    """What the weight of a point, and that times its distance, count in the line fitted at the place."""
    with np.errstate(invalid="ignore", divide="ignore"):
        middle = first / total
        spread = second / total - middle**2
        # Points too close together bear no slope.
        sloped = np.sqrt(np.maximum(spread, 0.0)) > least
        slope = np.where(sloped, -middle / np.where(sloped, spread, 1.0), 0.0)
        return np.where(total > 0, (1 - slope * middle) / total, np.nan), slope / total


def _weighed(y: Values, w: Values, near: _Near) -> Values:
    """(series, places) weighted lines through (series, places, near) points, where they are looked at."""
    once, twice = (np.einsum("rpn,pn->rp", w, near.off**power) for power in (1, 2))
    level, slope = _counts(w.sum(-1), once, twice, near.least)
    wy = w * y
    found: Values = level * wy.sum(-1) + slope * np.einsum("rpn,pn->rp", wy, near.off)
    return found


def _moving_average(values: Values, length: int) -> Values:
    """(series, periods - length + 1) plain means of so many neighbours."""
    running = np.zeros((len(values), values.shape[1] + 1))
    np.cumsum(values, axis=1, out=running[:, 1:])
    return (running[:, length:] - running[:, :-length]) / length


def next_odd(value: float) -> int:
    """The least odd whole number that is not less."""
    least = int(np.ceil(value))
    return least if least % 2 else least + 1


def trend_span(cycle: int, seasonal: int) -> int:
    """The span of the trend that goes with a cycle and the span of the season (section 3.4)."""
    return next_odd(1.5 * cycle / (1 - 1.5 / seasonal))


def decompose(
    values: Values, cycle: int, seasonal: int = 7, trend: int | None = None, robust: bool = False
) -> Decomposition:
    """Trend, season and remainder of every series.

    Args:
        values: (series, periods), at least two cycles; NaN is not known.
        cycle: periods in a cycle, at least 2.
        seasonal: years that the season of one place is smoothed over, odd and at least 7 for it to be
            told from the remainder.
        trend: the span of the trend; None for the one that goes with the other two.
        robust: whether wild periods lose their weight.

    Raises:
        ValueError: fewer than two cycles.
    """
    if values.shape[1] < 2 * cycle:
        raise ValueError("it takes two cycles")
    span = trend_span(cycle, seasonal) if trend is None else trend
    known = (~np.isnan(values)).astype(np.float64)
    y, weights = np.nan_to_num(values, nan=0.0), known
    level, season = np.zeros(y.shape), np.zeros(y.shape)
    for outer in range(ROBUST_OUTER + 1 if robust else 1):
        for _ in range(ROBUST_INNER if robust else INNER):
            season = _season(y - level, weights, cycle, seasonal)
            level = loess(y - season, weights, span)
        if robust and outer < ROBUST_OUTER:
            weights = known * _bisquare(np.where(known > 0, y - level - season, np.nan))
    return Decomposition(level, season, np.where(known > 0, values - level - season, np.nan), weights)


def decompose_products(
    values: Values, cycle: int, seasonal: int = 7, trend: int | None = None, robust: bool = False
) -> Decomposition:
    """The same on logarithms: trend x season x remainder is the series, and the season averages 1.

    In each cycle, counted from the first period, the season is brought to average 1 and the factor goes into
    the trend; what is left of a cycle at the end goes by the last whole one.

    Args:
        values: (series, periods), above zero; NaN is not known.
    """
    parts = decompose(np.log(values), cycle, seasonal, trend, robust)
    season, periods = np.exp(parts.season), values.shape[1]
    whole = periods // cycle * cycle
    by = season[:, :whole].reshape(len(values), -1, cycle).mean(2).repeat(cycle, axis=1)
    last = season[:, periods - cycle :].mean(1, keepdims=True)
    by = np.concatenate((by, last.repeat(periods - whole, axis=1)), axis=1)
    return Decomposition(np.exp(parts.trend) * by, season / by, np.exp(parts.remainder), parts.weights)


def _season(detrended: Values, weights: Values, cycle: int, seasonal: int) -> Values:
    """Steps 2 to 4 of the inner loop: each place of the cycle smoothed over its years, less its low pass."""
    periods = detrended.shape[1]
    smooth = np.empty((len(detrended), periods + 2 * cycle))
    for place in range(cycle):
        own = detrended[:, place::cycle]
        smooth[:, place::cycle] = loess(own, weights[:, place::cycle], seasonal, -1, own.shape[1] + 2)
    low = _moving_average(_moving_average(_moving_average(smooth, cycle), cycle), 3)
    low = loess(low, np.ones(low.shape), next_odd(cycle))
    return smooth[:, cycle : cycle + periods] - low


@functools.lru_cache(64)
def equivalent(cycles: int, seasonal: int) -> float:
    """How many parameters the season of one place takes in so many cycles: the trace of its smoother."""
    if cycles < 1:
        return 1.0
    one = np.eye(cycles)
    return float(np.trace(loess(one, np.ones_like(one), seasonal)))


def _bisquare(remainder: Values) -> Values:
    """(series, periods) robustness weights: nothing beyond six times the median size (section 2.3)."""
    size = np.abs(remainder)
    wide = 6 * median_known(size)[:, None]
    with np.errstate(invalid="ignore", divide="ignore"):
        share = size / wide
    weight = np.where(
        share <= 0.001, 1.0, np.where(share <= 0.999, (1 - np.minimum(share, 1) ** 2) ** 2, 0.0)
    )
    # Where nothing is left over every period counts.
    return np.where((wide > 0) & ~np.isnan(share), weight, 1.0)


def of_each(
    values: Values,
    multiplies: NDArray[np.bool_],
    odd: tuple[int, ...],
    cycle: int,
    seasonal: int,
    span: int,
    robust: bool,
) -> tuple[Values, Values]:
    """Trend and season of each series between its first and its last known period.

    Args:
        values: (series, periods).
        multiplies: (series,) whether the season is a factor.
        odd: periods that share the season of the one before, and lie on the trend between their neighbours.
        span: of the trend; 0 for the one that goes with the other two.

    Returns:
        (series, periods) and (series, periods); NaN beyond what is known, and of fewer than two cycles.
    """
    trend, season = np.full(values.shape, np.nan), np.full(values.shape, np.nan)
    known = ~np.isnan(values)
    firsts = known.argmax(1) if values.shape[1] else np.zeros(len(values), np.int64)
    lasts = values.shape[1] - known[:, ::-1].argmax(1) if values.shape[1] else firsts
    alike: dict[tuple[int, int, bool], list[int]] = {}
    for row in np.flatnonzero(known.any(1)).tolist():
        alike.setdefault((int(firsts[row]), int(lasts[row]), bool(multiplies[row])), []).append(row)
    for (first, last, product), rows in alike.items():
        own = np.array(rows)
        even = np.setdiff1d(np.arange(first, last), odd)
        if len(even) < 2 * cycle:
            continue
        take = decompose_products if product else decompose
        parts = take(values[np.ix_(own, even)], cycle, seasonal, span or None, robust)
        trend[np.ix_(own, even)], season[np.ix_(own, even)] = parts.trend, parts.season
        # One that shares a season lies on the trend between its neighbours.
        for at in (each for each in odd if first < each < last):
            season[own, at] = season[own, at - 1]
            beside = trend[own, at - 1], trend[own, min(at + 1, last - 1)]
            trend[own, at] = np.where(np.isnan(beside[1]), beside[0], (beside[0] + beside[1]) / 2)
    return trend, season
