"""Lookups and counts over many lines, a stretch at a time and in two threads."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cached_property
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from oat_tide.intake.pace.runs import in_runs, runs

_T = TypeVar("_T")
_AT_ONCE = 1 << 16
"""Lines looked at together: few enough to stay near the processor."""


@dataclass(frozen=True, eq=False)
class Spread:
    """A number a line that is looked up when somebody asks for it.

    Attributes:
        table: a number for each mark.
        marks: of the lines.
        held: which marks there are.
    """

    table: NDArray[Any]
    marks: NDArray[np.integer]
    held: NDArray[np.bool_]

    def __len__(self) -> int:
        return len(self.marks)

    def __getitem__(self, some: slice | NDArray[Any]) -> NDArray[Any]:
        """The numbers of some lines."""
        return self.table.take(self.marks[some], mode="clip")

    @property
    def dtype(self) -> np.dtype[Any]:
        """Return the type of the numbers."""
        return self.table.dtype

    @cached_property
    def all(self) -> NDArray[Any]:
        """The numbers of all lines; they are kept."""
        return gathered((self.table, self.marks))


Numbers = NDArray[Any] | Spread
"""A number a line, at hand or looked up when somebody asks for it."""


def at_hand(numbers: Numbers) -> NDArray[Any]:
    """The numbers of all lines."""
    return numbers.all if isinstance(numbers, Spread) else numbers


def edges(numbers: Numbers) -> tuple[int, int]:
    """The lowest and the highest; of at least one line."""
    different = numbers.table[numbers.held] if isinstance(numbers, Spread) else numbers
    return int(different.min()), int(different.max())


def gathered(*looked_up: tuple[NDArray[Any], NDArray[Any]], out: NDArray[Any] | None = None) -> NDArray[Any]:
    """Entries of tables at many places, added up over the tables.

    Args:
        looked_up: tables of one type, each with as many places, all of them within it.
        out: where to put them; it may be the places themselves.
    """
    (first, places), *others = looked_up
    into = np.empty(len(places), first.dtype) if out is None else out

    def gather(stretches: list[slice]) -> None:
        # Room for each stretch anew would take longer than the looks into the tables.
        room = np.empty(_AT_ONCE, first.dtype)
        for some in stretches:
            found = into[some]
            np.take(first, places[some], out=found, mode="clip")
            also = room[: len(found)]
            for table, more in others:
                np.take(table, more[some], out=also, mode="clip")
                found += also

    shared(gather, len(places))
    return into


def counted(places: NDArray[Any], size: int) -> NDArray[np.int64]:
    """How often each place below `size` comes."""
    if in_runs(places):
        heads, lengths = runs(places)
        return np.bincount(places[heads], lengths, size).astype(np.int64)

    def count(stretches: list[slice]) -> NDArray[np.int64]:
        out = np.zeros(size, np.int64)
        for some in stretches:
            out += np.bincount(places[some], minlength=size)
        return out

    return sum(shared(count, len(places), 4 * size), np.zeros(size, np.int64))


def at_once(*tasks: Callable[[], _T]) -> list[_T]:
    """What some tasks give, done in two threads."""
    with ThreadPoolExecutor(2) as both:
        return list(both.map(lambda task: task(), tasks))


def _stretches(count: int, least: int = 0) -> list[slice]:
    step = max(_AT_ONCE, least)
    return [slice(start, start + step) for start in range(0, count, step)]


def shared(work: Callable[[list[slice]], _T], count: int, least: int = 0) -> list[_T]:
    """What two threads make of the two halves of many lines, each a stretch at a time.

    Args:
        count: of the lines; least: lines in a stretch.
    """
    stretches = _stretches(count, least)
    half = len(stretches) // 2
    if half < 4:
        return [work(stretches)]
    with ThreadPoolExecutor(2) as both:
        return list(both.map(work, (stretches[:half], stretches[half:])))
