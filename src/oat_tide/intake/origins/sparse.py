"""Sheets whose cells lie far apart are brought together before they are loaded.

A reader keeps room for every cell between the first and the last: one stray cell at the far corner would cost
terabytes. Rows and columns that hold nothing are left out, but for one where there were some, for what lies
apart is another table; where each row stood is kept.
"""

from __future__ import annotations

import io
import re
import zipfile
from dataclasses import dataclass
from itertools import islice
from pathlib import Path
from xml.etree import ElementTree

import numpy as np
from numpy.typing import NDArray

from oat_tide.intake.origins.cell_types import (
    OFFICE,
    REPEATED,
    column_of,
    filled_of_ods,
    letters_of,
    parts_of,
    sheet_data,
)

_ROOM, _TIMES = 4_000_000, 20
"""Cells that cost nothing to speak of, and how many times those filled there may be beyond them."""
_MOST = 5_000_000
"""Cells of a sheet that is brought together."""
_FAR = re.compile(rb'\br="(?:[A-Z]{3,}\d|[A-Z]+\d{7})')
_EMPTY = re.compile(rb"<c\b[^>]*?(?:/>|>\s*</c>)")
_CELL = re.compile(rb"<c[ >]")
_PLACE = re.compile(rb'(<c\b[^>]*?\br=")([A-Z]{1,9})(\d{1,9})(")')
_ROW = re.compile(rb'(<row\b[^>]*?\br=")(\d{1,9})(")')
_SIZE = re.compile(rb"<dimension\b[^>]*/>")
for _name in ("office", "table", "text"):
    # The reader knows elements by these prefixes.
    ElementTree.register_namespace(_name, f"urn:oasis:names:tc:opendocument:xmlns:{_name}:1.0")
_REPEATED = re.compile(rb'number-(?:rows|columns)-repeated="\d{4,}"')


@dataclass(frozen=True, slots=True)
class Gathered:
    """A workbook as it is to be read.

    Attributes:
        held: its file, or its bytes where a sheet was brought together.
        rows: by sheet that was, where each of its rows stood, from 1.
    """

    held: Path | bytes
    rows: dict[str, NDArray[np.int64]]


def gathered(path: Path) -> Gathered:
    """A workbook with the sheets brought together that hold little for the room they take.

    Raises:
        zipfile.BadZipFile, KeyError, ElementTree.ParseError: it is damaged.
    """
    with zipfile.ZipFile(path) as archive:
        if "content.xml" in archive.namelist():
            parts, rows = _of_ods(archive)
        else:
            parts, rows = _of_xlsx(archive)
        if not parts:
            return Gathered(path, {})
        sink = io.BytesIO()
        with zipfile.ZipFile(sink, "w", zipfile.ZIP_STORED) as new:
            for entry in archive.infolist():
                new.writestr(entry.filename, parts.get(entry.filename) or archive.read(entry))
    return Gathered(sink.getvalue(), rows)


_Parts = tuple[dict[str, bytes], dict[str, NDArray[np.int64]]]


def _of_xlsx(archive: zipfile.ZipFile) -> _Parts:
    parts: dict[str, bytes] = {}
    rows: dict[str, NDArray[np.int64]] = {}
    for name, part in parts_of(archive).items():
        data = sheet_data(archive, part)
        lines = [int(row) for _, row, _ in _ROW.findall(data, data.rfind(b"<row "))]
        # Hardly any honest sheet is wide, or has rows far apart, and looking at all its cells takes time.
        if not _FAR.search(data) and max(lines, default=0) < _TIMES * data.count(b"<row ") + _ROOM // 100:
            continue
        data = _EMPTY.sub(b"", data)
        places = [(int(row), column_of(letters)) for _, letters, row, _ in _PLACE.findall(data)]
        # A cell that does not say where it stands follows the one before, wherever that goes.
        if not _is_sparse(places) or len(_CELL.findall(data)) > len(places):
            continue
        row_at, column_at = (_closed_up({place[axis] for place in places}) for axis in (0, 1))
        parts[part], rows[name] = _moved(data, row_at, column_at), _stood(row_at)
    return parts, rows


def _is_sparse(places: list[tuple[int, int]]) -> bool:
    if not 0 < len(places) <= _MOST:
        return False
    rows, columns = zip(*places, strict=True)
    down, across = (max(axis) - min(axis) + 1 for axis in (rows, columns))
    return bool(across * down > _ROOM + _TIMES * len(places) or across > _TIMES * len(set(columns)))


def _closed_up(used: set[int]) -> dict[int, int]:
    """The place of each row or column, from 1, where of those that hold nothing at most one is left."""
    found, place, before = {}, 0, None
    for each in sorted(used):
        place += 1 if before is None or each == before + 1 else 2
        found[each] = place
        before = each
    return found


def _stood(moved: dict[int, int]) -> NDArray[np.int64]:
    """Return the row number of each row in the sheet; empty rows count before the next one."""
    found = np.zeros(max(moved.values()), np.int64)
    for was, now in moved.items():
        found[now - 1] = was
    empty = np.flatnonzero(found == 0)
    found[empty] = found[empty + 1] - 1
    return found


def _moved(data: bytes, row_at: dict[int, int], column_at: dict[int, int]) -> bytes:
    def cell(found: re.Match[bytes]) -> bytes:
        column, row = column_at[column_of(found[2])], row_at[int(found[3])]
        return found[1] + letters_of(column - 1) + str(row).encode() + found[4]

    def row(found: re.Match[bytes]) -> bytes:
        now = row_at.get(int(found[2]))
        # A row without a cell stands behind all: nothing is read of it.
        return found[1] + str(now or len(row_at) * 2 + 1).encode() + found[3]

    return _ROW.sub(row, _PLACE.sub(cell, _SIZE.sub(b"", data)))


def _of_ods(archive: zipfile.ZipFile) -> _Parts:
    data = archive.read("content.xml")
    if not _REPEATED.search(data):
        return {}, {}
    rows: dict[str, NDArray[np.int64]] = {}
    tree = ElementTree.fromstring(data)
    for table in tree.iter(f"{OFFICE}table"):
        cells = list(islice(filled_of_ods(table), _MOST + 1))
        places = [(row, column) for row, column, _ in cells]
        if not _is_sparse(places):
            continue
        row_at, column_at = (_closed_up({place[axis] for place in places}) for axis in (0, 1))
        lines = [ElementTree.Element(f"{OFFICE}table-row") for _ in range(max(row_at.values()))]
        for row, column, cell in cells:
            line = lines[row_at[row] - 1]
            for _ in range(column_at[column] - 1 - len(line)):
                ElementTree.SubElement(line, f"{OFFICE}table-cell")
            own = ElementTree.SubElement(line, cell.tag, {k: v for k, v in cell.items() if k != REPEATED})
            own.extend(cell)
        for child in list(table):
            table.remove(child)
        table.extend(lines)
        rows[table.get(f"{OFFICE}name", "")] = _stood(row_at)
    return ({"content.xml": ElementTree.tostring(tree)} if rows else {}), rows
