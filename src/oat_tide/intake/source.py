"""Where lines come from: a table of text with every line it holds, the torn ones too, by file and row."""

from __future__ import annotations

import hashlib
import io
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from decimal import Decimal

import numpy as np
import polars as pl

from oat_tide.core.language import phrase
from oat_tide.core.user_error import Progress, UserError, no_progress
from oat_tide.intake.cells.codes import has_few
from oat_tide.intake.file_names import shown
from oat_tide.intake.table import COUNT, FILE, MARK_TYPES, MARKS, ROW, TORN, Table

MOST_COLUMNS = 2000
_SEPARATED = phrase(", separated by ")
_FEW_CELLS, _CELLS_A_BYTE = 20_000_000, 60
"""A plan file whose lines unpack to more cells than this was made to fill the memory."""


@dataclass(frozen=True, slots=True)
class File:
    """One file, sheet or table.

    Attributes:
        name: of it.
        form: how it is written, in words.
        lines: in it.
    """

    name: str
    form: str
    lines: int = 0


@dataclass(frozen=True, eq=False)
class Source:
    """A table of text with every line that some files hold.

    Attributes:
        name: of the file, or of them all together.
        files: those read, in order.
        table: a row a line, all text (String or Categorical, null where empty); the MARKS and the columns
            of the file. COUNT is there only where a server has added lines up.
        stamp: tells this content from any other.
        sheets: of a workbook, those that there are.
        hidden: those of them that are hidden.
        tables: of a database.
        sample: for a server's totals, lines as they stand there.
        left: of a database, columns of figures that it was not asked for: how many figures, and their sum.
        traced: of a database, by column, every line of some of its values.
    """

    name: str
    files: tuple[File, ...]
    table: Table
    stamp: str
    sheets: tuple[str, ...] = ()
    hidden: tuple[str, ...] = ()
    tables: tuple[str, ...] = ()
    sample: Source | None = field(default=None)
    left: Mapping[str, tuple[int, Decimal]] = field(default_factory=dict)
    traced: Mapping[str, Table] | None = field(default=None)

    @property
    def frame(self) -> pl.DataFrame:
        """The table with all its text."""
        return self.table.frame

    @property
    def columns(self) -> list[str]:
        """The columns of the file."""
        table = self.sample.table if self.sample else self.table
        return [name for name in table.columns if name not in MARKS]

    @property
    def form(self) -> str:
        """How it is written, in words."""
        return (
            self.files[0].form if len({file.form for file in self.files}) == 1 else phrase("of several forms")
        )

    @property
    def separator(self) -> str:
        """What stands between fields of delimited text, in words; empty for other sources, or several."""
        found = {file.form.partition(_SEPARATED)[2].partition(",")[0] for file in self.files}
        return found.pop() if len(found) == 1 else ""

    @property
    def lines(self) -> int:
        """Lines read; where a server added them up, those it counted."""
        return int(self.table[COUNT].sum()) if COUNT in self.table.columns else self.table.height

    def with_frame(self, frame: pl.DataFrame) -> Source:
        """Return the source with other lines."""
        return replace(self, table=Table.of(frame))


def made(name: str, form: str, frame: pl.DataFrame, mark: bytes, tables: tuple[str, ...] = ()) -> Source:
    """A source of one file.

    Args:
        frame: with ROW, TORN and the columns of the file; FILE may be there already.
        mark: what tells the content of this file from any other.
    """
    if FILE not in frame.columns:
        frame = frame.with_columns(pl.col(TORN).cast(pl.Categorical), pl.lit(0, pl.UInt16).alias(FILE))
    frame = frame.select(ROW, TORN, FILE, *(name for name in frame.columns if name not in (ROW, TORN, FILE)))
    return replace(of_one_file(name, form, Table.of(frame), mark), tables=tables)


def of_one_file(name: str, form: str, table: Table, mark: bytes) -> Source:
    """A source of one file, as `made` gives it, of a table with ROW, TORN and FILE before its columns."""
    name = shown(name)
    stamp = hashlib.blake2b(name.encode() + b"\n" + mark, digest_size=16).hexdigest()
    return Source(name, (File(name, form, table.height),), table, stamp)


