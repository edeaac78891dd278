"""A Parquet file of sales lines as a source: its columns told as text, like those of any other file."""

from __future__ import annotations

import datetime as dt
import itertools
from pathlib import Path

import polars as pl

from oat_tide.core.language import phrase
from oat_tide.core.periods.calendar import day_number
from oat_tide.core.user_error import Progress, UserError, no_progress
from oat_tide.intake.cells.books import Codes
from oat_tide.intake.cells.codes import Coding, Together
from oat_tide.intake.cells.gathering import Gathering
from oat_tide.intake.cells.numbers import TYPED
from oat_tide.intake.origins.headings import check_width, told_apart
from oat_tide.intake.pace.ahead import ahead
from oat_tide.intake.source import Source, content, of_one_file
from oat_tide.intake.table import Table

MAGIC = b"PAR1"
_AT_ONCE, _SAMPLED = 1 << 18, 100_000


def is_parquet(path: Path) -> bool:
    """Whether a file begins as Parquet does."""
    try:
        with path.open("rb") as file:
            return file.read(4) == MAGIC
    except OSError:
        return False


def open_parquet(path: Path, progress: Progress = no_progress) -> Source:
    """Read a Parquet file.

    Raises:
        UserError: it is damaged, or holds no lines or no plain columns.
        Stopped: by way of `tell`.
    """
    try:
        schema = pl.read_parquet_schema(path)
        check_width(path.name, len(schema))
        names = told_apart(list(schema))
        kinds = dict(zip(names, schema.values(), strict=True))
        plain = {name: kind for name, kind in kinds.items() if _is_plain(kind)}
        if not plain:
            raise UserError(
                "{name} has no columns of dates, numbers or text. Choose another file.", name=path.name
            )
        lines = pl.scan_parquet(path).rename(dict(zip(schema, names, strict=True)))
        lines = lines.select(_hashable(name, kind) for name, kind in plain.items())
        rows = int(lines.select(pl.len()).collect().item())
        if not rows:
            raise UserError("{name} holds no lines. Choose a file with sales lines.", name=path.name)
        table = _table(lines, rows, {name: _told(name, kind) for name, kind in plain.items()}, progress)
    except (pl.exceptions.PolarsError, pl.exceptions.PanicException, OSError) as error:
        raise UserError(
            "{name} is damaged or cut short: {error}. Write it again.", name=path.name, error=error
        ) from error
    left = len(schema) - len(plain)
    form = phrase("Parquet") + (
        phrase(", {left} columns that are no plain values left out", left=left) if left else ""
    )
    anew = [name for name, was in zip(names, schema, strict=True) if name != " ".join(was.split())]
    form += (
        phrase(", columns without a name of their own called {anew}", anew=", ".join(anew[:6]))
        if anew
        else ""
    )
    status = path.stat()
    mark = f"{status.st_size} {status.st_mtime_ns} {content(table)}"
    return of_one_file(path.name, form, table, mark.encode())


def _is_plain(kind: pl.DataType) -> bool:
    return not kind.is_nested() and kind not in (pl.Binary, pl.Duration, pl.Null)


def _table(lines: pl.LazyFrame, rows: int, told: dict[str, pl.Expr], progress: Progress) -> Table:
    """The lines as text, what has few values by codes: of those each value is told once."""
    batches = iter(lines.collect_batches(chunk_size=_AT_ONCE, maintain_order=True))
    first = next(batches, lines.head(0).collect())
    coding = Coding(first.head(_SAMPLED), told)
    rest = [told[name] for name in told if name not in coding.columns]

    def coded(frame: pl.DataFrame) -> tuple[dict[Together, Codes], pl.DataFrame]:
        return coding.codes(frame), frame.select(rest)

    gathering = Gathering(coding, rows)
    for _, (codes, plain) in ahead(itertools.chain((first,), batches), coded):
        gathering.add(codes, plain)
        progress(gathering.height / rows)
    return gathering.table({name: name for name in told})


def _hashable(name: str, kind: pl.DataType) -> pl.Expr:
    """The values, those that the engine keeps by codes of its own as text."""
    return pl.col(name).cast(pl.String) if kind in (pl.Categorical, pl.Enum) else pl.col(name)


def _thousandths(column: pl.Expr) -> pl.Expr:
    """Which figures could be taken for thousands when written: below one thousand, with three decimals."""
    thousandths = (column * 1000).round()
    near = (column * 1000 - thousandths).abs() < 1e-6
    return near & (thousandths % 10 != 0) & column.abs().is_between(1, 1000)


_FIRST_DAY, _LAST_DAY = day_number(dt.date.min), day_number(dt.date.max)


def _of_a_calendar(column: pl.Expr, units: int) -> pl.Expr:
    """The dates in the years 1 to 9999; the engine gives up on writing any other.

    Args:
        units: of the column in a day.
    """
    days = column.to_physical() // units
    return pl.when(days.is_between(_FIRST_DAY, _LAST_DAY)).then(column)


def _told(name: str, kind: pl.DataType) -> pl.Expr:
    column = pl.col(name)
    if kind.is_float():
        # Whole numbers without a decimal mark, and nothing for what is no number.
        whole = column.is_finite() & (column == column.floor()) & (column.abs() < 1e15)
        text = column.cast(pl.String)
        return (
            pl.when(whole)
            .then(column.cast(pl.Int64, strict=False).cast(pl.String))
            .when(_thousandths(column))
            .then(text + TYPED)
            .when(column.is_finite())
            .then(text)
            .alias(name)
        )
    if kind.is_decimal():
        text = column.cast(pl.String)
        return pl.when(text.str.contains(".", literal=True)).then(text + TYPED).otherwise(text).alias(name)
    if kind == pl.Datetime:
        unit = getattr(kind, "time_unit", None) or "us"
        within = _of_a_calendar(column, 86_400 * 10 ** {"ms": 3, "us": 6, "ns": 9}[unit])
        return pl.coalesce(within.dt.to_string("iso:strict"), column.to_physical().cast(pl.String)).alias(
            name
        )
    if kind == pl.Date:
        text = _of_a_calendar(column, 1).cast(pl.String)
        return pl.coalesce(text, column.to_physical().cast(pl.String)).alias(name)
    return column.cast(pl.String, strict=False).replace("", None).alias(name)
