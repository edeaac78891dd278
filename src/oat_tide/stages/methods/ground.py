"""What every method stands on: the fit span, what is fitted, and how periods make a year."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.methods.shape import How, Method
from oat_tide.core.methods.table import METHODS
from oat_tide.core.periods.calendar import Grid, day_number
from oat_tide.core.series.panel import INCOMPLETE, LEFT_OUT, Panel, Sight
from oat_tide.core.working.terms import Term
from oat_tide.plan.parts.evened import Ruled
from oat_tide.plan.parts.part import Pairs
from oat_tide.plan.parts.project import Project
from oat_tide.plan.parts.seasons import Seasons
from oat_tide.plan.parts.smooth import Smooth
from oat_tide.stages.common import where_of
from oat_tide.stages.context import StageContext
from oat_tide.stages.cycle import Cycle, cycle_of, usual_cycle
from oat_tide.stages.deck import Deck, LateWork
from oat_tide.stages.presence import SeasonPresence
from oat_tide.stages.reach import running
from oat_tide.stages.season_by import season_by

MOST_YEARS = 10
"""How far a projection reaches at the most."""
_YEAR = {"day": 364, "week": 52, "month": 12, "quarter": 4}
"""Periods to the same one last year: the same weekday of days."""
_AHEAD = {"day": 28, "week": 52, "month": 12, "quarter": 4, "year": 3}
"""How far a plan projects that asks for nothing else."""
_MEAN = 3
"""Periods in the mean of the last, of those that make no year."""

Mask = NDArray[np.bool_]


@dataclass(frozen=True, eq=False, slots=True)
class Span:
    """The fit span.

    Attributes:
        start: (series, 1) its first column.
        end: its last column, one for all.
        used: (series, columns) 1 for a period in the fit.
        t: (series, columns) period numbers, 1 at its start.
    """

    start: Values
    end: int
    used: Values
    t: Values


@dataclass(frozen=True, eq=False, slots=True)
class Ground(StageContext):
    """What every method stands on.

    Attributes:
        seasons: the deck of Seasons, where a method asks for it.
        smooth: the deck of Smooth, where its smoother runs on.
        smoothing: what Smooth is asked, where its smoother runs on.
        actual: what is fitted: the settled figure.
        values: (series, columns) of it, up to the as-of.
        how: what methods go by.
        leaves: every series of the panel, adjusted.
        presence: whether each series has a season.
    """

    seasons: Deck | None
    smooth: Deck | None
    ask: Project
    seasonal: Seasons
    smoothing: Smooth | None
    late: LateWork
    horizon: int
    span: Span
    actual: Term
    values: Values
    cycle: Cycle
    how: How
    leaves: Panel
    presence: SeasonPresence
    rulings: tuple[Ruled, ...]
    dimensions: tuple[str, ...]

    def where(self, series: int) -> Pairs:
        """A series as the plan names it."""
        return where_of(self.dimensions, self.d.keys[series])

    @property
    def floors(self) -> Mask:
        """(series,) those of which nothing below zero is projected: nothing in their history is."""
        return np.logical_and(self.ask.positive, ~(self.values < 0).any(1))

    @property
    def inside(self) -> Mask:
        """(series, columns) the fit span."""
        place = np.arange(self.d.columns)[None]
        return (place >= self.span.start) & (place <= self.span.end)

    def numbers(self, method: Method) -> Values:
        """(series, columns) the number of each period as a method has it."""
        if self.by_year and method.by_year:
            return self.span.t
        return np.arange(self.d.columns) - self.span.start + 1

    def first_number(self, series: int) -> str:
        """Which period is number 1, or that all are numbered by the calendar."""
        if self.by_year:
            return phrase(
                "the calendar year, or counted from the first of the fit where that bends the curve"
            )
        return phrase(
            "counted from {first} = 1", first=self.grid.named(self.d.first + int(self.span.start[series, 0]))
        )

    @property
    def by_year(self) -> bool:
        """Whether t is the calendar year."""
        return METHODS[self.ask.method].by_year and not np.isnan(self.how.year0)

    @property
    def ahead(self) -> Mask:
        """(1, columns) what is projected."""
        place = np.arange(self.d.columns)[None]
        return (place >= self.past) & (place < self.past + self.horizon)


def horizon_of(ask: Project, sight: Sight) -> int:
    """Periods to project: as asked, at most MOST_YEARS' worth, a year, or to the end of the fiscal one."""
    grid, last = sight.past.grid, sight.past.first + sight.past.columns - 1
    if ask.reach == "end of fiscal year":
        year = int(grid.years([last + 1])[0])
        return grid.year_first(year + 1) - 1 - last
    return min(ask.horizon or year_ahead(grid), MOST_YEARS * grid.cycle)


