"""The cells of a column understood: every distinct text once, and the answer spread over the lines."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from decimal import Context, Decimal, localcontext
from typing import Any

import numpy as np
import polars as pl
from numpy.typing import NDArray

from oat_tide.core.periods.calendar import Grid, Kind
from oat_tide.core.series.reading import DecimalMark, Pattern
from oat_tide.intake.cells import dates, numbers
from oat_tide.intake.cells.codes import highest_code
from oat_tide.intake.pace.stretches import Numbers, Spread, counted
from oat_tide.intake.table import Table

NO_DAY = np.iinfo(np.int32).min
_EARLY = 1000
"""Lines that are the first."""


@dataclass(frozen=True, eq=False, slots=True)
class Coded:
    """A column by its distinct texts.

    Attributes:
        texts: each text once, null for empty.
        counts: how many lines have it.
        marks: what stands for its text in each line.
        which: the place among the texts of each mark.
        held: which marks there are.
    """

    texts: pl.Series
    counts: NDArray[np.int64]
    marks: NDArray[np.unsignedinteger[Any]]
    which: NDArray[np.int64]
    held: NDArray[np.bool_]

    def spread(self, answers: pl.Series | NDArray[Any]) -> NDArray[Any]:
        """Answers for the distinct texts as answers for the lines."""
        return self.later(answers).all

    def later(self, answers: pl.Series | NDArray[Any]) -> Spread:
        """Return the values of some lines, computed when asked for."""
        return Spread(self.table(answers), self.marks, self.held)

    def counted(self, groups: NDArray[np.integer], size: int) -> NDArray[np.int64]:
        """How many lines of each group have each text: (groups, texts)."""
        width = len(self.which)
        by_mark = counted(self.marks + np.int64(width) * groups.astype(np.int64), width * size)
        found = np.zeros((size, len(self.texts)), np.int64)
        if len(self.texts):
            np.add.at(found.T, self.which, by_mark.reshape(size, width).T)
        return found

    def table(self, answers: pl.Series | NDArray[Any]) -> NDArray[Any]:
        """Answers for the distinct texts, to be looked up by their marks."""
        values = answers.to_numpy() if isinstance(answers, pl.Series) else answers
        found: NDArray[Any] = values[self.which] if len(values) else np.zeros(len(self.which), values.dtype)
        return found


def _among(places: NDArray[np.int64], size: int) -> NDArray[np.int64]:
    """Return for each index below `size` its rank among some indices; 0 for the rest."""
    found = np.zeros(size, np.int64)
    found[places] = np.arange(len(places))
    return found


def coded(column: pl.Series) -> Coded:
    """The distinct texts of a column and where they stand."""
    cells = column if column.dtype == pl.Categorical else column.cast(pl.Categorical)
    marks, size = marked(cells)
    counts = counted(marks, size)
    places = np.flatnonzero(counts)
    known = pl.Series(places[places < size - 1], dtype=pl.UInt32)
    texts = known.cat.to(cells.dtype).cast(pl.String).extend_constant(None, int(counts[-1] > 0))
    return Coded(texts.alias(column.name), counts[places], marks, _among(places, size), counts > 0)


def marked(cells: pl.Series) -> tuple[NDArray[np.uint32], int]:
    """The engine's codes of a Categorical column, a line each, and what they are below; empty is the last."""
    codes = cells.to_physical()
    none = highest_code((cells,)) + 1
    return (codes.fill_null(none) if codes.null_count() else codes).to_numpy(), none + 1


class Coder:
    """The columns of the lines by their distinct texts, each looked at once."""

    def __init__(self, table: Table) -> None:
        self.table = table
        self._kept: dict[str, Coded] = {}
        self._counts: dict[int, NDArray[np.int64]] = {}

    def __call__(self, name: str) -> Coded:
        """A column of the lines."""
        if name not in self._kept:
            by_codes = name in self.table.codes
            self._kept[name] = self._of_codes(name) if by_codes else coded(self.table[name])
        return self._kept[name]

    def _of_codes(self, name: str) -> Coded:
        """A column that is kept by codes."""
        codes, texts, places = self.table.codes[name], self.table.texts, self.table.places(name)
        if id(codes) not in self._counts:
            # Columns that are kept together have been counted with the first of them.
            self._counts[id(codes)] = counted(codes, len(places))
        held = self._counts[id(codes)]
        counts = np.bincount(places, held, len(texts)).astype(np.int64)
        found = np.flatnonzero(counts)
        which = _among(found, len(texts))[places]
        return Coded(texts.gather(found).alias(name), counts[found], codes, which, held > 0)

    def text(self, name: str) -> pl.Series | None:
        """A column that is kept as text; None for one of few values."""
        if name in self.table.codes or self.table[name].dtype != pl.String:
            return None
        return self.table[name]

    def first(self, name: str) -> pl.Series:
        """The cells of the first lines."""
        return self.table.lines(np.arange(min(_EARLY, self.table.height)), (name,))[name]


