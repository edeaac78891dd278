"""Columns of few values kept by codes: a quarter of the memory, and each value is looked at once."""

from __future__ import annotations

import functools
import operator
import threading
from collections.abc import Iterable, Mapping

import numpy as np
import polars as pl
from numpy.typing import NDArray

from oat_tide.intake.cells.books import (
    AT_ONCE,
    MOST_NEAR,
    NONE,
    Codes,
    Near,
    book_of,
    is_the_last,
    no_book,
    small,
    stretches,
    wide,
)
from oat_tide.intake.pace.runs import GLIMPSE, in_runs, runs, spans

Together = tuple[str, ...]
"""Columns that are coded together, such as products and areas; most are coded alone."""
_WHOLE = (pl.Int16, pl.Int32, pl.Int64, pl.UInt16, pl.UInt32, pl.Date)
_NO_TEXTS = pl.Series(dtype=pl.Categorical)
_PER_UNIT = 100
"""Parts of one that prices and amounts are whole numbers of."""
_MOST_PARTS = 1 << 31
"""What a number of 32 bits holds of them."""
_MOST_TOGETHER, _FEWEST_LINES, _SPARE_TOGETHER = 1 << 12, 16, 8
"""Combinations in a sample, and lines for each, that speak for coding together; many times as many end it."""


def highest_code(columns: Iterable[pl.Series]) -> int:
    """The highest of the engine's codes in some Categorical columns; -1 for none."""
    highest = [column.to_physical().max() for column in columns]
    return max((int(code) for code in highest if code is not None), default=-1)  # type: ignore[arg-type]


def _mark(part: Together) -> pl.Expr:
    """A hash of what stands in some columns together."""
    return functools.reduce(operator.add, (pl.col(name).hash(place) for place, name in enumerate(part)))


def _first_alike(texts: pl.DataFrame) -> NDArray[np.uint32]:
    """Return for each row the index of the first equal row."""
    rows = np.column_stack([text.to_physical().fill_null(NONE).to_numpy() for text in texts])
    _, first, which = np.unique(rows, axis=0, return_index=True, return_inverse=True)
    return first[which.ravel()].astype(np.uint32)


def _worth_together(sample: pl.DataFrame, different: Mapping[str, int]) -> Together:
    """Columns of text with so few combinations that they can be looked up as one; none for fewer than two.

    Args:
        different: the values of each column that are worth a code.
    """
    texts = [name for name in sorted(different, key=different.__getitem__) if sample[name].dtype == pl.String]
    glimpse = sample.head(GLIMPSE).select(pl.col(texts).hash())
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
    if not (_PER_UNIT * (high - low) < MOST_NEAR and _PER_UNIT * max(high, -low) < _MOST_PARTS):
        return None
    found = np.empty(len(column), np.int32)
    room = np.empty((2, AT_ONCE))
    start = 0
    for some in stretches(column):
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
        self._books = {part: no_book(part) for part in parts if part}
        self._near: dict[str, Near] = {}
        self._far: set[str] = set()
        self._learning = threading.Lock()
        self.codes(sample)

    @property
    def columns(self) -> tuple[str, ...]:
        """Return the names of the coded columns."""
        return tuple(self._told)

    @property
    def parts(self) -> tuple[Together, ...]:
        """Return the coded columns in groups that share one coding."""
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
        return {text.name: np.array(text.to_physical().fill_null(NONE)) for text in told}

    def may_be_empty(self, name: str) -> bool:
        """Whether a column has had an empty cell."""
        return any(book.texts[name].null_count() for part, book in self._books.items() if name in part)

    def _of_hashes(self, values: pl.DataFrame, hashes: pl.Series) -> Codes:
        """The codes of the cells of columns by their hashes."""
        codes, begins, lengths = self._books[tuple(values.columns)].look_up(stretches(hashes))
        if begins.size:
            new = self._learnt(values.select(pl.all().gather(begins)))
            codes = codes if codes.dtype == new.dtype else wide(codes)
            codes[spans(begins, lengths)] = np.repeat(new, lengths)
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
        known = self._near.get(name) or Near(low, np.zeros(0, np.uint32), _NO_TEXTS)
        if max(high - known.first, known.first + len(known.codes) - low) >= MOST_NEAR:
            return None
        codes = known.with_room(low, high).look_up(numbers)
        unknown = is_the_last(codes, 1)
        if unknown.any():
            new = low + np.flatnonzero(np.bincount(numbers[unknown].astype(np.int64) - low))
            codes = self._met(name, kind, new, known).look_up(numbers)
        return codes

    def _met(self, name: str, kind: pl.DataType, numbers: NDArray[np.integer], known: Near) -> Near:
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
            codes = small(codes)
            met = self._near[name] = Near(roomy.first, codes, pl.concat((roomy.texts, told.alias(""))))
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
                told[0].to_physical().fill_null(NONE).to_numpy()
                if len(part) == 1
                else _first_alike(texts)[book.texts.height :]
            )
            hashes = np.concatenate((book.hashes, marks.gather(first).to_numpy()))
            book = book_of(hashes, np.concatenate((wide(book.codes), new)), texts)
            self._books[part] = book
            if len(part) > 1 and len(book.hashes) > _SPARE_TOGETHER * _MOST_TOGETHER:
                # The first lines promised fewer.
                self._together = ()
        return book.look_up([marks.to_numpy()])[0]

    def _texts_of(self, distinct: pl.Series) -> pl.Series:
        told = self._told[distinct.name].cast(pl.String).cast(pl.Categorical)
        return distinct.to_frame().select(told.alias(distinct.name)).to_series()
