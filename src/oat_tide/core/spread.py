"""A total in parts that add up to it exactly: over its periods, and over periods and children at once.

All amounts are whole numbers of the smallest unit that is spread. Sources: Hamilton's method of the largest
remainders (Balinski and Young, Fair Representation, 1982); Cox, A constructive procedure for unbiased
controlled rounding (1987), and Ahuja, Magnanti and Orlin, Network Flows (1993), 9/7, for tables whose rows
and columns both hold; Deming and Stephan (1940) for a table fitted to its margins.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.exact import Values
from oat_tide.core.user_error import Progress, no_progress

Units = NDArray[np.int64]
Mask = NDArray[np.bool_]
_WHOLE = 1e-9
"""So near to a whole number is one: what is off it is rounding."""
_FEW = 24
"""Rows that are looked at one by one after a move; of more all is found anew."""
_ROUNDS, _CLOSE = 300, 1e-9
"""Rounds of fitting a table to its margins, and how near to them is near enough."""
_STEPS, _FARTHEST = 60, 3.0
"""Of Newton's method, and how far a single one may go in logarithms."""


class Unmet(ValueError):
    """What was asked for cannot be met.

    Attributes:
        reason: why not.
        by: by how many units.
        place: the part that gives, where there is one.
    """

    def __init__(self, reason: str, by: int = 0, place: int = -1) -> None:
        super().__init__(reason)
        self.reason, self.by, self.place = reason, by, place


def largest_remainders(shares: Values, total: int) -> Units:
    """Whole numbers next to the shares that add up to a total: the largest remainders go up, ties the first.

    Args:
        shares: (parts,) that add up to the total but for rounding, none below 0.
    """
    floors = np.floor(shares + _WHOLE)
    missing = int(total - floors.sum())
    parts = floors.astype(np.int64)
    parts[np.argsort(-(shares - floors), kind="stable")[:missing]] += 1
    return parts


@dataclass(frozen=True, eq=False, slots=True)
class Spread:
    """A total over its parts.

    Attributes:
        shares: (parts,) what each would get if it could be parted at will; locked ones as they are.
        parts: (parts,) what each gets, which add up to the total.
        rest: what fills no pack, and lies in the part `rest_in`.
    """

    shares: Values
    parts: Units
    rest: int
    rest_in: int


def spread(
    total: int, weights: Values, locked: Units, free: Mask, pack: int = 1, rest_in: int | None = None
) -> Spread:
    """A total over parts by their weights, those that are locked as they are.

    Args:
        total: in units, above 0.
        weights: (parts,) none below 0; of those that are free.
        locked: (parts,) in units; of those that are not free.
        free: (parts,) which may change.
        pack: units that a free part gets at a time; what fills no pack goes to one of them.
        rest_in: which; None for the last that is free.

    Raises:
        Unmet: "total" is not above 0, there is "nothing" to spread over, "locks" exceed the total, all are
            locked and "lack" of it, the free ones have no "weight", or a "pack" is more than
            is left.
    """
    if total <= 0:
        raise Unmet("total")
    if not len(weights):
        raise Unmet("nothing")
    left = total - int(locked[~free].sum())
    if left < 0:
        raise Unmet("locks", -left)
    if not free.any():
        if left:
            raise Unmet("lack", left)
        return Spread(locked.astype(float), locked.copy(), 0, -1)
    own = np.where(free, weights, 0.0)
    if not own.sum() > 0:
        raise Unmet("weight")
    if 0 < left < pack:
        raise Unmet("pack", left)
    packs, rest = divmod(left, pack)
    shares = own / own.sum()
    parts = np.where(free, pack * largest_remainders(shares * packs, packs), locked)
    at = int(np.flatnonzero(free)[-1]) if rest_in is None or not free[rest_in] else rest_in
    parts[at] += rest
    return Spread(np.where(free, shares * left, locked), parts.astype(np.int64), rest, at if rest else -1)