@dataclass(frozen=True, eq=False, slots=True)
class When:
    """The dates of the lines.

    Attributes:
        cells: the texts that the other answers are for.
        day: day numbers, NO_DAY where there is none.
        swapped: the same with day and month changed about, where that could be.
        told: what a cell names, as in `dates.DAY`, 0 for nothing.
        blank: where the cell is empty.
        week: the number of a week that names no year, else 0.
        order: what settles day against month.
        patterns: those written, the most common first.
        fiscal: whether some of them name a fiscal year.
    """

    cells: Coded
    day: NDArray[np.int32]
    swapped: NDArray[np.bool_]
    told: NDArray[np.int8]
    blank: NDArray[np.bool_]
    week: NDArray[np.int8]
    order: dates.Order
    patterns: tuple[Pattern, ...]
    fiscal: bool = False


def when(name: str, asked: str, coder: Coder, year_start: int = 1) -> When:
    """Understand a column of dates.

    Args:
        asked: "by evidence", "day first" or "month first".
        year_start: the month that fiscal years begin with.
    """
    text = coder.text(name)
    days_only = None if text is None else _days_of(text)
    cells, first = (coder(name), coder.first(name)) if days_only is None else (coded(days_only), days_only)
    days = dates.whole_days(cells.texts)
    if days is not None:
        day = days.to_physical().fill_null(NO_DAY).to_numpy()
        never, told = np.zeros(len(day), bool), np.full(len(day), dates.DAY, np.int8)
        shown = pl.repeat(dates.PATTERNS[0].shown, len(day), eager=True)
        order = dates.Order(None, 0, 0, 0)
        week = np.zeros(len(day), np.int8)
        return When(
            cells, day, never, told, never, week, order, _patterns(shown, cells, _early(first), day, told)
        )
    frame = pl.DataFrame([dates.fiscal_years(cells.texts)])
    order = dates.order_of(frame, name, cells.counts)
    day_first = asked == "day first" if asked != "by evidence" else order.day_first
    if day_first is None and 2 * order.open > coder.table.height:
        day_first = True
    months, found = dates.months_written(cells.texts), dates.found_in(frame, name)
    day_ = dates.day(name, day_first, months, year_start, found)
    table = frame.select(
        day=day_.to_physical().fill_null(NO_DAY).cast(pl.Int32),
        told=dates.precision(name, months, found).fill_null(0).cast(pl.Int8),
        blank=numbers.plain(name).fill_null("") == "",
        week=dates.bare_week(name).fill_null(0).cast(pl.Int8),
        shown=dates.shown_as(name, months, found),
        fiscal=dates.is_fiscal(name, found),
    )
    day, told, blank, week = (table[name].to_numpy() for name in table.columns[:4])
    swapped = day == NO_DAY
    if swapped.any():
        either = dates.day(name, True, months, patterns=found).is_not_null()
        swapped[swapped] = frame.filter(swapped).select(either.alias(name))[name].to_numpy()
    fiscal = bool(table["fiscal"].any())
    return When(
        cells,
        day,
        swapped,
        told,
        blank,
        week,
        order,
        _patterns(table["shown"], cells, _early(first), day, told),
        fiscal,
    )


def _days_of(column: pl.Series) -> pl.Series | None:
    """The days of time stamps, which differ line by line while their days are few; None for other text."""
    stamped = column.str.contains(r"^\d{4}-\d\d-\d\d[T ]\d\d:\d\d(?::\d\d(?:\.\d+)?)?$")
    return column.str.slice(0, 10) if len(column) and bool(stamped.fill_null(False).all()) else None


def _early(column: pl.Series) -> pl.Series:
    """The texts of the first lines, in the order that they come."""
    return column.head(_EARLY).cast(pl.String).drop_nulls().unique(maintain_order=True)


