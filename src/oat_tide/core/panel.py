"""Period series side by side, and what of them may be seen."""

from __future__ import annotations

import functools
from collections.abc import Hashable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.calendar import Grid

Values = NDArray[np.float64]
Key = tuple[str | None, ...]
"""One entry a dimension; None stands for all of it."""

PART = 1
"""Not complete, or begun before the data do: kept out of fits, windows and comparisons."""
FILLED = 2
"""No line lies in the period: nothing was sold."""


class Panel:
    """Series by periods, read-only. Equal and hashable by its stamp, the recipe it was made by.

    Attributes:
        stamp: whatever tells this panel from every other.
        grid: the periods.
        first: the first period.
        keys: one key a series.
        values: (series, periods) totals of the measure; NaN is "not known", for before the first line.
        lines: (series, periods) the number of lines added up.
        flags: (series, periods) PART and FILLED.
        scale: minor units in one unit of the measure; every value is a whole number of minor units.
    """

    __slots__ = ("first", "flags", "grid", "keys", "lines", "scale", "stamp", "values")

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
    ) -> None:
        self.stamp, self.grid, self.first, self.keys, self.scale = stamp, grid, first, keys, scale
        self.values, self.lines, self.flags = values, lines, flags
        for array in (values, lines, flags):
            array.flags.writeable = False

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Panel) and self.stamp == other.stamp

    def __hash__(self) -> int:
        return hash(self.stamp)

    @property
    def columns(self) -> int:
        """The number of periods."""
        return int(self.values.shape[1])

    def total(self, key: Key) -> Panel:
        """One series: the sum of all whose key fits, exact to the minor unit.

        A period is not known where none of the parts is known, and part where any of them is. With no
        fitting series every period is unknown.
        """
        fits = [i for i, own in enumerate(self.keys) if fits_key(own, key)]
        parts = self.values[fits]
        known = ~np.isnan(parts)
        whole_units = np.rint(np.where(known, parts, 0.0) * self.scale).sum(0)
        lines = self.lines[fits].sum(0)
        part = np.bitwise_or.reduce(self.flags[fits] & PART, axis=0, dtype=np.uint8)
        filled = np.where(known.any(0) & (lines == 0), FILLED, 0).astype(np.uint8)
        values = np.where(known.any(0), whole_units / self.scale, np.nan)
        return Panel(
            (self.stamp, key),
            self.grid,
            self.first,
            (key,),
            values[None],
            lines[None],
            (part | filled)[None],
            self.scale,
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
    """

    past: Panel
    later: Panel
    home: int

    @property
    def columns(self) -> int:
        """Periods in the data, past and later."""
        return self.past.columns + self.later.columns

    @property
    def moved_back(self) -> bool:
        """Whether the as-of stands before the last complete period."""
        return self.past.columns - 1 < self.home

    def all(self, name: str) -> NDArray[np.float64]:
        """(series, columns) `values`, `lines` or `flags` over past and later."""
        return np.concatenate([getattr(self.past, name), getattr(self.later, name)], axis=1)


@functools.lru_cache(64)
def level(panel: Panel, where: Key | None) -> Panel:
    """The series of one level, or with None every series of the panel."""
    return panel if where is None else panel.total(where)


@functools.lru_cache(256)
def sight(panel: Panel, where: Key | None, as_of: int, home: int) -> Sight:
    """What is seen with the as-of on a period.

    Args:
        as_of, home: periods; the last one of the past, and the one where the as-of is at home.
    """
    seen = level(panel, where)
    cut = min(max(as_of - panel.first + 1, 0), seen.columns)
    return Sight(seen.cut(0, cut), seen.cut(cut, seen.columns), home - panel.first)
