"""A file as a table of text: every line it holds, the torn ones too, with its row number."""

from __future__ import annotations

import codecs
import csv
import hashlib
import io
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import islice
from pathlib import Path

import polars as pl

from oat_tide.core.trouble import Tell, Trouble, unheard
from oat_tide.intake.dates import written_as
from oat_tide.intake.numbers import is_number

ROW, TORN = "\N{PILCROW SIGN}row", "\N{PILCROW SIGN}torn"
"""Two columns beside those of the file: the row number, and the whole text of a line that does not fit."""

_MARKS = (
    (codecs.BOM_UTF8, "utf-8-sig", "UTF-8"),
    (codecs.BOM_UTF16_LE, "utf-16", "UTF-16"),
    (codecs.BOM_UTF16_BE, "utf-16", "UTF-16"),
)
_DELIMITERS = {",": "commas", ";": "semicolons", "\t": "tabs", "|": "bars"}
_EMPTY = "{} is empty. Choose a file with a header and sales lines below it."
MOST_COLUMNS = 2000
_HEAD = 200
"""Records that are looked at for the header."""
_PIECE = 1 << 20
_ROWS_AT_ONCE = 20_000
_FEW_CELLS, _CELLS_A_BYTE = 20_000_000, 60
"""A plan file whose lines unpack to more cells than this was made to fill the memory."""


Record = tuple[int, int, list[str]]
"""Row number, characters read so far, and cells."""


@dataclass(frozen=True, eq=False)
class Source:
    """Attributes:
    name: of the file.
    form: its encoding and delimiter, in words.
    frame: a row a line, all text; ROW, TORN and the columns of the file.
    stamp: tells this content from any other.
    """

    name: str
    form: str
    frame: pl.DataFrame
    stamp: str

    @property
    def columns(self) -> list[str]:
        """The columns of the file."""
        return [name for name in self.frame.columns if name not in (ROW, TORN)]


def open_source(path: Path, tell: Tell = unheard) -> Source:
    """Read a delimited text file.

    Raises:
        Trouble: there is nothing in it that could be sales lines.
        Stopped: by way of `tell`.
    """
    try:
        data = path.read_bytes()
    except OSError as error:
        raise Trouble(f"{path.name} cannot be read: {error.strerror or error}.") from error
    text, encoding = _decoded(path.name, data)
    delimiter = _delimiter(text)
    head = list(islice(_records(path.name, text, delimiter), _HEAD))
    if not head:
        raise Trouble(_EMPTY.format(path.name))
    row, first = _header_row(head)
    header, has_header = _header(path.name, first)
    frame = (
        _gather(_records(path.name, text, delimiter), len(header), len(text), tell)
        if '"' in text
        else _split(text, delimiter, len(header), tell)
    )
    frame = _below(frame, row, has_header)
    if not frame.height:
        raise Trouble(f"{path.name} holds a header and no lines below it. Choose a file with sales lines.")
    frame = frame.rename(dict(zip(frame.columns[2:], header, strict=True)))
    form = f"{encoding}, separated by {_DELIMITERS[delimiter]}" + ("" if has_header else ", no header")
    stamp = hashlib.blake2b(path.name.encode() + data, digest_size=16).hexdigest()
    return Source(path.name, form, frame, stamp)


def to_parquet(source: Source) -> bytes:
    """The lines as Parquet, all text."""
    sink = io.BytesIO()
    source.frame.write_parquet(sink, compression="zstd")
    return sink.getvalue()


def from_parquet(data: bytes, file: str, name: str, form: str) -> Source:
    """Lines kept in a plan file.

    Args:
        file: the plan file, for messages.
        name, form: of the source that the lines were read from.

    Raises:
        Trouble: these are not lines, or too many to be honest.
    """
    try:
        schema = pl.read_parquet_schema(io.BytesIO(data))
        rows = int(pl.scan_parquet(io.BytesIO(data)).select(pl.len()).collect().item())
        fits = list(schema)[:2] == [ROW, TORN] and set(list(schema.values())[1:]) == {pl.String}
        if fits and rows * len(schema) > max(_FEW_CELLS, _CELLS_A_BYTE * len(data)):
            raise Trouble(
                f"{file}: its lines unpack to {rows:,} rows from {len(data):,} bytes. It was not opened."
            )
        frame = pl.read_parquet(io.BytesIO(data)) if fits and rows else None
    except (pl.exceptions.PolarsError, OSError) as error:
        raise Trouble(f"{file}: its sales lines cannot be read: {error}. Open another copy of it.") from error
    if frame is None or frame[ROW].dtype != pl.Int64:
        raise Trouble(f"{file}: what it holds are not sales lines. Open another copy of it.")
    return Source(name, form, frame, hashlib.blake2b(data, digest_size=16).hexdigest())


def _decoded(name: str, data: bytes) -> tuple[str, str]:
    if data.startswith(b"PK\x03\x04"):
        raise Trouble(f"{name} is a packed file, such as a workbook. Save the sheet as CSV and open that.")
    for mark, codec, said in _MARKS:
        if data.startswith(mark):
            try:
                return _tidy(data.decode(codec)), said
            except UnicodeDecodeError as error:
                raise Trouble(
                    f"{name} begins as {said} but breaks off at byte {error.start}. Save it anew."
                ) from error
    if b"\0" in data:
        raise Trouble(f"{name} is not a text file: byte {data.index(0)} is zero. Export the sales as CSV.")
    try:
        text, said = data.decode("utf-8"), "UTF-8"
    except UnicodeDecodeError:
        text, said = data.decode("cp1252", errors="replace"), "Windows-1252"
    sample = text[:65536]
    if sum(ord(mark) < 32 and mark not in "\t\r\n\f" for mark in sample) > len(sample) / 100:
        raise Trouble(
            f"{name} is not a text file: it is full of control characters. Export the sales as CSV."
        )
    return _tidy(text), said


