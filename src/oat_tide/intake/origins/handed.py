"""Lines handed from one process to another, by way of a folder.

Columns of few values travel as small whole numbers, with their texts beside them: the engine knows texts by
numbers of its own in each process, and to tell all of them anew takes longer than reading a file.
"""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np
import polars as pl
from numpy.typing import NDArray

from oat_tide.intake.pace.stretches import gathered
from oat_tide.intake.source import ROW

_REST, _CODED, _TEXTS = "rest", "coded", "texts"
_AT_ONCE = 2


def hand_over(frame: pl.DataFrame, folder: Path) -> None:
    """Write lines into a folder."""
    codes = frame.select(pl.col(pl.Categorical).to_physical())
    highest = [column.max() for column in codes]
    many = 1 + max((int(code) for code in highest if code is not None), default=-1)  # type: ignore[arg-type]
    texts = pl.int_range(many, dtype=pl.UInt32, eager=True).cat.to(pl.Categorical).cast(pl.String)
    small = np.min_scalar_type(many)

    def write(column: pl.Series) -> None:
        # What no text has stands for an empty cell.
        whole = column.fill_null(many) if column.null_count() else column
        whole.to_numpy().astype(small).tofile(folder / f"{frame.columns.index(column.name)}")

    with ThreadPoolExecutor(_AT_ONCE) as both:
        list(both.map(write, codes))
    rest = frame.drop(codes.columns)
    rest = rest.drop(ROW) if frame[ROW].equals(_numbered(frame.height)) else rest
    rest.write_ipc(folder / _REST)
    order = pl.DataFrame({"name": frame.columns, _CODED: [name in codes.columns for name in frame.columns]})
    order.write_ipc(folder / _CODED)
    pl.DataFrame({_TEXTS: texts}).write_ipc(folder / _TEXTS)


def taken_over(folder: Path) -> pl.DataFrame:
    """The lines that were handed over in a folder."""
    rest = pl.read_ipc(folder / _REST)
    texts = pl.read_ipc(folder / _TEXTS)[_TEXTS].cast(pl.Categorical)
    own, small = texts.to_physical().to_numpy(), np.min_scalar_type(len(texts))
    order = pl.read_ipc(folder / _CODED)

    def read(place: int) -> pl.Series:
        return _recoded(np.fromfile(folder / f"{place}", small), own)

    places = np.flatnonzero(order[_CODED].to_numpy()).tolist()
    with ThreadPoolExecutor(_AT_ONCE) as both:
        coded = dict(zip((order["name"][place] for place in places), both.map(read, places), strict=True))
    lines = len(next(iter(coded.values()))) if coded else rest.height
    plain = {name: rest[name] for name in rest.columns}
    numbered = {} if ROW in plain else {ROW: _numbered(lines)}
    columns = plain | coded | numbered
    return pl.DataFrame([columns[name].alias(name) for name in order["name"]])


def _recoded(codes: NDArray[Any], own: NDArray[np.uint32]) -> pl.Series:
    """Texts by the codes of this process, for those of the other; one beyond them is an empty cell."""
    empty = codes == len(own)
    if not np.array_equal(own, np.arange(len(own))):
        codes = gathered((np.append(own, 0), codes))
    cells = pl.Series(codes.astype(np.uint32))
    cells = cells.set(pl.Series(empty), None) if empty.any() else cells
    return cells.cat.to(pl.Categorical)


def _numbered(lines: int) -> pl.Series:
    return pl.int_range(1, lines + 1, dtype=pl.Int64, eager=True).alias(ROW)
