"""The deck: all that one stage shows."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.periods.calendar import Grid
from oat_tide.core.series.panel import Key
from oat_tide.stages.deck.axis import Axis
from oat_tide.stages.deck.band import Band
from oat_tide.stages.deck.choice import Choice
from oat_tide.stages.deck.coverage import Coverage
from oat_tide.stages.deck.figure import Figure
from oat_tide.stages.deck.handle import Handle
from oat_tide.stages.deck.knob import Knob
from oat_tide.stages.deck.listing import Listing
from oat_tide.stages.deck.said import Caution, Fact, Mark, Note, Word

Item = Knob | Fact | Note | Choice


@dataclass(frozen=True, eq=False, slots=True)
class Deck:
    """All that one stage shows, for every series at once.

    Attributes:
        stage: its name.
        keys: the series.
        grid, first, columns: the time axis: the periods, the first, and how many.
        past: columns up to the as-of.
        flags: (series, columns) why a period is special.
        figures: by name; the shown ones that are no facts are the rows, in this order.
        bands, sheet, handles, listings: what is drawn, what the side sheet holds, what can be dragged.
        title, subtitle, finding: in words, by series.
        cautions: by series.
        marks: what is said of single periods on the chart, by series.
        coverage: lines held, series by period.
        axis: what the columns are, where they are no stretch of time.
        tinted: whether the rows are tinted by size behind their figures.
        arrangements: those to choose from, shown above the chart.
        sentence: what was taken for what, said below the subtitle.
        waits: whether an answer is still to come.
    """

    stage: str
    keys: tuple[Key, ...]
    grid: Grid
    first: int
    columns: int
    past: int
    flags: NDArray[np.uint8]
    figures: dict[str, Figure]
    bands: tuple[Band, ...]
    sheet: Callable[[], tuple[Item, ...]]
    handles: tuple[Handle, ...]
    listings: tuple[Listing, ...]
    title: Callable[[int], str]
    subtitle: Callable[[int], str]
    finding: Callable[[int], str]
    cautions: Callable[[int], tuple[Caution, ...]]
    marks: Callable[[int], tuple[Mark, ...]] = lambda series: ()
    coverage: Coverage | None = None
    axis: Axis | None = None
    tinted: bool = False
    arrangements: Knob | None = None
    sentence: tuple[Word, ...] = ()
    waits: bool = False

    @property
    def rows(self) -> tuple[Figure, ...]:
        """The figures that are rows of the tide table."""
        return tuple(each for each in self.figures.values() if each.shown and not each.fact)

    def label(self, column: int) -> str:
        """The period of a column, in full."""
        if self.axis is not None:
            return self.axis.full[column]
        return self.grid.label(self.first + column)
