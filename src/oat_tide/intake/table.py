"""Lines of text as they are kept: columns of few values by small codes until somebody asks for their text."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property, partial
from typing import Any

import numpy as np
import polars as pl
from numpy.typing import NDArray

from oat_tide.intake.pace.stretches import gathered

ROW, TORN = "\N{PILCROW SIGN}row", "\N{PILCROW SIGN}torn"
"""Beside the columns of a file: the row number, and the whole text of a line that does not fit."""
FILE, COUNT = "\N{PILCROW SIGN}file", "\N{PILCROW SIGN}count"
"""The place of the line's file among those read, and how many lines stand behind a total of a server."""
MARKS = (ROW, TORN, FILE, COUNT)
MARK_TYPES = {ROW: pl.Int64, TORN: pl.Categorical, FILE: pl.UInt16, COUNT: pl.Int64}


@dataclass(frozen=True, eq=False)
class Table:
    """Lines of text.

    Attributes:
        columns: their names in order, the marks among them.
        height: how many lines there are.
        plain: columns as they are, by name. Without TORN and FILE no line is torn, and all are of one file.
        counted_from: the row of the first line, where all others follow it and there is no ROW.
        codes: of the columns that are kept so, a small whole number a line.
        texts: those that the codes stand for, all columns together; the last is null, for an empty cell.
        meant: of columns that are kept together and share their codes, the place among the texts of each.
    """

    columns: tuple[str, ...]
    height: int
    plain: Mapping[str, pl.Series]
    codes: Mapping[str, NDArray[np.unsignedinteger[Any]]] = field(default_factory=dict)
    texts: pl.Series = field(default_factory=partial(pl.Series, [None], dtype=pl.String))
    meant: Mapping[str, NDArray[np.unsignedinteger[Any]]] = field(default_factory=dict)
    counted_from: int = 1
    _unfolded: dict[str, pl.Series] = field(default_factory=dict, init=False)

    @classmethod
    def of(cls, frame: pl.DataFrame) -> Table:
        """A table of columns as they are."""
        return cls(tuple(frame.columns), frame.height, {name: frame[name] for name in frame.columns})

    def __getitem__(self, name: str) -> pl.Series:
        """A column; one of codes becomes text, and stays so."""
        if name in self.plain:
            return self.plain[name]
        if name not in self._unfolded:
            self._unfolded[name] = self._unfold(name).alias(name)
        return self._unfolded[name]

    @property
    def frame(self) -> pl.DataFrame:
        """Return all columns."""
        return pl.DataFrame([self[name] for name in self.columns])

    @cached_property
    def torn(self) -> NDArray[np.bool_] | None:
        """Which lines are torn; None where none is."""
        torn = self.plain.get(TORN)
        return None if torn is None or torn.null_count() == len(torn) else torn.is_not_null().to_numpy()

    @property
    def whole(self) -> int:
        """How many lines are not torn."""
        return self.height - (0 if self.torn is None else int(np.count_nonzero(self.torn)))

    def whole_lines(self, some: slice, columns: Iterable[str] = ()) -> pl.DataFrame:
        """Return some of the complete lines, with all columns or some."""
        whole = range(self.height) if self.torn is None else np.flatnonzero(~self.torn)
        return self.lines(np.array(whole[some], np.int64), columns)

    def lines(self, at: NDArray[np.int64], columns: Iterable[str] = ()) -> pl.DataFrame:
        """The lines at some places, all columns or some."""
        return pl.DataFrame([self._cells(name, at).alias(name) for name in columns or self.columns])

    def trimmed(self) -> Table:
        """Return the table without marks that can be implied."""
        plain = dict(self.plain)
        first = int(plain[ROW][0]) if ROW in plain and self.height else self.counted_from
        counted = replace(self, counted_from=first)
        if ROW in plain and plain[ROW].equals(counted._count):
            del plain[ROW]
        if TORN in plain and self.torn is None:
            del plain[TORN]
        return replace(counted, plain=plain)

    @property
    def _count(self) -> pl.Series:
        """The rows, where they follow one another."""
        return pl.int_range(self.counted_from, self.counted_from + self.height, eager=True)

    def places(self, name: str) -> NDArray[np.integer]:
        """The place among the texts of each code of a column."""
        return self.meant[name] if name in self.meant else np.arange(len(self.texts))

    def _cells(self, name: str, at: NDArray[np.int64]) -> pl.Series:
        """The cells of a column at some places."""
        if name in self.plain:
            return self.plain[name].gather(at)
        if name in self.codes:
            return self.texts.gather(self.places(name)[self.codes[name][at]]).cast(pl.Categorical)
        return _implied(name, len(at), at + self.counted_from)

    def _unfold(self, name: str) -> pl.Series:
        if name not in self.codes:
            return _implied(name, self.height, self._count)
        codes, places = self.codes[name], self.places(name)
        # The engine knows texts by numbers of its own, while a column has them.
        known = self.texts.cast(pl.Categorical)
        cells = pl.Series(gathered((known.to_physical().fill_null(0).to_numpy()[places], codes)))
        blank = gathered((places == len(self.texts) - 1, codes))
        cells = cells.set(pl.Series(blank), None) if blank.any() else cells
        return cells.cat.to(pl.Categorical)


def known_texts(many: int) -> pl.Series:
    """The engine's texts by its codes below `many`, and null after them."""
    texts = pl.int_range(many, dtype=pl.UInt32, eager=True).cat.to(pl.Categorical).cast(pl.String)
    return texts.extend_constant(None, 1)


def _implied(name: str, lines: int, rows: pl.Series | NDArray[np.int64]) -> pl.Series:
    """A mark that is not kept."""
    if name == ROW:
        return pl.Series(rows, dtype=pl.Int64)
    return pl.repeat(0 if name == FILE else None, lines, dtype=MARK_TYPES[name], eager=True)
