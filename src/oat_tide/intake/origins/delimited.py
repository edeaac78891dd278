"""Delimited text as a source: CSV and its kin, quotes and torn lines included."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from itertools import chain, islice
from pathlib import Path

import numpy as np
import polars as pl
from numpy.typing import NDArray

from oat_tide.core.language import phrase
from oat_tide.core.user_error import Progress, UserError, no_progress
from oat_tide.intake.cells.books import Codes
from oat_tide.intake.cells.codes import Coding, Together
from oat_tide.intake.cells.gathering import Gathering
from oat_tide.intake.origins import headings
from oat_tide.intake.origins.text import LONGEST, Text, open_text
from oat_tide.intake.pace.ahead import ahead
from oat_tide.intake.source import Source, content, of_one_file
from oat_tide.intake.table import ROW, TORN
from oat_tide.plan.parts.sources import Sources

DELIMITERS = {"commas": ",", "semicolons": ";", "tabs": "\t", "bars": "|"}
_ROWS_AT_ONCE = 20_000
_SAMPLED = 1 << 20
"""Bytes that tell which columns hold few values."""
_MOST_LINES = 200
"""A quoted field over more lines than this was never closed."""
_QUOTE, _LINE_END = 34, 10
_SPACE = np.isin(np.arange(256), list(b" \t\n\r\v\f"))
"""Which bytes a blank line may begin with."""
# Of fields of any length the reader makes cells: what is no cell is told where lines are judged.
csv.field_size_limit(LONGEST)
_Marks = NDArray[np.int64]


def open_delimited(path: Path, ask: Sources = Sources(), progress: Progress = no_progress) -> Source:  # noqa: B008
    """Read a delimited text file.

    Raises:
        UserError: there is nothing in it that could be sales lines.
        Stopped: by way of `tell`.
    """
    text = open_text(path, ask.encoding)
    delimiter = DELIMITERS.get(ask.delimiter) or _delimiter(text.head)
    quoted = ask.quotes != "no quoting"
    head = list(islice(_records(text.head, delimiter, quoted), headings.LOOKED_AT))
    if not head:
        raise UserError(
            "{name} is empty. Choose a file with a header and sales lines below it.", name=path.name
        )
    row, first = headings.header_row(head)
    names, has_header = headings.header(path.name, first)
    reader = _Reader(text, delimiter, len(names), quoted)
    pieces = (each for each in reader.pieces(progress) if each.frame.height)
    top = next(pieces)
    gathering = Gathering(reader.coding)
    for piece in chain((_Piece(headings.below(top.frame, row, has_header)),), pieces):
        gathering.add(*reader.coded(piece))
    if not gathering.height:
        raise UserError(
            "{name} holds a header and no lines below it. Choose a file with sales lines.", name=path.name
        )
    table = gathering.table({str(place): name for place, name in enumerate(names)})
    said = next(phrase(words) for words, mark in DELIMITERS.items() if mark == delimiter)
    words = phrase("{form}, separated by {said}", form=text.form, said=said) + (
        "" if has_header else phrase(", no header")
    )
    status = path.stat()
    mark = f"{ask.delimiter} {status.st_size} {status.st_mtime_ns} {content(table)}"
    return of_one_file(path.name, words, table, mark.encode())


def _delimiter(text: str) -> str:
    """The mark that cuts the first lines most evenly into more than one field."""
    head = "\n".join(line for line in text.split("\n")[:60] if line.strip())
    best, best_score = ",", 0.0
    for mark in DELIMITERS.values():
        try:
            widths = [len(row) for row in csv.reader(io.StringIO(head), delimiter=mark) if row] or [0]
        except csv.Error:
            continue
        usual = max(set(widths), key=widths.count)
        score = widths.count(usual) / len(widths) * min(usual, 20) if usual > 1 else 0.0
        if score > best_score:
            best, best_score = mark, score
    return best


def _records(text: str, delimiter: str, quoted: bool, row: int = 1) -> Iterator[tuple[int, list[str]]]:
    """Row number and cells of every record that holds anything.

    A quote that is opened and hardly ever closed is no quote: its line stands for itself.

    Args:
        quoted: whether quotes enclose fields, or are plain marks.
        row: the number of the first line.
    """
    lines = text.split("\n")
    at = 0
    while at < len(lines):
        fed = _Fed(lines, at)
        reader = csv.reader(fed, delimiter=delimiter, quoting=0 if quoted else 3)
        start = at
        for cells in reader:
            fed.since = 0
            end = start + reader.line_num
            if end - at > _MOST_LINES or (end == len(lines) and end - at > 1 and _unclosed(lines[at:end])):
                cells, end = lines[at].split(delimiter), at + 1
                yield row + at, cells
                at = end
                break
            if delimiter.join(cells).strip():
                yield row + at, cells
            at = end
        else:
            return


class _Fed:
    """Lines for a reader; of one record no more than could be honest.

    Attributes:
        since: lines since the last record.
    """

    def __init__(self, lines: list[str], at: int) -> None:
        self._lines, self._at, self.since = lines, at, 0

    def __iter__(self) -> Iterator[str]:
        return self

    def __next__(self) -> str:
        if self._at >= len(self._lines) or self.since > _MOST_LINES:
            raise StopIteration
        self._at += 1
        self.since += 1
        return self._lines[self._at - 1] + "\n"


def _unclosed(lines: list[str]) -> bool:
    return "".join(lines).count('"') % 2 == 1


@dataclass(frozen=True, eq=False, slots=True)
class _Piece:
    """Consecutive lines of a file.

    Attributes:
        frame: ROW, TORN and the fields by their place, but for those of columns that are kept by codes.
        codes: of these; None where all fields are still text.
    """

    frame: pl.DataFrame
    codes: dict[Together, Codes] | None = None


class _Reader:
    """Cuts a text into lines and fields: the engine does it wherever every line is whole.

    Attributes:
        coding: of the columns of few values, once the first lines were read.
    """

    def __init__(self, text: Text, delimiter: str, width: int, quoted: bool) -> None:
        self._quote = b'"' if quoted else b"\0\0"
        self._text, self._delimiter, self._width = text, delimiter, width
        self.coding = Coding(pl.DataFrame(), {})
        self._row, self._first = 1, b""

    def pieces(self, progress: Progress) -> Iterator[_Piece]:
        """Every line that holds anything."""
        texts = self._text.pieces(progress)
        self._first = next(texts, b"")
        self.coding = self._begun(self._first)
        pieces = ahead(chain((self._first,), texts), self._read)
        held = b""
        for piece, read in pieces:
            if read is not None and not held:
                yield _Piece(self._numbered(read.frame), read.codes)
                continue
            piece = held + self._text.sound(piece, self._row + held.count(b"\n"))
            held = b""
            if self._quote in piece:
                inside = _inside(piece)
                # A field that goes on in the next piece is closed for now.
                closed = piece + b'"\n' if inside[-1] else piece
                if not _well_quoted(closed, self._delimiter) or len(piece) > 4 * LONGEST:
                    # Quotes within fields: the rest goes through the reader that knows every habit.
                    yield from map(_Piece, self._slow(piece, (each for each, _ in pieces)))
                    return
                if inside[-1]:
                    ends = np.flatnonzero((_array(piece) == _LINE_END) & ~inside)
                    cut = int(ends[-1]) + 1 if ends.size else 0
                    piece, held = piece[:cut], piece[cut:]
            if piece:
                yield _Piece(self._picked(piece))
        if held:
            yield from map(_Piece, self._slow(held, ()))

    def coded(self, piece: _Piece) -> tuple[dict[Together, Codes], pl.DataFrame]:
        """Lines with the columns of few values by codes, and the other columns."""
        if piece.codes is not None:
            return piece.codes, piece.frame
        return self.coding.codes(piece.frame), piece.frame.drop(self.coding.columns)

    def _read(self, piece: bytes) -> _Piece | None:
        """The lines of a piece where all are whole; those of the first stay text, for the header is one."""
        frame = self._whole(piece)
        if frame is None:
            return None
        whole = _Piece(_untorn(frame))
        if piece is self._first:
            return whole
        codes, plain = self.coded(whole)
        return _Piece(plain, codes)

    def _begun(self, piece: bytes) -> Coding:
        """How columns are coded, told by the first lines."""
        sample = self._whole(piece[: piece.rfind(b"\n", 0, _SAMPLED) + 1])
        if sample is None:
            sample = pl.DataFrame(schema=dict.fromkeys(self._names, pl.String))
        return Coding(sample, {name: pl.col(name) for name in self._names if sample.height})

    def _whole(self, piece: bytes) -> pl.DataFrame | None:
        """The lines of a piece in one pass of the engine; None where one may be torn, empty or quoted."""
        if b"\0" in piece or self._width < 2 or piece.startswith(b"\n") or not self._text.is_sound(piece):
            return None
        quoted = self._quote in piece
        if quoted and not _well_quoted(piece, self._delimiter):
            return None
        try:
            frame = self._parsed(piece)
        except pl.exceptions.PolarsError:
            return None
        # A line too long is refused by the engine; one too short, or empty, has nothing in its last field.
        filled = not frame.height or not frame[:, -1].null_count()
        if filled and not quoted:
            return frame
        marks = _array(piece)
        lines, fields = (int(np.count_nonzero(marks == ord(each))) for each in ("\n", self._delimiter))
        lines += not piece.endswith(b"\n")
        return frame if frame.height == lines and (filled or fields == lines * (self._width - 1)) else None

    def _picked(self, piece: bytes) -> pl.DataFrame:
        """The lines of a piece with torn, empty or quoted ones among them."""
        if not piece.endswith(b"\n"):
            piece += b"\n"
        marks = _array(piece)
        outside = ~_inside(piece) if self._quote in piece else np.ones(len(marks), bool)
        ends = np.flatnonzero((marks == _LINE_END) & outside)
        starts = np.concatenate(([0], ends[:-1] + 1))
        rows = self._row + _before(np.flatnonzero(marks == _LINE_END), starts)
        cuts = np.flatnonzero((marks == ord(self._delimiter)) & outside)
        fields = np.diff(_before(cuts, np.append(starts, len(marks))))
        blank = starts == ends
        maybe = np.flatnonzero(_SPACE[marks[starts]] & ~blank)
        blank[maybe] = [not piece[a:b].strip() for a, b in zip(starts[maybe], ends[maybe], strict=True)]
        zeros = np.diff(_before(np.flatnonzero(marks == 0), np.append(starts, len(marks)))) > 0
        torn = ~blank & ((fields != self._width - 1) | zeros)
        good = ~blank & ~torn
        text = b"".join(piece[a : b + 1] for a, b in zip(starts[good], ends[good], strict=True))
        frame = self._parsed(text) if text else pl.DataFrame(schema=dict.fromkeys(self._names, pl.String))
        whole = self._numbered(_untorn(frame), rows[good])
        self._row += int(np.count_nonzero(marks == _LINE_END)) - frame.height
        if not torn.any():
            return whole
        texts = [
            piece[a:b].decode().replace("\0", "\N{SYMBOL FOR NULL}")
            for a, b in zip(starts[torn], ends[torn], strict=True)
        ]
        rest = pl.DataFrame({ROW: rows[torn], TORN: pl.Series(texts, dtype=pl.String).cast(pl.Categorical)})
        return pl.concat([whole, rest], how="diagonal").sort(ROW)

    @property
    def _names(self) -> list[str]:
        return [str(place) for place in range(self._width)]

    def _parsed(self, text: bytes) -> pl.DataFrame:
        frame = pl.read_csv(
            text,
            has_header=False,
            separator=self._delimiter,
            schema=dict.fromkeys(self._names, pl.String),
            quote_char='"' if self._quote in text else None,
            extra_columns="raise",
        )
        if self._quote in text:
            frame = frame.with_columns(pl.all().replace("", None))
        return frame

    def _numbered(self, frame: pl.DataFrame, rows: _Marks | None = None) -> pl.DataFrame:
        """The lines with their rows, which follow one another where none are given."""
        begin, self._row = self._row, self._row + frame.height
        own = pl.int_range(begin, self._row, eager=True) if rows is None else pl.Series(rows, dtype=pl.Int64)
        return frame.select(own.alias(ROW), TORN, pl.exclude(TORN))

    def _slow(self, piece: bytes, rest: Iterable[bytes]) -> Iterator[pl.DataFrame]:
        """What is quoted in ways of its own, record by record: a sound piece and those that follow."""
        whole = b"".join(rest)
        piece += self._text.sound(whole, self._row + piece.count(b"\n"))
        records = _records(piece.decode(), self._delimiter, True, self._row)
        schema = {ROW: pl.Int64, TORN: pl.Categorical} | dict.fromkeys(self._names, pl.String)
        yield pl.DataFrame(schema=schema)
        while batch := list(islice(records, _ROWS_AT_ONCE)):
            rows = [
                (row, None, *(cell or None for cell in cells))
                if len(cells) == self._width
                else (row, self._delimiter.join(cells), *[None] * self._width)
                for row, cells in batch
            ]
            frame = pl.DataFrame(rows, schema=schema | {TORN: pl.String}, orient="row")
            yield frame.cast({TORN: pl.Categorical})


def _untorn(frame: pl.DataFrame) -> pl.DataFrame:
    return frame.with_columns(pl.lit(None, pl.Categorical).alias(TORN))


def _array(piece: bytes) -> NDArray[np.uint8]:
    return np.frombuffer(piece, np.uint8)


def _inside(piece: bytes) -> NDArray[np.bool_]:
    """Which bytes stand within quotes, an opening quote included."""
    return np.bitwise_xor.accumulate(_array(piece) == _QUOTE)


def _well_quoted(piece: bytes, delimiter: str) -> bool:
    """Whether quotes stand only around whole fields, and doubled within them."""
    marks = np.frombuffer(b"".join((b"\n", piece, b"\n")), np.uint8)
    at = np.flatnonzero(marks == _QUOTE)
    edge = np.zeros(256, bool)
    edge[[_QUOTE, _LINE_END, ord(delimiter)]] = True
    whole = not len(at) % 2
    return whole and bool(edge[marks[at[::2] - 1]].all() and edge[marks[at[1::2] + 1]].all())


def _before(places: _Marks, at: _Marks) -> _Marks:
    """How many of the sorted places lie before each of `at`."""
    return np.searchsorted(places, at)
