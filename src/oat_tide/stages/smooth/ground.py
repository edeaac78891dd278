"""What all smoothers stand on."""

from __future__ import annotations

from dataclasses import dataclass

from oat_tide.core.exact import Values
from oat_tide.core.series.panel import Panel
from oat_tide.core.working.terms import Term
from oat_tide.plan.parts.smooth import Smooth, Smoother
from oat_tide.stages.context import StageContext
from oat_tide.stages.deck import LateWork
from oat_tide.stages.presence import SeasonPresence
from oat_tide.stages.reach import Reach, in_hand
from oat_tide.stages.smooth.season import SeasonOut


@dataclass(frozen=True, eq=False, slots=True)
class Ground(StageContext):
    """What all smoothers stand on.

    Attributes:
        panel: of the past, what is smoothed.
        actual: the figure that is smoothed, as it may be seen.
        values: (series, past columns) of it.
        labels: what each smoother is called.
        reaches: what each takes in; None of exponential smoothing, and where it cannot be told.
        season: what was taken out before; None for nothing.
        no_season: why no season can be taken out; empty where it can.
        presence: whether each series has a season.
    """

    panel: Panel
    ask: Smooth
    late: LateWork
    actual: Term
    values: Values
    labels: tuple[str, ...]
    reaches: tuple[Reach | None, ...]
    season: SeasonOut | None
    no_season: str
    presence: SeasonPresence

    @property
    def hand(self) -> int:
        """The place of the smoother in hand; below 0 where there is none."""
        return in_hand(self.ask)

    def smoother(self, place: int) -> Smoother:
        """One of the smoothers."""
        return self.ask.smoothers[place]
