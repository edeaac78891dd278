"""Workbooks as sources: a block of cells on one sheet of an XLSX or ODS file, or on several alike."""

from __future__ import annotations

import hashlib
import io
import re
import zipfile
from pathlib import Path
from xml.etree import ElementTree
from xml.parsers import expat

import numpy as np
import polars as pl
from numpy.typing import NDArray

from oat_tide.core.language import phrase
from oat_tide.core.user_error import Progress, UserError, no_progress
from oat_tide.intake.cells.dates import written_as
from oat_tide.intake.cells.numbers import is_number
from oat_tide.intake.origins import headings
from oat_tide.intake.origins.cell_types import Corner, corner
from oat_tide.intake.origins.sparse import gathered
from oat_tide.intake.source import Source, made, stacked, thinned
from oat_tide.intake.table import ROW
from oat_tide.plan.container import BROKEN_ARCHIVE
from oat_tide.plan.parts.sources import Sources

MOST_UNPACKED = 2 << 30
"""Bytes that the parts of a workbook may unpack to."""
_LOCKED = b"\xd0\xcf\x11\xe0"
_CHUNK = 1 << 20
_LOOKED_AT = 60
_IS_READ = re.compile(r"^(?:xl/.*|content)\.xml$")
_MALFORMED = *BROKEN_ARCHIVE, ElementTree.ParseError, expat.ExpatError, LookupError, OverflowError, OSError
"""What reading the parts of a workbook raises where they are not what they should be."""


def is_workbook(path: Path) -> bool:
    """Whether a file is an XLSX or ODS workbook, or one that is locked with a password."""
    try:
        with path.open("rb") as file:
            start = file.read(4)
        if start == _LOCKED:
            return True
        if start[:2] != b"PK":
            return False
        if not zipfile.is_zipfile(path):
            return path.suffix.lower() in (".xlsx", ".xlsm", ".ods")
        names = zipfile.ZipFile(path).namelist()
    except (OSError, *BROKEN_ARCHIVE):
        return False
    return "xl/workbook.xml" in names or "content.xml" in names


def open_workbook(path: Path, ask: Sources = Sources(), progress: Progress = no_progress) -> Source:  # noqa: B008
    """Read the sheets asked for, or the first that holds lines.

    Raises:
        UserError: it is locked, damaged or too large unpacked, or lacks the sheet or the block asked for.
        Stopped: by way of `tell`.
    """
    with path.open("rb") as file:
        if file.read(4) == _LOCKED:
            raise UserError(
                "{name} is locked with a password, or is of an old binary form. Save it without a "
                "password as XLSX, ODS or CSV.",
                name=path.name,
            )
    mark = _checked(path, progress)
    book = _Book(path)
    missing = [name for name in ask.sheets if name not in book.sheets]
    if missing:
        raise UserError(
            "{name} has no sheet “{missing}”. Its sheets: {sheets}. Choose one.",
            name=path.name,
            missing=missing[0],
            sheets=", ".join(book.sheets),
        )
    sheets = ask.sheets or _first_with_lines(book)
    found = []
    for place, name in enumerate(sheets):
        found.append(_sheet(book, name, ask.block, mark))
        progress(0.5 + 0.5 * (place + 1) / len(sheets))
    whole = stacked(found, path.name)
    return Source(path.name, whole.files, whole.table, whole.stamp, sheets=book.sheets, hidden=book.hidden)


class _Book:
    """A workbook that is open.

    Attributes:
        path: its file.
        sheets: their names.
        hidden: those of them that are not in sight.
    """

    def __init__(self, path: Path) -> None:
        import fastexcel

        self.path = path
        try:
            self._gathered = gathered(path)
            self._reader = fastexcel.read_excel(self._gathered.held)
            self.sheets = tuple(self._reader.sheet_names)
            self.hidden = tuple(name for name in self.sheets if not self._visible(name))
        except (fastexcel.FastExcelError, *_MALFORMED) as error:
            raise UserError(_damaged(path)) from error
        self._corners: dict[str, Corner] = {}

    def _visible(self, name: str) -> bool:
        return self._reader.load_sheet(name, n_rows=0, header_row=None).visible == "visible"

    def grid(self, name: str, rows: int | None = None) -> pl.DataFrame:
        """ROW and the cells of a sheet as text, its columns by their place; errors stand as they are shown.

        Raises:
            UserError: it cannot be read.
        """
        import fastexcel

        try:
            sheet = self._reader.load_sheet(name, header_row=None, dtypes="string", n_rows=rows)
            frame = sheet.to_polars()
            corner = self._corner(name) if frame.height else None
        except (fastexcel.FastExcelError, pl.exceptions.PolarsError, *_MALFORMED) as error:
            raise UserError(
                "{name}, sheet {sheet} cannot be read: {error}. Save it as CSV.",
                name=self.path.name,
                sheet=name,
                error=error,
            ) from error
        if corner is None:
            return pl.DataFrame(schema={ROW: pl.Int64})
        frame = _told(
            frame.rename(dict(zip(frame.columns, map(str, range(frame.width)), strict=True))), corner
        )
        stood = np.arange(corner.row, corner.row + frame.height)
        if name in self._gathered.rows:
            stood = self._gathered.rows[name][stood - 1]
        return frame.select(pl.Series(ROW, stood, pl.Int64), pl.all())

    def _corner(self, name: str) -> Corner:
        if name not in self._corners:
            held = self._gathered.held
            with zipfile.ZipFile(io.BytesIO(held) if isinstance(held, bytes) else held) as archive:
                self._corners[name] = corner(archive, name)
        return self._corners[name]