def year_ahead(grid: Grid) -> int:
    """A year ahead: four weeks of days, three of years."""
    return _AHEAD.get(grid.kind) or usual_cycle(grid) or _AHEAD["year"]


def year0_of(ask: Project, grid: Grid, first: int) -> float:
    """The calendar year of the first column, where periods are numbered so; else NaN."""
    if ask.numbered != "calendar" or grid.kind != "year":
        return float("nan")
    return float(grid.years([first])[0])


def span_of(past: Panel, ask: Project, columns: int) -> Span:
    """The fit span of every series; part periods and periods not known stay out."""
    usable = ~np.isnan(past.settled) & (past.flags & (INCOMPLETE | LEFT_OUT) == 0)
    own_first = np.where(usable.any(1), usable.argmax(1) if past.columns else 0, past.columns)[:, None]
    asked = _column(past, ask.since) if ask.since else 0
    start = np.maximum(own_first, asked).astype(float)
    end = min(past.columns - 1, _column(past, ask.until) if ask.until else past.columns - 1)
    place = np.arange(columns, dtype=float)[None]
    used = np.zeros((len(past.keys), columns))
    used[:, : past.columns] = usable & ((place >= start) & (place <= end))[:, : past.columns]
    year0 = year0_of(ask, past.grid, past.first)
    by_year = METHODS[ask.method].by_year and not np.isnan(year0)
    return Span(start, end, used, place + 0 * start + year0 if by_year else place - start + 1)


def _column(past: Panel, date: dt.date) -> int:
    return past.grid.period(day_number(date)) - past.first


def how_of(
    ask: Project,
    seasonal: Seasons,
    smoothing: Smooth | None,
    past: Panel,
    columns: int,
    dimensions: tuple[str, ...],
) -> How:
    """What methods go by, on so many periods from the first of a panel on."""
    grid, first = past.grid, past.first
    cycle = cycle_of(seasonal, grid, first, columns)
    own_year = usual_cycle(grid) if grid.kind == "block" else 0
    back = _YEAR.get(grid.kind, own_year)
    year = grid.cycle if grid.kind != "block" else max(own_year, 1)
    waves = back > 0 and any(METHODS[name].by_phase for name in (ask.method, *ask.over))
    days = grid.first_days(np.arange(first, first + columns if waves else first))
    return How(
        cycle=cycle.length,
        place=cycle.place,
        years=cycle.years,
        phase=_phase(grid, first, columns, days) if waves else np.zeros(0),
        weekday=(days + 3) % 7 if grid.kind == "day" and waves else None,
        year=year,
        back=back,
        last=ask.last or (cycle.length or _MEAN),
        rate=ask.rate / 100,
        ceiling=ask.ceiling or np.nan,
        year0=year0_of(ask, grid, first) if METHODS[ask.method].by_year else np.nan,
        half=float(ask.half or 2 * year),
        pairs=min(ask.pairs, max((back - 1) // 2, 1)) if back else ask.pairs,
        season=season_by(seasonal, cycle, past.keys, dimensions, past.columns),
        smoother=None if smoothing is None else running(smoothing, grid, first, columns),
    )


def _phase(grid: Grid, first: int, columns: int, days: NDArray[np.int64]) -> Values:
    """(columns,) how much of its year has gone, by its number in the year, or by the day."""
    if grid.kind not in ("day", "week"):
        return (grid.places(np.arange(first, first + columns)) - 1) / grid.cycle
    years = days.astype("datetime64[D]").astype("datetime64[Y]")
    begins, ends = (each.astype("datetime64[D]").astype(np.int64) for each in (years, years + 1))
    return np.asarray((days - begins) / (ends - begins))