def _tidy(text: str) -> str:
    return text.replace("\r\n", "\n").replace("\r", "\n") if "\r" in text else text


def _delimiter(text: str) -> str:
    """The mark that cuts the first lines most evenly into more than one field."""
    head = "\n".join(line for line in text[:65536].split("\n")[:60] if line.strip())
    best, best_score = ",", 0.0
    for mark in _DELIMITERS:
        widths = [len(row) for row in csv.reader(io.StringIO(head), delimiter=mark) if row] or [0]
        usual = max(set(widths), key=widths.count)
        score = widths.count(usual) / len(widths) * min(usual, 20) if usual > 1 else 0.0
        if score > best_score:
            best, best_score = mark, score
    return best


def _records(name: str, text: str, delimiter: str) -> Iterator[Record]:
    """Every record that holds anything."""
    stream = io.StringIO(text)
    reader = csv.reader(stream, delimiter=delimiter)
    row = 1
    try:
        for cells in reader:
            if delimiter.join(cells).strip():
                yield row, stream.tell(), cells
            row = reader.line_num + 1
    except csv.Error as error:
        raise Trouble(f"{name}, row {row}: {error}. Mend that row and open the file again.") from error


def _header_row(records: list[Record]) -> tuple[int, list[str]]:
    """The row and cells of the header: the first record as wide as most that is not mostly empty.

    What stands above it, such as a title and the day of the report, is narrower, or padded.
    """
    widths = [len(cells) for _, _, cells in records]
    usual = max(set(widths), key=widths.count)
    for row, _, cells in records:
        filled = sum(bool(cell.strip()) for cell in cells)
        if len(cells) >= usual and 5 * filled >= 3 * len(cells):
            return row, cells
    return records[0][0], records[0][2]


def _header(name: str, first: list[str]) -> tuple[list[str], bool]:
    """Distinct names of the columns, and whether the first record is a header."""
    if len(first) > MOST_COLUMNS:
        raise Trouble(f"{name} has {len(first):,} columns; at most {MOST_COLUMNS:,} can be read.")
    data = any(is_number(cell) or written_as(cell) for cell in first)
    names: list[str] = []
    for place, cell in enumerate(first, 1):
        plain = f"column {place}" if data or not cell.strip() else " ".join(cell.split())
        copies = 2
        unique = plain
        while unique in (*names, ROW, TORN):
            unique, copies = f"{plain} ({copies})", copies + 1
        names.append(unique)
    return names, not data


def _split(text: str, delimiter: str, width: int, tell: Tell) -> pl.DataFrame:
    """The lines of a text without quotes, in pieces, so that the work can be stopped between them."""
    frames, row, start = [], 1, 0
    while start < len(text):
        cut = text.find("\n", start + _PIECE)
        stop = len(text) if cut < 0 else cut
        lines = text[start:stop].split("\n")
        filled = [(number, line) for number, line in enumerate(lines, row) if line.strip()]
        numbered = pl.DataFrame(filled, schema={ROW: pl.Int64, "line": pl.String}, orient="row")
        frames.append(_fields(numbered, delimiter, width))
        row, start = row + len(lines), stop + 1
        tell(stop / len(text))
    return pl.concat(frames)


def _below(frame: pl.DataFrame, row: int, has_header: bool) -> pl.DataFrame:
    """The lines without the header; those above it are torn, whatever their width."""
    if has_header:
        frame = frame.filter(pl.col(ROW) != row)
    above, cells = pl.col(ROW) < row, frame.columns[2:]
    whole = pl.concat_str([pl.col(name).fill_null("") for name in cells], separator=" | ")
    return frame.with_columns(
        pl.when(above).then(pl.coalesce(TORN, whole)).otherwise(TORN).alias(TORN),
        *(pl.when(~above).then(pl.col(name)).alias(name) for name in cells),
    )


def _fields(lines: pl.DataFrame, delimiter: str, width: int) -> pl.DataFrame:
    fits = pl.col("line").str.count_matches(delimiter, literal=True) == width - 1
    cells = pl.when(fits).then(pl.col("line")).str.split(delimiter).list
    return lines.select(
        pl.col(ROW),
        pl.when(~fits).then(pl.col("line")).alias(TORN),
        *(cells.get(place, null_on_oob=True).alias(str(place)) for place in range(width)),
    )


def _gather(rows: Iterator[Record], width: int, length: int, tell: Tell) -> pl.DataFrame:
    """The records of a text with quotes, which may hold delimiters and line ends."""
    names = [ROW, TORN, *map(str, range(width))]
    schema = {name: pl.Int64 if name == ROW else pl.String for name in names}
    frames = [pl.DataFrame(schema=schema)]
    while batch := list(islice(rows, _ROWS_AT_ONCE)):
        records = [
            (row, None, *cells) if len(cells) == width else (row, " | ".join(cells), *[None] * width)
            for row, _, cells in batch
        ]
        frames.append(pl.DataFrame(records, schema=schema, orient="row"))
        tell(batch[-1][1] / length)
    return pl.concat(frames)