def _patterns(
    shown: pl.Series, cells: Coded, early: pl.Series, day: NDArray[np.int32], told: NDArray[np.int8]
) -> tuple[Pattern, ...]:
    """The ways that dates are written, the most common first."""
    at = pl.int_range(len(shown), eager=True)
    found = pl.DataFrame({"shown": shown, "count": cells.counts, "text": cells.texts, "at": at}).drop_nulls()
    rank = pl.DataFrame({"text": early, "rank": pl.int_range(len(early), eager=True)})
    found = found.join(rank, "text", "left").sort("rank", "text", nulls_last=True)
    first = pl.col("text", "at").first()
    grouped = found.group_by("shown", maintain_order=True).agg(pl.col("count").sum(), first)
    rows = grouped.sort("count", descending=True, maintain_order=True).rows()
    return tuple(
        Pattern(shown, count, text, _read_as(int(day[place]), int(told[place])))
        for shown, count, text, place in rows
    )


_KINDS: dict[int, Kind] = {
    dates.DAY: "day",
    dates.WEEK: "week",
    dates.MONTH: "month",
    dates.QUARTER: "quarter",
    dates.YEAR: "year",
}


def _read_as(day: int, told: int) -> str:
    """What a date is read as, in full; empty for none."""
    if day == NO_DAY:
        return ""
    grid = Grid(_KINDS.get(told, "day"))
    return grid.label(grid.period(day))


Exact = Callable[[NDArray[np.integer] | None, int], list[Decimal]]
"""(group of each line or None for one, how many groups) -> exact sums of the figures that can be read."""


@dataclass(frozen=True, eq=False, slots=True)
class Much:
    """The figures of the lines.

    Attributes:
        cells: the texts that the other answers are for; None where these are a value a line.
        number: NaN where there is none, infinite where it overflows.
        blank: where the cell is empty or a dash.
        places: decimals that the figures need.
        mark: how they are read.
        exact: their sums by groups of lines, as the texts add up.
    """

    cells: Coded | None
    number: NDArray[np.float64]
    blank: NDArray[np.bool_]
    places: int
    mark: DecimalMark
    exact: Exact

    def spread(self, answers: NDArray[Any]) -> NDArray[Any]:
        """Answers as answers for the lines."""
        return answers if self.cells is None else self.cells.spread(answers)

    def later(self, answers: NDArray[Any]) -> Numbers:
        """Return the values of some lines, computed when asked for."""
        return answers if self.cells is None else self.cells.later(answers)


@dataclass(frozen=True, slots=True)
class Beside:
    """What stands beside a column of figures and may speak for its decimal mark.

    Attributes:
        asked: as in the plan.
        others: further columns of numbers.
        separator: what is between fields.
    """

    asked: str
    others: tuple[str, ...] = ()
    separator: str = ""


def much(name: str, coder: Coder, beside: Beside) -> Much:
    """Understand a column of figures."""
    text = coder.text(name)
    if text is not None and beside.asked != "comma":
        plain = _plain_figures(text)
        if plain is not None:
            return plain
    cells = coder(name)
    if bool(cells.texts.str.contains(_WHOLE).all()):
        return _whole_figures(cells)
    frame = pl.DataFrame([cells.texts])
    mark = _marked_by(coder, name, beside)
    table = frame.select(
        number=numbers.number(name, mark.comma).fill_null(np.nan),
        decimals=numbers.decimals(name, mark.comma).fill_null(0),
        blank=numbers.is_blank(name),
    )
    known = table["number"].is_finite()
    places = int(table.filter(known)["decimals"].max() or 0)  # type: ignore[arg-type]

    def exact(groups: NDArray[np.integer] | None, size: int) -> list[Decimal]:
        told = frame.select(text=numbers.bare_figure(name, mark.comma), hundredth=numbers.is_percent(name))
        far = ~(np.abs(table["number"].to_numpy()) < numbers.LARGEST)
        told = told.with_columns(pl.when(~pl.Series(far)).then(pl.col("text")).alias("text"))
        counts = cells.counts[None] if groups is None else cells.counted(groups, size)
        return [_added(told["text"], told["hundredth"].to_numpy(), each) for each in counts]

    return Much(cells, table["number"].to_numpy(), table["blank"].to_numpy(), places, mark, exact)


_WHOLE = r"^-?[0-9]{1,15}$"


