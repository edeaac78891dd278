"""The figures of a smoother, as its words, sheet and cautions take them."""

from __future__ import annotations

import math
from dataclasses import dataclass

from oat_tide.core.working.terms import Term
from oat_tide.stages.published import Smoothed
from oat_tide.stages.smooth.exponential import Fitted


@dataclass(frozen=True, eq=False, slots=True)
class Forecasting:
    """What a smoother forecasts.

    Attributes:
        published: its rows, for other stages.
        following: the forecast for the next period, with its season where one was taken out.
    """

    published: Smoothed
    following: Term


@dataclass(frozen=True, eq=False, slots=True)
class Made:
    """The figures of a smoother in sight.

    Attributes:
        level: the smoothed row.
        calm: how much less it varies from period to period, in %.
        lag: how many periods it is behind; None of what has no fixed weights.
        alpha: the constant of the level; None of a window.
        fitted: what was fitted, of exponential smoothing.
        forecasting: None of what forecasts nothing.
    """

    level: Term
    calm: Term
    lag: Term | None
    alpha: Term | None
    fitted: Fitted | None
    forecasting: Forecasting | None


def fact_of(term: Term | None, series: int) -> float:
    """A fact of a series; NaN where there is none."""
    return math.nan if term is None else float(term.values[series, 0])
