"""The cells of a column understood: every distinct text once, and the answer spread over the lines."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import polars as pl
from numpy.typing import NDArray

from oat_tide.core.reading import Pattern
from oat_tide.intake import dates, numbers
from oat_tide.intake.totals import counted, gathered

NO_DAY = np.iinfo(np.int32).min


@dataclass(frozen=True, eq=False, slots=True)
class Coded:
    """A column by its distinct texts.

    Attributes:
        texts: each text once, null for empty; counts: how many lines have it.
        marks: what stands for its text in each line; places: the marks of the texts.
    """

    texts: pl.Series
    counts: NDArray[np.int64]
    marks: NDArray[np.uint32]
    places: NDArray[np.int64]

    def spread(self, answers: pl.Series | NDArray[Any]) -> NDArray[Any]:
        """Answers for the distinct texts as answers for the lines."""
        return gathered((self.table(answers), self.marks))

    def table(self, answers: pl.Series | NDArray[Any]) -> NDArray[Any]:
        """Answers for the distinct texts, to be looked up by their marks."""
        values = answers.to_numpy() if isinstance(answers, pl.Series) else answers
        table = np.zeros(int(self.places.max(initial=0)) + 1, values.dtype)
        table[self.places] = values
        return table


def coded(column: pl.Series) -> Coded:
    """The distinct texts of a column and where they stand."""
    cells = column if column.dtype == pl.Categorical else column.cast(pl.Categorical)
    marks, size = marked(cells)
    counts = counted(marks, size)
    places = np.flatnonzero(counts)
    known = pl.Series(places[places < size - 1], dtype=pl.UInt32)
    texts = known.cat.to(cells.dtype).cast(pl.String).extend_constant(None, int(counts[-1] > 0))
    return Coded(texts.alias(column.name), counts[places], marks, places)


def marked(cells: pl.Series) -> tuple[NDArray[np.uint32], int]:
    """The engine's codes of a Categorical column, a line each, and what they are below; empty is the last."""
    codes = cells.to_physical()
    none = int(codes.max()) + 1 if codes.null_count() < len(codes) else 0  # type: ignore[arg-type]
    return (codes.fill_null(none) if codes.null_count() else codes).to_numpy(), none + 1


class Coder:
    """The columns of the lines by their distinct texts, each looked at once."""

    def __init__(self, frame: pl.DataFrame) -> None:
        self.frame = frame
        self._kept: dict[str, Coded] = {}

    def __call__(self, name: str) -> Coded:
        """A column of the lines."""
        if name not in self._kept:
            self._kept[name] = coded(self.frame[name])
        return self._kept[name]


@dataclass(frozen=True, eq=False, slots=True)
class When:
    """The dates of the lines.

    Attributes:
        cells: the texts that the other answers are for.
        day: day numbers, NO_DAY where there is none; swapped: where day and month could be.
        told: what a cell names, as in `dates.DAY`, 0 for nothing; blank: where the cell is empty.
        week: the number of a week that names no year, else 0.
        order: what settles day against month; patterns: those written, the most common first.
    """

    cells: Coded
    day: NDArray[np.int32]
    swapped: NDArray[np.bool_]
    told: NDArray[np.int8]
    blank: NDArray[np.bool_]
    week: NDArray[np.int8]
    order: dates.Order
    patterns: tuple[Pattern, ...]


