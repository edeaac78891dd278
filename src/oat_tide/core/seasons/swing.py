"""Additive or multiplicative: which form of season the figures are likelier by.

Each form is taken under constant noise and under noise in proportion to what is expected, on the scale of
the figures, and stands by the likelier of the two. Source: Box and Cox, An analysis of transformations
(1964), for likelihoods of one scale.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.periods.calendar import Days
from oat_tide.core.rows import by_place
from oat_tide.core.seasons.classical import centred_average
from oat_tide.core.seasons.trend import trend_beside

CLOSE = 2.0
"""A difference of log-likelihoods within which the forms are too close to tell."""
FEWEST = 3
"""Cycles that it takes to tell them."""
_PASSES = 2
_LOWEST = 0.05
"""What is expected is no less than this part of the mean, where noise goes with it."""
_NOTHING = 1e-24
"""Squares of so little of the others are those of rounding."""
FORMS = (
    (phrase("additive"), phrase("constant")),
    (phrase("additive"), phrase("in proportion")),
    (phrase("multiplicative"), phrase("constant")),
    (phrase("multiplicative"), phrase("in proportion")),
)
"""The forms of season, each with its noise."""


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
        likelihoods: (series, 4) log-likelihoods of FORMS; NaN of too short a history, or one that is not
            above zero.
        plain: (series, periods) the centred average of what is known as it is.
    """

    multiplies: NDArray[np.bool_]
    likelihoods: Values
    plain: Values

    @property
    def ahead(self) -> Values:
        """(series,) by how much the log-likelihood of a factor is ahead; NaN where it cannot be told."""
        product, total = self.likelihoods[:, 2:].max(1), self.likelihoods[:, :2].max(1)
        return np.asarray(product - total)


def likelihoods(values: Values, place: Days, cycle: int) -> Values:
    """(series, 4) log-likelihoods of FORMS, less what all share.

    With the trend T of `trend_beside`, s a level or a factor a season: y = T + s + e and y = T s + e by
    least squares, of noise in proportion with weights 1 / expected², found by two passes. Of n errors they
    are -n/2 ln(mean e²), and -n/2 ln(mean (e / expected)²) - sum ln expected.

    Args:
        values: (series, periods) above zero; NaN is not known.
        place: (periods,) the season of each, from 0.
    """
    known = ~np.isnan(values)
    weight, y = known.astype(float), np.where(known, values, 0.0)
    n = np.maximum(weight.sum(1), 1)
    lowest = _LOWEST * (y.sum(1) / n)[:, None]
    trend = np.maximum(trend_beside(values, known, place, cycle), lowest)
    least = np.maximum(_NOTHING * (y**2).sum(1) / n, 1e-300)

    def expected(products: bool, weights: Values) -> Values:
        by, of = (trend, y) if products else (np.ones_like(y), y - trend)
        with np.errstate(invalid="ignore", divide="ignore"):
            own = by_place(weights * by * of, place, cycle) / by_place(weights * by * by, place, cycle)
        index = np.nan_to_num(own)[:, place]
        found: Values = trend * index if products else trend + index
        return found

    out = []
    for products in (False, True):
        plain = expected(products, weight)
        out.append(-n / 2 * np.log(np.maximum((weight * (y - plain) ** 2).sum(1) / n, least)))
        goes = np.maximum(plain, lowest)
        for _ in range(_PASSES):
            goes = np.maximum(expected(products, weight / goes**2), lowest)
        shares = (weight * ((y - goes) / goes) ** 2).sum(1) / n
        out.append(
            -n / 2 * np.log(np.maximum(shares, _NOTHING)) - (weight * np.log(np.maximum(goes, 1e-300))).sum(1)
        )
    return np.stack(out, axis=1)


def judged(values: Values, place: Days, cycle: int, scale: float = 1.0) -> Judged:
    """Whether each series' season is a factor: all is above zero, and adding it is not clearly likelier.

    Args:
        values: (series, periods); NaN is not known.
        place: (periods,) the season of each, from 0.
        cycle: how many seasons there are; 0 for none.
        scale: minor units in one unit.
    """
    found, plain = np.full((len(values), len(FORMS)), np.nan), np.full(values.shape, np.nan)
    above_zero = ~(values <= 0).any(axis=1)
    if cycle and values.shape[1] >= 2 * cycle:
        plain = centred_average(values, cycle, scale)
    spans = (~np.isnan(values)).sum(1) >= FEWEST * cycle if cycle else np.zeros(len(values), np.bool_)
    told = above_zero & spans
    if told.any():
        found[told] = likelihoods(values[told], place, cycle)
    with np.errstate(invalid="ignore"):
        adds = found[:, 2:].max(1) - found[:, :2].max(1) <= -CLOSE
    return Judged(above_zero & ~adds, found, plain)
