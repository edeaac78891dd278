"""Whether there is a season at all, and how strong season and trend are, beside what chance reaches.

Sources: Wang, Smith and Hyndman, Characteristic-based clustering for time series data (2006), for the
strengths; Kruskal and Wallis, Use of ranks in one-criterion variance analysis (1952).
"""

from __future__ import annotations

import functools
from typing import Literal

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import Days
from oat_tide.core.seasons import loess
from oat_tide.core.seasons.classical import classical, season_of, simple
from oat_tide.core.seasons.swing import ranked_with_counts

Method = Literal["simple", "classical", "loess"]
"""How a history is taken apart."""
DRAWS, SEED = 2000, 1990
"""Made-up histories of nothing but noise that chance is told by."""
_FEWEST_DRAWS, _MOST_CELLS = 200, 500_000
"""Of long histories fewer: what 95 % limit by chance differs little from one to the next."""


def strength(part: Values, remainder: Values) -> Values:
    """max(0, 1 - var(R) / var(part + R)) where both are known (Wang, Smith and Hyndman, 2006).

    Args:
        part: (series, periods) season or trend; of a multiplicative one its logarithm, and so the remainder.
        remainder: (series, periods).

    Returns:
        (series,) from 0 to 1; NaN of fewer than two periods, and where nothing varies.
    """
    both = ~np.isnan(part) & ~np.isnan(remainder)
    alone, joint = (_variance(each, both) for each in (remainder, part + remainder))
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.where(joint > 0, np.maximum(0.0, 1 - alone / joint), np.nan)


def _variance(values: Values, known: np.ndarray) -> Values:
    count = known.sum(1)
    mean = np.where(known, values, 0.0).sum(1) / np.maximum(count, 1)
    squares = np.where(known, values - mean[:, None], 0.0) ** 2
    return np.where(count > 1, squares.sum(1) / np.maximum(count - 1, 1), np.nan)


@functools.lru_cache(64)
def by_chance(periods: int, cycle: int, method: Method = "classical", years: int = 7) -> float:
    """The strength of season that nineteen in twenty histories of mere noise stay below.

    Reckoned by decomposing so many made-up histories of that length by the same method.

    Args:
        years: those that local regression smooths a season over.
    """
    most = _MOST_CELLS // 10 if method == "loess" else _MOST_CELLS
    draws = min(DRAWS, max(most // max(periods, 1), _FEWEST_DRAWS))
    noise = np.random.default_rng(SEED).normal(size=(draws, periods))
    place, each = np.arange(periods) % cycle, np.arange(periods) // cycle
    if method == "loess":
        if periods < 2 * cycle:
            return float("nan")
        trend, season = loess.of_each(noise, np.zeros(draws, np.bool_), (), cycle, years, 0, False)
    else:
        parts = (
            simple(noise, place, cycle, each, multiplicative=False)
            if method == "simple"
            else classical(noise, place, cycle, multiplicative=False)
        )
        trend, season = parts.trend, season_of(parts.indices, place)
    reached = strength(season, noise - trend - season)
    return float(np.nanquantile(reached, 0.95)) if (~np.isnan(reached)).any() else float("nan")


def rank_test(values: Values, place: Days, cycle: int) -> tuple[Values, Values, Values]:
    """The rank test across seasons of a detrended series, ties shared (Kruskal and Wallis, 1952).

    Args:
        values: (series, periods); NaN is not known.

    Returns:
        (series,) H, its degrees of freedom, and the p-value; NaN of fewer than two seasons.
    """
    from scipy.special import chdtrc

    statistic, freedom = np.full(len(values), np.nan), np.full(len(values), np.nan)
    for row, own in enumerate(values):
        known = ~np.isnan(own)
        ranks, counts = ranked_with_counts(own[known])
        n, tied = len(ranks), ties(counts)
        many = np.bincount(place[known], minlength=cycle)
        sums = np.bincount(place[known], weights=ranks, minlength=cycle)
        groups = many > 0
        if groups.sum() < 2 or tied >= 1:
            continue
        parts = sums[groups] ** 2 / many[groups]
        h = 12 / (n * (n + 1)) * parts.sum() - 3 * (n + 1)
        statistic[row], freedom[row] = h / (1 - tied), groups.sum() - 1
    return statistic, freedom, np.asarray(chdtrc(freedom, statistic))


def ties(counts: np.ndarray) -> float:
    """Compute the share by which ties reduce the variance of ranks, from how many values share each rank."""
    n = int(counts.sum())
    return float((counts**3 - counts).sum() / max(n**3 - n, 1))


def autocorrelation(values: Values, lag: int) -> tuple[Values, Values]:
    """The autocorrelation of a detrended series at a lag, and what nineteen in twenty of noise stay below.

    Args:
        values: (series, periods); NaN is not known, and pairs that hold one are left out.

    Returns:
        (series,) and (series,) 1.645 / root n, n the periods known (Bartlett, 1946).
    """
    known = ~np.isnan(values)
    count = known.sum(1)
    mean = np.where(known, values, 0.0).sum(1, keepdims=True) / np.maximum(count, 1)[:, None]
    off = np.where(known, values - mean, 0.0)
    squares = (off**2).sum(1)
    with np.errstate(invalid="ignore", divide="ignore"):
        found = np.where(squares > 0, (off[:, lag:] * off[:, :-lag]).sum(1) / squares, np.nan)
        limit = np.where(count > lag, 1.645 / np.sqrt(count), np.nan)
    return found, limit
