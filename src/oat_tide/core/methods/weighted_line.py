"""A straight line whose weights fall with age.

Source: Brown, Smoothing, Forecasting and Prediction of Discrete Time Series (1963).
"""

from __future__ import annotations

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.methods.line import NAMES, design
from oat_tide.core.methods.regression import one_start
from oat_tide.core.methods.shape import How, Method, Terms, each_start


def weights(periods: int, how: How) -> Values:
    """(periods,) a half for each half-life that a period lies back."""
    found: Values = 0.5 ** (np.arange(periods)[::-1] / how.half)
    return found


TERMS = Terms(lambda how: NAMES, design, weights=weights)
METHODS = (
    Method(
        "weighted-line",
        phrase("Line, recent periods weighted"),
        phrase("Brown, 1963"),
        each_start(one_start(TERMS)),
        TERMS,
        by_year=True,
        curve=True,
    ),
)
