"""What a stage has reckoned of every series as one tidy table, by way of the data-frame engine."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import IO, Any

import numpy as np
import polars as pl
from numpy.typing import NDArray

from oat_tide.core.exact import Values
from oat_tide.core.series.panel import INCOMPLETE
from oat_tide.publish.tables import first_day
from oat_tide.stages.deck import Breakdown, Deck
from oat_tide.stages.record import Record

_RUNS = r"^[\s\p{Z}\p{Cf}\x00-\x1f]*[=＝+＋\-－@＠\t\r]"
"""What a program may take for a formula: such a sign at the start of a cell, or behind blanks there."""
_WHOLE = 2.0**53


OfChildren = Callable[[], tuple[Deck, int]]
"""Gives the projection of children, and the place of their dimension in a key."""


def record(
    deck: Deck, ask: Any, kept: Record, dimensions: tuple[str, ...], children: OfChildren | None = None
) -> pl.DataFrame:
    """One row for each series and period that has a figure of the record of a stage, in this order.

    Args:
        deck: of the stage.
        ask: the part of the plan that it goes by.
        kept: the record.
        dimensions: what tells series apart.
        children: what a record of one total and its parts is held against.

    Returns:
        The key columns, period, kind, what is the same in every row, value, the figures beside it and the
        actual; null where not known.
    """
    if kept.table is not None:
        return _table(dimensions, deck, kept.table(deck), kept.said(ask, deck.grid))
    axis = kept.axis(ask)
    if axis:
        return _by_place(dimensions, deck, axis, kept.column, kept.beside(ask))
    if kept.main:
        return _of_one(deck, kept.main, kept.beside(ask), children)
    figures = deck.figures
    if not kept.kinds and not any(name in figures for name in kept.beside(ask).values()):
        return pl.DataFrame()
    actual = np.where(deck.flags & INCOMPLETE, np.nan, figures["actual"].values)
    none = np.full(deck.flags.shape, np.nan)
    beside = {
        # What this one does not have, such as the forecast of a total, stands empty.
        heading: figures[name].values if name in figures else none
        for heading, name in kept.beside(ask).items()
    }
    if kept.kinds:
        kind, value = _first_known(deck, kept.kinds)
        known = {"value": value, **beside, "actual": actual}
        there = ~np.isnan(value)
    else:
        known = {"actual": actual, **beside}
        there = np.any([~np.isnan(values) for values in known.values()], axis=0)
        # A series of which nothing is reckoned has no rows: it is told why.
        there &= np.any([~np.isnan(values) for values in beside.values()], axis=(0, 2))[:, None]
    series, column = np.nonzero(there)
    periods = _days([first_day(deck, each) for each in range(deck.columns)])
    same = kept.said(ask, deck.grid)
    return pl.DataFrame(
        {
            **_members(dimensions, deck, series),
            "period": periods.gather(column),
            **({"kind": pl.Series(kept.kinds).gather(kind[series, column])} if kept.kinds else {}),
            **{name: pl.repeat(words, len(column), eager=True) for name, words in same.items()},
            **{name: _clean(values[series, column]) for name, values in known.items()},
        }
    )


def _of_one(deck: Deck, main: str, headings: dict[str, str], children: OfChildren | None) -> pl.DataFrame:
    """One row for each period of a figure, or for each part of it and period."""
    if main not in deck.figures:
        return pl.DataFrame()
    there = ~np.isnan(deck.figures[main].values[0])
    columns = np.flatnonzero(there)
    periods = _days([first_day(deck, each) for each in columns.tolist()])
    if deck.parts is None:
        known = {heading: _clean(deck.figures[name].values[0, columns]) for heading, name in headings.items()}
        return pl.DataFrame({"period": periods, **known})
    parts, many = deck.parts, len(columns)
    here = columns - parts.first
    none = np.full((len(parts.members), many), np.nan)
    of_parts = {main: parts.values[:, here]} | {name: found[:, here] for name, found in parts.beside.items()}
    if "baseline" in headings.values() and children is not None:
        of_parts["baseline"] = _projected_parts(*children(), parts, columns)
    values = {heading: of_parts.get(name, none) for heading, name in headings.items()}
    return pl.DataFrame(
        {
            parts.dimension: pl.Series([member for member in parts.members for _ in range(many)]),
            "period": pl.concat([periods] * len(parts.members)),
            **{heading: _clean(found.ravel()) for heading, found in values.items()},
        }
    )


def _projected_parts(deck: Deck, at: int, parts: Breakdown, columns: NDArray[np.int64]) -> Values:
    """(members, columns) what has sold of each part, then what is projected of it; NaN for neither."""
    found = np.full((len(parts.members), len(columns)), np.nan)
    actual, projected = (deck.figures[name].values for name in ("actual", "projected"))
    both = np.where(np.arange(deck.columns) < deck.past, actual, projected)
    rows = {str(key[at]): row for row, key in enumerate(deck.keys)}
    there = columns < deck.columns
    for place, member in enumerate(parts.members):
        if member in rows:
            found[place, there] = both[rows[member], columns[there]]
    return found


def _by_place(
    dimensions: tuple[str, ...], deck: Deck, axis: str, column: str, headings: dict[str, str]
) -> pl.DataFrame:
    """One row for each series and place of another axis than time, such as the seasons of a year."""
    names = deck.axes[axis].full
    values = {
        heading: deck.figures[name].values for heading, name in headings.items() if name in deck.figures
    }
    if not values:
        return pl.DataFrame()
    there = ~np.isnan(next(iter(values.values())))
    series, place = np.nonzero(there)
    return pl.DataFrame(
        {
            **_members(dimensions, deck, series),
            column: pl.Series(list(names)).gather(place),
            **{heading: _clean(found[series, place]) for heading, found in values.items()},
        }
    )


def _table(
    dimensions: tuple[str, ...],
    deck: Deck,
    rows: tuple[tuple[str, dict[str, str]], ...],
    same: dict[str, str],
) -> pl.DataFrame:
    """One row for each series and each of some facts, such as coefficients, with what stands beside it."""
    if not rows:
        return pl.DataFrame()
    many = len(deck.keys)
    series = np.repeat(np.arange(many), len(rows))
    headings = list(dict.fromkeys(heading for _, beside in rows for heading in beside))
    none = np.full((many, 1), np.nan)
    cells = {
        heading: np.concatenate(
            [deck.figures[beside[heading]].values if heading in beside else none for _, beside in rows], 1
        ).ravel()
        for heading in headings
    }
    there = ~np.isnan(cells[headings[0]])
    return pl.DataFrame(
        {
            **_members(dimensions, deck, series[there]),
            **{name: pl.repeat(words, int(there.sum()), eager=True) for name, words in same.items()},
            "term": pl.Series([term for term, _ in rows] * many).filter(pl.Series(there)),
            **{heading: _clean(values[there]) for heading, values in cells.items()},
        }
    )


def _days(first_days: list[str]) -> pl.Series:
    """The first days of periods as dates."""
    return pl.Series(first_days, dtype=pl.String).str.to_date("%Y-%m-%d")


def _members(dimensions: tuple[str, ...], deck: Deck, series: NDArray[np.int64]) -> dict[str, pl.Series]:
    """The key columns of rows, by dimension."""
    members = [pl.Series([str(key[place]) for key in deck.keys]) for place in range(len(deck.keys[0]))]
    return dict(zip(dimensions, (each.gather(series) for each in members), strict=True))


def _first_known(deck: Deck, kinds: tuple[str, ...]) -> tuple[NDArray[np.int64], Values]:
    """(series, columns) the place of the first of some figures that is known, and its value."""
    value, kind = np.full(deck.flags.shape, np.nan), np.zeros(deck.flags.shape, np.int64)
    for place, name in reversed(list(enumerate(kinds))):
        there = ~np.isnan(deck.figures[name].values)
        value, kind = np.where(there, deck.figures[name].values, value), np.where(there, place, kind)
    return kind, value


def _clean(values: Values) -> pl.Series:
    """Figures to fifteen digits: what follows is noise of the reckoning, for a double holds no more."""
    return pl.Series(values, nan_to_null=True).round_sig_figs(15)


def aligned(frame: pl.DataFrame, schema: dict[str, pl.DataType]) -> pl.DataFrame:
    """A table with all columns that are written; what it does not have stands empty."""
    return frame.select(
        pl.col(name) if name in frame.columns else pl.lit(None, kind).alias(name)
        for name, kind in schema.items()
    )


def schema_of(frames: Sequence[pl.DataFrame]) -> dict[str, pl.DataType]:
    """The columns of several tables that are written below each other."""
    return dict(pl.concat([each.clear() for each in frames], how="diagonal").schema)


def write_text(frames: Iterator[pl.DataFrame], form: str, file: IO[str]) -> None:
    """Write tables below each other as they come, as CSV or JSON."""
    if form == "csv":
        for place, frame in enumerate(frames):
            file.write(as_csv(frame, header=not place))
        return
    file.write("[")
    for place, frame in enumerate(frames):
        # Without its own brackets.
        file.write(("," if place else "") + frame.write_json()[1:-1])
    file.write("]\n")


def write_parquet(frames: Iterator[pl.DataFrame], folder: Path, path: Path) -> None:
    """Write tables below each other as Parquet.

    Args:
        folder: an empty one, for each of them until all are there.
    """
    parts = []
    for place, frame in enumerate(frames):
        parts.append(folder / f"{place}.parquet")
        frame.write_parquet(parts[-1])
    pl.scan_parquet(parts).sink_parquet(path)


def as_csv(frame: pl.DataFrame, header: bool = True) -> str:
    """A table as CSV: figures at full precision, whole ones plain, and text that no program runs."""
    texts = [name for name, kind in frame.schema.items() if kind == pl.String]
    numbers = [name for name, kind in frame.schema.items() if kind == pl.Float64]
    written = frame.with_columns(
        *(pl.col(name).str.replace(_RUNS, "'$0") for name in texts), *(_number(name) for name in numbers)
    )
    safe = {name: pl.Series([name]).str.replace(_RUNS, "'$0")[0] for name in frame.columns}
    return written.rename(safe).write_csv(include_header=header)


def _number(name: str) -> pl.Expr:
    value = pl.col(name)
    whole = (value == value.floor()) & (value.abs() < _WHOLE)
    return (
        pl.when(whole)
        .then(value.cast(pl.Int64, strict=False).cast(pl.String))
        .otherwise(value.cast(pl.String))
    )


def as_json(frame: pl.DataFrame) -> str:
    """A table as a JSON array of objects; null where not known."""
    return frame.write_json() + "\n"
