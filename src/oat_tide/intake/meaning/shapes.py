"""The shape of a table: brought to one line a figure, with one column that holds the date."""

from __future__ import annotations

import functools
import re
from collections.abc import Callable, Hashable, Iterable, Mapping
from dataclasses import dataclass, field
from weakref import WeakKeyDictionary

import numpy as np
import polars as pl
from numpy.typing import NDArray

from oat_tide.core.language import noun, nouns, phrase
from oat_tide.intake.cells import dates
from oat_tide.intake.cells.dates import is_month_name, quarter_of, written_as
from oat_tide.intake.cells.month_words import month_agreed_on, months_of
from oat_tide.intake.cells.numbers import TYPED, is_number
from oat_tide.intake.meaning import headings
from oat_tide.intake.meaning.headings import Beside, as_told
from oat_tide.intake.meaning.names import could_be_member
from oat_tide.intake.meaning.samples import ENOUGH_NUMBERS, holds_figures, sample, share
from oat_tide.intake.meaning.sum_rows import Row, sum_rows
from oat_tide.intake.source import Source, thinned
from oat_tide.intake.table import COUNT, FILE, MARKS, ROW, TORN
from oat_tide.plan.parts.intake import Intake

PERIOD, FIGURE, COLUMN = "period", "figure", "column"
"""The columns that are made of others: of dates, of figures, and of the names of columns."""
UNTOLD_YEAR = 2020
"""Taken for the first year where nothing tells it."""
_ENOUGH = 0.8
Tells = Callable[[str, str], bool]
"""Whether a cell of a column, by the name of that and the cell, tells a part of the year."""
_YEARLY = {"month": 12, "quarter": 4}
"""How many of a part of the year there are."""
_WORDS = {
    "month": r"month|mois|monat|\bm[eê]s\b|mese|maand|m[aå]ned|m[aå]nad|miesi",
    "quarter": r"quarter|trim|quartal|kvartal|kwarta",
    "week": r"week|woche|semaine|semana|settimana|vecka|uge|\bkw\b|tydzie",
}
"""How columns of numbered parts of the year are called."""


@dataclass(frozen=True, eq=False, slots=True)
class Shaped:
    """A table brought to one line a figure.

    Attributes:
        source: one line a figure.
        said: what was made of the table; empty where it stands as it was.
        asks_year: whether nothing tells the first year.
        spent: columns that the date was told by, and that say no more.
        date: the column of dates that was made; empty where none was.
        figure: the column of figures that was made; empty where none was.
        across: the columns of the table whose cells became lines.
        beside: what stands beside those.
        sums: the rows that add up others.
    """

    source: Source
    said: str = ""
    asks_year: bool = False
    spent: tuple[str, ...] = ()
    date: str = ""
    figure: str = ""
    across: tuple[str, ...] = ()
    beside: Beside = field(default_factory=Beside)
    sums: frozenset[Row] = frozenset()


def shaped(source: Source, ask: Intake) -> Shaped:
    """The table as lines, by its content; as it stands where it is so already, or is asked to be left."""
    if ask.shape == "as it stands" or source.tables or COUNT in source.table.columns:
        return Shaped(source)
    recipe = (ask.shape, ask.first_year, ask.headings, ask.filled)
    known = _SHAPED.get(source, {})
    if recipe in known:
        return known[recipe]
    found = _shaped(source, ask)
    if found.source is not source:
        _SHAPED.setdefault(source, {})[recipe] = found
    return found


_SHAPED: WeakKeyDictionary[Source, dict[Hashable, Shaped]] = WeakKeyDictionary()
"""Tables brought to another shape, by what decides it: several ask for the same."""


def _shaped(source: Source, ask: Intake) -> Shaped:
    source = filled_down(source, ask.filled)
    if ask.shape == "a column a series":
        return _a_column_a_series(source, series_across(source, sure=False)) or Shaped(source)
    first = ask.first_year or UNTOLD_YEAR
    return (
        _months_across(source, first, not ask.first_year, ask)
        or _wide(source, ask)
        or _in_parts(source)
        or _bare_months(source, first, not ask.first_year)
        or _ordinals(source, first, not ask.first_year)
        or _a_column_a_series(source, series_across(source))
        or Shaped(source)
    )


