"""Wider steps under narrow columns: what the months, quarters or years in sight add up to."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import Days, Grid, Kind

WIDER: dict[Kind, tuple[Kind, ...]] = {
    "day": ("month", "quarter", "year"),
    # Weeks are parts of years, by their number, and of nothing between.
    "week": ("year",),
    "month": ("quarter", "year"),
    "quarter": ("year",),
}
"""What periods can be added up to; blocks of days are parts of nothing."""


@dataclass(frozen=True, eq=False, slots=True)
class WiderSteps:
    """Wider periods over the columns in sight.

    Attributes:
        kind: of the wider periods.
        names: of each, briefly.
        edges: the column that each begins with, and the one after the last; those there are.
        full: how many columns each has where the data hold all of it.
    """

    kind: Kind
    names: tuple[str, ...]
    edges: Days
    full: Days

    def sums(self, values: Values) -> tuple[Values, Days, Days]:
        """What is known in each, added up, in how many columns, and from which to which.

        Args:
            values: (columns,) of a row.

        Returns:
            (steps,) sums, NaN where nothing is known; (steps,) counts; (steps, 2) the first column that is
            known and the one after the last.
        """
        known = ~np.isnan(values[: self.edges[-1]])
        total = np.add.reduceat(np.where(known, values[: self.edges[-1]], 0.0), self.edges[:-1])
        held: NDArray[np.int64] = np.add.reduceat(known.astype(np.int64), self.edges[:-1])
        at = np.arange(known.size)
        first = np.minimum.reduceat(np.where(known, at, known.size), self.edges[:-1])
        last = np.maximum.reduceat(np.where(known, at, -1), self.edges[:-1])
        return np.where(held > 0, total, np.nan), held, np.column_stack((first, last + 1))


def steps_over(grid: Grid, origin: int, kind: Kind, first: int, stop: int, columns: int) -> WiderSteps | None:
    """The wider periods that lie over the columns from `first` to before `stop`; None for none.

    Args:
        origin: the period of column 0.
        columns: how many there are.
    """
    if stop <= first:
        return None
    begins, names = _wider(grid, kind, *_ends(grid, kind, origin + first, origin + stop - 1))
    starts = begins - origin
    return WiderSteps(kind, names, np.clip(starts, 0, columns), np.diff(starts))


def _ends(grid: Grid, kind: Kind, first: int, last: int) -> tuple[int, int]:
    """The wider periods that hold two periods."""
    if kind == "year":
        # Of weeks and patterns, a year is what the grid takes for one.
        low, high = grid.years([first, last])
        return int(low), int(high)
    wider = grid.of(kind)
    return wider.period(grid.first_day(first)), wider.period(grid.first_day(last))


def _wider(grid: Grid, kind: Kind, low: int, high: int) -> tuple[Days, tuple[str, ...]]:
    """The periods that wider ones begin with, and what these are called."""
    if kind == "year":
        begins = np.array([grid.year_first(year) for year in range(low, high + 2)])
        return begins, tuple(grid.year_label(year) for year in range(low, high + 1))
    wider = grid.of(kind)
    names = tuple(wider.short(period, 3) for period in range(low, high + 1))
    return grid.at(wider.first_days(np.arange(low, high + 2))), names
