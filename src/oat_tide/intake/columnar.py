"""A Parquet file of sales lines as a source: its columns told as text, like those of any other file."""

from __future__ import annotations

from pathlib import Path

import polars as pl

from oat_tide.core.trouble import Tell, Trouble, unheard
from oat_tide.intake.source import MOST_COLUMNS, ROW, TORN, Source, made, thinned

MAGIC = b"PAR1"
_AT_ONCE = 1 << 20


def is_parquet(path: Path) -> bool:
    """Whether a file begins as Parquet does."""
    try:
        with path.open("rb") as file:
            return file.read(4) == MAGIC
    except OSError:
        return False


def open_parquet(path: Path, tell: Tell = unheard) -> Source:
    """Read a Parquet file.

    Raises:
        Trouble: it is damaged, or holds no lines or no plain columns.
        Stopped: by way of `tell`.
    """
    try:
        schema = pl.read_parquet_schema(path)
        plain = {name: kind for name, kind in schema.items() if not kind.is_nested() and kind != pl.Binary}
        if not plain:
            raise Trouble(f"{path.name} has no columns of dates, numbers or text. Choose another file.")
        if len(plain) > MOST_COLUMNS:
            raise Trouble(f"{path.name} has {len(plain):,} columns; at most {MOST_COLUMNS:,} can be read.")
        lines = pl.scan_parquet(path).select(_told(name, kind) for name, kind in plain.items())
        rows = int(lines.select(pl.len()).collect().item())
        pieces = []
        for start in range(0, rows, _AT_ONCE):
            pieces.append(thinned(lines.slice(start, _AT_ONCE).collect()))
            tell(min(start + _AT_ONCE, rows) / rows)
    except (pl.exceptions.PolarsError, OSError) as error:
        raise Trouble(f"{path.name} is damaged or cut short: {error}. Write it anew.") from error
    if not rows:
        raise Trouble(f"{path.name} holds no lines. Choose a file with sales lines.")
    frame = _alike(pieces).select(
        pl.int_range(1, pl.len() + 1, dtype=pl.Int64).alias(ROW),
        pl.lit(None, pl.String).alias(TORN),
        pl.all().name.map(lambda name: " ".join(name.split()) or "column"),
    )
    left = len(schema) - len(plain)
    form = "Parquet" + (f", {left} columns that are no plain values left out" if left else "")
    status = path.stat()
    mark = f"{status.st_size} {status.st_mtime_ns} {frame.hash_rows().sum()}"
    return made(path.name, form, frame, mark.encode())


def _alike(pieces: list[pl.DataFrame]) -> pl.DataFrame:
    """The pieces together; a column that is kept by codes in one only is text in all."""
    types = {name: {piece[name].dtype for piece in pieces} for name in pieces[0].columns}
    mixed = [name for name, kinds in types.items() if len(kinds) > 1]
    return pl.concat(piece.with_columns(pl.col(mixed).cast(pl.String)) for piece in pieces)


def _told(name: str, kind: pl.DataType) -> pl.Expr:
    column = pl.col(name)
    if kind.is_float():
        # Whole numbers without a decimal mark, and nothing for what is no number.
        whole = column.is_finite() & (column == column.floor()) & (column.abs() < 1e15)
        return (
            pl.when(whole)
            .then(column.cast(pl.Int64, strict=False).cast(pl.String))
            .otherwise(pl.when(column.is_finite()).then(column.cast(pl.String)))
            .alias(name)
        )
    if kind == pl.Datetime:
        return column.dt.to_string("iso:strict").alias(name)
    return column.cast(pl.String, strict=False).replace("", None).alias(name)
