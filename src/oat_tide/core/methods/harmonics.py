"""A line with waves within the year.

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
    """The slope, the level, of days one a weekday, and a sine and a cosine of each wave."""
    heads = ("intercept",) if how.weekday is None else tuple(f"weekday{each}" for each in range(7))
    return ("slope", *heads, *(f"{wave}{k}" for k in range(1, how.pairs + 1) for wave in ("sin", "cos")))


def design(columns: int, how: How) -> DesignOf:
    """t, 1, and sine and cosine of so many waves a year."""

    def of(first: int, used: Mask) -> Design:
        weekday = None if how.weekday is None else how.weekday[:columns]
        return designs.harmonics(first, used, how.phase[:columns], how.pairs, weekday)

    return of


TERMS = Terms(names, design, there=lambda how: len(how.phase) > 0)
METHODS = (
    Method(
        "harmonics",
        phrase("Line with harmonic terms"),
        phrase("Harvey, 1989"),
        each_start(one_start(TERMS)),
        TERMS,
        with_season=True,
        by_phase=True,
    ),
)
