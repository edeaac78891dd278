"""A Parquet file of sales lines as a source: its columns told as text, like those of any other file."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import polars as pl

from oat_tide.core.trouble import Tell, Trouble, unheard
from oat_tide.intake.ahead import ahead
from oat_tide.intake.coding import Coding
from oat_tide.intake.source import FILE, MOST_COLUMNS, ROW, TORN, Source, content, made

MAGIC = b"PAR1"
_AT_ONCE, _SAMPLED = 1 << 19, 100_000


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
        plain = {name: kind for name, kind in schema.items() if _is_plain(kind)}
        if not plain:
            raise Trouble(f"{path.name} has no columns of dates, numbers or text. Choose another file.")
        if len(plain) > MOST_COLUMNS:
            raise Trouble(f"{path.name} has {len(plain):,} columns; at most {MOST_COLUMNS:,} can be read.")
        lines = pl.scan_parquet(path).select(_hashable(name, kind) for name, kind in plain.items())
        rows = int(lines.select(pl.len()).collect().item())
        pieces = list(_pieces(lines, rows, {name: _told(name, kind) for name, kind in plain.items()}, tell))
    except (pl.exceptions.PolarsError, OSError) as error:
        raise Trouble(f"{path.name} is damaged or cut short: {error}. Write it anew.") from error
    if not rows:
        raise Trouble(f"{path.name} holds no lines. Choose a file with sales lines.")
    frame = pl.concat(pieces, rechunk=True).select(
        pl.int_range(1, pl.len() + 1, dtype=pl.Int64).alias(ROW),
        pl.lit(None, pl.Categorical).alias(TORN),
        pl.lit(0, pl.UInt16).alias(FILE),
        pl.all().name.map(lambda name: " ".join(name.split()) or "column"),
    )
    left = len(schema) - len(plain)
    form = "Parquet" + (f", {left} columns that are no plain values left out" if left else "")
    status = path.stat()
    mark = f"{status.st_size} {status.st_mtime_ns} {content(frame)}"
    return made(path.name, form, frame, mark.encode())


def _is_plain(kind: pl.DataType) -> bool:
    return not kind.is_nested() and kind not in (pl.Binary, pl.Duration, pl.Null)


def _pieces(lines: pl.LazyFrame, rows: int, told: dict[str, pl.Expr], tell: Tell) -> Iterator[pl.DataFrame]:
    """The lines as text, what has few values by codes: of those each value is told once."""
    coding = Coding(lines.head(_SAMPLED).collect(), told)
    rest = [told[name] for name in told if name not in coding.columns]

    def piece(start: int) -> pl.DataFrame:
        return coding(lines.slice(start, _AT_ONCE).collect()).with_columns(rest)

    for start, frame in ahead(range(0, rows, _AT_ONCE), piece):
        tell(min(start + _AT_ONCE, rows) / rows)
        yield frame


def _hashable(name: str, kind: pl.DataType) -> pl.Expr:
    """The values, those that the engine keeps by codes of its own as text."""
    return pl.col(name).cast(pl.String) if kind in (pl.Categorical, pl.Enum) else pl.col(name)


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
