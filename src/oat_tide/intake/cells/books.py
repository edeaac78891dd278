"""What is known of the values of columns that are kept by codes: looked up by hash, or by number.

The engine's own way from text to codes takes about 40 ns a cell. Hashes take 3 to 6 ns and a look into a
sparse table as much again, so columns are coded by the hashes of their values. Hashes have 64 bits: among
20,000 values two would be taken for one with a chance of one in 10**11.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import polars as pl
from numpy.typing import NDArray

from oat_tide.intake.pace.runs import Places, in_runs, runs

Codes = NDArray[np.unsignedinteger[Any]]
"""The engine's codes in 16 bits where they fit, else in 32; the last number of all is an empty cell.

Of columns that are coded together they number what stands in all of these.
"""
NONE = np.iinfo(np.uint32).max
UNKNOWN = NONE - 1
"""For no code and for one not met yet; in 16 bits they are the last two numbers as well."""
MOST_NEAR = 1 << 16
"""Numbers within which a code for each costs next to nothing."""
AT_ONCE = 1 << 16
"""Cells looked up together: few enough to stay near the processor."""
_SPARE_BITS, _MOST_BITS = 5, 20
"""A table dozens of times as long as its values gives nearly all of them a slot of their own."""


def is_the_last(codes: Codes, but: int = 0) -> NDArray[np.bool_]:
    """Which codes are the last number that there is in their type, or so many before it."""
    found: NDArray[np.bool_] = codes == np.iinfo(codes.dtype).max - but
    return found


def wide(codes: Codes) -> NDArray[np.uint32]:
    """Codes in 32 bits."""
    found = codes.astype(np.uint32)
    for but in range(2):
        found[is_the_last(codes, but)] = NONE - but
    return found


def small(codes: Codes) -> Codes:
    """Codes in 16 bits where they fit."""
    known = codes[codes < UNKNOWN]
    return codes.astype(np.uint16) if known.max(initial=0) < MOST_NEAR - 2 else codes


@dataclass(frozen=True, eq=False, slots=True)
class Book:
    """What is known of a column, or of some together.

    Attributes:
        hashes: of the values, sorted.
        codes: of each value, NONE where it is empty.
        slots: a table by the first bits of a hash.
        slot_codes: the codes that stand there.
        shift: the bits after those.
        texts: of each column; the engine forgets what codes stand for when no column has them any more.
    """

    hashes: NDArray[np.uint64]
    codes: Codes
    slots: NDArray[np.uint64]
    slot_codes: Codes
    shift: np.uint64
    texts: pl.DataFrame

    def look_up(self, hashes: Sequence[NDArray[np.uint64]]) -> tuple[Codes, Places, Places]:
        """Codes of hashes in several parts; where runs of values not known yet begin, and their lengths."""
        codes = np.empty(sum(map(len, hashes)), self.codes.dtype)
        begins, lengths = [np.zeros(0, np.int64)], [np.zeros(0, np.int64)]
        room = np.empty((2, max(map(len, hashes), default=0)), np.uint64)
        start = 0
        for some in hashes:
            found = codes[start : start + len(some)]
            if in_runs(some):
                heads, long = runs(some)
                told = np.empty(len(heads), codes.dtype)
                missing = self._find(some[heads], told, room)
                found[:] = np.repeat(told, long)
                missing, long = heads[missing], long[missing]
            else:
                missing = self._find(some, found, room)
                long = np.ones(len(missing), np.int64)
            begins.append(missing + start)
            lengths.append(long)
            start += len(some)
        return codes, np.concatenate(begins), np.concatenate(lengths)

    def _find(self, hashes: NDArray[np.uint64], codes: Codes, room: NDArray[np.uint64]) -> Places:
        """Put the codes of hashes in their places; gives the places of those not known.

        Args:
            room: two rows to work in, which to have anew each time would take longer than the work.
        """
        slot, there = room[:, : len(hashes)]
        np.right_shift(hashes, self.shift, out=slot)
        at = slot.view(np.int64)
        np.take(self.slot_codes, at, out=codes, mode="clip")
        np.take(self.slots, at, out=there, mode="clip")
        missed = np.flatnonzero(there != hashes)
        if missed.size and self.hashes.size:
            place = np.searchsorted(self.hashes, hashes[missed])
            known = self.hashes.take(place, mode="clip") == hashes[missed]
            codes[missed[known]] = self.codes[place[known]]
            missed = missed[~known]
        return missed


def book_of(hashes: NDArray[np.uint64], codes: Codes, texts: pl.DataFrame) -> Book:
    """A book of values; of hashes that come twice the first holds."""
    hashes, first = np.unique(hashes, return_index=True)
    bits = min(len(hashes).bit_length() + _SPARE_BITS, _MOST_BITS)
    shift = np.uint64(64 - bits)
    # An empty slot holds what could only stand in another one.
    slots = ~np.arange(1 << bits, dtype=np.uint64) << shift
    codes = small(codes)
    slot_codes = np.zeros(1 << bits, codes.dtype)
    at = hashes >> shift
    slots[at], slot_codes[at] = hashes, codes[first]
    return Book(hashes, codes[first], slots, slot_codes, shift, texts)


def no_book(columns: tuple[str, ...]) -> Book:
    """Nothing known yet of some columns."""
    return book_of(
        np.zeros(0, np.uint64),
        np.zeros(0, np.uint32),
        pl.DataFrame(schema=dict.fromkeys(columns, pl.Categorical)),
    )


@dataclass(frozen=True, eq=False, slots=True)
class Near:
    """What is known of a column of dates, whole numbers or hundredths that lie near each other.

    Attributes:
        first: the number that the first code is for.
        codes: of each number from there on, UNKNOWN where it has not come yet.
        texts: of the codes.
    """

    first: int
    codes: Codes
    texts: pl.Series

    def look_up(self, numbers: NDArray[np.integer]) -> Codes:
        """Codes of numbers, UNKNOWN where they have not come yet."""
        codes = np.empty(len(numbers), self.codes.dtype)
        room = np.empty(AT_ONCE, np.int64)
        for start in range(0, len(numbers), AT_ONCE):
            some = slice(start, start + AT_ONCE)
            places = room[: len(numbers[some])]
            # In 64 bits: numbers of 16 can lie further apart than those tell.
            np.subtract(numbers[some], self.first, out=places, dtype=np.int64)
            np.take(self.codes, places, out=codes[some], mode="clip")
        return codes

    def with_room(self, low: int, high: int) -> Near:
        """Return the book with room for all numbers of a range."""
        first, last = self.first, self.first + len(self.codes) - 1
        if first <= low and high <= last:
            return self
        unknown = np.array(UNKNOWN, np.uint32).astype(self.codes.dtype)
        codes: Codes = np.full(max(high, last) - min(low, first) + 1, unknown)
        start = first - min(low, first)
        codes[start : start + len(self.codes)] = self.codes
        return Near(min(low, first), codes, self.texts)


def stretches(column: pl.Series) -> list[NDArray[Any]]:
    """The cells of a column, a few at a time."""
    chunks = [chunk.to_numpy() for chunk in column.get_chunks()]
    return [chunk[at : at + AT_ONCE] for chunk in chunks for at in range(0, len(chunk), AT_ONCE)]
