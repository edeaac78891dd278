"""A curve of constant growth by least squares on the scale of the values themselves.

Source: Bates and Watts, Nonlinear Regression Analysis (1988).
"""

from __future__ import annotations

import numpy as np

from oat_tide.core.alike import Mask
from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.methods.shape import Fitted, How, Method, each_start
from oat_tide.core.methods.steps import carried_on, least, on, scaled


def growth_direct(values: Values, weights: Values, horizon: int, how: How) -> tuple[Values, Fitted]:
    """a e^(b t) by least squares of the values themselves."""
    return carried_on(values, horizon, *fit_growth(values, weights), _exponential)


def fit_growth(values: Values, weights: Values) -> tuple[Values, Values]:
    """(series, 2) ln a and b, NaN of none, and (series,) the first period of each fit.

    The first try is the growth between the means of the two halves of the fit.
    """
    used, y, first, size = scaled(values, weights)
    t = on(first, values.shape[1])
    level, b = _halves(y, used, t)
    with np.errstate(invalid="ignore", divide="ignore"):
        begin = np.column_stack((np.log(np.where(level > 0, level, np.nan)), b))
    found = least(y, used, t, begin, _exponential)
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


def _exponential(parameters: Values, t: Values) -> tuple[Values, Values]:
    value = np.exp(parameters[:, :1] + parameters[:, 1:2] * t)
    return value, np.stack((value, value * t), axis=2)


METHODS = (
    Method(
        "growth-direct",
        phrase("Growth, on the original scale"),
        phrase("Bates and Watts, 1988"),
        each_start(growth_direct),
        parameters=2,
        curve=True,
        iterated=True,
    ),
)