def _told(frame: pl.DataFrame, corner: Corner) -> pl.DataFrame:
    """The cells as they are shown, numbers told from text."""
    # A date without a time of day comes with midnight.
    frame = frame.with_columns(
        pl.all().cast(pl.String).str.strip_chars().str.replace(r"^(\d{4}-\d\d-\d\d) 00:00:00$", "${1}")
    ).with_columns(pl.when(pl.all() != "").then(pl.all()))
    frame = corner.typed(frame)
    for (row, column), text in corner.errors.items():
        at, name = row - corner.row, str(column - corner.left)
        if 0 <= at < frame.height and name in frame.columns:
            frame = frame.with_columns(frame[name].scatter(at, text).alias(name))
    return frame


def _damaged(path: Path) -> str:
    return phrase(
        "{name} is damaged or is no workbook. Open it where it was made and save it again.", name=path.name
    )


def _checked(path: Path, progress: Progress) -> bytes:
    """A mark of its content; refuses parts that are torn, or unpack to more than an honest workbook holds."""
    digest, total = hashlib.blake2b(digest_size=16), 0
    try:
        with zipfile.ZipFile(path) as archive:
            entries = archive.infolist()
            claimed = sum(entry.file_size for entry in entries) or 1
            for entry in entries:
                if entry.flag_bits & 1:
                    raise UserError("{name} is locked with a password. Save it without one.", name=path.name)
                # The reader may never end on elements that are not closed as they were opened.
                parser = expat.ParserCreate() if _IS_READ.search(entry.filename) else None
                with archive.open(entry) as part:
                    while piece := part.read(_CHUNK):
                        total += len(piece)
                        digest.update(piece)
                        if parser:
                            parser.Parse(piece)
                        if total > MOST_UNPACKED:
                            raise UserError(
                                "{name}: {filename} unpacks to more than {most_unpacked} GB. "
                                "It was not opened; export the sheet as CSV.",
                                name=path.name,
                                filename=entry.filename,
                                most_unpacked=MOST_UNPACKED >> 30,
                            )
                        progress(min(0.5 * total / claimed, 0.5))
                if parser:
                    parser.Parse(b"", True)
    except _MALFORMED as error:
        raise UserError(_damaged(path)) from error
    return digest.digest()


def _first_with_lines(book: _Book) -> tuple[str, ...]:
    """The first sheet in sight that holds a table, and all of the same shape: often a sheet is a year."""
    alike: list[str] = []
    columns: set[str] = set()
    for name in [each for each in book.sheets if each not in book.hidden] or book.sheets:
        try:
            blocks = _blocks(book.grid(name, _LOOKED_AT))
        except UserError:
            continue
        if not blocks:
            continue
        header = {cell for cell in headings.header_row(_rows(_largest(blocks)))[1] if cell}
        if len(header) >= 2 and (not alike or header == columns):
            columns = columns or header
            alike.append(name)
    if not alike:
        raise UserError(
            "{name} holds no sheet with a header and lines below it. Choose another file.",
            name=book.path.name,
        )
    return tuple(alike)


def _rows(grid: pl.DataFrame) -> list[tuple[int, list[str]]]:
    return [(int(row), [cell or "" for cell in cells]) for row, *cells in grid.rows()]


def _largest(blocks: list[pl.DataFrame]) -> pl.DataFrame:
    return max(blocks, key=lambda each: each.height * each.width)


def _sheet(book: _Book, name: str, block: int, mark: bytes) -> Source:
    blocks = _blocks(book.grid(name))
    said = phrase("{name}, sheet {sheet}", name=book.path.name, sheet=name)
    if not blocks:
        raise UserError("{said} holds no table. Choose another sheet.", said=said)
    if block > len(blocks):
        raise UserError(
            "{said} has {blocks} blocks of cells, not {block}. Choose one of those.",
            said=said,
            blocks=len(blocks),
            block=block,
        )
    chosen = blocks[block - 1] if block else _largest(blocks)
    place = next(at for at, each in enumerate(blocks, 1) if each is chosen)
    frame, has_header = headings.named(said, chosen, chosen.width - 1)
    form = "workbook" + (
        phrase(", block {place} of {blocks}", place=place, blocks=len(blocks)) if len(blocks) > 1 else ""
    )
    form += "" if has_header else phrase(", no header")
    return made(f"{book.path.name} · {name}", form, thinned(frame), mark + f"{name} {place}".encode())


def _blocks(grid: pl.DataFrame) -> list[pl.DataFrame]:
    """Tables that empty rows, and within them empty columns, keep apart.

    An empty row within a table does not end it: what follows in the same columns without a header of its
    own goes on with it.
    """
    filled: NDArray[np.bool_] = ~grid.select(pl.exclude(ROW).is_null()).to_numpy()
    found: list[tuple[list[str], pl.DataFrame]] = []
    for rows in _runs(np.any(filled, axis=1)):
        for columns in _runs(np.any(filled[rows], axis=0)):
            names = [grid.columns[1 + place] for place in range(columns.start, columns.stop)]
            piece = grid[rows].select(ROW, *names)
            above = next((at for at, (own, _) in enumerate(found) if own == names), None)
            if above is not None and any(is_number(c) or written_as(c) for c in _rows(piece)[0][1]):
                found[above] = names, pl.concat([found[above][1], piece])
            else:
                found.append((names, piece))
    return [piece for _, piece in found if piece.height > 1 and piece.height * (piece.width - 1) > 2]


def _runs(marks: NDArray[np.bool_]) -> list[slice]:
    """The stretches of true marks."""
    steps = np.flatnonzero(np.diff(np.concatenate(([False], marks, [False]))))
    return [slice(int(a), int(b)) for a, b in zip(steps[::2], steps[1::2], strict=True)]