def fitted(seed: Values, rows: Values, columns: Values) -> Values:
    """A table in proportion to another that adds up to given margins (Deming and Stephan, 1940).

    Rows and columns are scaled in turn; where that comes near only slowly, Newton's method ends it.

    Args:
        seed: (rows, columns) none below 0.
        rows, columns: the margins, that add up alike.

    Raises:
        Unmet: a row with a margin has no "row" to share it by, a "column" neither, or zeros of the seed
            leave the margins "apart"; `place` is the row or column that gives.
    """
    table = seed.astype(float).copy()
    for margin, axis, reason in ((rows, 1, "row"), (columns, 0, "column")):
        empty = np.flatnonzero((table.sum(axis) <= 0) & (margin > 0))
        if empty.size:
            raise Unmet(reason, int(margin[empty[0]]), int(empty[0]))
    for _ in range(_ROUNDS):
        table *= _over(rows, table.sum(1))[:, None]
        table *= _over(columns, table.sum(0))[None]
        off = np.abs(table.sum(1) - rows)
        if off.max(initial=0.0) <= _CLOSE * max(float(rows.sum()), 1.0):
            return table
    ended = _ended(table, rows, columns)
    if ended is not None:
        return ended
    worst = int(off.argmax())
    raise Unmet("apart", round(float(off[worst])), worst)


def _ended(table: Values, rows: Values, columns: Values) -> Values | None:
    """The same by Newton's method, from a table that is near; None where zeros leave the margins apart.

    Each row is kept at its margin; sought are the logarithms that columns are scaled by for which they come
    to theirs: where a convex function is least, of which their gaps are the slope.
    """
    logs = np.zeros(len(columns))
    for _ in range(_STEPS):
        scaled = table * np.exp(logs)
        shares = scaled * _over(np.ones(len(rows)), scaled.sum(1))[:, None]
        parts = rows[:, None] * shares
        gaps = columns - parts.sum(0)
        if np.abs(gaps).max(initial=0.0) <= _CLOSE * max(float(rows.sum()), 1.0):
            return parts
        slopes = np.diag(parts.sum(0)) - parts.T @ shares
        if np.abs(slopes).max() < _CLOSE:
            # Every row belongs to one column alone, and nothing moves any more.
            return None
        step = np.linalg.lstsq(slopes, gaps)[0]
        logs += step * min(1.0, _FARTHEST / max(float(np.abs(step).max()), _CLOSE))
    return None


def _over(margin: Values, sums: Values) -> Values:
    return np.divide(margin, sums, out=np.zeros(len(sums)), where=sums > 0)


def controlled(shares: Values, rows: Units, columns: Units, progress: Progress = no_progress) -> Units:
    """Whole numbers next to a table of shares whose rows and columns add up exactly (Cox, 1987).

    Each cell is its share rounded down or up, and of all such tables this one departs least in total: a flow
    of least cost. Rows take their largest remainders first; then what columns have too much moves on along
    shortest paths from column to column.

    Args:
        shares: (rows, columns) whose rows and columns add up to the margins but for rounding.
        rows, columns: the margins.
        tell: told the share that is balanced.

    Raises:
        Stopped: by way of `tell`.
        Unmet: no such table "stands"; `place` is the column that gives.
    """
    if shares.shape[1] > shares.shape[0]:
        return controlled(shares.T, columns, rows, progress).T
    floors = np.floor(shares + _WHOLE)
    left = np.clip(shares - floors, 0.0, 1.0)
    left[left <= _WHOLE] = 0.0
    up = _by_rows(left, rows - floors.sum(1).astype(np.int64))
    excess = up.sum(0) - (columns - floors.sum(0).astype(np.int64))
    if excess.any():
        _balance(left, up, excess, progress)
    return (floors + up).astype(np.int64)


def _by_rows(left: Values, many: Units) -> Units:
    """(rows, columns) 1 for the cells of each row that go up: so many of the largest remainders."""
    order = np.argsort(-left, axis=1, kind="stable")
    up = np.zeros(left.shape, np.int64)
    np.put_along_axis(up, order, (np.arange(left.shape[1]) < many[:, None]).astype(np.int64), axis=1)
    return up


