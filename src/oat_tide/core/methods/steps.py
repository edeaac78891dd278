"""Curves found by damped Gauss-Newton steps for all series at once.

Sources: Bates and Watts, Nonlinear Regression Analysis (1988), for the steps; Marquardt (1963) for their
damping.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from oat_tide.core.alike import Mask
from oat_tide.core.exact import Values
from oat_tide.core.methods.shape import Fitted

FEWEST = 3
"""Periods that it takes."""
_PASSES, _CLOSE = 200, 1e-10

Curve = Callable[[Values, Values], tuple[Values, Values]]
"""((series, parameters), (series, periods) t) -> values and (series, periods, parameters) slopes."""


def carried_on(
    values: Values, horizon: int, parameters: Values, first: Values, curve: Curve
) -> tuple[Values, Fitted]:
    """(series, horizon) a curve carried on, and what it makes of the history.

    Args:
        first: (series,) the first period of each fit.
    """
    past = values.shape[1]

    def of(t: Values) -> Values:
        with np.errstate(over="ignore", invalid="ignore"):
            return curve(parameters, t)[0]

    return of(on(first, past + horizon)[:, past:]), lambda: of(on(first, past))


def on(first: Values, columns: int) -> Values:
    """(series, columns) the number of each period, 1 at the first of each fit."""
    found: Values = np.arange(columns) - first[:, None] + 1.0
    return found


def scaled(values: Values, weights: Values) -> tuple[Mask, Values, Values, Values]:
    """What is in the fit, the values by their largest, the first period, and (series,) that largest."""
    used = (weights > 0) & ~np.isnan(values)
    size = np.where(used, np.abs(values), 0.0).max(1, initial=0.0)
    size = np.where(size > 0, size, 1.0)
    first = used.argmax(1).astype(float) if values.shape[1] else np.zeros(len(values))
    return used, np.where(used, values, 0.0) / size[:, None], first, size


def least(y: Values, used: Mask, t: Values, begin: Values, curve: Curve, fixed: int | None = None) -> Values:
    """Damped Gauss-Newton steps for all series at once; NaN where fewer periods than parameters are used.

    Args:
        fixed: a parameter that stays as it begins.
    """
    many = begin.shape[1]
    free = [place for place in range(many) if place != fixed]
    found = begin.copy()
    found[used.sum(1) < max(FEWEST, len(free) + 1)] = np.nan
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
