"""A parabola.

Source: Draper and Smith, Applied Regression Analysis (1998), chapter 12.
"""

from __future__ import annotations

from oat_tide.core.alike import Mask
from oat_tide.core.methods import designs
from oat_tide.core.methods.least_squares import Design, DesignOf
from oat_tide.core.methods.regression import one_start
from oat_tide.core.methods.shape import REGRESSION, How, Method, Terms, each_start


def design(columns: int, how: How) -> DesignOf:
    """1, t and t², t may be the calendar year."""

    def of(first: int, used: Mask) -> Design:
        return designs.powers(first, used, columns, 2, how.year0)

    return of


TERMS = Terms(lambda how: ("intercept", "slope", "t2"), design)
METHODS = (
    Method(
        "quadratic", "Quadratic", REGRESSION, each_start(one_start(TERMS)), TERMS, by_year=True, curve=True
    ),
)
