"""What all smoothers stand on."""

from __future__ import annotations

from dataclasses import dataclass

from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import Grid
from oat_tide.core.series.panel import Sight
from oat_tide.core.working.terms import Term
from oat_tide.plan.parts.smooth import Smooth, Smoother
from oat_tide.stages.deck import Deck, Late
from oat_tide.stages.deck.draft import Draft
from oat_tide.stages.smooth.reach import Reach


@dataclass(frozen=True, eq=False, slots=True)
class Ground:
    """What all smoothers stand on.

    Attributes:
        actual: the figure that is smoothed, as it may be seen.
        values: (series, past columns) of it.
        labels: what each smoother is called.
        reaches: what each takes in; None of exponential smoothing, and where it cannot be told.
    """

    d: Draft
    sight: Sight
    lines: Deck
    ask: Smooth
    late: Late
    actual: Term
    values: Values
    labels: tuple[str, ...]
    reaches: tuple[Reach | None, ...]

    @property
    def grid(self) -> Grid:
        """The periods."""
        return self.d.grid

    @property
    def unit(self) -> str:
        """What the figures count."""
        return self.lines.figures["actual"].unit

    @property
    def hand(self) -> int:
        """The place of the smoother in hand; below 0 where there is none."""
        return min(self.ask.hand, len(self.ask.smoothers) - 1)

    def smoother(self, place: int) -> Smoother:
        """One of the smoothers."""
        return self.ask.smoothers[place]
