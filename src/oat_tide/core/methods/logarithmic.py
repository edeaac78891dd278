"""A line on the logarithm of time, and a power of time, which is one on the scale of logarithms.

Source: Draper and Smith, Applied Regression Analysis (1998), chapter 13.
"""

from __future__ import annotations

from oat_tide.core.alike import Mask
from oat_tide.core.language import phrase
from oat_tide.core.methods import designs
from oat_tide.core.methods.least_squares import Design, DesignOf
from oat_tide.core.methods.line import NAMES
from oat_tide.core.methods.regression import one_start
from oat_tide.core.methods.shape import REGRESSION, How, Method, Terms, each_start


def design(columns: int, how: How) -> DesignOf:
    """1 and ln t."""

    def of(first: int, used: Mask) -> Design:
        return designs.logarithm(first, used, columns)

    return of


LOGARITHMIC = Terms(lambda how: NAMES, design)
POWER = Terms(lambda how: NAMES, design, logs=True)
METHODS = (
    Method(
        "logarithmic",
        phrase("Logarithmic"),
        REGRESSION,
        each_start(one_start(LOGARITHMIC)),
        LOGARITHMIC,
        curve=True,
    ),
    Method("power", phrase("Power"), REGRESSION, each_start(one_start(POWER)), POWER, curve=True),
)
