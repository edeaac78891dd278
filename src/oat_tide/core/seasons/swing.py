"""Additive or multiplicative: whether the swing of the seasons grows with the level."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import Days
from oat_tide.core.seasons.classical import centred_average, classical

GROWS = 0.5
"""A correlation from which the swing is said to grow."""
FEWEST = 3
"""Years that it takes to say so."""


def swing_by_level(values: Values, trend: Values, years: Days) -> tuple[Values, Values, np.ndarray]:
    """The level and the swing of every year: the mean of the trend, and the spread about it.

    A definition of our own: the spread is the root of the mean square of actual less trend.

    Args:
        values, trend: (series, periods); NaN is not known.
        years: (periods,) the year of each, in order.

    Returns:
        (series, years) levels, (series, years) swings, NaN of a year of which less than half is known, and
        (years,) which they are.
    """
    starts = np.flatnonzero(np.diff(years, prepend=years[:1] - 1))
    each, many = years[starts], np.diff(starts, append=len(years))
    if not len(each):
        return np.zeros((len(values), 0)), np.zeros((len(values), 0)), each
    off = values - trend
    known = ~np.isnan(off)
    held, squares, total = (
        np.add.reduceat(row, starts, axis=1)
        for row in (known.astype(float), np.where(known, off, 0.0) ** 2, np.where(known, trend, 0.0))
    )
    enough = 2 * held >= max(int(many[len(each) // 2]), 1)
    count = np.maximum(held, 1)
    swings, levels = (np.where(enough, row, np.nan) for row in (np.sqrt(squares / count), total / count))
    return levels, swings, each


def grows(levels: Values, swings: Values) -> Values:
    """(series,) the rank correlation of swing and level over the years (Spearman, 1904); NaN of too few."""
    known = ~np.isnan(levels) & ~np.isnan(swings)
    n = known.sum(1, keepdims=True)
    one, other = (np.where(known, _ranks_among(each, known) - (n + 1) / 2, 0.0) for each in (levels, swings))
    both, size = (one * other).sum(1), np.sqrt((one**2).sum(1) * (other**2).sum(1))
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.where((n[:, 0] >= FEWEST) & (size > 0), both / size, np.nan)


def _ranks_among(values: Values, known: NDArray[np.bool_]) -> Values:
    """(series, years) ranks from 1 of those known, those of equals shared: how many are less, and half of the
    equals."""
    own, other, there = values[:, :, None], values[:, None, :], known[:, None, :]
    less, equal = (other < own) & there, (other == own) & there
    ranks: Values = less.sum(2) + (equal.sum(2) + 1) / 2
    return ranks


def ranked(values: Values) -> Values:
    """Ranks from 1, those of equals shared."""
    return ranked_with_counts(values)[0]


def ranked_with_counts(values: Values) -> tuple[Values, np.ndarray]:
    """Ranks from 1, those of equals shared; and how many share each."""
    _, back, counts = np.unique(values, return_inverse=True, return_counts=True)
    shared: Values = (np.cumsum(counts) - (counts - 1) / 2)[back]
    return shared, counts


@dataclass(frozen=True, eq=False, slots=True)
class Judged:
    """How the season of each series counts, and what that was judged by.

    Attributes:
        multiplies: (series,) whether it is a factor.
        rho: (series,) the rank correlation of swing and level.
        plain: (series, periods) the centred average of what is known as it is.
    """

    multiplies: NDArray[np.bool_]
    rho: Values
    plain: Values


def judged(values: Values, place: Days, cycle: int, years: Days, scale: float = 1.0) -> Judged:
    """Whether each series' season is a factor: its swing grows with the level, and all is above zero.

    Args:
        values: (series, periods); NaN is not known.
        place, years: (periods,) the season and the year of each.
        cycle: how many seasons there are; 0 for none.
        scale: minor units in one unit.
    """
    rho, plain = np.full(len(values), np.nan), np.full(values.shape, np.nan)
    if cycle and values.shape[1] >= 2 * cycle:
        plain = trend = centred_average(values, cycle, scale)
        if np.isnan(values).any():
            # As if the season were added: what is not known is filled so, and nothing is left out.
            trend = classical(values, place, cycle, False, scale=scale, trend=plain).trend
        rho = grows(*swing_by_level(values, trend, years)[:2])
    above_zero = ~(values <= 0).any(axis=1)
    return Judged(np.logical_and(rho >= GROWS, above_zero), rho, plain)