def filled_down(source: Source, names: tuple[str, ...]) -> Source:
    """Fill the blank cells of some columns with the last value above them in the same file."""
    there = [name for name in names if name in source.columns]
    if not there:
        return source
    text = pl.col(there).cast(pl.String)
    known = pl.when(text.str.strip_chars() != "").then(text)
    frame = source.frame.with_columns(known.forward_fill().over(FILE).cast(pl.Categorical))
    return source.with_frame(frame)


_FEWEST_ACROSS = 3


def series_across(source: Source, sure: bool = True) -> tuple[str, ...]:
    """Columns of numbers of one kind beside a date, that are a series each.

    Args:
        sure: only where there are several and nothing else, so that no other reading is likely.
    """
    if COUNT in source.table.columns:
        return ()
    cells = {name: sample(source, name) for name in source.columns}
    dated = [name for name, each in cells.items() if share(each, written_as) >= _ENOUGH]
    across = [
        name for name, each in cells.items() if name not in dated and share(each, is_number) >= ENOUGH_NUMBERS
    ]
    sums = {each.name for each in headings.own_totals(source, across, across)} if len(across) > 2 else set()
    across = [name for name in across if name not in sums]
    if sure:
        others = [name for name in cells if name not in (*dated, *across, *sums) and cells[name]]
        whole = len(dated) == 1 and not others and all(map(could_be_member, across))
        return tuple(across) if whole and len(across) >= _FEWEST_ACROSS else ()
    across = [name for name in across if could_be_member(name)]
    return tuple(across) if dated and len(across) > 1 else ()


def _a_column_a_series(source: Source, across: tuple[str, ...]) -> Shaped | None:
    if not across:
        return None
    melted = _melted(source, {name: name for name in across})
    frame = melted.frame.rename({PERIOD: COLUMN})
    said = phrase("a column a series, {across} of them", across=len(across))
    others = [name for name in _others(source, across) if holds_figures(source, name)]
    totals = Beside(headings.own_totals(source, others, across))
    return Shaped(melted.with_frame(frame), said, figure=FIGURE, across=across, beside=totals)


def _headings(source: Source, ask: Intake) -> dict[str, str]:
    """The columns with the headings that they are read by: as they stand, or as the plan says."""
    told = as_told(ask)
    return {name: told.get(name, name) for name in source.columns if told.get(name, name)}


def _wide(source: Source, ask: Intake) -> Shaped | None:
    """A column a day, week, month, quarter or year."""
    across = {name: heading for name, heading in _headings(source, ask).items() if written_as(heading)}
    if len(across) < 2 or not _hold_numbers(source, list(across)):
        return None
    if any(share(sample(source, name), written_as) >= _ENOUGH for name in _others(source, across)):
        return None
    across, sums = headings.without_sums(source, across)
    beside = headings.beside(source, across, ask)
    others = tuple(each for each in beside.totals if each.name not in {own.name for own in sums})
    beside = Beside((*sums, *others), beside.asked)
    words = {dates.DAY: "day", dates.WEEK: "week", dates.MONTH: "month", dates.QUARTER: "quarter"}
    kind = words.get(written_as(next(iter(across.values()))) or 0, "year")
    return Shaped(
        _melted(source, across),
        phrase("a column a {kind}, {across} of them", kind=noun(kind), across=len(across)),
        date=PERIOD,
        figure=FIGURE,
        across=tuple(across),
        beside=beside,
        sums=sum_rows(source, tuple(across)),
    )


def _months_across(source: Source, first: int, untold: bool, ask: Intake) -> Shaped | None:
    """Years down and months or quarters across; without a column of years it is one year, or a year a row."""
    read_by = _headings(source, ask)
    named = {name: heading for name, heading in read_by.items() if is_month_name(heading)}
    # One that is of another language than the rest is read by what it is in its own.
    numbers = {heading: month_agreed_on(heading) for heading in named.values()} | months_of(named.values())
    months = {name: heading for name, heading in named.items() if numbers[heading]}
    quarters = {name: heading for name, heading in read_by.items() if quarter_of(heading)}
    across = months if len(months) >= 3 else quarters
    if len(across) < 2 or not _hold_numbers(source, list(across)):
        return None
    ends = {
        name: f"-{numbers[heading]:02d}" if across is months else f" Q{quarter_of(heading)}"
        for name, heading in across.items()
    }
    kind = "months" if across is months else "quarters"
    others = _others(source, across)
    years = next((name for name in others if share(sample(source, name), _is_year) >= _ENOUGH), None)
    melted = _melted(source, ends)
    if years is not None:
        text = pl.col(years).cast(pl.String).str.extract(r"(\d{2,4})")
        year = pl.when(text.str.len_chars() == 2).then(pl.concat_str(pl.lit("20"), text)).otherwise(text)
        said, untold = phrase("years down and {kind} across", kind=noun(kind)), False
    else:
        year, said = pl.lit(str(first)), phrase("{kind} across, of one year", kind=noun(kind))
    frame = melted.frame.with_columns(
        pl.concat_str(year, pl.col(PERIOD).cast(pl.String)).cast(pl.Categorical).alias(PERIOD)
    )
    return Shaped(
        melted.with_frame(frame),
        said,
        untold,
        (years,) if years else (),
        PERIOD,
        FIGURE,
        tuple(across),
        headings.beside(source, across, ask, (years,) if years else ()),
        sum_rows(source, tuple(across)),
    )


