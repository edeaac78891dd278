"""Lines as plain arrays, and their sums by day and series."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from oat_tide.intake.pace.stretches import Numbers, at_hand, at_once, edges, shared

_MOST_CELLS = 50_000_000
_SPARE_ROOM = 4
"""Cells a line, within which lines that lie together are added up on their own first."""


@dataclass(frozen=True, eq=False, slots=True)
class LineArrays:
    """The lines of a source, a value a line.

    Attributes:
        day: day numbers.
        key: places among the series.
        units: whole minor units, in 32 or 64 bits.
        rest: what those leave of the figures, in units; None where they leave nothing.
        good: whether nothing speaks against it.
        used: whether it makes the history; good lines of other scenarios do not.
        counts: how many lines a server added up in it; None where each stands for itself.
    """

    day: Numbers
    key: Numbers
    units: Numbers
    good: NDArray[np.bool_]
    used: NDArray[np.bool_]
    counts: NDArray[np.int64] | None
    rest: NDArray[np.float64] | None = None


@dataclass(frozen=True, eq=False, slots=True)
class Totals:
    """Sums by day and series, in this order.

    Attributes:
        day: day numbers.
        key: places of the series.
        units: whole minor units.
        count: lines added up.
        rest: what the units leave, in units; None for nothing.
    """

    day: NDArray[np.int32]
    key: NDArray[np.int32]
    units: NDArray[np.int64]
    count: NDArray[np.integer]
    rest: NDArray[np.float64] | None = None

    def figures(self, scale: float) -> NDArray[np.float64]:
        """What each comes to, in units."""
        return self.units / scale + (0.0 if self.rest is None else self.rest)


def totals(lines: LineArrays, mask: NDArray[np.bool_]) -> Totals:
    """Sums of some of the lines, by day and then by series; at least one line is asked for."""
    day, key, counts, units, rest = lines.day, lines.key, lines.counts, lines.units, lines.rest
    if not mask.all():
        day, key, units = day[mask], key[mask], units[mask]
        counts = None if counts is None else counts[mask]
        rest = None if rest is None else rest[mask]
    (first, last), (_, last_key) = edges(day), edges(key)
    series = last_key + 1
    size = (last - first + 1) * series
    compact = None
    if size > _MOST_CELLS:
        # Sorted and looked through: quicker than a hash where nearly every one is another.
        cells = np.sort(np.int64(series) * (at_hand(day) - first) + at_hand(key))
        compact = cells[np.concatenate(([True], cells[1:] != cells[:-1]))]
        size = len(compact)

    narrow = compact is None and counts is None and units.dtype == np.int32

    def add_up(stretches: list[slice]) -> tuple[slice, NDArray[np.int64], NDArray[np.integer]]:
        added = np.zeros(size, np.int64)
        many: NDArray[np.integer] = np.zeros(size, np.int32 if counts is None else np.int64)
        touched = slice(size, 0)
        for some in stretches:
            days = day[some]
            begin, end = int(days.min()), int(days.max()) + 1
            start, room = series * (begin - first), series * (end - begin)
            here = slice(start, start + room) if compact is None else slice(0, size)
            touched = slice(min(touched.start, here.start), max(touched.stop, here.stop))
            cells = (days - begin).astype(np.int64)
            cells *= series
            cells += key[some]
            if narrow and room <= _SPARE_ROOM * len(cells):
                # Lines of a few days; that many figures of 32 bits add up exactly in doubles.
                added[here] += np.bincount(cells, units[some], room).astype(np.int64)
                many[here] += np.bincount(cells, minlength=room)
                continue
            cells += start
            if compact is not None:
                cells = np.searchsorted(compact, cells)
            np.add.at(added, cells, units[some].astype(np.int64, copy=False))
            np.add.at(many, cells, np.int32(1) if counts is None else counts[some])
        return touched, added, many

    (_, added, many), *others = shared(add_up, len(day))
    for touched, more_added, more in others:
        # Where lines lie in order of time, each half of them has days of its own.
        added[touched] += more_added[touched]
        many[touched] += more[touched]
    held = many != 0
    left: NDArray[np.float64] | None = None
    if rest is not None:
        place = np.int64(series) * (at_hand(day) - first) + at_hand(key)
        place = place if compact is None else np.searchsorted(compact, place)
        left = np.bincount(place, rest, size)[held].astype(np.float64)
    if compact is not None:
        days, keys = (each.astype(np.int32) for each in np.divmod(compact[held], series))
        return Totals(days + np.int32(first), keys, added[held], many[held], left)
    by_day = held.reshape(-1, series)
    days, keys, added, many = at_once(
        lambda: np.repeat(np.arange(first, last + 1, dtype=np.int32), np.count_nonzero(by_day, axis=1)),
        lambda: np.broadcast_to(np.arange(series, dtype=np.int32), by_day.shape)[by_day],
        lambda: added[held],
        lambda: many[held],
    )
    return Totals(days, keys, added, many, left)
