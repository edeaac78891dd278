"""Rows that hold the sum of rows above them, whatever they are called."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import polars as pl
from numpy.typing import NDArray

from oat_tide.intake.cells import numbers
from oat_tide.intake.meaning import names, samples
from oat_tide.intake.source import Source
from oat_tide.intake.table import FILE, ROW, TORN

_MOST_ROWS = 20_000
_MOST_PLACES = 6
_FEWEST_ADDED, _FEWEST_FIGURES, _FEWEST_VALUES = 2, 6, 4
"""Rows that a sum adds up, and figures, and different ones, that it must have: fewer may be chance."""
Row = tuple[int, int]
"""A file by its place, and the row in it."""


def sum_rows(source: Source, across: Sequence[str]) -> frozenset[Row]:
    """The rows of a wide table that add up rows right above them, in every column.

    A row that is called a total need only hold one figure; any other must hold enough for it to be no
    chance, and stand at the end, over three rows or more, or without a name that the others have.
    """
    frame = source.frame.filter(pl.col(TORN).is_null()) if TORN in source.table.columns else source.frame
    if not 0 < frame.height <= _MOST_ROWS:
        return frozenset()
    units = _minor_units(frame, across)
    if units is None:
        return frozenset()
    texts = frame.select(pl.exclude(FILE, ROW, TORN, *across).cast(pl.String).str.strip_chars())
    named = texts.select(
        pl.any_horizontal(
            pl.lit(False), *(pl.col(name).str.contains(names.TOTAL_WITHIN) for name in texts.columns)
        ).fill_null(False)
    ).to_series()
    blanks = texts.select(
        pl.sum_horizontal(pl.lit(0), *(pl.col(n).fill_null("") == "" for n in texts.columns))
    )
    found = _found(units, named.to_numpy(), blanks.to_series().to_numpy(), frame[FILE].to_numpy())
    return frozenset(
        zip(frame[FILE].gather(found).to_list(), frame[ROW].gather(found).to_list(), strict=True)
    )


def _minor_units(frame: pl.DataFrame, across: Sequence[str]) -> NDArray[np.int64] | None:
    """The figures as whole numbers of their least decimal; None where they have too many for that."""
    texts = frame.select(pl.col(list(across)).cast(pl.String))
    cells = pl.concat([texts[name].alias("cell") for name in across]).to_frame()
    told = numbers.evidence(cells, "cell")
    comma = told.comma > told.point
    most = int(samples.figures_in(texts, numbers.decimals("cell", comma).fill_null(0)).max(initial=0))
    if most > _MOST_PLACES:
        return None
    figures = samples.figures_in(texts, numbers.number("cell", comma).fill_null(0.0))
    scaled = np.rint(figures * 10.0**most)
    return scaled.astype(np.int64) if np.abs(scaled).max(initial=0) < 2**53 else None


def _found(
    units: NDArray[np.int64],
    named: NDArray[np.bool_],
    blanks: NDArray[np.integer],
    files: NDArray[np.integer],
) -> list[int]:
    """The places of the rows that are sums."""
    found: list[int] = []
    for file in np.unique(files):
        rows = np.flatnonzero(files == file)
        added, count = np.zeros(units.shape[1], np.int64), 0
        # After how many of the rows that are no sums the sums of all so far were this.
        after = {added.tobytes(): 0}
        usual_blanks = int(np.bincount(blanks[rows]).argmax())
        for row in rows.tolist():
            own = units[row]
            if not own.any():
                continue
            start = after.get((added - own).tobytes())
            rows_added = count - start if start is not None else 0
            if rows_added >= _FEWEST_ADDED and (
                named[row]
                or (
                    np.count_nonzero(own) >= _FEWEST_FIGURES
                    and len(np.unique(own)) >= _FEWEST_VALUES
                    and (row == rows[-1] or rows_added > _FEWEST_ADDED or blanks[row] > usual_blanks)
                )
            ):
                found.append(row)
                continue
            if named[row]:
                continue
            added, count = added + own, count + 1
            after[added.tobytes()] = count
    return found
