"""The deck: all that one stage shows."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import TypedDict

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import Grid
from oat_tide.core.series.coded import Key
from oat_tide.core.series.panel import Reach
from oat_tide.stages.deck.act import Item
from oat_tide.stages.deck.axis import Axis
from oat_tide.stages.deck.band import Band, Boundary
from oat_tide.stages.deck.called import OfSeries
from oat_tide.stages.deck.control import Control
from oat_tide.stages.deck.coverage import Coverage
from oat_tide.stages.deck.figure import Figure
from oat_tide.stages.deck.group import Group
from oat_tide.stages.deck.handle import Handle
from oat_tide.stages.deck.listing import Listing
from oat_tide.stages.deck.said import Caution, Mark, Word
from oat_tide.stages.deck.steps import Figures


@dataclass(frozen=True, eq=False, slots=True)
class Breakdown:
    """What the figures of a series are parted into.

    Attributes:
        dimension: of the members.
        members: in their order.
        first: the column that the first of the values stands at.
        values: (members, columns) of each.
        beside: by figure, (members, columns) what stands beside them.
    """

    dimension: str
    members: tuple[str, ...]
    first: int
    values: Values
    beside: dict[str, Values]


class Views(TypedDict, total=False):
    """How the figures of a deck are shown; the attributes of a Deck that have a default."""

    bands: tuple[Band, ...]
    boundaries: tuple[Boundary, ...]
    sheet: Callable[[], tuple[Item, ...]]
    handles: tuple[Handle, ...]
    listings: tuple[Listing, ...]
    main: Listing | None
    cautions: Callable[[int], tuple[Caution, ...]]
    marks: Callable[[int], tuple[Mark, ...]]
    coverage: Callable[[], Coverage] | None
    tinted: bool
    groups: tuple[Group, ...]
    arrangements: Control | None
    sentence: tuple[Word, ...]
    waits: bool
    instead: str
    parts: Breakdown | None
    published: object


@dataclass(frozen=True, eq=False, slots=True)
class Deck:
    """Everything that one stage shows, for all series at once.

    Attributes:
        stage: its name.
        keys: the series.
        grid: the periods of the time axis.
        first: the first of them.
        columns: how many columns are in sight.
        past: those up to the as-of; of another axis than time, all.
        flags: (series, columns) why a period is special.
        figures: by name; the shown ones that are no facts are the rows, in this order.
        title: what is shown, by series.
        subtitle: its unit, span and what else is needed to read it, by series.
        finding: what it comes to, in few words, by series.
        bands: what is drawn.
        boundaries: lines through all of it.
        sheet: what the side sheet holds; called for when it is shown.
        handles: what can be dragged.
        listings: what is not over time, below the chart and the table.
        main: a list that stands in their place.
        cautions: what to know before trusting it, by series.
        marks: what is said of single periods on the chart, by series.
        coverage: lines held, series by period; called for when it is shown.
        axes: what columns are that are no stretch of time, by name.
        sees: the axis that rows and curves stand on, by name; empty for time.
        reach: which series it holds.
        tinted: whether the rows are tinted by size behind their figures.
        groups: rows that stand under heads, below all others.
        arrangements: those to choose from, shown above the chart.
        sentence: what was taken for what, said below the subtitle.
        waits: whether an answer is still to come.
        parts: what the figures in sight are parted into, for files; None for nothing.
        instead: why something else stands here than what was asked for; empty where it is that.
        published: what other stages may use of it, as a value of a type of its own (`stages/published.py`).
    """

    stage: str
    keys: tuple[Key, ...]
    grid: Grid
    first: int
    columns: int
    past: int
    flags: NDArray[np.uint8]
    figures: Figures
    title: OfSeries
    subtitle: OfSeries
    finding: OfSeries
    bands: tuple[Band, ...] = ()
    boundaries: tuple[Boundary, ...] = ()
    sheet: Callable[[], tuple[Item, ...]] = lambda: ()
    handles: tuple[Handle, ...] = ()
    listings: tuple[Listing, ...] = ()
    main: Listing | None = None
    cautions: Callable[[int], tuple[Caution, ...]] = lambda series: ()
    marks: Callable[[int], tuple[Mark, ...]] = lambda series: ()
    coverage: Callable[[], Coverage] | None = None
    axes: dict[str, Axis] = field(default_factory=dict)
    sees: str = ""
    reach: Reach = ""
    tinted: bool = False
    groups: tuple[Group, ...] = ()
    arrangements: Control | None = None
    sentence: tuple[Word, ...] = ()
    waits: bool = False
    instead: str = ""
    parts: Breakdown | None = None
    published: object = None

    @property
    def rows(self) -> tuple[Figure, ...]:
        """The figures that are rows of the tide table: those of the axis in sight."""
        sees = self.sees
        return tuple(
            each for each in self.figures.values() if each.shown and not each.fact and each.axis == sees
        )

    @property
    def projects(self) -> bool:
        """Whether it goes on beyond the as-of by a horizon that is chosen."""
        return self.handle("horizon") is not None

    def handle(self, role: str) -> Handle | None:
        """The first handle of a role; None where there is none."""
        return next((handle for handle in self.handles if handle.role == role), None)

    @property
    def axis(self) -> Axis | None:
        """The axis in sight, where it is no range of periods."""
        return self.axes.get(self.sees)

    @property
    def closes(self) -> int:
        """The column that closing sums and means begin with; one after the last where there are none."""
        stops = (curve.stop for band in self.bands for curve in band.curves)
        return max(stops, default=0) or self.columns

    def label(self, column: int) -> str:
        """What stands at a column in sight, in full."""
        return self.label_on(self.sees, column)

    def label_on(self, axis: str, column: int) -> str:
        """What stands at a column of an axis, in full; a period of time where the axis has no name."""
        return self.axes[axis].full[column] if axis else self.grid.label(self.first + column)
