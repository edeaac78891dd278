"""Lines as plain arrays, and their sums by day and series."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

_MOST_CELLS = 50_000_000
_AT_ONCE = 1 << 17
"""Lines looked at together: few enough to stay near the processor."""


@dataclass(frozen=True, eq=False, slots=True)
class Lines:
    """The lines of a source, a value a line.

    Attributes:
        day: day numbers.
        key: places among the series.
        units: whole minor units.
        good: whether nothing speaks against it.
        used: whether it makes the history; good lines of other scenarios do not.
        counts: how many lines a server added up in it; None where each stands for itself.
    """

    day: NDArray[np.int32]
    key: NDArray[np.int32]
    units: NDArray[np.int64]
    good: NDArray[np.bool_]
    used: NDArray[np.bool_]
    counts: NDArray[np.int64] | None


@dataclass(frozen=True, eq=False, slots=True)
class Totals:
    """Sums by day and series. Attributes: day numbers, places of keys, whole minor units, lines added up."""

    day: NDArray[np.int64]
    key: NDArray[np.int64]
    units: NDArray[np.int64]
    count: NDArray[np.int64]


def totals(lines: Lines, units: NDArray[np.int64], mask: NDArray[np.bool_]) -> Totals:
    """Sums of some of the lines, by day and then by series; at least one line is asked for."""
    day, key, counts = lines.day, lines.key, lines.counts
    if not mask.all():
        day, key, units = day[mask], key[mask], units[mask]
        counts = None if counts is None else counts[mask]
    first, series = int(day.min()), int(key.max()) + 1
    span = int(day.max()) - first + 1
    cells = (day - first).astype(np.int64)
    cells *= series
    cells += key
    if span * series <= _MOST_CELLS:
        many = np.bincount(cells, counts, span * series)
        held = np.flatnonzero(many)
        # Sums below 2**53 are exact in doubles.
        added, many = np.bincount(cells, units, span * series)[held], many[held]
    else:
        held, inverse = np.unique(cells, return_inverse=True)
        added, many = np.bincount(inverse, units), np.bincount(inverse, counts)
    days, keys = np.divmod(held, series)
    return Totals(days + first, keys, np.rint(added).astype(np.int64), np.rint(many).astype(np.int64))


def gathered(table: NDArray[Any], places: NDArray[Any]) -> NDArray[Any]:
    """The entries of a table at many places, all of them within it."""
    out = np.empty(len(places), table.dtype)
    for start in range(0, len(places), _AT_ONCE):
        some = slice(start, start + _AT_ONCE)
        np.take(table, places[some], out=out[some], mode="clip")
    return out


def counted(places: NDArray[Any], size: int) -> NDArray[np.int64]:
    """How often each place below `size` comes."""
    out = np.zeros(size, np.int64)
    step = max(_AT_ONCE, 4 * size)
    for start in range(0, len(places), step):
        out += np.bincount(places[start : start + step], minlength=size)
    return out
