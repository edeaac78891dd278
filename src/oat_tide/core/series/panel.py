"""Period series side by side, and what of them may be seen."""

from __future__ import annotations

import functools
from collections.abc import Callable, Hashable, Mapping
from dataclasses import dataclass, field
from typing import Any, Literal, TypeVar

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.exact import Values, parted
from oat_tide.core.periods.calendar import Grid
from oat_tide.core.series.coded import Coded, Key, with_member

_T = TypeVar("_T", bound=np.generic)
INCOMPLETE = 1
"""Not complete, or begun before the data do: kept out of fits, windows and comparisons."""
FILLED = 2
"""No line lies in the period: nothing was sold."""
PROVISIONAL = 4
"""Complete, but its figure is not final."""
LEFT_OUT = 8
"""Ruled to be kept out of fits."""
REPLACED = 16
"""Ruled to count by an expected figure in fits and windows."""
TOUCHED = 32
"""A ruling or note lies on the period, or on a part of it."""
LACKING = 64
"""Something of the period is not known and adds nothing: the period itself, or a part of it."""

Totalled = Literal["sum", "mean", "last"]
"""How lines make the figure of a period: added up, their mean, or those of the last day in it."""
Reach = Literal["", "children", "every"]
"""The series of a deck: the one in sight, its parts at the next level, or every series there is."""


