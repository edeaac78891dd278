"""Lines that come in pieces, put together as a table whose columns of few values are kept by codes."""

from __future__ import annotations

import numpy as np
import polars as pl

from oat_tide.intake.cells.books import Codes, is_the_last, wide
from oat_tide.intake.cells.codes import Coding, Together
from oat_tide.intake.table import FILE, ROW, TORN, Table, known_texts


class Gathering:
    """The lines so far."""

    def __init__(self, coding: Coding, rows: int = 0) -> None:
        """
        Args:
            coding: of the columns of few values.
            rows: how many lines will come, where that is known.
        """
        self._coding = coding
        self._codes: dict[Together, Codes] = {part: np.empty(rows, np.uint16) for part in coding.parts}
        self._frames: list[pl.DataFrame] = []
        self.height = 0

    def add(self, codes: dict[Together, Codes], plain: pl.DataFrame) -> None:
        """Add lines.

        Args:
            codes: of the columns of few values; plain: all other columns.
        """
        if codes.keys() != self._codes.keys():
            # Columns that were coded together are not any more.
            codes, self._codes = self._alone(codes), self._alone(self._codes)
        for part, some in codes.items():
            self._codes[part] = _put(self._codes[part], self.height, some)
        self._frames.append(plain)
        self.height += max(plain.height, *map(len, codes.values()), 0)

    def table(self, names: dict[str, str]) -> Table:
        """Return all lines as one table.

        Args:
            names: of the columns, by what they were called so far.
        """
        others = {name: told for name, told in names.items() if name not in self._coding.columns}
        plain = pl.concat(self._frames, rechunk=True).rename(others)
        texts = known_texts(self._coding.most)
        empty = len(texts) - 1
        codes: dict[str, Codes] = {}
        meant: dict[str, Codes] = {}
        for part, whole in self._codes.items():
            some = whole[: self.height]
            if len(part) > 1:
                told = self._coding.meant(part)
                meant |= {names[name]: _with_empty(each, empty) for name, each in told.items()}
            elif self._coding.may_be_empty(*part):
                some = _with_empty(some, empty)
            codes |= {names[name]: some for name in part}
        columns = (ROW, TORN, FILE, *names.values())
        cells = {name: plain[name] for name in plain.columns}
        return Table(columns, self.height, cells, codes, texts, meant).trimmed()

    def _alone(self, codes: dict[Together, Codes]) -> dict[Together, Codes]:
        """The codes of each column for itself."""
        found: dict[Together, Codes] = {}
        for part, some in codes.items():
            if len(part) == 1:
                found[part] = some
                continue
            # What will come has no code yet, and room for it is kept.
            told = self._coding.meant(part).items()
            found |= {(name,): each.take(some, mode="clip") for name, each in told}
        return found


def _put(codes: Codes, at: int, some: Codes) -> Codes:
    """The codes of a column with some of them put in their place."""
    if codes.dtype < some.dtype:
        codes = wide(codes)
    end = at + len(some)
    if end > len(codes):
        codes = np.concatenate((codes, np.empty(end - len(codes) // 2, codes.dtype)))
    codes[at:end] = some if codes.dtype == some.dtype else wide(some)
    return codes


def _with_empty(codes: Codes, empty: int) -> Codes:
    """Codes of a column with one of its own for empty cells."""
    if empty > np.iinfo(codes.dtype).max:
        codes = wide(codes)
    codes[is_the_last(codes)] = empty
    return codes
