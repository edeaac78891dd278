"""Huber's line: periods far off it count less, so that one odd period does not bend it.

Sources: Huber, Robust estimation of a location parameter (1964), and Robust Statistics (1981), chapter 7.
"""

from __future__ import annotations

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.methods.robust import one_start
from oat_tide.core.methods.shape import Method, each_start

TURN = 1.345
"""Errors beyond so many of their scale count less: 95 % as sure as least squares on normal errors."""
NORMAL = 0.6745
"""The median of the absolute values of a standard normal variable."""
_PASSES, _CLOSE = 100, 1e-12


def huber_weights(z: Values, t: Values) -> tuple[Values, Values, Values]:
    """Huber's line by least squares that are weighted anew by their errors until nothing changes.

    Args:
        z: (series, periods) all known.
        t: (periods,).

    Returns:
        (series,) intercepts, (series,) slopes, and (series, periods) the weights of the last pass.
    """
    weights = np.ones_like(z)
    slope, intercept = np.zeros(len(z)), np.zeros(len(z))
    going = np.arange(len(z))
    for _ in range(_PASSES):
        w, own = weights[going], z[going]
        total = w.sum(1)
        t_mean, z_mean = (w * t).sum(1) / total, (w * own).sum(1) / total
        dt, dz = t - t_mean[:, None], own - z_mean[:, None]
        new = (w * dt * dz).sum(1) / (w * dt**2).sum(1)
        moved = np.abs(new - slope[going]) * np.ptp(t) > _CLOSE * np.abs(dz).max(1)
        slope[going], intercept[going] = new, z_mean - new * t_mean
        size = np.abs(dz - new[:, None] * dt)
        scale = TURN * np.median(size, axis=1, keepdims=True) / NORMAL
        with np.errstate(invalid="ignore", divide="ignore"):
            # Where over half lie on the line it has no scale: they alone count.
            w = np.where(scale > 0, np.minimum(1.0, scale / size), (size == 0).astype(float))
        weights[going] = w
        # Each series ends by itself, whatever the others still do.
        going = going[moved & (w.sum(1) >= 2)]
        if not going.size:
            break
    return intercept, slope, weights


def line(z: Values, t: Values) -> tuple[Values, Values]:
    """(series,) intercepts and (series,) slopes."""
    return huber_weights(z, t)[:2]


METHODS = (
    Method(
        "huber",
        phrase("Robust line (Huber)"),
        phrase("Huber, 1964"),
        each_start(one_start(line)),
        parameters=2,
        curve=True,
        iterated=True,
    ),
)
