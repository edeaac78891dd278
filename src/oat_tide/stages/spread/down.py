"""The part of every child, reckoned where it may take long: rows, columns and the total all exact."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.methods.seasonal import season
from oat_tide.core.methods.shape import How, SeasonBy
from oat_tide.core.series.coded import Key
from oat_tide.core.series.panel import Panel, parted_by
from oat_tide.core.spread import Units, Unmet, controlled, fitted, largest_remainders
from oat_tide.core.user_error import Progress
from oat_tide.plan.parts.seasons import Seasons
from oat_tide.stages.cycle import cycle_of


@dataclass(frozen=True, slots=True)
class Wanted:
    """What is to be brought down.

    Attributes:
        key: the series; at: the place of the dimension whose members are its children.
        past: how many columns are known; columns: how many there are.
        first: the first column of the stretch.
        parts: by period of the stretch, in units.
        before: by period of the stretch, the like column a year before; below 0 for none.
        pack: units that go together.
        weights: by period, those of all; empty where children go by their shares alone.
        seasonal: how the season of each is found.
    """

    key: Key
    at: int
    past: int
    columns: int
    first: int
    parts: tuple[int, ...]
    before: tuple[int, ...]
    pack: int
    weights: tuple[float, ...]
    seasonal: Seasons


@dataclass(frozen=True, eq=False, slots=True)
class Down:
    """What each child gets.

    Attributes:
        members: by name, in its order.
        keys: their series.
        sold: (members, past columns) what each sold; lines: how many lines make it.
        own: (members,) what each sold in the like periods a year before.
        shares: (members, parts) what each would get if it could be parted at will.
        parts: (members, parts) in units, whose rows and columns add up.
        rests: by column of the stretch, what fills no pack, and the child that holds it.
        lacks: those that have no season of their own.
        unmet: why there is no table: the reason, and the place that gives it; empty where there is one.
    """

    members: tuple[str, ...]
    keys: tuple[Key, ...]
    sold: Values
    lines: Units
    own: Values
    shares: Values
    parts: Units
    rests: dict[int, tuple[int, int]]
    lacks: tuple[str, ...] = ()
    unmet: tuple[str, int] = ("", -1)

    @property
    def last(self) -> Values:
        """(members,) the same, none below 0: what shares go by."""
        return np.maximum(self.own, 0.0)


def brought_down(leaves: Panel, wanted: Wanted, progress: Progress) -> Down:
    """The parts of every child.

    Args:
        leaves: every series by period.
    """
    seen = parted_by(leaves, wanted.key, wanted.at)
    progress(0.2)
    members = tuple(str(own[wanted.at]) for own in seen.keys)
    sold, lines = seen.values[:, : wanted.past], seen.lines[:, : wanted.past]
    before = np.array(wanted.before)
    own = np.nan_to_num(sold[:, before[before >= 0]]).sum(1)
    last, parts = np.maximum(own, 0.0), np.array(wanted.parts)
    none = np.zeros((len(members), len(parts)))
    lacks: tuple[str, ...] = ()

    def made(shares: Values, whole: Units, rests: dict[int, tuple[int, int]], why: str, place: int) -> Down:
        return Down(members, seen.keys, sold, lines, own, shares, whole, rests, lacks, (why, place))

    if not last.sum() > 0:
        return made(none, none.astype(np.int64), {}, "nothing", -1)
    seed = np.outer(last, np.maximum(parts, 0)).astype(float)
    if wanted.weights:
        seed, lacks = _own_seasons(seen, wanted, sold, last, members)
    progress(0.4)
    try:
        return made(*_table(wanted.pack, parts, last, seed, progress), "", -1)
    except Unmet as error:
        return made(none, none.astype(np.int64), {}, error.reason, error.place)


def _own_seasons(
    seen: Panel, wanted: Wanted, sold: Values, last: Values, members: tuple[str, ...]
) -> tuple[Values, tuple[str, ...]]:
    """Each child's share times its own index; one without takes the weights of all."""
    cycle = cycle_of(wanted.seasonal, seen.grid, seen.first, wanted.columns)
    how = How(
        cycle=cycle.length,
        place=cycle.place,
        years=cycle.years,
        season=SeasonBy(wanted.seasonal.method, "multiplicative"),
    )
    index, weights = season(sold, how).indices, np.array(wanted.weights)
    at = slice(wanted.first, wanted.first + len(weights))
    own = np.maximum(index[:, cycle.place[at]], 0.0) if cycle.length else np.full((len(sold), 1), np.nan)
    lacks = np.isnan(own).any(1) | ~(np.nan_to_num(own).sum(1) > 0)
    common = weights / weights.mean() if weights.sum() > 0 else np.ones(len(weights))
    seed = last[:, None] * np.where(lacks[:, None], common[None], own)
    return seed, tuple(members[row] for row in np.flatnonzero(lacks & (last > 0)).tolist())


def _table(
    pack: int, columns: Units, last: Values, seed: Values, progress: Progress
) -> tuple[Values, Units, dict[int, tuple[int, int]]]:
    """The table in packs, and what fills none of them with the largest child."""
    packs, left = np.divmod(columns, pack)
    rows = largest_remainders(last / last.sum() * packs.sum(), int(packs.sum()))
    # A row that gets nothing, and a column, weigh nothing.
    kept = seed * (rows > 0)[:, None] * (packs > 0)[None]
    shares = fitted(kept, rows.astype(float), packs.astype(float))
    parts = controlled(shares, rows, packs, progress) * pack
    largest, rests = int(last.argmax()), {}
    for place in np.flatnonzero(left).tolist():
        parts[largest, place] += left[place]
        rests[place] = int(left[place]), largest
    return shares * pack, parts, rests
