"""A parabola.

Source: Draper and Smith, Applied Regression Analysis (1998), chapter 12.
"""

from __future__ import annotations

from functools import partial

from oat_tide.core.language import phrase
from oat_tide.core.methods.line import NAMES, polynomial
from oat_tide.core.methods.regression import one_start
from oat_tide.core.methods.shape import REGRESSION, Method, Terms, each_start

TERMS = Terms(lambda how: (*NAMES, "t2"), partial(polynomial, 2))
METHODS = (
    Method(
        "quadratic",
        phrase("Quadratic"),
        REGRESSION,
        each_start(one_start(TERMS)),
        TERMS,
        by_year=True,
        curve=True,
    ),
)
