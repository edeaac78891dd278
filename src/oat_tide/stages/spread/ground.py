"""What all of a spread stands on: the stretch, what was asked, and the decks it goes by."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.exact import Values
from oat_tide.core.language import counted, phrase
from oat_tide.core.periods.calendar import Grid, date_of
from oat_tide.core.series.panel import Panel
from oat_tide.core.spread import Spread as Parts
from oat_tide.core.working.number_format import full
from oat_tide.core.working.terms import Term
from oat_tide.plan.parts.part import Pairs
from oat_tide.plan.parts.seasons import Seasons
from oat_tide.plan.parts.spread import Spread, SpreadRequest
from oat_tide.stages.common import where_of
from oat_tide.stages.context import StageContext
from oat_tide.stages.deck import Deck

DECIMALS = 2
"""Places of figures that are parted at will."""


@dataclass(frozen=True, eq=False, slots=True)
class Ground(StageContext):
    """What all of a spread stands on.

    Attributes:
        first, last: the columns that it is spread over.
        asked: by series, what is asked.
        sold: the actual, as far as it is known; settled what fits go by.
        locked: (series, columns) what a period is locked at; NaN where it is free.
        leaves: every series by period.
    """

    seasons: Deck
    project: Deck
    leaves: Panel
    dimensions: tuple[str, ...]
    ask: Spread
    seasonal: Seasons
    first: int
    last: int
    asked: tuple[SpreadRequest, ...]
    sold: Term
    settled: Term
    locked: Values

    @property
    def inside(self) -> NDArray[np.bool_]:
        """(1, columns) what the total is spread over."""
        place = np.arange(self.d.columns)[None]
        return (place >= self.first) & (place <= self.last)

    @property
    def at(self) -> slice:
        """The columns that the total is spread over."""
        return slice(self.first, self.last + 1)

    @property
    def scale(self) -> int:
        """Units in one of what is spread."""
        return int(10**DECIMALS) if self.ask.rounded == "decimals" else 1

    @property
    def pack(self) -> int:
        """Units that go together."""
        return self.ask.pack if self.ask.rounded == "packs" else 1

    @property
    def over(self) -> str:
        """The stretch in words."""
        grid, first = self.grid, self.d.first
        whole = int(grid.years([first + self.first])[0])
        if (self.first + first, self.last + first) == (
            grid.year_first(whole),
            grid.year_first(whole + 1) - 1,
        ):
            return grid.year_label(whole)
        if self.first == self.last:
            return grid.label(first + self.first)
        return f"{grid.label(first + self.first)} – {grid.label(first + self.last)}"

    @property
    def many(self) -> str:
        """How many periods it is spread over, in words."""
        return counted(self.last - self.first + 1, self.grid.kind)

    def where(self, series: int) -> Pairs:
        """A series as the plan names it."""
        return where_of(self.dimensions, self.d.keys[series])

    def label(self, column: int) -> str:
        """A period in words."""
        return self.grid.label(self.d.first + column)

    def days(self, column: int) -> tuple[dt.date, dt.date]:
        """The first and the last day of a period."""
        period = self.d.first + column
        return date_of(self.grid.first_day(period)), date_of(self.grid.last_day(period))

    @property
    def come(self) -> str:
        """What figures come in, in words."""
        return "hundredths" if self.ask.rounded == "decimals" else phrase("whole {unit}", unit=self.unit)

    def rest_held(self, rest: int) -> str:
        """Say that a part holds what does not fill a pack."""
        return phrase(
            "It holds {full} {unit} that fill no pack of {pack}.",
            full=full(rest / self.scale),
            unit=self.unit,
            pack=self.ask.pack,
        )

    def units(self, figure: float) -> int:
        """A figure in whole units."""
        return round(figure * self.scale)

    def is_whole(self, figure: float) -> bool:
        """Whether a figure can be spread as figures are to come."""
        return abs(figure * self.scale - round(figure * self.scale)) < 1e-6


@dataclass(frozen=True, eq=False, slots=True)
class Outcome:
    """What came of it.

    Attributes:
        parts: by series; None where it could not be.
        why: by series, why not; empty where it could, or nothing was asked.
    """

    parts: tuple[Parts | None, ...]
    why: tuple[str, ...]


def locked_of(asked: tuple[SpreadRequest, ...], grid: Grid, first: int, columns: int) -> Values:
    """(series, columns) what a period is locked at; NaN where it is free."""
    found = np.full((len(asked), columns), np.nan)
    days = {
        (date_of(int(a)), date_of(int(b))): column
        for column, (a, b) in enumerate(_days(grid, first, columns))
    }
    for series, each in enumerate(asked):
        for lock in each.locks:
            column = days.get((lock.first, lock.last))
            if column is not None:
                found[series, column] = lock.figure
    return found


def _days(grid: Grid, first: int, columns: int) -> NDArray[np.int64]:
    """(columns, 2) the first and the last day of each period."""
    starts = grid.first_days(np.arange(first, first + columns + 1))
    return np.column_stack((starts[:-1], starts[1:] - 1))