class Panel:
    """Series by periods, read-only. Equal and hashable by its stamp, the recipe it was made by.

    Attributes:
        stamp: whatever tells this panel from every other.
        grid: the periods.
        first: the first period.
        keys: one key a series.
        values: (series, periods) totals of the measure; NaN is "not known", for before the first line.
        lines: (series, periods) the number of lines added up.
        flags: (series, periods) PART to LACKING.
        scale: minor units in one unit of the measure; every value is a whole number of minor units.
        beside: by name, (series, periods) of what is kept beside the history, such as a budget.
        settled: the values with expected figures in the place of those ruled so.
        totalled: how lines make a figure.
        unread: (series, periods) lines whose figure cannot be read; they leave their period not known.
        withheld: (series, periods) what lines in use come to that no value holds.
    """

    __slots__ = (
        "_coded",
        "beside",
        "first",
        "flags",
        "grid",
        "keys",
        "lines",
        "scale",
        "settled",
        "stamp",
        "totalled",
        "unread",
        "values",
        "withheld",
    )

    def __init__(
        self,
        stamp: Hashable,
        grid: Grid,
        first: int,
        keys: tuple[Key, ...],
        values: Values,
        lines: NDArray[np.int64],
        flags: NDArray[np.uint8],
        scale: float = 1.0,
        beside: dict[str, Values] | None = None,
        settled: Values | None = None,
        totalled: Totalled = "sum",
        unread: NDArray[np.int64] | None = None,
        withheld: Values | None = None,
        coded: Coded | None = None,
    ) -> None:
        self._coded = coded
        self.stamp, self.grid, self.first, self.keys, self.scale = stamp, grid, first, keys, scale
        self.values, self.lines, self.flags, self.totalled = values, lines, flags, totalled
        self.beside, self.settled = beside or {}, values if settled is None else settled
        self.unread = np.zeros(values.shape, np.int64) if unread is None else unread
        self.withheld = np.zeros(values.shape) if withheld is None else withheld
        arrays: tuple[NDArray[Any], ...] = (
            values,
            lines,
            flags,
            self.settled,
            self.unread,
            self.withheld,
            *self.beside.values(),
        )
        for array in arrays:
            array.flags.writeable = False

    def __reduce__(self) -> tuple[Callable[..., Panel], tuple[Any, ...]]:
        """Copies of other processes are made anew, so that they cannot be written either."""
        # What lies in one piece need not be copied on its way.
        whole = np.ascontiguousarray
        return _made_anew, (
            self.stamp,
            self.grid,
            self.first,
            self.coded,
            values := whole(self.values),
            whole(self.lines),
            whole(self.flags),
            self.scale,
            {name: whole(kept) for name, kept in self.beside.items()},
            values if self.settled is self.values else whole(self.settled),
            self.totalled,
            whole(self.unread),
            whole(self.withheld),
        )

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Panel) and self.stamp == other.stamp

    def __hash__(self) -> int:
        return hash(self.stamp)

    @property
    def coded(self) -> Coded:
        """The keys by small numbers; made when first asked for."""
        if self._coded is None:
            self._coded = Coded.of(self.keys)
        return self._coded

    @property
    def columns(self) -> int:
        """The number of periods."""
        return int(self.values.shape[1])

    @property
    def judged(self) -> Values:
        """(series, periods) what averages and fits stand on: settled, without what is part or left out."""
        kept: Values = np.where(self.flags & (INCOMPLETE | LEFT_OUT) == 0, self.settled, np.nan)
        return kept

    @property
    def whole(self) -> NDArray[np.bool_]:
        """(series, periods) which periods are not part."""
        whole: NDArray[np.bool_] = self.flags & INCOMPLETE == 0
        return whole

    def total(self, key: Key) -> Panel:
        """One series: the sum, or the mean, of all whose key fits, exact to the minor unit.

        A period is not known where none of the parts is known, or a line in it cannot be read; it is part
        where all of them are, lacking where any is. With no fitting series every period is unknown.
        """
        return self._totalled((self.stamp, key), (key,))

    def totals(self, keys: tuple[Key, ...]) -> Panel:
        """Several levels side by side, each as `total` gives it, in one pass over the series."""
        return self._totalled((self.stamp, keys), keys)

    def _totalled(self, stamp: Hashable, keys: tuple[Key, ...]) -> Panel:
        groups = Groups.of(self.coded, keys)
        lines, unread = groups.sum(groups.own(self.lines)), groups.sum(groups.own(self.unread))
        amounts = groups.own(self.amounts)
        values, known = self._added(groups, amounts)
        if self.totalled == "mean":
            values = values / groups.sum(np.where(np.isnan(amounts), 0, groups.own(self.lines)))
        whole, rest = self._parts(groups, groups.own(self.withheld))
        if unread.any():
            # What is known of such a period is withheld with it.
            more, left = self._parts(groups, np.nan_to_num(amounts))
            whole += np.where(unread > 0, more, 0.0)
            rest += np.where(unread > 0, left, 0.0)
            values, known = np.where(unread > 0, np.nan, values), known & (unread == 0)
        own = groups.own(self.flags)
        flags = groups.reduce(np.bitwise_or, own & np.uint8(PROVISIONAL | LACKING))
        # One series that lacks a row leaves its total whole and lacking; where days are missing, all do.
        flags |= np.where(groups.reduce(np.logical_and, own & INCOMPLETE > 0), INCOMPLETE, 0).astype(np.uint8)
        flags |= np.where(known & (lines == 0), FILLED, 0).astype(np.uint8)
        beside = {name: self._added(groups, groups.own(kept))[0] for name, kept in self.beside.items()}
        return Panel(
            stamp,
            self.grid,
            self.first,
            keys,
            values,
            lines,
            flags,
            self.scale,
            beside,
            totalled=self.totalled,
            unread=unread,
            withheld=(whole + rest) / self.scale,
        )

    def _added(self, groups: Groups, parts: Values) -> tuple[Values, NDArray[np.bool_]]:
        """The exact sums of series, NaN where none is known, and where any is."""
        known = ~np.isnan(parts)
        any_known = groups.reduce(np.logical_or, known)
        whole, rest = self._parts(groups, np.where(known, parts, 0.0))
        return np.where(any_known, (whole + rest) / self.scale, np.nan), any_known

    def _parts(self, groups: Groups, values: Values) -> tuple[Values, Values]:
        """The sums of whole minor units, and of what they leave."""
        whole, rest = parted(values, self.scale)
        total = groups.sum(whole)
        return total, np.zeros_like(total) if rest is None else groups.sum(rest)

    @property
    def amounts(self) -> Values:
        """(series, periods) what the lines of each value come to; NaN where it is not known."""
        if self.totalled != "mean":
            return self.values
        sums = self.values * self.lines
        # A mean was divided: its lines come to whole minor units again.
        whole = np.rint(sums * self.scale) / self.scale
        return np.where(np.abs(sums - whole) <= 1e-12 * np.abs(sums), whole, sums)

    def with_rulings(self, stamp: Hashable, flags: NDArray[np.uint8], settled: Values) -> Panel:
        """Return the panel with other flags and adjusted values."""
        return Panel(
            stamp,
            self.grid,
            self.first,
            self.keys,
            self.values,
            self.lines,
            flags,
            self.scale,
            self.beside,
            settled,
            self.totalled,
            self.unread,
            self.withheld,
            self._coded,
        )

    def block(self, start: int, stop: int) -> Panel:
        """The series from row `start` to before row `stop`; a view, nothing is copied."""
        own = slice(start, stop)
        return Panel(
            (self.stamp, "block", start, stop),
            self.grid,
            self.first,
            self.keys[own],
            self.values[own],
            self.lines[own],
            self.flags[own],
            self.scale,
            {name: kept[own] for name, kept in self.beside.items()},
            self.settled[own],
            self.totalled,
            self.unread[own],
            self.withheld[own],
        )

    def cut(self, start: int, stop: int) -> Panel:
        """The periods from column `start` to before column `stop`; a view, nothing is copied."""
        return Panel(
            (self.stamp, start, stop),
            self.grid,
            self.first + start,
            self.keys,
            self.values[:, start:stop],
            self.lines[:, start:stop],
            self.flags[:, start:stop],
            self.scale,
            {name: kept[:, start:stop] for name, kept in self.beside.items()},
            self.settled[:, start:stop],
            self.totalled,
            self.unread[:, start:stop],
            self.withheld[:, start:stop],
            self._coded,
        )


