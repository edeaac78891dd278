"""How the figures of a row are written: in units, thousands or millions, with the decimals of their size."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.working.number_format import all_whole, decimals_of, fixed
from oat_tide.stages.deck import Figure

SAID = {1.0: "", 1e3: "thousands", 1e6: "millions", 1e9: "billions"}
"""What figures are told in, by its size."""
_FROM = ((1e11, 1e9), (1e7, 1e6), (1e6, 1e3))
"""The largest figure from which a size is told in, and that size."""


@dataclass(frozen=True, slots=True)
class NumberStyle:
    """How the figures of a row are written.

    Attributes:
        size: what they are told in.
        decimals: of the figures told so.
        exact: decimals of the figures in full.
        signed: whether a plus is written.
    """

    size: float
    decimals: int
    exact: int
    signed: bool

    def text(self, value: float) -> str:
        """A figure as its cell says it; empty for NaN."""
        return fixed(value / self.size, self.decimals, plus=self.signed)

    def full(self, value: float) -> str:
        """Write a figure in full, not in thousands or millions."""
        return fixed(value, self.exact, plus=self.signed)


def largest_by_row(rows: Iterable[Figure], series: int) -> dict[str, float]:
    """The largest figure of each row, whichever its sign, by its name."""
    return {row.name: _top(row.values[series]) for row in rows}


def largest_by_unit(rows: Iterable[Figure], top: dict[str, float]) -> dict[str, float]:
    """The largest figure of the rows of each unit."""
    largest: dict[str, float] = {}
    for row in rows:
        largest[row.unit] = max(top[row.name], largest.get(row.unit, 0.0))
    return largest


def sizes(largest: dict[str, float]) -> dict[str, float]:
    """What rows of each unit are told in: those of one unit alike, so that they can be compared."""
    return {unit: 1.0 if unit == "%" else _size(top) for unit, top in largest.items()}


def in_size(name: str, size: float) -> str:
    """A label or unit with what its figures are told in: "Net revenue, millions"."""
    return f"{name}, {SAID[size]}" if size != 1.0 else name


def number_style(
    row: Figure, values: Values, size: float, top: float | None = None, of_unit: float | None = None
) -> NumberStyle:
    """How values of a row are written: its own, or what they are added up to.

    Args:
        top: the largest of them, where that is known.
        of_unit: the largest of all rows of the unit, whose decimals hold for each of them: a difference of
            two rows has no more than they have.
    """
    if row.unit == "%":
        return NumberStyle(1.0, 1, 1, row.signed)
    largest = _top(values) if top is None else top
    decimals = _decimals((of_unit or largest) / size)
    if all_whole(values):
        return NumberStyle(size, 0 if size == 1.0 else decimals, 0, row.signed)
    # Money has two, however large it is.
    exact = 2 if all_whole(np.round(100 * values, 4)) else _decimals(largest)
    return NumberStyle(size, decimals, exact, row.signed)


def _size(largest: float) -> float:
    return next((size for least, size in _FROM if largest >= least), 1.0)


def _top(values: Values) -> float:
    return float(np.fmax.reduce(np.abs(values), initial=0.0))


def _decimals(largest: float) -> int:
    """Four digits of the largest figure, three where it is below 10: 8.92 beside 851.3."""
    return decimals_of(largest, 3 if largest < 10 else 4)