def _others(source: Source, across: Iterable[str]) -> list[str]:
    used = set(across)
    return [name for name in source.columns if name not in used]


def _hold_numbers(source: Source, names: list[str]) -> bool:
    cells = [cell for name in names for cell in sample(source, name)]
    return share(cells, is_number) >= 0.6


def _is_year(cell: str) -> bool:
    return written_as(cell) == dates.YEAR


def _melted(source: Source, told: Mapping[str, str]) -> Source:
    """A line for every cell of some columns: PERIOD as told of the column, FIGURE from the cell.

    What is empty before a row's first figure or after its last is no line.
    """
    across = list(told)
    others = _others(source, across)
    marks = [name for name in MARKS if name in source.table.columns]
    whole = pl.col(TORN).is_null()
    good = source.frame.filter(whole).with_row_index("\N{PILCROW SIGN}at")
    good = good.with_columns(pl.col(across).cast(pl.String))
    long = good.unpivot(
        across, index=[*marks, *others, "\N{PILCROW SIGN}at"], variable_name=PERIOD, value_name=FIGURE
    )
    order = {name: place for place, name in enumerate(across)}
    place = pl.col(PERIOD).replace_strict(order, return_dtype=pl.Int32)
    at = "\N{PILCROW SIGN}at"
    filled = pl.when(pl.col(FIGURE).str.strip_chars() != "").then(place)
    long = long.filter(place.is_between(filled.min().over(at), filled.max().over(at))).sort(at, place)
    long = long.with_columns(pl.col(PERIOD).replace_strict(dict(told)).cast(pl.Categorical))
    long = long.select(*marks, *others, PERIOD, FIGURE)
    torn = source.frame.filter(~whole).select(*marks, *others)
    frame = pl.concat([long, torn], how="diagonal_relaxed").sort(FILE, ROW, maintain_order=True)
    return source.with_frame(thinned(frame))


def _in_parts(source: Source) -> Shaped | None:
    """The year in one column, and the month, quarter or week in another."""
    cells = {name: sample(source, name) for name in source.columns}
    if any(share(each, _is_fine) >= _ENOUGH for each in cells.values()):
        return None
    years = next((name for name, each in cells.items() if share(each, _is_year) >= _ENOUGH), None)
    if years is None:
        return None
    for name, each in cells.items():
        for tells, template in _PARTS:
            if name != years and share(each, functools.partial(tells, name)) >= _ENOUGH:
                return Shaped(
                    _with_date(source, f"{years} + {name}", years, name, template),
                    phrase("the date stands in two columns, {years} and {name}", years=years, name=name),
                    spent=(years, name),
                    date=f"{years} + {name}",
                )
    return None


def _is_fine(cell: str) -> bool:
    return written_as(cell) not in (None, dates.YEAR)


def _in_range(most: int, part: str) -> Tells:
    def tells(name: str, cell: str) -> bool:
        named = re.search(_WORDS[part], name, re.I)
        return bool(named) and _counts(cell) and 1 <= int(cell) <= most

    return tells


_PARTS: tuple[tuple[Tells, str], ...] = (
    (lambda name, cell: is_month_name(cell), "month"),
    (lambda name, cell: quarter_of(cell) > 0, "quarter"),
    (_in_range(12, "month"), "month"),
    (_in_range(4, "quarter"), "quarter"),
    (_in_range(53, "week"), "week"),
)
_FIGURES = 4
"""Of the number of a part of a year that are read: more than any has."""
_ENDS = {"month": "-{:02d}", "quarter": " Q{}", "week": "-W{:02d}"}
"""What stands behind a year for a part of it."""


