"""Columns of few values kept by codes: a quarter of the memory, and each value is looked at once.

The engine's own way from text to codes takes about 40 ns a cell. Hashes take 3 to 6 ns and a look into a
sparse table as much again, so columns are coded by the hashes of their values. Hashes have 64 bits: among
20,000 values two would be taken for one with a chance of one in 10**11.
"""

from __future__ import annotations

import functools
import operator
import threading
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import polars as pl
from numpy.typing import NDArray

_Places = NDArray[np.int64]
Codes = NDArray[np.unsignedinteger[Any]]
"""The engine's codes in 16 bits where they fit, else in 32; the last number of all is an empty cell.

Of columns that are coded together they number what stands in all of these.
"""
Together = tuple[str, ...]
"""Columns that are coded together, such as products and areas; most are coded alone."""
_NONE = np.iinfo(np.uint32).max
_UNKNOWN = _NONE - 1
"""For no code and for one not met yet; in 16 bits they are the last two numbers as well."""
_MOST_NEAR = 1 << 16
"""Numbers within which a code for each costs next to nothing."""
_WHOLE = (pl.Int16, pl.Int32, pl.Int64, pl.UInt16, pl.UInt32, pl.Date)
_NO_TEXTS = pl.Series(dtype=pl.Categorical)
_PER_UNIT = 100
"""Parts of one that prices and amounts are whole numbers of."""
_AT_ONCE = 1 << 16
"""Cells looked up together: few enough to stay near the processor."""
_GLIMPSE = 512
"""Cells that tell whether values come in runs."""
_MOST_TOGETHER, _FEWEST_LINES, _SPARE_TOGETHER = 1 << 12, 16, 8
"""Combinations in a sample, and lines for each, that speak for coding together; many times as many end it."""
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
        found[is_the_last(codes, but)] = _NONE - but
    return found


def _small(codes: Codes) -> Codes:
    """Codes in 16 bits where they fit."""
    known = codes[codes < _UNKNOWN]
    return codes.astype(np.uint16) if known.max(initial=0) < _MOST_NEAR - 2 else codes


@dataclass(frozen=True, eq=False, slots=True)
class _Book:
    """What is known of a column, or of some together.

    Attributes:
        hashes: of the values, sorted.
        codes: of each value, _NONE where it is empty.
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

    def look_up(self, hashes: Sequence[NDArray[np.uint64]]) -> tuple[Codes, _Places, _Places]:
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

    def _find(self, hashes: NDArray[np.uint64], codes: Codes, room: NDArray[np.uint64]) -> _Places:
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


def in_runs(marks: NDArray[Any]) -> bool:
    """Whether values come in runs, such as the days of a file in order of time, by a glimpse of them."""
    some = marks[:_GLIMPSE]
    return 8 * int(np.count_nonzero(some[1:] != some[:-1])) < len(some)


def runs(marks: NDArray[Any]) -> tuple[_Places, _Places]:
    """Where runs of the same value begin, and their lengths."""
    heads = np.flatnonzero(np.concatenate(([True], marks[1:] != marks[:-1])))
    return heads, np.diff(heads, append=len(marks))


def _spans(starts: _Places, lengths: _Places) -> _Places:
    """All places of some runs."""
    before = np.cumsum(lengths) - lengths
    return np.repeat(starts - before, lengths) + np.arange(int(lengths.sum()))


def _book(hashes: NDArray[np.uint64], codes: Codes, texts: pl.DataFrame) -> _Book:
    hashes, first = np.unique(hashes, return_index=True)
    bits = min(len(hashes).bit_length() + _SPARE_BITS, _MOST_BITS)
    shift = np.uint64(64 - bits)
    # An empty slot holds what could only stand in another one.
    slots = ~np.arange(1 << bits, dtype=np.uint64) << shift
    codes = _small(codes)
    slot_codes = np.zeros(1 << bits, codes.dtype)
    at = hashes >> shift
    slots[at], slot_codes[at] = hashes, codes[first]
    return _Book(hashes, codes[first], slots, slot_codes, shift, texts)


def _no_book(part: Together) -> _Book:
    return _book(
        np.zeros(0, np.uint64),
        np.zeros(0, np.uint32),
        pl.DataFrame(schema=dict.fromkeys(part, pl.Categorical)),
    )


@dataclass(frozen=True, eq=False, slots=True)
class _Near:
    """What is known of a column of dates, whole numbers or hundredths that lie near each other.

    Attributes:
        first: the number that the first code is for.
        codes: of each number from there on, _UNKNOWN where it has not come yet.
        texts: of the codes.
    """

    first: int
    codes: Codes
    texts: pl.Series

    def look_up(self, numbers: NDArray[np.integer]) -> Codes:
        """Codes of numbers, _UNKNOWN where they have not come yet."""
        codes = np.empty(len(numbers), self.codes.dtype)
        room = np.empty(_AT_ONCE, np.int64)
        for start in range(0, len(numbers), _AT_ONCE):
            some = slice(start, start + _AT_ONCE)
            places = room[: len(numbers[some])]
            # In 64 bits: numbers of 16 can lie further apart than those tell.
            np.subtract(numbers[some], self.first, out=places, dtype=np.int64)
            np.take(self.codes, places, out=codes[some], mode="clip")
        return codes

    def with_room(self, low: int, high: int) -> _Near:
        """The same with a place for all numbers from one to another."""
        first, last = self.first, self.first + len(self.codes) - 1
        if first <= low and high <= last:
            return self
        unknown = np.array(_UNKNOWN, np.uint32).astype(self.codes.dtype)
        codes: Codes = np.full(max(high, last) - min(low, first) + 1, unknown)
        start = first - min(low, first)
        codes[start : start + len(self.codes)] = self.codes
        return _Near(min(low, first), codes, self.texts)


def _stretches(column: pl.Series) -> list[NDArray[Any]]:
    """The cells of a column, a few at a time."""
    chunks = [chunk.to_numpy() for chunk in column.get_chunks()]
    return [chunk[at : at + _AT_ONCE] for chunk in chunks for at in range(0, len(chunk), _AT_ONCE)]


def highest_code(columns: Iterable[pl.Series]) -> int:
    """The highest of the engine's codes in some Categorical columns; -1 for none."""
    highest = [column.to_physical().max() for column in columns]
    return max((int(code) for code in highest if code is not None), default=-1)  # type: ignore[arg-type]


