"""Additive or multiplicative: whether the swing of the seasons grows with the level."""

from __future__ import annotations

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import Days

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
    out = np.full(len(levels), np.nan)
    for row, (level, swing) in enumerate(zip(levels, swings, strict=True)):
        known = ~np.isnan(level) & ~np.isnan(swing)
        if known.sum() < FEWEST:
            continue
        ranks = [ranked(each[known]) for each in (level, swing)]
        spread = [each - each.mean() for each in ranks]
        size = float(np.sqrt((spread[0] ** 2).sum() * (spread[1] ** 2).sum()))
        out[row] = float((spread[0] * spread[1]).sum()) / size if size > 0 else np.nan
    return out


def ranked(values: Values) -> Values:
    """Ranks from 1, those of equals shared."""
    return ranked_with_counts(values)[0]


def ranked_with_counts(values: Values) -> tuple[Values, np.ndarray]:
    """Ranks from 1, those of equals shared; and how many share each."""
    _, back, counts = np.unique(values, return_inverse=True, return_counts=True)
    shared: Values = (np.cumsum(counts) - (counts - 1) / 2)[back]
    return shared, counts