def _with_date(source: Source, column: str, years: str, name: str, part: str) -> Source:
    numbers = _numbers_of(source, name, part)
    ends = {text: _ENDS[part].format(number) for text, number in numbers.items()}
    end = pl.col(name).cast(pl.String).replace_strict(ends, default=None, return_dtype=pl.String)
    year = pl.col(years).cast(pl.String).str.strip_chars()
    frame = source.frame.with_columns(pl.concat_str(year, end).cast(pl.Categorical).alias(column))
    return source.with_frame(frame)


def _numbers_of(source: Source, name: str, part: str) -> dict[str, int]:
    """The number of the month, quarter or week that each distinct text of a column names."""
    texts = [text for text in source.table[name].unique().cast(pl.String).to_list() if text]
    months = months_of(texts)
    found = {}
    for text in texts:
        number = quarter_of(text) if part == "quarter" else months.get(text, 0)
        bare = text.replace(TYPED, "").strip()
        number = number or (int(bare[:_FIGURES]) if bare.isdecimal() else 0)
        if number:
            found[text] = number
    return found


def _bare_months(source: Source, first: int, untold: bool) -> Shaped | None:
    """Months or quarters by name, without a year: a new year begins wherever they start again."""
    cells = {name: sample(source, name) for name in source.columns}
    if any(share(each, written_as) >= _ENOUGH for each in cells.values()):
        return None
    named = (
        (n, part) for n, each in cells.items() for part in _YEARLY if share(each, _NAMES[part]) >= _ENOUGH
    )
    name, part = next(named, ("", ""))
    if not name:
        return None
    numbers = _numbers_of(source, name, part)
    parts = source.table[name].cast(pl.String).replace_strict(numbers, default=0, return_dtype=pl.Int32)
    others = [
        n
        for n, each in cells.items()
        if n != name and each and not share(each, is_number) >= 0.6 and len(set(each)) < len(each) / 2
    ]
    keys = source.frame.select(pl.struct(others).rank("dense")).to_series() if others else None
    which = keys.cast(pl.Int64).to_numpy() if keys is not None else np.zeros(source.table.height, np.int64)
    year = _years_of(parts.fill_null(0).to_numpy(), which)
    told = [
        f"{first + int(y)}{_ENDS[part].format(number)}" if number else None
        for y, number in zip(year, parts.fill_null(0).to_list(), strict=True)
    ]
    column = f"{name} with its year"
    frame = source.frame.with_columns(pl.Series(column, told, pl.String).cast(pl.Categorical))
    said = phrase("{parts} without a year; the first is taken for {first}", parts=nouns(part), first=first)
    return Shaped(source.with_frame(frame), said, untold, (name,), column)


_NAMES: dict[str, Callable[[str], object]] = {"month": is_month_name, "quarter": quarter_of}


def _years_of(months: NDArray[np.int32], which: NDArray[np.int64]) -> NDArray[np.int64]:
    """The year of each month, from 0, series by series: it goes on where months start again."""
    years = np.zeros(len(months), np.int64)
    for series in np.unique(which):
        at = np.flatnonzero((which == series) & (months > 0))
        again = np.concatenate(([False], np.diff(months[at]) < 0))
        years[at] = np.cumsum(again)
    return years


def _ordinals(source: Source, first: int, untold: bool) -> Shaped | None:
    """Periods that are only numbered: 1, 2, 3."""
    cells = {name: sample(source, name) for name in source.columns}
    if any(share(each, written_as) >= 0.6 for each in cells.values()):
        return None
    for name, each in cells.items():
        counted = each and all(map(_counts, each)) and name.lower() in _COUNTED
        if counted and sorted({int(cell) for cell in each}) == list(range(1, len(set(each)) + 1)):
            number = pl.col(name).cast(pl.String).str.strip_chars().cast(pl.Int32, strict=False)
            column = f"{name} with its year"
            year = (number + first - 1).cast(pl.String).cast(pl.Categorical).alias(column)
            said = phrase("years by their number; year 1 is taken for {first}", first=first)
            return Shaped(source.with_frame(source.frame.with_columns(year)), said, untold, (name,), column)
    return None


def _counts(cell: str) -> bool:
    return cell.isdecimal() and len(cell) <= _FIGURES


_COUNTED = ("year", "period", "no", "nr", "number", "t", "n", "#")