def _whole_figures(cells: Coded) -> Much:
    """Whole figures without any mark, or nothing: there is nothing to settle."""
    number = cells.texts.cast(pl.Int64)

    def exact(groups: NDArray[np.integer] | None, size: int) -> list[Decimal]:
        counts = cells.counts[None] if groups is None else cells.counted(groups, size)
        whole = number.fill_null(0).to_list()
        return [
            Decimal(sum(figure * count for figure, count in zip(whole, each, strict=True)))
            for each in counts.tolist()
        ]

    figures = number.cast(pl.Float64).fill_null(np.nan).to_numpy()
    return Much(cells, figures, number.is_null().to_numpy(), 0, DecimalMark(), exact)


def _marked_by(coder: Coder, name: str, beside: Beside) -> DecimalMark:
    """The decimal mark of a column: by its own figures, then by what stands beside it."""
    cells = coder(name)
    frame = pl.DataFrame([cells.texts])
    told = numbers.evidence(frame, name, cells.counts)
    comma, by = told.comma > told.point, "column"
    if beside.asked != "by content":
        comma, by = beside.asked == "comma", "plan"
    elif not told.open:
        by = "figure"
    elif told.comma == told.point:
        comma, by = _beside_it(coder, name, beside)
        if not by:
            comma = told.likely_comma
    early = numbers.evidence(_early(coder.first(name)).to_frame(), name)
    text = early.open_text or told.open_text or early.sure_text or told.sure_text
    value, other = (_read(text, each) for each in (comma, not comma))
    return DecimalMark(comma, text, value, other, by, told.point if comma else told.comma)


def _beside_it(coder: Coder, name: str, beside: Beside) -> tuple[bool, str]:
    """What the other columns of numbers say, else what is between fields."""
    point = comma = 0
    for other in beside.others:
        if other != name and other in coder.table.columns:
            cells = coder(other)
            told = numbers.evidence(pl.DataFrame([cells.texts]), other, cells.counts)
            point, comma = point + told.point, comma + told.comma
    if point != comma:
        return comma > point, "other columns"
    if beside.separator in ("commas", "semicolons"):
        return beside.separator == "semicolons", "separator"
    return False, ""


def _read(text: str, comma: bool) -> float:
    """One figure; NaN where it cannot be read."""
    found = pl.DataFrame({"text": [text]}, schema={"text": pl.String}).select(numbers.number("text", comma))
    return float(found.item() if found.item() is not None else np.nan)


def _added(texts: pl.Series, hundredths: NDArray[np.bool_], counts: NDArray[np.int64]) -> Decimal:
    """Texts added up as decimals, each so many times: exact, and by another way than the series go."""
    at = np.flatnonzero(texts.is_not_null().to_numpy() & (counts > 0))
    with localcontext(Context(prec=400)):
        total = Decimal(0)
        for text, hundredth, count in zip(
            texts.gather(at).to_list(), hundredths[at].tolist(), counts[at].tolist(), strict=True
        ):
            total += Decimal(text).scaleb(-2 if hundredth else 0) * count
        return total


def _decimal(value: object) -> Decimal:
    return Decimal(0) if value is None else Decimal(str(value))


_PLAIN_LENGTH = 24


def _plain_figures(column: pl.Series) -> Much | None:
    """Figures as a program writes them, such as -12.50; None where any cell is written otherwise."""
    blank = column.is_null()
    number = column.cast(pl.Float64, strict=False)
    if bool((number.is_null() & ~blank).any()) or not bool(number.is_finite().all()):
        return None
    length = column.str.len_bytes()
    # Sums of figures that are longer would not fit into the decimals of the engine.
    if int(length.max() or 0) > _PLAIN_LENGTH or bool(column.str.contains("[eE+ ]").any()):  # type: ignore[arg-type]
        return None
    point = column.str.find(".", literal=True)
    after = (length.cast(pl.Int64) - point.cast(pl.Int64) - 1).max()
    places = int(after or 0)  # type: ignore[arg-type]
    if places >= 3:
        # 1.234 may well be one thousand two hundred and thirty-four.
        return None

    def exact(groups: NDArray[np.integer] | None, size: int) -> list[Decimal]:
        whole = column.cast(pl.Decimal(38, places)).alias("figure")
        if groups is None:
            return [_decimal(whole.sum())]
        added = pl.DataFrame([whole, pl.Series("group", groups)]).group_by("group").sum()
        sums = dict(zip(added["group"], added["figure"], strict=True))
        return [_decimal(sums.get(group)) for group in range(size)]

    at = point.is_not_null().arg_true()
    text = str(column[int(at[0])]) if len(at) else ""
    mark = DecimalMark(False, text, float(text) if text else np.nan)
    return Much(None, number.fill_null(np.nan).to_numpy(), blank.to_numpy(), places, mark, exact)
