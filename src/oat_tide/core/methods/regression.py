"""Regressions on time, linear in their coefficients, on the scale of the values or of their logarithms.

Sources: Draper and Smith, Applied Regression Analysis (1998), chapters 1, 12 and 13; Brown, Smoothing,
Forecasting and Prediction (1963), for weights that fall with age; Harvey (1989) for seasons as indicators
and as harmonic terms.
"""

from __future__ import annotations

from functools import partial

import numpy as np

from oat_tide.core.alike import Mask
from oat_tide.core.exact import Values
from oat_tide.core.methods import designs
from oat_tide.core.methods.least_squares import Design, DesignOf, Regression, regress
from oat_tide.core.methods.shape import How

ON_LOGS = frozenset({"power", "growth"})
"""Those that are fitted on logarithms."""


def names_of(method: str, how: How) -> tuple[str, ...]:
    """What the coefficients of a method are called."""
    if method == "indicators":
        return ("slope", *(f"season{each}" for each in range(how.cycle)))
    if method == "harmonics":
        heads = ("intercept",) if how.weekday is None else tuple(f"weekday{each}" for each in range(7))
        return ("slope", *heads, *(f"{wave}{k}" for k in range(1, how.pairs + 1) for wave in ("sin", "cos")))
    return ("intercept", "slope", "t2") if method == "quadratic" else ("intercept", "slope")


def design_of(method: str, columns: int, how: How) -> DesignOf:
    """The terms of a method."""

    def of(first: int, used: Mask) -> Design:
        if method in ("logarithmic", "power"):
            return designs.logarithm(first, used, columns)
        if method == "indicators":
            return designs.indicators(first, used, how.place[:columns], how.cycle)
        if method == "harmonics":
            weekday = None if how.weekday is None else how.weekday[:columns]
            return designs.harmonics(first, used, how.phase[:columns], how.pairs, weekday)
        return designs.powers(first, used, columns, 2 if method == "quadratic" else 1, how.year0)

    return of


def fit(method: str, values: Values, weights: Values, horizon: int, how: How) -> Regression:
    """Fit a method to a history; a series with a value that no logarithm can take has no fit on logs.

    Args:
        values: (series, periods).
        weights: (series, periods) 0 out of the fit.
        horizon: periods ahead that the curve reaches.
    """
    weights = np.where(np.isnan(values), 0.0, weights)
    z = values
    if method in ON_LOGS:
        refused = ((weights > 0) & ~(values > 0)).any(1, keepdims=True)
        weights = np.where(refused, 0.0, weights)
        with np.errstate(invalid="ignore", divide="ignore"):
            z = np.log(values)
    if method == "weighted-line":
        weights = weights * 0.5 ** (np.arange(values.shape[1])[::-1] / how.half)
    columns = values.shape[1] + horizon
    seasonal = (method == "indicators" and not how.cycle) or (method == "harmonics" and not len(how.phase))
    if seasonal:
        weights = np.zeros_like(weights)
    return regress(z, weights, columns, design_of(method, columns, how), names_of(method, how))


def project(method: str, values: Values, weights: Values, horizon: int, how: How) -> tuple[Values, Values]:
    """What a regression projects, and its curve over the history."""
    past = values.shape[1]
    curve = fit(method, values, weights, horizon, how).curve
    if method in ON_LOGS:
        with np.errstate(over="ignore"):
            curve = np.exp(curve)
    return curve[:, past:], curve[:, :past]


def of(method: str) -> partial[tuple[Values, Values]]:
    """A method as one start."""
    return partial(project, method)
