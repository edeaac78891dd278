"""Growth that slackens as it comes up to a ceiling.

Source: Verhulst, Recherches mathématiques sur la loi d'accroissement de la population (1845).
"""

from __future__ import annotations

import numpy as np

from oat_tide.core.alike import Mask
from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.methods.shape import Fitted, How, Method, each_start
from oat_tide.core.methods.steps import FEWEST, carried_on, least, on, scaled

_END = 0.05
_BEYOND = 20.0
"""A ceiling of so many times the largest figure is none that the history tells."""


def logistic(values: Values, weights: Values, horizon: int, how: How) -> tuple[Values, Fitted]:
    """c / (1 + e^(-(a + b t))) by least squares, the ceiling c fitted or given."""
    return carried_on(values, horizon, *fit_logistic(values, weights, how.ceiling), _saturating)


def fit_logistic(values: Values, weights: Values, ceiling: float) -> tuple[Values, Values]:
    """(series, 3) a, b and ln c, NaN of none, and (series,) the first period of each fit.

    Args:
        ceiling: what it comes up to; NaN for one that is fitted, from several first tries, the best of them.
    """
    used, y, first, size = scaled(values, weights)
    t = on(first, values.shape[1])
    largest = np.where(used, y, -np.inf).max(1, initial=-np.inf)
    given = not np.isnan(ceiling)
    tries = (ceiling / size,) if given else tuple(largest * factor for factor in (1.05, 1.3, 2.0, 4.0))
    best, fewest = np.full((len(y), 3), np.nan), np.full(len(y), np.inf)
    for c in tries:
        begin = _logits(y, used, t, np.broadcast_to(c, len(y)))
        found = least(y, used, t, begin, _saturating, fixed=2 if given else None)
        with np.errstate(over="ignore", invalid="ignore"):
            missed = np.where(used, y - _saturating(found, t)[0], 0.0)
        sse = (missed**2).sum(1)
        better = sse < fewest
        best, fewest = np.where(better[:, None], found, best), np.where(better, sse, fewest)
    if not given:
        # A curve that still bends upwards at its end tells of no ceiling.
        with np.errstate(invalid="ignore", over="ignore"):
            best[~(np.exp(best[:, 2]) < _BEYOND * largest)] = np.nan
    elif given:
        best[~(ceiling / size > largest)] = np.nan
    below_zero = (used & (y < 0)).any(1)
    best[below_zero if given else below_zero | _no_growth(best, used, t)] = np.nan
    best[:, 2] += np.log(size)
    return best, first


def _no_growth(found: Values, used: Mask, t: Values) -> Mask:
    """(series,) whether a curve says nothing of a growth that slackens, for it is a fall or a jump.

    A jump passes from a twentieth of its ceiling to all but one within fewer periods than tell of a curve.
    """
    with np.errstate(over="ignore", invalid="ignore"):
        share = 1 / (1 + np.exp(-(found[:, :1] + found[:, 1:2] * t)))
    between = (used & (share > _END) & (share < 1 - _END)).sum(1)
    return np.asarray(~(found[:, 1] > 0) | (between < FEWEST))


def _logits(y: Values, used: Mask, t: Values, ceiling: Values) -> Values:
    """(series, 3) a first try: a line through the logits of what is below the ceiling."""
    with np.errstate(invalid="ignore", divide="ignore"):
        share = y / ceiling[:, None]
        there = used & (share > 0) & (share < 1)
        z = np.where(there, np.log(share / (1 - share)), 0.0)
        n = there.sum(1)
        t_mean, z_mean = np.where(there, t, 0.0).sum(1) / n, z.sum(1) / n
        dt = np.where(there, t - t_mean[:, None], 0.0)
        b = (dt * z).sum(1) / (dt**2).sum(1)
        begin = np.column_stack((z_mean - b * t_mean, b, np.log(ceiling)))
    begin[n < FEWEST] = np.nan
    return begin


def _saturating(parameters: Values, t: Values) -> tuple[Values, Values]:
    share = 1 / (1 + np.exp(-(parameters[:, :1] + parameters[:, 1:2] * t)))
    value = np.exp(parameters[:, 2:3]) * share
    bend = value * (1 - share)
    return value, np.stack((bend, bend * t, value), axis=2)


METHODS = (
    Method(
        "logistic",
        phrase("Saturating growth"),
        phrase("Verhulst, 1845"),
        each_start(logistic),
        parameters=3,
        curve=True,
        iterated=True,
    ),
)
