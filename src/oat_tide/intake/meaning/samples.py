"""The first filled cells of a column, as text and as figures, and how many of them hold something."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from weakref import WeakKeyDictionary

import numpy as np
import polars as pl
from numpy.typing import NDArray

from oat_tide.intake.cells import numbers
from oat_tide.intake.cells.numbers import TYPED
from oat_tide.intake.source import Source

_SAMPLE = 1000
ENOUGH_NUMBERS = 0.6
"""The share of numbers in a column of figures, blanks and words such as n/a among them."""
_SAMPLES: WeakKeyDictionary[Source, dict[str, list[str]]] = WeakKeyDictionary()


def sample(source: Source, name: str) -> list[str]:
    """Filled cells of a column; every shape that is tried asks for the same."""
    kept = _SAMPLES.setdefault(source, {})
    if name not in kept:
        whole = source.table.whole_lines(slice(_SAMPLE), (name,))
        cells = (text.replace(TYPED, "").strip() for text in whole[name].cast(pl.String).to_list() if text)
        kept[name] = [text for text in cells if text]
    return kept[name]


def share(cells: list[str], holds: Callable[[str], object]) -> float:
    """The share of cells that hold something, 0 to 1; 0 of none."""
    return sum(many for cell, many in Counter(cells).items() if holds(cell)) / len(cells) if cells else 0.0


def holds_figures(source: Source, name: str) -> bool:
    """Whether a column is one of figures."""
    return share(sample(source, name), numbers.is_number) >= ENOUGH_NUMBERS


def figures(source: Source, names: Sequence[str], comma: bool) -> NDArray[np.float64]:
    """The figures of the first lines, (lines, columns); 0 where a cell holds none.

    Args:
        comma: how figures are read that can be read in two ways.
    """
    whole = source.table.whole_lines(slice(_SAMPLE), tuple(names)).with_columns(pl.all().cast(pl.String))
    return figures_in(whole, numbers.number("cell", comma).fill_null(0.0))


def figures_in(texts: pl.DataFrame, read: pl.Expr) -> NDArray[np.float64]:
    """What an expression over a column "cell" makes of all cells, (lines, columns); a text is read once."""
    cells = pl.concat([texts[name].alias("cell") for name in texts.columns]) if texts.columns else None
    if cells is None or not len(cells):
        return np.zeros((texts.height, texts.width))
    codes = cells.cast(pl.Categorical).to_physical().fill_null(0)
    distinct = pl.DataFrame([codes.alias("code"), cells]).unique("code", maintain_order=True)
    answers = distinct.select("code", answer=read.cast(pl.Float64))
    found = codes.replace_strict(answers["code"], answers["answer"], return_dtype=pl.Float64)
    return found.to_numpy().reshape(texts.width, texts.height).T
