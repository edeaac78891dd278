"""What other stages may use of a stage, beside rows that have the same name in every plan."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from oat_tide.core.alike import Mask
from oat_tide.core.exact import Values
from oat_tide.core.working.terms import Term
from oat_tide.stages.deck import Deck


@dataclass(frozen=True, eq=False, slots=True)
class Actuals:
    """What all others stand on, of the stage of lines.

    Attributes:
        actual: of every period, what came later too.
        adjusted: what averages and fits go by: the same with rulings heeded; the actual where there are none.
        scenarios: other scenarios of the measure that makes the history, those that are shown.
        unit: what they count.
        adds_up: whether the figure of a year is the sum of its months.
    """

    actual: Term
    adjusted: Term
    scenarios: tuple[Term, ...]
    unit: str
    adds_up: bool

    @property
    def label(self) -> str:
        """What the actual is called."""
        return self.actual.source.figure.label

    @property
    def ruled(self) -> bool:
        """Whether there are rulings that averages heed."""
        return self.adjusted is not self.actual


@dataclass(frozen=True, eq=False, slots=True)
class SeasonOf:
    """The season of each series, of Seasons.

    Attributes:
        multiplies: (series,) whether it is a factor.
        season, ratio, deseasonalised: of every period up to the as-of.
        index: of every season.
    """

    multiplies: Mask
    season: Term
    ratio: Term
    deseasonalised: Term
    index: Term

    @property
    def untold(self) -> Mask:
        """(series,) those that no season can be taken out of."""
        return np.asarray(np.isnan(self.index.values).all(1))


@dataclass(frozen=True, eq=False, slots=True)
class Smoothed:
    """A smoother that forecasts, of Smooth.

    Attributes:
        level: the smoothed row.
        trend: of every period; None of what has none.
        damping: (series,) what is kept of the trend from period to period; NaN while it is looked for.
        forecast: one step ahead.
        back: that back in season; None where no season was taken out.
    """

    level: Term
    trend: Term | None
    damping: Values
    forecast: Term
    back: Term | None


def actuals_of(lines: Deck) -> Actuals:
    """What the stage of lines has made."""
    found = lines.published
    assert isinstance(found, Actuals)
    return found


def season_of(seasons: Deck | None) -> SeasonOf | None:
    """What Seasons has taken out; None where it can take none out."""
    found = None if seasons is None else seasons.published
    assert found is None or isinstance(found, SeasonOf)
    return found


def smoothers_of(smooth: Deck) -> dict[int, Smoothed]:
    """The smoothers that forecast, by their place."""
    found = smooth.published
    assert isinstance(found, dict)
    return found