def when(column: pl.Series, asked: str, coder: Coder) -> When:
    """Understand a column of dates.

    Args:
        asked: "by evidence", "day first" or "month first".
    """
    plain = _without_times(column)
    cells = coder(column.name) if plain is column else coded(plain)
    days = dates.whole_days(cells.texts)
    if days is not None:
        day = days.to_physical().fill_null(NO_DAY).to_numpy()
        never, told = np.zeros(len(day), bool), np.full(len(day), dates.DAY, np.int8)
        shown = pl.repeat(dates.SHOWN[0], len(day), eager=True)
        order = dates.Order(None, 0, 0, 0)
        week = np.zeros(len(day), np.int8)
        return When(cells, day, never, told, never, week, order, _patterns(shown, cells))
    name, frame = column.name, pl.DataFrame([cells.texts])
    order = dates.order_of(frame, name, cells.counts)
    first = asked == "day first" if asked != "by evidence" else order.day_first
    if first is None and 2 * order.open > len(column):
        first = True
    table = frame.select(
        day=dates.day(name, first).to_physical().fill_null(NO_DAY).cast(pl.Int32),
        told=dates.precision(name).fill_null(0).cast(pl.Int8),
        blank=numbers.plain(name).fill_null("") == "",
        week=dates.bare_week(name).fill_null(0).cast(pl.Int8),
        shown=dates.shown_as(name),
    )
    day, told, blank, week = (table[name].to_numpy() for name in table.columns[:4])
    swapped = day == NO_DAY
    if swapped.any():
        swapped[swapped] = frame.filter(swapped).select(dates.day(name, True).is_not_null())[name].to_numpy()
    return When(cells, day, swapped, told, blank, week, order, _patterns(table["shown"], cells))


def _without_times(column: pl.Series) -> pl.Series:
    """Time stamps differ line by line; where all are written alike, their days are few."""
    if column.dtype != pl.String or not len(column):
        return column
    stamped = column.str.contains(r"^\d{4}-\d\d-\d\d[T ]\d\d:\d\d(?::\d\d(?:\.\d+)?)?$")
    return column.str.slice(0, 10) if bool(stamped.fill_null(False).all()) else column


def _patterns(shown: pl.Series, cells: Coded) -> tuple[Pattern, ...]:
    found = pl.DataFrame({"shown": shown, "count": cells.counts, "text": cells.texts}).drop_nulls()
    grouped = found.group_by("shown", maintain_order=True).agg(pl.col("count").sum(), pl.col("text").first())
    return tuple(Pattern(*row) for row in grouped.sort("count", descending=True, maintain_order=True).rows())


@dataclass(frozen=True, eq=False, slots=True)
class Much:
    """The figures of the lines.

    Attributes:
        cells: the texts that the other answers are for; None where these are a value a line.
        number: NaN where there is none, infinite where it overflows.
        blank: where the cell is empty or a dash.
        places: decimals that the figures need.
    """

    cells: Coded | None
    number: NDArray[np.float64]
    blank: NDArray[np.bool_]
    places: int

    def spread(self, answers: NDArray[Any]) -> NDArray[Any]:
        """Answers as answers for the lines."""
        return answers if self.cells is None else self.cells.spread(answers)


def much(column: pl.Series, asked: str, coder: Coder) -> Much:
    """Understand a column of figures.

    Args:
        asked: "by content", "point" or "comma".
    """
    if column.dtype == pl.String and asked != "comma":
        plain = _plain_figures(column)
        if plain is not None:
            return plain
    cells = coder(column.name)
    name, frame = column.name, pl.DataFrame([cells.texts])
    comma = asked == "comma" or (asked != "point" and numbers.uses_comma(frame, name))
    table = frame.select(
        number=numbers.number(name, comma).fill_null(np.nan),
        decimals=numbers.decimals(name, comma).fill_null(0),
        blank=numbers.is_blank(name),
    )
    known = table["number"].is_finite()
    places = int(table.filter(known)["decimals"].max() or 0)  # type: ignore[arg-type]
    return Much(cells, table["number"].to_numpy(), table["blank"].to_numpy(), places)


def _plain_figures(column: pl.Series) -> Much | None:
    """Figures as a program writes them, such as -12.50; None where any cell is written otherwise."""
    blank = column.is_null()
    number = column.cast(pl.Float64, strict=False)
    if bool((number.is_null() & ~blank).any()) or not bool(number.is_finite().all()):
        return None
    if bool(column.str.contains("[eE+ ]").any()):
        return None
    point = column.str.find(".", literal=True)
    after = (column.str.len_bytes().cast(pl.Int64) - point.cast(pl.Int64) - 1).max()
    if after is not None and int(after) >= 3:  # type: ignore[arg-type]
        # 1.234 may well be one thousand two hundred and thirty-four.
        return None
    return Much(None, number.fill_null(np.nan).to_numpy(), blank.to_numpy(), int(after or 0))  # type: ignore[arg-type]
