"""The methods that project, in the order that they are offered; a new one is a line here.

Each is (values, weights, starts, horizon, how) -> what each start projects (`shape`), so that a projection is
one start, a record on past starts is many, and neither is written twice.
"""

from __future__ import annotations

from dataclasses import dataclass

from oat_tide.core.methods import carried, growing, regression, robust, seasonal
from oat_tide.core.methods.shape import Kernel, each_start


@dataclass(frozen=True, slots=True)
class Method:
    """One way to project.

    Attributes:
        name: as the command line has it.
        title: for people.
        kernel: what it projects.
        source: who described it.
        told: whether it is a regression, linear in its coefficients, that tells how sure it is.
        with_season: whether it goes by the season, and takes a cycle.
        iterated: whether it is found by steps, and takes longer.
    """

    name: str
    title: str
    kernel: Kernel
    source: str
    told: bool = False
    with_season: bool = False
    iterated: bool = False


_TEXTBOOK = "Makridakis, Wheelwright and Hyndman, 1998"
_REGRESSION = "Draper and Smith, 1998"

METHODS: dict[str, Method] = {
    each.name: each
    for each in (
        Method("line-season", "Line with season", each_start(seasonal.of("line")), _TEXTBOOK, True, True),
        Method(
            "growth-season", "Growth with season", each_start(seasonal.of("growth")), _TEXTBOOK, True, True
        ),
        Method("line", "Straight line", each_start(regression.of("line")), _REGRESSION, True),
        Method("growth", "Growth curve", each_start(regression.of("growth")), _REGRESSION, True),
        Method(
            "same-period-growth",
            "Same period last year, with growth",
            each_start(carried.same_period_growth),
            _TEXTBOOK,
            with_season=True,
        ),
        Method(
            "same-period",
            "Same period last year",
            each_start(carried.same_period),
            _TEXTBOOK,
            with_season=True,
        ),
        Method("mean", "Mean of the last", each_start(carried.mean_of_last), _TEXTBOOK),
        Method(
            "smoothed",
            "Smoothed, run on",
            each_start(seasonal.smoothed),
            f"{_TEXTBOOK}; Holt, 1957; Gardner and McKenzie, 1985",
            iterated=True,
        ),
        Method("compound", "Compound growth", each_start(growing.compound), _TEXTBOOK),
        Method("drift", "Last value with drift", each_start(carried.drift), _TEXTBOOK),
        Method("quadratic", "Quadratic", each_start(regression.of("quadratic")), _REGRESSION, True),
        Method("last", "Last value", each_start(carried.last), _TEXTBOOK),
        Method(
            "same-period-drift",
            "Same period last year, with drift",
            each_start(carried.same_period_drift),
            _TEXTBOOK,
            with_season=True,
        ),
        Method("rate", "Growth by a set rate", each_start(growing.rate), _TEXTBOOK),
        Method(
            "indicators",
            "Line with seasonal indicators",
            each_start(regression.of("indicators")),
            "Harvey, 1989",
            True,
            True,
        ),
        Method(
            "harmonics",
            "Line with harmonic terms",
            each_start(regression.of("harmonics")),
            "Harvey, 1989",
            True,
            True,
        ),
        Method("logarithmic", "Logarithmic", each_start(regression.of("logarithmic")), _REGRESSION, True),
        Method("power", "Power", each_start(regression.of("power")), _REGRESSION, True),
        Method(
            "weighted-line",
            "Line, recent periods weighted",
            each_start(regression.of("weighted-line")),
            "Brown, 1963",
            True,
        ),
        Method(
            "huber",
            "Robust line (Huber)",
            each_start(robust.huber),
            "Huber, 1964",
            iterated=True,
        ),
        Method(
            "theil-sen",
            "Median of slopes (Theil, Sen)",
            each_start(robust.theil_sen),
            "Theil, 1950; Sen, 1968",
            iterated=True,
        ),
        Method(
            "growth-direct",
            "Growth, on the original scale",
            each_start(growing.growth_direct),
            "Bates and Watts, 1988",
            iterated=True,
        ),
        Method(
            "logistic",
            "Saturating growth",
            each_start(growing.logistic),
            "Verhulst, 1845",
            iterated=True,
        ),
    )
}
