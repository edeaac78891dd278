"""Measures of forecast errors, and whether one forecast errs less than another.

e = actual - forecast. Sources: Hyndman and Koehler, Another look at measures of forecast accuracy (2006);
Diebold and Mariano, Comparing predictive accuracy (1995), in the form of Harvey, Leybourne and Newbold,
Testing the equality of prediction mean squared errors (1997).
"""

from __future__ import annotations

from typing import Literal

import numpy as np

from oat_tide.core.exact import Values

Measure = Literal["MAE", "RMSE", "MAPE", "WAPE"]


def loss(error: Values, actual: Values, measure: Measure) -> Values:
    """What one error counts in a measure: its size, its square, or its size in % of the actual.

    Args:
        error: any shape.
        actual: of the same; for MAPE errors on an actual of zero are not known.
    """
    if measure == "RMSE":
        return error**2
    if measure == "MAPE":
        with np.errstate(invalid="ignore", divide="ignore"):
            return np.where(actual == 0, np.nan, 100 * np.abs(error / actual))
    return np.abs(error)


def measured(losses: Values, actual: Values, measure: Measure) -> Values:
    """A measure over the last axis of what errors count.

    Args:
        losses: (..., errors) of `loss`; NaN is left out.
        actual: (..., errors) that they lie off.

    Returns:
        (...); NaN of nothing, and where actuals add up to nothing that a share can be taken of.
    """
    known = ~np.isnan(losses)
    count = known.sum(-1)
    total = np.where(known, losses, 0.0).sum(-1)
    with np.errstate(invalid="ignore", divide="ignore"):
        if measure == "WAPE":
            whole = np.where(known, np.abs(actual), 0.0).sum(-1)
            return np.where(whole > 0, 100 * total / whole, np.nan)
        mean = total / count
    found: Values = np.sqrt(mean) if measure == "RMSE" else mean
    return found


def no_better(one: Values, other: Values) -> float:
    """The p-value of a forecast that errs less than another by chance, both tails, one step ahead.

    For one step ahead the corrected statistic is the t-test of the differences in loss with n - 1 degrees of
    freedom (Diebold and Mariano, 1995; Harvey, Leybourne and Newbold, 1997).

    Args:
        one, other: (errors,) what the same errors count with either.

    Returns:
        NaN with fewer than three errors, or where they never differ.
    """
    from scipy.special import stdtr

    difference = one - other
    difference = difference[~np.isnan(difference)]
    n = len(difference)
    spread = float(difference.std(ddof=1)) if n > 2 else 0.0
    if not spread > 0:
        return float("nan")
    t = float(difference.mean()) / (spread / n**0.5)
    return float(2 * stdtr(n - 1, -abs(t)))
