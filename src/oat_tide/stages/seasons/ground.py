"""What all of Seasons stands on: the figure taken apart, its cycle, and how the season counts."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.exact import Values
from oat_tide.core.language import counted, noun, phrase
from oat_tide.core.periods.calendar import Grid
from oat_tide.core.seasons.swing import Judged
from oat_tide.core.working.formula import Formula
from oat_tide.core.working.terms import Term
from oat_tide.plan.parts.seasons import LeftOutRatio, ManualIndex, Seasons
from oat_tide.stages.common import listed, where_of
from oat_tide.stages.context import StageContext
from oat_tide.stages.cycle import Cycle, by_kind
from oat_tide.stages.deck import LateWork
from oat_tide.stages.places import season_names, spoken_season
from oat_tide.stages.presence import SeasonPresence
from oat_tide.stages.seasons.selling import Selling

Mask = NDArray[np.bool_]
AXIS = "seasons"
"""The axis whose columns are the seasons."""


@dataclass(frozen=True, eq=False, slots=True)
class Ground(StageContext):
    """What all of Seasons stands on.

    Attributes:
        actual: what is taken apart, as it may be seen: the settled figure, by selling day where asked.
        sold: the settled figure as it is.
        values: (series, past columns) of what is taken apart.
        judged: how the season of each counts.
        told: what tells whether there is one.
        why_none: (series,) why a series is not taken apart; empty where it is.
        selling: what its figures by selling day are made of; None where they are taken as they are.
    """

    ask: Seasons
    late: LateWork
    cycle: Cycle
    dimensions: tuple[str, ...]
    actual: Term
    sold: Term
    values: Values
    judged: Judged
    told: SeasonPresence
    why_none: tuple[str, ...]
    selling: Selling | None

    @property
    def multiplies(self) -> Mask:
        """(series,) whether the season is a factor."""
        return self.judged.multiplies

    @property
    def scale(self) -> float:
        """Minor units in one unit; what was made by selling day is no whole number of them."""
        return 1.0 if self.adjusted else self.sight.past.scale

    @property
    def adjusted(self) -> bool:
        """Whether it is taken by selling day; days never are."""
        return self.selling is not None

    @property
    def index_unit(self) -> str:
        """What an index counts: nothing, or units where all series add their season."""
        return "" if self.multiplies.any() else self.unit

    def by_kind(self, product: Formula, total: Formula, columns: int) -> Formula:
        """One formula where the season is a factor and another where it is added."""
        return by_kind(self.multiplies, product, total, columns)

    def kernel(self, of: Callable[[bool], Values]) -> Values:
        """What arrays give where the season is a factor, and where it is added."""
        if self.multiplies.all() or not self.multiplies.any():
            return of(bool(self.multiplies.all()))
        products, sums = of(True), of(False)
        mask = self.multiplies if products.ndim == 1 else self.multiplies[:, None]
        return np.where(mask, products, sums)

    def season(self, place: int) -> str:
        """A season in a sentence."""
        return spoken_season(self.grid, self.cycle.length, place)

    def brief_season(self, place: int) -> str:
        """A season where there is little room: "Jul", "W31", "Sun"."""
        names = season_names(self.grid, self.cycle.length)
        if names[0][place].isdigit() or not names[0][place]:
            return names[2][place]
        return names[0][place]


def refusals(values: Values, cycle: Cycle, grid: Grid, first: int, multiplies: Mask) -> tuple[str, ...]:
    """Why each series is not taken apart; empty where it is."""
    need = 2 * cycle.length
    out = []
    for row, products in zip(values, multiplies, strict=True):
        known = np.flatnonzero(~np.isnan(row))
        span = int(known[-1] - known[0]) + 1 if known.size else 0
        if not cycle.length:
            out.append(
                phrase(
                    "A {kind} has no seasons. Choose shorter periods, or set a cycle.", kind=noun(grid.kind)
                )
            )
        elif span < need:
            out.append(
                phrase(
                    "A season takes two full cycles, {need}; {span:,} are known and {more:,} more are "
                    "needed.",
                    need=counted(need, grid.kind),
                    span=span,
                    more=need - span,
                )
            )
        elif products and (row[known] <= 0).any():
            at = known[row[known] <= 0]
            which = listed([grid.label(first + int(each)) for each in at])
            out.append(
                phrase(
                    "A season that multiplies needs figures above zero: {which} {are} not. An "
                    "additive season takes them.",
                    which=which,
                    are=phrase("is") if len(at) == 1 else phrase("are"),
                )
            )
        else:
            out.append("")
    return tuple(out)


def _meant(each: ManualIndex | LeftOutRatio, where: tuple[tuple[str, str], ...], cycle: int) -> bool:
    return each.cycle == cycle and dict(each.where) == dict(where)


def hands_of(ground: Ground, series: int, ask: Seasons | None = None) -> tuple[ManualIndex, ...]:
    """The indices set by hand for a series, of the kind of its season; by default as asked for now."""
    kind = "multiplicative" if ground.multiplies[series] else "additive"
    where = where_of(ground.dimensions, ground.d.keys[series])
    length = ground.cycle.length
    return tuple(
        each
        for each in (ask or ground.ask).by_hand
        if each.season == kind and each.place < length and _meant(each, where, length)
    )


def gone_of(ground: Ground, series: int, ask: Seasons | None = None) -> tuple[LeftOutRatio, ...]:
    """The ratios of a series that are left out; by default as asked for now."""
    where = where_of(ground.dimensions, ground.d.keys[series])
    left_out = (ask or ground.ask).left_out
    return tuple(each for each in left_out if _meant(each, where, ground.cycle.length))


Kind = Literal["additive", "multiplicative"]


def kind_of(ground: Ground, series: int) -> Kind:
    """How the season of a series counts."""
    return "multiplicative" if ground.multiplies[series] else "additive"
