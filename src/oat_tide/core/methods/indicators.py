"""A line with a level of every season.

Source: Harvey, Forecasting, Structural Time Series Models and the Kalman Filter (1989), chapter 1.
"""

from __future__ import annotations

from oat_tide.core.alike import Mask
from oat_tide.core.language import phrase
from oat_tide.core.methods import designs
from oat_tide.core.methods.least_squares import Design, DesignOf
from oat_tide.core.methods.regression import one_start
from oat_tide.core.methods.shape import How, Method, Terms, each_start


def names(how: How) -> tuple[str, ...]:
    """The slope, and a level of every season."""
    return ("slope", *(f"season{each}" for each in range(how.cycle)))


def design(columns: int, how: How) -> DesignOf:
    """t, and 1 in the periods of each season."""

    def of(first: int, used: Mask) -> Design:
        return designs.indicators(first, used, how.place[:columns], how.cycle)

    return of


TERMS = Terms(names, design, there=lambda how: how.cycle > 0)
METHODS = (
    Method(
        "indicators",
        phrase("Line with seasonal indicators"),
        phrase("Harvey, 1989"),
        each_start(one_start(TERMS)),
        TERMS,
        with_season=True,
    ),
)