def fits_key(own: Key, wanted: Key) -> bool:
    """Whether a series belongs to a level."""
    return all(want is None or have == want for have, want in zip(own, wanted, strict=True))


@dataclass(frozen=True)
class Sight:
    """All that a stage may see: what lies up to the as-of, and what came after, only ever laid over.

    Attributes:
        past: the periods up to the as-of.
        later: the periods after it.
        home: the column that the as-of stands on when it has not been moved back.
        reach: which series it holds.
    """

    past: Panel
    later: Panel
    home: int
    reach: Reach = ""

    @property
    def columns(self) -> int:
        """Periods in the data, past and later."""
        return self.past.columns + self.later.columns

    @property
    def moved_back(self) -> bool:
        """Whether the as-of stands before the last complete period."""
        return self.past.columns - 1 < self.home

    @functools.cached_property
    def values(self) -> Values:
        """(series, columns) the values over past and later."""
        return _joined(self.past.values, self.later.values)

    @functools.cached_property
    def settled(self) -> Values:
        """(series, columns) the settled values over past and later."""
        return _joined(self.past.settled, self.later.settled)

    @functools.cached_property
    def lines(self) -> NDArray[np.int64]:
        """(series, columns) the lines added up over past and later."""
        return _joined(self.past.lines, self.later.lines)

    @functools.cached_property
    def unread(self) -> NDArray[np.int64]:
        """(series, columns) the lines that cannot be read over past and later."""
        return _joined(self.past.unread, self.later.unread)

    @functools.cached_property
    def flags(self) -> NDArray[np.uint8]:
        """(series, columns) PART to LACKING over past and later."""
        return _joined(self.past.flags, self.later.flags)

    @functools.cached_property
    def whole(self) -> NDArray[np.bool_]:
        """(series, columns) which periods are not part."""
        return _joined(self.past.whole, self.later.whole)

    def beside(self, name: str) -> Values:
        """(series, columns) of what is kept beside the history under a name."""
        return _joined(self.past.beside[name], self.later.beside[name])


def _joined(past: NDArray[_T], later: NDArray[_T]) -> NDArray[_T]:
    """Past and later side by side, not to be written."""
    both = np.concatenate([past, later], axis=1)
    both.flags.writeable = False
    return both


def _made_anew(stamp: Hashable, grid: Grid, first: int, coded: Coded, *rest: Any) -> Panel:
    """A panel that has travelled: its keys go by their numbers, which takes a fraction of the time."""
    panel = Panel(stamp, grid, first, coded.keys(), *rest)
    panel._coded = coded
    return panel


