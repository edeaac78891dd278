"""A straight line, and a growth curve, which is a line on the scale of logarithms.

Source: Draper and Smith, Applied Regression Analysis (1998), chapters 1 and 13.
"""

from __future__ import annotations

from functools import partial

from oat_tide.core.alike import Mask
from oat_tide.core.language import phrase
from oat_tide.core.methods import designs
from oat_tide.core.methods.least_squares import Design, DesignOf
from oat_tide.core.methods.regression import one_start
from oat_tide.core.methods.shape import REGRESSION, How, Method, Terms, each_start

NAMES = "intercept", "slope"


def polynomial(degree: int, columns: int, how: How) -> DesignOf:
    """1, t and so on to a degree; t may be the calendar year."""

    def of(first: int, used: Mask) -> Design:
        return designs.powers(first, used, columns, degree, how.year0)

    return of


design = partial(polynomial, 1)


LINE = Terms(lambda how: NAMES, design)
GROWTH = Terms(lambda how: NAMES, design, logs=True)
METHODS = (
    Method(
        "line",
        phrase("Straight line"),
        REGRESSION,
        each_start(one_start(LINE)),
        LINE,
        by_year=True,
        curve=True,
    ),
    Method(
        "growth",
        phrase("Growth curve"),
        REGRESSION,
        each_start(one_start(GROWTH)),
        GROWTH,
        by_year=True,
        curve=True,
    ),
)
