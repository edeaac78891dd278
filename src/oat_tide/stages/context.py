"""What every stage that reckons from the lines stands on."""

from __future__ import annotations

from dataclasses import dataclass

from oat_tide.core.periods.calendar import Grid
from oat_tide.core.series.panel import Sight
from oat_tide.stages.deck import Deck
from oat_tide.stages.deck.draft import Draft
from oat_tide.stages.published import Actuals, actuals_of


@dataclass(frozen=True, eq=False, slots=True)
class StageContext:
    """The draft, what it may see, and the lines that it goes by."""

    d: Draft
    sight: Sight
    lines: Deck

    @property
    def grid(self) -> Grid:
        """The periods."""
        return self.d.grid

    @property
    def past(self) -> int:
        """Columns up to the as-of."""
        return self.sight.past.columns

    @property
    def actuals(self) -> Actuals:
        """What the lines add up to."""
        return actuals_of(self.lines)

    @property
    def unit(self) -> str:
        """What the figures count."""
        return self.actuals.unit
