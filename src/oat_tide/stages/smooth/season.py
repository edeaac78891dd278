"""The series without its season, as Seasons leaves it, and forecasts put back in season."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from oat_tide.core.alike import Mask
from oat_tide.core.language import phrase
from oat_tide.core.series.panel import Panel, Sight
from oat_tide.core.working.formula import Formula, either
from oat_tide.core.working.terms import Term
from oat_tide.plan.parts.seasons import Seasons
from oat_tide.stages.cycle import by_kind, cycle_of, no_season
from oat_tide.stages.deck import Deck
from oat_tide.stages.deck.draft import Draft
from oat_tide.stages.published import actuals_of, season_of


@dataclass(frozen=True, eq=False, slots=True)
class SeasonOut:
    """What was taken out before smoothing.

    Attributes:
        without: the deseasonalised series; the series itself where no season is told.
        panel: of the past, the same as the settled figure.
        season: of each column.
        multiplies: (series,) whether it is a factor.
        untold: (series,) whether none is told.
    """

    without: Term
    panel: Panel
    season: Formula
    multiplies: Mask
    untold: Mask

    def back(self, figure: Term, columns: int) -> Formula:
        """A figure with the season of its period."""
        inside = by_kind(self.multiplies, figure * self.season, figure + self.season, columns)
        return by_kind(self.untold, figure, inside, columns)


def season_out(d: Draft, sight: Sight, lines: Deck, seasons: Deck | None, how: Seasons) -> SeasonOut | None:
    """The series without its season; None where it is not asked for, or Seasons can take none out."""
    taken = season_of(seasons)
    if seasons is None or taken is None or no_season(sight.past.grid, how):
        return None
    d.borrow(seasons, "deseasonalised", shown=True)
    past = sight.past
    without = taken.deseasonalised
    if taken.untold.any():
        actual = actuals_of(lines).adjusted.seeing(past.whole)
        kept = by_kind(taken.untold, actual, without, d.columns)
        without = d.define(
            "without_season", phrase("deseasonalised, where there is a season"), kept, shown=False
        )
    values = without.values[:, : past.columns]
    stamp = (past.stamp, "deseasonalised", values.tobytes())
    panel = Panel(
        stamp, past.grid, past.first, past.keys, past.values, past.lines, past.flags, settled=values.copy(),
        totalled=past.totalled,
    )  # fmt: skip
    # Beyond the as-of, and where the season does not change from year to year, it is that of the index.
    place = cycle_of(how, past.grid, past.first, d.columns).place
    ahead = taken.index.like(place)
    in_past = (np.arange(d.columns) < past.columns)[None]
    season = either(in_past, taken.season, ahead)
    return SeasonOut(without, panel, season, taken.multiplies, taken.untold)
