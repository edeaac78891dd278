"""Growth: a curve of constant growth on the scale of the values, compound, by a set rate, and saturating.

Sources: Verhulst, Recherches mathématiques sur la loi d'accroissement de la population (1845), for
saturating growth; Bates and Watts, Nonlinear Regression Analysis (1988), for Gauss-Newton steps;
Marquardt (1963) for their damping.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from oat_tide.core.alike import Mask
from oat_tide.core.exact import Values
from oat_tide.core.methods.shape import How, first_known, heeded, known_before, last_known

_PASSES, _CLOSE = 200, 1e-10
_FEWEST = 3
_END = 0.05
_BEYOND = 20.0
"""A ceiling of so many times the largest figure is none that the history tells."""

Curve = Callable[[Values, Values], tuple[Values, Values]]
"""((series, parameters), (series, periods) t) -> values and (series, periods, parameters) slopes."""


def compound(values: Values, weights: Values, horizon: int, how: How) -> tuple[Values, Values]:
    """The last known period, grown on as from the first known to it: (last / first)^(1/k) - 1."""
    own = heeded(values, weights)
    value, at = last_known(own)
    first, first_at = first_known(own)
    with np.errstate(invalid="ignore", divide="ignore"):
        fits = (at > first_at) & (first > 0) & (value > 0)
        growth = np.where(fits, (value / first) ** (1 / np.where(fits, at - first_at, 1)), np.nan)
    past = own.shape[1]
    columns = np.arange(past + horizon)
    # What lies between the two periods is the curve that joins them.
    curve = value[:, None] * growth[:, None] ** (columns - at[:, None])
    return curve[:, past:], np.where(columns[:past] >= first_at[:, None], curve[:, :past], np.nan)


def rate(values: Values, weights: Values, horizon: int, how: How) -> tuple[Values, Values]:
    """The last known period, grown on by a rate a year that is set by hand."""
    own = heeded(values, weights)
    value, at = last_known(own)
    a_period = (1 + how.rate) ** (1 / how.year)
    steps = own.shape[1] - at[:, None] + np.arange(horizon)
    return value[:, None] * a_period**steps, known_before(own)[0] * a_period


def growth_direct(values: Values, weights: Values, horizon: int, how: How) -> tuple[Values, Values]:
    """a e^(b t) by least squares of the values themselves."""
    return _carried_on(values, horizon, *fit_growth(values, weights), _exponential)


def logistic(values: Values, weights: Values, horizon: int, how: How) -> tuple[Values, Values]:
    """c / (1 + e^(-(a + b t))) by least squares, the ceiling c fitted or given."""
    return _carried_on(values, horizon, *fit_logistic(values, weights, how.ceiling), _saturating)


def _carried_on(
    values: Values, horizon: int, parameters: Values, t: Values, curve: Curve
) -> tuple[Values, Values]:
    past = values.shape[1]
    with np.errstate(over="ignore", invalid="ignore"):
        found = curve(parameters, on(t, past + horizon))[0]
    return found[:, past:], found[:, :past]


def on(first: Values, columns: int) -> Values:
    """(series, columns) the number of each period, 1 at the first of each fit."""
    found: Values = np.arange(columns) - first[:, None] + 1.0
    return found


def fit_growth(values: Values, weights: Values) -> tuple[Values, Values]:
    """(series, 2) ln a and b, NaN of none, and (series,) the first period of each fit.

    The first try is the growth between the means of the two halves of the fit.
    """
    used, y, first, size = _scaled(values, weights)
    t = on(first, values.shape[1])
    level, b = _halves(y, used, t)
    with np.errstate(invalid="ignore", divide="ignore"):
        begin = np.column_stack((np.log(np.where(level > 0, level, np.nan)), b))
    found = _least(y, used, t, begin, _exponential)
    found[:, 0] += np.log(size)
    return found, first


def _halves(y: Values, used: Mask, t: Values) -> tuple[Values, Values]:
    """(series,) the value at t = 0 and the growth of the curve through the means of two halves."""
    half = np.cumsum(used, axis=1) <= used.sum(1, keepdims=True) / 2
    parts = []
    for part in (used & half, used & ~half):
        n = np.maximum(part.sum(1), 1)
        parts.append(((np.where(part, y, 0.0)).sum(1) / n, np.where(part, t, 0.0).sum(1) / n))
    (y1, t1), (y2, t2) = parts
    with np.errstate(invalid="ignore", divide="ignore"):
        b = np.where((y1 > 0) & (y2 > 0) & (t2 > t1), np.log(y2 / y1) / (t2 - t1), np.nan)
        return y1 * np.exp(-b * t1), b


def fit_logistic(values: Values, weights: Values, ceiling: float) -> tuple[Values, Values]:
    """(series, 3) a, b and ln c, NaN of none, and (series,) the first period of each fit.

    Args:
        ceiling: what it comes up to; NaN for one that is fitted, from several first tries, the best of them.
    """
    used, y, first, size = _scaled(values, weights)
    t = on(first, values.shape[1])
    largest = np.where(used, y, -np.inf).max(1, initial=-np.inf)
    given = not np.isnan(ceiling)
    tries = (ceiling / size,) if given else tuple(largest * factor for factor in (1.05, 1.3, 2.0, 4.0))
    best, least = np.full((len(y), 3), np.nan), np.full(len(y), np.inf)
    for c in tries:
        begin = _logits(y, used, t, np.broadcast_to(c, len(y)))
        found = _least(y, used, t, begin, _saturating, fixed=2 if given else None)
        with np.errstate(over="ignore", invalid="ignore"):
            missed = np.where(used, y - _saturating(found, t)[0], 0.0)
        sse = (missed**2).sum(1)
        better = sse < least
        best, least = np.where(better[:, None], found, best), np.where(better, sse, least)
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
    return np.asarray(~(found[:, 1] > 0) | (between < _FEWEST))


def _logits(y: Values, used: Mask, t: Values, ceiling: Values) -> Values:
    """(series, 3) a first try: a line through the logits of what is below the ceiling."""
    share = y / ceiling[:, None]
    there = used & (share > 0) & (share < 1)
    with np.errstate(invalid="ignore", divide="ignore"):
        z = np.where(there, np.log(share / (1 - share)), 0.0)
        n = there.sum(1)
        t_mean, z_mean = np.where(there, t, 0.0).sum(1) / n, z.sum(1) / n
        dt = np.where(there, t - t_mean[:, None], 0.0)
        b = (dt * z).sum(1) / (dt**2).sum(1)
        begin = np.column_stack((z_mean - b * t_mean, b, np.log(ceiling)))
    begin[n < _FEWEST] = np.nan
    return begin


def _scaled(values: Values, weights: Values) -> tuple[Mask, Values, Values, Values]:
    """What is in the fit, the values by their largest, the first period, and (series,) that largest."""
    used = (weights > 0) & ~np.isnan(values)
    size = np.where(used, np.abs(values), 0.0).max(1, initial=0.0)
    size = np.where(size > 0, size, 1.0)
    first = used.argmax(1).astype(float) if values.shape[1] else np.zeros(len(values))
    return used, np.where(used, values, 0.0) / size[:, None], first, size


def _exponential(parameters: Values, t: Values) -> tuple[Values, Values]:
    value = np.exp(parameters[:, :1] + parameters[:, 1:2] * t)
    return value, np.stack((value, value * t), axis=2)


def _saturating(parameters: Values, t: Values) -> tuple[Values, Values]:
    share = 1 / (1 + np.exp(-(parameters[:, :1] + parameters[:, 1:2] * t)))
    value = np.exp(parameters[:, 2:3]) * share
    bend = value * (1 - share)
    return value, np.stack((bend, bend * t, value), axis=2)


def _least(y: Values, used: Mask, t: Values, begin: Values, curve: Curve, fixed: int | None = None) -> Values:
    """Damped Gauss-Newton steps for all series at once; NaN where fewer periods than parameters are used.

    Args:
        fixed: a parameter that stays as it begins.
    """
    many = begin.shape[1]
    free = [place for place in range(many) if place != fixed]
    found = begin.copy()
    found[used.sum(1) < max(_FEWEST, len(free) + 1)] = np.nan
    damping = np.full(len(y), 1e-3)

    def misses(parameters: Values) -> tuple[Values, Values, Values]:
        with np.errstate(over="ignore", invalid="ignore"):
            value, slopes = curve(parameters, t)
            off = np.where(used, y - value, 0.0)
            return off, np.where(used[:, :, None], slopes[:, :, free], 0.0), (off**2).sum(1)

    off, slopes, sse = misses(found)
    # Without a period to fit, nothing is missed either.
    going = np.isfinite(sse) & np.isfinite(found).all(1)
    found[~going] = np.nan
    for _ in range(_PASSES):
        rows = np.flatnonzero(going)
        if not rows.size:
            break
        normal = np.einsum("spi,spj->sij", slopes[rows], slopes[rows])
        pull = np.einsum("spi,sp->si", slopes[rows], off[rows])
        diagonal = np.arange(len(free))
        ridge = np.maximum(normal[:, diagonal, diagonal], 1e-300)
        normal[:, diagonal, diagonal] += damping[rows, None] * ridge
        step = np.linalg.solve(normal, pull[:, :, None])[:, :, 0]
        tried = found[rows].copy()
        tried[:, free] += step
        full = found.copy()
        full[rows] = tried
        off_new, slopes_new, sse_new = misses(full)
        better = np.isfinite(sse_new[rows]) & (sse_new[rows] <= sse[rows])
        took, kept = rows[better], rows[~better]
        small = np.abs(step).max(1) <= _CLOSE * (1 + np.abs(found[rows][:, free]).max(1))
        found[took] = full[took]
        off[took], slopes[took], sse[took] = off_new[took], slopes_new[took], sse_new[took]
        damping[took] = np.maximum(damping[took] / 10, 1e-12)
        damping[kept] = damping[kept] * 10
        going[rows[small]] = False
        going[damping > 1e12] = False
    return found