def stacked(sources: Sequence[Source], name: str) -> Source:
    """Files of one shape as one source; a column that one of them lacks is empty there.

    Raises:
        UserError: a file has no column in common with the first.
    """
    first = sources[0]
    if len(sources) == 1:
        return replace(first, name=name)
    frames, start = [], 0
    for each in sources:
        strange = [column for column in each.columns if column not in first.columns]
        if len(strange) == len(each.columns):
            raise UserError(
                "{name} has other columns than {other}: {strange}. Take in only files of one shape together.",
                name=each.files[0].name,
                other=first.files[0].name,
                strange=", ".join(strange[:6]),
            )
        frames.append(each.frame.with_columns(pl.col(FILE) + start))
        start += len(each.files)
    mixed = {
        column
        for column in {name for frame in frames for name in frame.columns}
        if column not in MARKS and len({f[column].dtype for f in frames if column in f.columns}) > 1
    }
    frames = [f.with_columns(pl.col(c).cast(pl.String) for c in f.columns if c in mixed) for f in frames]
    mark = " ".join(each.stamp for each in sources)
    return replace(
        first,
        name=name,
        files=tuple(file for each in sources for file in each.files),
        table=Table.of(pl.concat(frames, how="diagonal")),
        stamp=hashlib.blake2b(mark.encode(), digest_size=16).hexdigest(),
    )


def content(table: Table) -> int:
    """A number that other lines would hardly have."""
    step = max(1, table.height // 4_000)
    return int(table.lines(np.arange(0, table.height, step)).hash_rows().sum())


def thinned(frame: pl.DataFrame) -> pl.DataFrame:
    """Return the source with columns of few values kept as codes, which takes a quarter of the memory."""
    few = [
        column.name
        for column in frame
        if column.dtype == pl.String and has_few(column.n_unique(), len(column))
    ]
    return frame.with_columns(pl.col(few).cast(pl.Categorical)) if few else frame


def to_parquet(source: Source) -> bytes:
    """The lines as Parquet, all text."""
    sink = io.BytesIO()
    source.frame.write_parquet(sink, compression="zstd")
    return sink.getvalue()


def _counted(frame: pl.DataFrame) -> dict[int, int]:
    """The lines of each file, by its place; those that a server added up as many as it counted."""
    counted = pl.col(COUNT).sum() if COUNT in frame.columns else pl.len()
    return {int(at): int(lines) for at, lines in frame.group_by(FILE).agg(counted).rows()}


def from_parquet(
    data: bytes, file: str, name: str, files: tuple[File, ...], progress: Progress = no_progress
) -> Source:
    """Lines kept in a plan file.

    Args:
        file: the plan file, for messages.
        name, files: of the source that the lines were read from.

    Raises:
        UserError: these are not lines, or too many to be honest.
    """
    try:
        schema = pl.read_parquet_schema(io.BytesIO(data))
        rows = int(pl.scan_parquet(io.BytesIO(data)).select(pl.len()).collect().item())
        fits = list(schema)[:3] == [ROW, TORN, FILE] and all(
            kind == MARK_TYPES[column] if column in MARKS else kind in (pl.String, pl.Categorical)
            for column, kind in schema.items()
        )
        if fits and rows * len(schema) > max(_FEW_CELLS, _CELLS_A_BYTE * len(data)):
            raise UserError(
                "{file}: its lines unpack to {rows:,} rows from {data:,} bytes. It was not opened; "
                "open another copy.",
                file=file,
                rows=rows,
                data=len(data),
            )
        frame = pl.read_parquet(io.BytesIO(data)) if fits and rows else None
    except (pl.exceptions.PolarsError, OSError) as error:
        raise UserError(
            "{file}: its sales lines cannot be read: {error}. Open another copy of it.",
            file=file,
            error=error,
        ) from error
    if frame is None or _counted(frame) != {at: each.lines for at, each in enumerate(files) if each.lines}:
        raise UserError("{file}: what it holds are not sales lines. Open another copy of it.", file=file)
    return Source(name, files, Table.of(frame), hashlib.blake2b(data, digest_size=16).hexdigest())
