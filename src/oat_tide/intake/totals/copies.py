"""Lines that are exact copies of earlier ones, found by marks that only lines alike share."""

from __future__ import annotations

import itertools
import threading
from concurrent.futures import Future, ThreadPoolExecutor
from typing import Any
from weakref import WeakKeyDictionary

import numpy as np
import polars as pl
from numpy.typing import NDArray

from oat_tide.intake.cells.columns import marked
from oat_tide.intake.pace.runs import in_runs, runs
from oat_tide.intake.pace.stretches import shared
from oat_tide.intake.table import COUNT, MARKS, Table

_lock = threading.Lock()
_beside = ThreadPoolExecutor(1)
_found: WeakKeyDictionary[Table, Future[int]] = WeakKeyDictionary()
_FEW = 1 << 17
"""Lines of which two or so share a mark of 32 bits by chance."""
_FIRST_BITS = 16
"""Those of a short mark that tell which lines are to be looked at in full."""
_Places = slice | NDArray[np.int64]


class Marks:
    """A number a line that only lines alike share; with 64 bits, others hardly ever.

    It is the sum over the columns of the code of the cell, times an odd number of the column's own. The same
    sum with 32 bits is made and sorted in half the time.
    """

    def __init__(self, table: Table) -> None:
        self.height = table.height
        if COUNT in table.columns:
            # Totals of a server are no lines, and none is a copy.
            self._columns: list[NDArray[Any]] = [np.arange(table.height, dtype=np.uint64)]
        else:
            numbers = [_numbers(table, name) for name in table.columns if name not in MARKS]
            # Columns that are kept together share theirs.
            self._columns = list({id(each): each for each in numbers}.values())
        self._factors = _scattered(np.arange(len(self._columns), dtype=np.uint64)) | np.uint64(1)

    def of(self, some: _Places) -> NDArray[np.uint64]:
        """The marks of a few lines."""
        return self._added(some, self._factors)

    def short(self, some: _Places) -> NDArray[np.uint32]:
        """The last 32 bits of them."""
        return self._added(some, self._factors.astype(np.uint32))

    def all(self) -> NDArray[np.uint64]:
        """The marks of all lines."""
        found = np.empty(self.height, np.uint64)

        def put(stretches: list[slice]) -> None:
            for some in stretches:
                found[some] = self.of(some)

        shared(put, self.height)
        return found

    def _added(self, some: _Places, factors: NDArray[Any]) -> NDArray[Any]:
        first, *others = zip(self._columns, factors, strict=True)
        marks: NDArray[Any] = np.multiply(first[0][some], first[1], dtype=factors.dtype, casting="unsafe")
        for numbers, factor in others:
            marks += np.multiply(numbers[some], factor, dtype=factors.dtype, casting="unsafe")
        return marks


def _numbers(table: Table, name: str) -> NDArray[np.unsignedinteger[Any]]:
    """A number for the cell of each line, the same where the cell is."""
    if name in table.codes:
        return table.codes[name]
    column = table[name]
    return marked(column)[0] if column.dtype == pl.Categorical else column.hash().to_numpy()


def _scattered(numbers: NDArray[np.uint64]) -> NDArray[np.uint64]:
    """Numbers spread over all of 64 bits; the finalizer of SplitMix64 (Steele, Lea and Flood, 2014)."""
    with np.errstate(over="ignore"):
        mixed = (numbers + np.uint64(1)) * np.uint64(0x9E3779B97F4A7C15)
        mixed = (mixed ^ (mixed >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
        mixed = (mixed ^ (mixed >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
    return mixed ^ (mixed >> np.uint64(31))


def copies(table: Table) -> Future[int]:
    """How many lines are like an earlier one; each table is looked through once, beside all else."""
    with _lock:
        if table not in _found:
            _found[table] = _beside.submit(_copies, table)
        return _found[table]


def _copies(table: Table) -> int:
    marks = Marks(table)
    groups = itertools.pairwise((0, *_apart(table), table.height))
    return sum(_alike(marks, slice(*each)) for each in groups)


def _alike(marks: Marks, some: slice) -> int:
    """How many of some lines are like an earlier one of them."""
    if some.stop - some.start > 2 * _FEW:
        return len(_again(marks.all() if some.stop - some.start == marks.height else marks.of(some)))
    short = marks.short(some)
    again = _again(short)
    if not again.size:
        return 0
    after = np.uint32(32 - _FIRST_BITS)
    sharing = np.zeros(1 << _FIRST_BITS, bool)
    sharing[again >> after] = True
    suspected = sharing.take(short >> after, mode="clip")
    return len(_again(marks.of(np.flatnonzero(suspected) + some.start)))


def _again(marks: NDArray[np.unsignedinteger[Any]]) -> NDArray[np.unsignedinteger[Any]]:
    """Return the lines that repeat an earlier one, in order."""
    marks = np.sort(marks)
    again: NDArray[np.unsignedinteger[Any]] = marks[1:][marks[1:] == marks[:-1]]
    return again


def _apart(table: Table) -> list[int]:
    """Places that no two lines on either side of are alike: each date's lie together, or each product's."""
    for codes in table.codes.values():
        if not in_runs(codes):
            continue
        heads, _ = runs(codes)
        steps = np.searchsorted(heads, np.arange(_FEW, len(codes), _FEW))
        if len(np.unique(codes[heads])) == len(heads) > 1:
            return [int(head) for head in np.unique(heads[steps[steps < len(heads)]])]
    return []
