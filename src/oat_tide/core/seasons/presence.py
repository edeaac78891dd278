"""Whether there is a season: the F of seasonal levels beside a trend, errors that hang together counted.

The errors are taken to go on from each other by a part rho of the one before (AR(1)), the one of a few that
is likeliest beside season and trend, by what these leave (Patterson and Thompson, 1971). With it every
period is held against what the one before foretells (Prais and Winsten, 1954), and F is as of any regression
(Draper and Smith, 1998, chapters 6 and 14). What 95 % limit by chance depends on the length and on rho: it is
reckoned from made-up histories without a season.
"""

from __future__ import annotations

import functools
from dataclasses import dataclass

import numpy as np

from oat_tide.core.alike import Mask, alike
from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import Days
from oat_tide.core.rows import columns_of
from oat_tide.core.seasons.trend import indicators_of, powers_of_time

LEVEL = 0.05
"""How often chance may be taken for a season."""
FEWEST_CYCLES = 3
"""Cycles from which it can be said that there is none."""
RHOS = np.array((0.0, 0.15, 0.3, 0.45, 0.6, 0.7, 0.8, 0.87, 0.93, 0.98))
"""What errors may keep of the one before."""
SEED, _DRAWS = 1990, 400
_FEWEST_DRAWS, _MOST_CELLS = 60, 60_000
"""Of long histories fewer of each rho are made up: their limits hardly waver."""


@dataclass(frozen=True, eq=False, slots=True)
class SeasonTest:
    """What tells of a season; each (series,), NaN of a history too short for it, or that never varies.

    Attributes:
        rho: what errors keep of the one before.
        without, within: sums of squares that the trend leaves, and that season and trend leave.
        more: seasons less one.
        left: periods less the terms of both.
    """

    rho: Values
    without: Values
    within: Values
    more: Values
    left: Values

    @property
    def f(self) -> Values:
        """(series,) what a season explains for each of its terms, over what is left for each period."""
        with np.errstate(invalid="ignore", divide="ignore"):
            return (self.without - self.within) / self.more / (self.within / self.left)


def progress(values: Values, place: Days, cycle: int) -> SeasonTest:
    """Hold every history against a trend with a level a season and against a trend alone.

    Args:
        values: (series, periods) NaN is not known; of a season that multiplies their logarithms.
        place: (periods,) the season of each, from 0.
    """
    found = np.full((5, len(values)), np.nan)
    for rows, own in alike(~np.isnan(values)):
        if own.any():
            found[:, rows] = _of_alike(columns_of(values[rows], own), np.flatnonzero(own), place, cycle)
    return SeasonTest(*found)


def _of_alike(y: Values, at: Days, place: Days, cycle: int) -> Values:
    """(5, series) of those whose known periods are the same."""
    many, n = y.shape
    out = np.full((5, many), np.nan)
    span = int(at[-1] - at[0]) + 1
    trend = powers_of_time(span, cycle)[at - at[0]]
    seasons = indicators_of(place[at], cycle)
    seasons = seasons[:, seasons.any(0)]
    both = np.concatenate((seasons, trend[:, 1:]), axis=1)
    left, more = n - both.shape[1], seasons.shape[1] - 1
    varies = np.ptp(y, axis=1) > 1e-9 * np.abs(y).max(1)
    if left < 2 or more < 1 or not varies.any():
        return out
    neighbours = np.diff(at, prepend=at[0] - 2) == 1
    y = y - y.mean(1, keepdims=True)
    best = np.full(many, -np.inf)
    for rho in RHOS:
        said = _by_rho(y.T, both, trend, neighbours, float(rho))
        if said is None:
            continue
        within, without, shape = said
        likely = -left / 2 * np.log(np.maximum(within, 1e-300)) + shape
        better = varies & (likely > best)
        best[better] = likely[better]
        out[:3, better] = np.stack((np.full(many, rho), without, within))[:, better]
    out[3:, varies] = [[more], [left]]
    return out


def _by_rho(
    y: Values, both: Values, trend: Values, neighbours: Mask, rho: float
) -> tuple[Values, Values, float] | None:
    """What season and trend leave, what the trend leaves, and what the likelihood has beside that."""

    def less_foretold(rows: Values) -> Values:
        before = np.concatenate((rows[:1], rows[:-1]))
        return np.where(neighbours[:, None], rows - rho * before, rows * np.sqrt(1 - rho**2))

    own = less_foretold(y)
    whole = (own**2).sum(0)
    sums, size = [], 0.0
    for terms in (trend, both):
        q, r = np.linalg.qr(less_foretold(terms))
        pivots = np.abs(np.diag(r))
        if pivots.min() <= 1e-10 * pivots.max():
            return None
        sums.append(np.maximum(whole - ((q.T @ own) ** 2).sum(0), 0.0))
        size = float(np.log(pivots).sum())
    begins = int((~neighbours).sum())
    return sums[1], sums[0], begins / 2 * float(np.log(1 - rho**2)) - size


@functools.lru_cache(64)
def limits(periods: int, cycle: int) -> tuple[float, ...]:
    """By rho, the F that nineteen in twenty histories without a season stay below.

    So many are made up of each rho, and of a walk at random; those whose errors were found to hang
    together alike, or by one step more or less, are taken together.

    Args:
        periods: known ones, neighbours all.
    """
    draws = max(min(_DRAWS, _MOST_CELLS // max(periods, 1)), _FEWEST_DRAWS)
    rng, place = np.random.default_rng(SEED), np.arange(periods) % cycle
    made = [_made_up(rng, draws, periods, rho) for rho in (*RHOS.tolist(), 1.0)]
    season_test = progress(np.concatenate(made), place, cycle)
    f, step = season_test.f, np.searchsorted(RHOS, season_test.rho)
    out = []
    for at in range(len(RHOS)):
        own = f[(np.abs(step - at) <= 1) & ~np.isnan(f)]
        out.append(float(np.quantile(own, 1 - LEVEL)) if own.size else float("nan"))
    return tuple(out)


def _made_up(rng: np.random.Generator, many: int, periods: int, rho: float) -> Values:
    """(many, periods) errors that keep so much of the one before."""
    errors = rng.normal(size=(many, periods))
    if rho < 1:
        errors[:, 0] /= np.sqrt(1 - rho**2)
    for at in range(1, periods):
        errors[:, at] += rho * errors[:, at - 1]
    return errors


def whole_halves(periods: int, cycle: int) -> int:
    """Periods in whole halves of a cycle: what 95 % limit by chance there is no less than in the few more."""
    half = max(cycle // 2, 1)
    return max(periods // half, 1) * half


def limit_of(season_test: SeasonTest, by_rho: tuple[float, ...]) -> Values:
    """(series,) what chance reaches, by the rho of each."""
    at = np.searchsorted(RHOS, np.nan_to_num(season_test.rho))
    return np.where(np.isnan(season_test.rho), np.nan, np.array(by_rho)[at])
