"""Lines handed from one process to another, by way of a folder.

Columns of few values travel as small whole numbers, with their texts beside them: the engine knows texts by
numbers of its own in each process, and to tell all of them anew takes longer than reading a file.
"""

from __future__ import annotations

import pickle
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from pathlib import Path

import numpy as np
import polars as pl

from oat_tide.intake.cells.codes import highest_code
from oat_tide.intake.table import TORN, Table, known_texts

_REST, _SHAPE = "rest", "shape"
_AT_ONCE = 2


def hand_over(table: Table, folder: Path) -> None:
    """Write lines into a folder."""
    table = folded(table)

    # Columns that are kept together share one file.
    distinct = {id(codes): codes for codes in table.codes.values()}
    files = {mark: str(place) for place, mark in enumerate(distinct)}

    def write(mark: int) -> None:
        distinct[mark].tofile(folder / files[mark])

    with ThreadPoolExecutor(_AT_ONCE) as both:
        list(both.map(write, distinct))
    pl.DataFrame(list(table.plain.values())).write_ipc(folder / _REST)
    kinds = {name: (files[id(codes)], str(codes.dtype)) for name, codes in table.codes.items()}
    (folder / _SHAPE).write_bytes(pickle.dumps((kinds, replace(table, plain={}, codes={}))))


def taken_over(folder: Path) -> Table:
    """The lines that were handed over in a folder; the folder may go afterwards."""
    told = (folder / _SHAPE).read_bytes()
    kinds: dict[str, tuple[str, str]]
    table: Table
    kinds, table = pickle.loads(told)  # it comes from our own process
    rest = pl.read_ipc(folder / _REST)
    # What is mapped is shared with the other process, and copied by neither.
    mapped = {
        file: np.memmap(folder / file, kind, "r") if table.height else np.zeros(0, kind)
        for file, kind in set(kinds.values())
    }
    codes = {name: mapped[file] for name, (file, _) in kinds.items()}
    return replace(table, plain={name: rest[name] for name in rest.columns}, codes=codes)


def folded(table: Table) -> Table:
    """Return the lines with columns of few values as codes, and without marks that can be implied."""
    table = table.trimmed()
    few = {n: cells for n, cells in table.plain.items() if n != TORN and cells.dtype == pl.Categorical}
    if not few:
        return table
    many = highest_code(few.values()) + 1
    small = np.min_scalar_type(many)
    codes = {
        name: cells.to_physical().fill_null(many).to_numpy().astype(small) for name, cells in few.items()
    }
    plain = {name: cells for name, cells in table.plain.items() if name not in few}
    return replace(table, plain=plain, codes=codes, texts=known_texts(many), meant={})