@dataclass(frozen=True, eq=False, slots=True)
class Groups:
    """Which series each of several levels is added up from.

    Attributes:
        order: the series, those of the first level first; one may be of several.
        starts: where those of each level begin, for levels that have any.
        there: which levels have any.
    """

    order: NDArray[np.intp]
    starts: NDArray[np.intp]
    there: NDArray[np.bool_]

    @staticmethod
    def of(coded: Coded, levels: tuple[Key, ...]) -> Groups:
        """Return the totals of levels."""
        rows = coded.rows(levels)
        many = np.array([len(each) for each in rows], np.intp)
        order = np.concatenate(rows) if rows else np.zeros(0, np.intp)
        return Groups(order, (np.cumsum(many) - many)[many > 0], many > 0)

    def own(self, values: NDArray[_T]) -> NDArray[_T]:
        """What is said of the series, for those that belong to a level, in its order."""
        every = len(self.starts) == 1 and len(self.order) == len(values)
        return values if every else values[self.order]

    def sum(self, values: NDArray[_T]) -> NDArray[_T]:
        """(levels, periods) what the series of each level add up to, 0 for none."""
        return self.reduce(np.add, values)

    def reduce(self, how: np.ufunc, values: NDArray[_T]) -> NDArray[_T]:
        """(levels, periods) what a ufunc makes of the series of each level, in its order, 0 for none."""
        out = np.zeros((len(self.there), values.shape[1]), values.dtype)
        if len(self.order) and values.shape[1]:
            out[self.there] = how.reduceat(values, self.starts, axis=0)
        return out


@functools.lru_cache(48)
def narrowed(panel: Panel, where: Key | None, reach: Reach = "") -> Panel:
    """The series of one level or its children, or with None every series of the panel."""
    if where is None or reach == "every":
        return panel
    return panel.totals(children(panel, where)) if reach == "children" else panel.total(where)


@functools.lru_cache(8)
def parted_by(panel: Panel, parent: Key, at: int) -> Panel:
    """The members of one dimension within a level, a series a member, in the order of their names."""
    within = with_member(parent, at, None)
    members = sorted(panel.coded.members(within, at))
    return panel.totals(tuple(with_member(parent, at, member) for member in members))


def children(panel: Panel, parent: Key) -> tuple[Key, ...]:
    """The parts of a series at the next level: its first open dimension, a series a member, in their order.

    A series that is narrowed in every dimension has none but itself.
    """
    if None not in parent:
        return (parent,)
    at = parent.index(None)
    return tuple(with_member(parent, at, member) for member in panel.coded.members(parent, at))


@functools.lru_cache(96)
def sight(seen: Panel, as_of: int, home: int, reach: Reach = "") -> Sight:
    """What is seen of a level with the as-of on a period.

    Args:
        as_of, home: periods; the last one of the past, and the one where the as-of is at home.
        reach: which series the panel holds.
    """
    cut = min(max(as_of - seen.first + 1, 0), seen.columns)
    return Sight(seen.cut(0, cut), seen.cut(cut, seen.columns), home - seen.first, reach)


@dataclass(frozen=True, slots=True)
class Sizes:
    """What the members of a dimension sum up to; none of a dimension that is not added up.

    Attributes:
        numbers: the number of each member.
        sums: (members,) by number.
    """

    numbers: Mapping[str | None, int] = field(default_factory=dict)
    sums: NDArray[np.float64] = field(default_factory=lambda: np.zeros(0))

    def __bool__(self) -> bool:
        return bool(len(self.sums))

    def of(self, member: str) -> float:
        """The size of a member; 0 where no series of it is there."""
        number = self.numbers.get(member)
        return 0.0 if number is None else float(self.sums[number])

    @property
    def total(self) -> float:
        """The size of all of them."""
        return float(self.sums.sum())


def sizes(panel: Panel, key: Key, at: int, first: int, stop: int) -> Sizes:
    """What the members of one dimension sum up to over some columns, within the other members of a key.

    Args:
        at: the place of the dimension; its own entry in the key does not narrow.
        first, stop: the columns, from `first` to before `stop`.
    """
    coded = panel.coded
    rows = coded.within(with_member(key, at, None))
    totals = np.nansum(panel.values[:, max(first, 0) : stop], axis=1, where=rows[:, None])
    sums = np.bincount(coded.codes[at], totals, len(coded.numbers[at])).astype(np.float64)
    return Sizes(coded.numbers[at], sums)
