"""What the stages see of a plan: its lines by period, where the as-of stands, and what was ruled."""

from __future__ import annotations

import functools
from collections.abc import Hashable
from dataclasses import dataclass
from weakref import WeakKeyDictionary

from oat_tide.core.periods.calendar import (
    FIRST_DAY,
    LAST_DAY,
    Closed,
    Grid,
    day_number,
    last_complete,
    wholeness,
)
from oat_tide.core.series.coded import Key
from oat_tide.core.series.panel import Panel, Reach, Sight, fits_key, narrowed, sight
from oat_tide.core.series.reading import Reading
from oat_tide.core.series.rulings import Ruling, ruled
from oat_tide.core.series.tie_out import TieOut, tie_out
from oat_tide.intake.meaning import rhythm
from oat_tide.intake.totals import evened, sales
from oat_tide.plan.kept import KeptData
from oat_tide.plan.parts.evened import Ruled
from oat_tide.plan.plan import Plan


@dataclass(frozen=True, eq=False, slots=True)
class PlanState:
    """What a plan stands on.

    Attributes:
        plan: the plan.
        sales: the lines understood.
        panel: every series by period.
        home: the last complete period.
        as_of: the period that the as-of stands on.
        sight: what the stages see of the series at hand.
        kept: the large data that belong to it.
    """

    plan: Plan
    sales: sales.Sales
    panel: Panel
    home: int
    as_of: int
    sight: Sight
    kept: tuple[KeptData, ...]

    @property
    def reading(self) -> Reading:
        """What was made of the source."""
        return self.sales.reading

    @property
    def leaves(self) -> Panel:
        """Every series by period, the rulings of the plan heeded."""
        return ruled(self.panel, rulings_of(self.plan, self.reading))

    @property
    def tie(self) -> TieOut:
        """How the source and the series tie."""
        return tied(self.reading, self.panel)

    def sight_of(self, reach: Reach) -> Sight:
        """What is seen of the series of a reach."""
        if not reach:
            return self.sight
        where = self.plan.key(self.reading.dimensions)
        seen = ruled(narrowed(self.panel, where, reach), rulings_of(self.plan, self.reading))
        return sight(seen, self.as_of, self.home, reach)


def plan_state_of(
    plan: Plan, read: sales.Sales, panel: Panel, every: bool, kept: tuple[KeptData, ...] = ()
) -> PlanState:
    """What a plan stands on, made of its lines.

    Args:
        every: whether all series are at hand rather than the one that the plan points at.
    """
    rulings = rulings_of(plan, read.reading)
    where = None if every else plan.key(read.reading.dimensions)
    home, as_of = _stands(plan, read.reading, panel, rulings, where)
    seen = sight(ruled(narrowed(panel, where), rulings), as_of, home)
    return PlanState(plan, read, panel, home, as_of, seen, kept)


def _stands(
    plan: Plan, reading: Reading, panel: Panel, rulings: tuple[Ruling, ...], where: Key | None
) -> tuple[int, int]:
    """The last complete period, and the one that the as-of stands on."""
    closed, taken_whole = _closed(rulings), _taken_whole(panel, rulings, where)
    home = _last_whole(panel.grid, reading, reading.upto, closed)
    while home + 1 in taken_whole:
        home += 1
    asked = home
    if plan.as_of is not None:
        # Beyond the lines nothing changes, and calendars end somewhere.
        last = max(reading.upto, panel.grid.last_day(home))
        day = min(max(day_number(plan.as_of), panel.grid.first_day(panel.first)), last)
        asked = _last_whole(panel.grid, reading, min(day, reading.upto), closed)
        while asked + 1 in taken_whole and panel.grid.last_day(asked + 1) <= day:
            asked += 1
        asked = min(asked, home)
    return home, max(asked, min(panel.first, home))


def even_of(plan: Plan, read: sales.Sales) -> tuple[Hashable, Grid, evened.Evening]:
    """What decides how the lines are made into even periods."""
    asked, rulings = plan.evened, rulings_of(plan, read.reading)
    evening = evened.Evening(
        asked.gaps,
        day_number(asked.final_to) if asked.final_to else None,
        _closed(rulings),
        tuple(each for each in rulings if each.act in evened.ON_LINES),
    )
    return read.stamp, _grid_of(plan, read), evening


def _grid_of(plan: Plan, read: sales.Sales) -> Grid:
    """The periods of the plan, or the nearest that the source can be totalled by."""
    asked = plan.periods
    allowed = rhythm.ALLOWED[read.reading.kind]
    return asked.grid().of(asked.kind if asked.kind in allowed else allowed[0])


def _closed(rulings: tuple[Ruling, ...]) -> Closed:
    return frozenset(
        day for each in rulings if each.act == "closed" for day in range(each.first, each.last + 1)
    )


def rulings_of(plan: Plan, reading: Reading) -> tuple[Ruling, ...]:
    """The rulings of a plan for the series there are."""
    return _as_rulings(plan.evened.rulings, reading.dimensions)


tied = functools.lru_cache(4)(tie_out)
"""How a source and its series tie."""


_WHOLE: WeakKeyDictionary[Reading, dict[tuple[Grid, int, Closed], int]] = WeakKeyDictionary()


def _last_whole(grid: Grid, reading: Reading, day: int, closed: Closed) -> int:
    """The last period that is complete on a day, as lines up to it tell."""
    known = _WHOLE.setdefault(reading, {})
    if (grid, day, closed) not in known:
        known[grid, day, closed] = last_complete(grid, day, wholeness(grid, reading.selling, day, closed))
    return known[grid, day, closed]


def _taken_whole(panel: Panel, rulings: tuple[Ruling, ...], where: Key | None) -> frozenset[int]:
    """The periods that were taken as complete, of the series in sight: they are so in every sense."""
    none = tuple(None for _ in panel.keys[0])
    found = set()
    for each in rulings:
        if each.act == "whole" and fits_key(where or none, each.key):
            first, last = panel.grid.period(each.first), panel.grid.period(each.last)
            stretch = range(max(first, panel.first), min(last, panel.first + panel.columns - 1) + 1)
            found |= {period for period in stretch if each.last >= panel.grid.last_day(period)}
    return frozenset(found)


@functools.lru_cache(64)
def _as_rulings(rulings: tuple[Ruled, ...], dimensions: tuple[str, ...]) -> tuple[Ruling, ...]:
    """The rulings of a plan by day numbers, for the series that these dimensions tell apart."""
    return tuple(
        Ruling(
            tuple(dict(each.where).get(name) for name in dimensions),
            min(max(day_number(each.first), FIRST_DAY), LAST_DAY),
            min(max(day_number(each.last), FIRST_DAY), LAST_DAY),
            each.act,
            each.value,
            each.note,
        )
        for each in rulings
    )
