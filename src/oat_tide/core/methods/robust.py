"""Lines that one odd period does not bend: Huber's, and the median of slopes of Theil and Sen.

Sources: Huber, Robust estimation of a location parameter (1964), and Robust Statistics (1981), chapter 7;
Theil, A rank-invariant method of linear and polynomial regression analysis (1950); Sen, Estimates of the
regression coefficient based on Kendall's tau (1968).
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from oat_tide.core.alike import alike
from oat_tide.core.exact import Values
from oat_tide.core.methods.designs import time
from oat_tide.core.methods.shape import How

TURN = 1.345
"""Errors beyond so many of their scale count less: 95 % as sure as least squares on normal errors."""
NORMAL = 0.6745
"""The median of the absolute values of a standard normal variable."""
_PASSES, _CLOSE = 100, 1e-12
_PAIRS = 2_000_000
"""Slopes of pairs that are held at a time."""
FEWEST = 3
"""Periods that it takes."""

Line = Callable[[Values, Values], tuple[Values, Values]]
"""((series, periods) all known, (periods,) t) -> (series,) intercepts and (series,) slopes."""


def huber_weights(z: Values, t: Values) -> tuple[Values, Values, Values]:
    """Huber's line by least squares that are weighted anew by their errors until nothing changes.

    Args:
        z: (series, periods) all known.
        t: (periods,).

    Returns:
        (series,) intercepts, (series,) slopes, and (series, periods) the weights of the last pass.
    """
    weights = np.ones_like(z)
    slope = intercept = np.zeros(len(z))
    for _ in range(_PASSES):
        total = weights.sum(1)
        t_mean, z_mean = (weights @ t) / total, (weights * z).sum(1) / total
        dt, dz = t - t_mean[:, None], z - z_mean[:, None]
        new = (weights * dt * dz).sum(1) / (weights * dt**2).sum(1)
        moved = np.abs(new - slope) * np.ptp(t) > _CLOSE * np.abs(dz).max(1)
        slope, intercept = new, z_mean - new * t_mean
        size = np.abs(dz - slope[:, None] * dt)
        scale = TURN * np.median(size, axis=1, keepdims=True) / NORMAL
        with np.errstate(invalid="ignore", divide="ignore"):
            # Where over half lie on the line it has no scale: they alone count.
            weights = np.where(scale > 0, np.minimum(1.0, scale / size), (size == 0).astype(float))
        if not moved.any() or (weights.sum(1) < 2).any():
            break
    return intercept, slope, weights


def middle_slopes(z: Values, t: Values) -> tuple[Values, Values]:
    """(series,) the median of z - b t, and (series,) b, the median of the slopes of all pairs."""
    one, other = np.triu_indices(len(t), 1)
    slope, at = np.empty(len(z)), max(_PAIRS // max(len(one), 1), 1)
    for begin in range(0, len(z), at):
        part = z[begin : begin + at]
        slope[begin : begin + at] = np.median((part[:, other] - part[:, one]) / (t[other] - t[one]), axis=1)
    return np.median(z - slope[:, None] * t, axis=1), slope


def _huber_line(z: Values, t: Values) -> tuple[Values, Values]:
    return huber_weights(z, t)[:2]


def huber(values: Values, weights: Values, horizon: int, how: How) -> tuple[Values, Values]:
    """Huber's line."""
    return _lines(values, weights, horizon, _huber_line)


def theil_sen(values: Values, weights: Values, horizon: int, how: How) -> tuple[Values, Values]:
    """The line of Theil and Sen."""
    return _lines(values, weights, horizon, middle_slopes)


def _lines(values: Values, weights: Values, horizon: int, fit: Line) -> tuple[Values, Values]:
    intercept, slope, first = coefficients(values, weights, fit)
    past = values.shape[1]
    t = np.arange(past + horizon) - first[:, None] + 1
    line = intercept[:, None] + slope[:, None] * t
    return line[:, past:], line[:, :past]


def coefficients(values: Values, weights: Values, fit: Line) -> tuple[Values, Values, Values]:
    """(series,) intercepts, slopes, and the first periods of the fits; NaN of fewer than three periods."""
    used = (weights > 0) & ~np.isnan(values)
    intercept, slope = (np.full(len(values), np.nan) for _ in range(2))
    first = used.argmax(1).astype(float) if values.shape[1] else np.zeros(len(values))
    for rows, own in alike(used):
        if own.sum() >= FEWEST:
            t = time(int(own.argmax()), len(own))[own]
            intercept[rows], slope[rows] = fit(values[rows][:, own], t)
    return intercept, slope, first