def _mark(part: Together) -> pl.Expr:
    """A hash of what stands in some columns together."""
    return functools.reduce(operator.add, (pl.col(name).hash(place) for place, name in enumerate(part)))


def _worth_together(sample: pl.DataFrame, different: Mapping[str, int]) -> Together:
    """Columns of text with so few combinations that they can be looked up as one; none for fewer than two.

    Args:
        different: the values of each column that are worth a code.
    """
    texts = [name for name in sorted(different, key=different.__getitem__) if sample[name].dtype == pl.String]
    glimpse = sample.head(_GLIMPSE).select(pl.col(texts).hash())
    most = min(sample.height // _FEWEST_LINES, _MOST_TOGETHER)
    found: Together = ()
    for name in (name for name in texts if not in_runs(glimpse[name].to_numpy())):
        more = (*found, name)
        if different[name] > most or sample.select(_mark(more).n_unique()).item() > most:
            break
        found = more
    return found if len(found) > 1 else ()


def _numbers(column: pl.Series) -> NDArray[np.integer] | None:
    """Dates and whole numbers as they are, figures of at most two decimals in hundredths; None for others."""
    if column.dtype in _WHOLE:
        return column.to_physical().to_numpy()
    if column.dtype != pl.Float64:
        return None
    low, high = (float(edge) for edge in (column.min(), column.max()))  # type: ignore[arg-type]
    if not _PER_UNIT * max(high, -low, high - low) < _MOST_NEAR:
        return None
    found = np.empty(len(column), np.int32)
    room = np.empty((2, _AT_ONCE))
    start = 0
    for some in _stretches(column):
        parts, back = room[:, : len(some)]
        np.rint(np.multiply(some, _PER_UNIT, out=parts), out=parts)
        if not np.array_equal(np.divide(parts, _PER_UNIT, out=back), some):
            return None
        found[start : start + len(some)] = parts
        start += len(some)
    return found


def has_few(different: int, lines: int) -> bool:
    """Whether there are five lines a value or more."""
    return 5 * different <= lines


class Coding:
    """The codes of the columns of few values in a table that comes in pieces, from several threads maybe."""

    def __init__(self, sample: pl.DataFrame, told: Mapping[str, pl.Expr]) -> None:
        """
        Args:
            sample: the first lines, by which columns have few values.
            told: by column, its values as text, null where empty; columns that are not told stay out of it.
        """
        different = sample.select(pl.col(list(told)).n_unique()).to_dicts() if told else [{}]
        few = {name: many for name, many in different[0].items() if has_few(many, sample.height)}
        self._told = {name: told[name] for name in few}
        self._together = _worth_together(sample, few)
        parts = [*((name,) for name in few), self._together]
        self._books = {part: _no_book(part) for part in parts if part}
        self._near: dict[str, _Near] = {}
        self._far: set[str] = set()
        self._learning = threading.Lock()
        self.codes(sample)

    @property
    def columns(self) -> tuple[str, ...]:
        """Those that are coded."""
        return tuple(self._told)

    @property
    def parts(self) -> tuple[Together, ...]:
        """The same, by which are coded together."""
        together = self._together
        alone = [(name,) for name in self.columns if name not in together]
        return (together, *alone) if together else tuple(alone)

    def codes(self, frame: pl.DataFrame) -> dict[Together, Codes]:
        """What stands for the text of these columns in each line."""
        parts = self.parts
        near: dict[Together, Codes | None] = {
            part: self._of_near(frame[part[0]]) for part in parts if len(part) == 1
        }
        hashed = [part for part in parts if near.get(part) is None]
        hashes = frame.select(_mark(part).alias(part[0]) for part in hashed)
        coded = {part: self._of_hashes(frame.select(part), hashes[part[0]]) for part in hashed}
        return {part: codes for part, codes in near.items() if codes is not None} | coded

    @property
    def most(self) -> int:
        """What all codes so far are below."""
        books, near = self._books.values(), self._near.values()
        return 1 + highest_code(
            [*(texts for book in books for texts in book.texts), *(known.texts for known in near)]
        )

    def meant(self, part: Together) -> dict[str, NDArray[np.uint32]]:
        """The engine's codes by those of columns that are coded together, of each of them."""
        told = self._books[part].texts
        return {text.name: np.array(text.to_physical().fill_null(_NONE)) for text in told}

    def may_be_empty(self, name: str) -> bool:
        """Whether a column has had an empty cell."""
        return any(book.texts[name].null_count() for part, book in self._books.items() if name in part)

    def _of_hashes(self, values: pl.DataFrame, hashes: pl.Series) -> Codes:
        """The codes of the cells of columns by their hashes."""
        codes, begins, lengths = self._books[tuple(values.columns)].look_up(_stretches(hashes))
        if begins.size:
            new = self._learnt(values.select(pl.all().gather(begins)))
            codes = codes if codes.dtype == new.dtype else wide(codes)
            codes[_spans(begins, lengths)] = np.repeat(new, lengths)
        return codes

    def _of_near(self, column: pl.Series) -> Codes | None:
        """The codes of dates or numbers that lie near each other; None for any other column."""
        if column.name in self._far or column.null_count() or not len(column):
            return None
        numbers = _numbers(column)
        if numbers is None:
            self._far.add(column.name)
            return None
        if in_runs(numbers):
            heads, lengths = runs(numbers)
            codes = self._of_numbers(column.name, column.dtype, numbers[heads])
            return None if codes is None else np.repeat(codes, lengths)
        return self._of_numbers(column.name, column.dtype, numbers)

    def _of_numbers(self, name: str, kind: pl.DataType, numbers: NDArray[np.integer]) -> Codes | None:
        """The codes of numbers; None where they do not lie near each other."""
        low, high = int(numbers.min()), int(numbers.max())
        known = self._near.get(name) or _Near(low, np.zeros(0, np.uint32), _NO_TEXTS)
        if max(high - known.first, known.first + len(known.codes) - low) >= _MOST_NEAR:
            return None
        codes = known.with_room(low, high).look_up(numbers)
        unknown = is_the_last(codes, 1)
        if unknown.any():
            new = low + np.flatnonzero(np.bincount(numbers[unknown].astype(np.int64) - low))
            codes = self._met(name, kind, new, known).look_up(numbers)
        return codes

    def _met(self, name: str, kind: pl.DataType, numbers: NDArray[np.integer], known: _Near) -> _Near:
        """What is known of a column with the codes of numbers that have not come before."""
        with self._learning:
            known = self._near.get(name, known)
            roomy = known.with_room(int(numbers[0]), int(numbers[-1]))
            places = numbers.astype(np.int64) - roomy.first
            new = is_the_last(roomy.codes[places], 1)
            # The engine multiplies by a hundredth where this divides by a hundred, as `_numbers` does.
            values = numbers[new] / _PER_UNIT if kind == pl.Float64 else numbers[new]
            told = self._texts_of(pl.Series(name, values).cast(kind))
            codes = wide(roomy.codes)
            codes[places[new]] = told.to_physical().to_numpy()
            codes = _small(codes)
            met = self._near[name] = _Near(roomy.first, codes, pl.concat((roomy.texts, told.alias(""))))
        return met

    def _learnt(self, values: pl.DataFrame) -> Codes:
        """The codes of values that were not known."""
        part = tuple(values.columns)
        marks = values.select(_mark(part).alias("")).to_series()
        with self._learning:
            book = self._books[part]
            first = marks.arg_unique()
            told = [self._texts_of(column.gather(first)) for column in values]
            texts = pl.concat((book.texts, pl.DataFrame(told)))
            new = (
                told[0].to_physical().fill_null(_NONE).to_numpy()
                if len(part) == 1
                else np.arange(book.texts.height, texts.height, dtype=np.uint32)
            )
            hashes = np.concatenate((book.hashes, marks.gather(first).to_numpy()))
            book = _book(hashes, np.concatenate((wide(book.codes), new)), texts)
            self._books[part] = book
            if len(part) > 1 and len(book.hashes) > _SPARE_TOGETHER * _MOST_TOGETHER:
                # The first lines promised fewer.
                self._together = ()
        return book.look_up([marks.to_numpy()])[0]

    def _texts_of(self, distinct: pl.Series) -> pl.Series:
        told = self._told[distinct.name].cast(pl.String).cast(pl.Categorical)
        return distinct.to_frame().select(told.alias(distinct.name)).to_series()
