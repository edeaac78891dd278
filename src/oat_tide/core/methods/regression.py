"""Regressions on time, linear in their coefficients, on the scale of the values or of their logarithms.

Source: Draper and Smith, Applied Regression Analysis (1998), chapters 1, 12 and 13.
"""

from __future__ import annotations

from functools import partial

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.methods.least_squares import Regression, regress
from oat_tide.core.methods.shape import Fitted, How, OneStart, Terms


def fit(terms: Terms, values: Values, weights: Values, horizon: int, how: How) -> Regression:
    """Fit its terms to a history; a series with a value that no logarithm can take has no fit on logs.

    Args:
        values: (series, periods).
        weights: (series, periods) 0 out of the fit.
        horizon: periods ahead that the curve reaches.
    """
    weights = np.where(np.isnan(values), 0.0, weights)
    z = values
    if terms.logs:
        refused = ((weights > 0) & ~(values > 0)).any(1, keepdims=True)
        weights = np.where(refused, 0.0, weights)
        with np.errstate(invalid="ignore", divide="ignore"):
            z = np.log(values)
    if terms.weights is not None:
        weights = weights * terms.weights(values.shape[1], how)
    if not terms.there(how):
        weights = np.zeros_like(weights)
    columns = values.shape[1] + horizon
    return regress(z, weights, columns, terms.design(columns, how), terms.names(how))


def project(terms: Terms, values: Values, weights: Values, horizon: int, how: How) -> tuple[Values, Fitted]:
    """What a regression projects, and its curve over the history."""
    past = values.shape[1]
    curve = fit(terms, values, weights, horizon, how).curve
    if terms.logs:
        with np.errstate(over="ignore"):
            curve = np.exp(curve)
    return curve[:, past:], lambda: curve[:, :past]


def one_start(terms: Terms) -> OneStart:
    """A regression as one start."""
    return partial(project, terms)