def _balance(left: Values, up: Units, excess: Units, progress: Progress) -> None:
    """Move ups from columns that have too many to those that have too few, at the least departure."""
    moves, most = _Moves(left, up), max(int(np.abs(excess).sum()), 1)
    while excess.any():
        progress(1 - int(np.abs(excess).sum()) / most)
        path = moves.shortest(excess > 0, excess < 0)
        if not path:
            raise Unmet("stands", int(np.abs(excess).sum()) // 2, int(excess.argmax()))
        many = moves.take(path, min(int(excess[path[0]]), -int(excess[path[-1]])))
        excess[path[0]] -= many
        excess[path[-1]] += many


@dataclass(eq=False, slots=True)
class _Moves:
    """What it costs to move an up from one column to another, at the row where that costs least.

    Attributes:
        cost, row: (columns, columns) the least of remainder left less remainder taken, and its row.
    """

    left: Values
    up: Units
    cost: Values = field(init=False)
    row: Units = field(init=False)

    def __post_init__(self) -> None:
        columns = self.left.shape[1]
        self.cost, self.row = np.full((columns, columns), np.inf), np.full((columns, columns), -1)
        for one in range(columns):
            self._find(one, slice(None))

    def _find(self, one: int, others: slice | Units) -> None:
        """The cheapest rows to move an up on from a column."""
        rows = np.flatnonzero(self.up[:, one] > 0)
        self.cost[one, others], self.row[one, others] = np.inf, -1
        if not rows.size:
            return
        own = self.left[rows][:, others]
        # Only what is no whole number can be rounded up.
        costs = np.where(
            (self.up[rows][:, others] > 0) | (own <= 0), np.inf, self.left[rows, one][:, None] - own
        )
        least = costs.argmin(0)
        self.cost[one, others] = costs[least, np.arange(costs.shape[1])]
        self.row[one, others] = rows[least]

    def shortest(self, sources: Mask, targets: Mask) -> list[int]:
        """The columns of the cheapest path (Bellman and Ford); empty where there is none."""
        columns = len(sources)
        far, came = np.where(sources, 0.0, np.inf), np.full(columns, -1)
        for _ in range(columns):
            through = far[:, None] + self.cost
            best = through.argmin(0)
            nearer = through[best, np.arange(columns)] < far - _WHOLE
            if not nearer.any():
                break
            far, came = np.where(nearer, through.min(0), far), np.where(nearer, best, came)
        ends = np.where(targets, far, np.inf)
        if np.isinf(ends.min()):
            return []
        path = [int(ends.argmin())]
        while came[path[-1]] >= 0:
            path.append(int(came[path[-1]]))
        return path[::-1]

    def take(self, path: list[int], most: int) -> int:
        """Move along a path in as many rows as cost no more, up to so many; find anew what that changes."""
        edges = list(itertools.pairwise(path))
        alike = [self._cheapest(*edge) for edge in edges]
        many = min(most, *map(len, alike))
        changed: set[int] = set()
        for (one, other), rows in zip(edges, alike, strict=True):
            self.up[rows[:many], one] -= 1
            self.up[rows[:many], other] += 1
            changed |= set(rows[:many].tolist())
        if len(changed) > _FEW:
            self.__post_init__()
            return many
        columns = np.arange(len(self.cost))
        for one in columns.tolist():
            stale = columns[np.isin(self.row[one], list(changed))]
            if stale.size:
                self._find(one, stale)
        for row in changed:
            self._offer(row)
        return many

    def _cheapest(self, one: int, other: int) -> Units:
        """The rows that an up can be moved in at the least cost."""
        can = (self.up[:, one] > 0) & (self.up[:, other] == 0) & (self.left[:, other] > 0)
        return np.flatnonzero(
            can & (self.left[:, one] - self.left[:, other] <= self.cost[one, other] + _WHOLE)
        )

    def _offer(self, row: int) -> None:
        """What a row that changed offers at a lower cost."""
        own, up = self.left[row], self.up[row] > 0
        cost = np.where(up[:, None] & ~up[None] & (own > 0)[None], own[:, None] - own[None], np.inf)
        lower = cost < self.cost
        self.cost[lower], self.row[lower] = cost[lower], row
