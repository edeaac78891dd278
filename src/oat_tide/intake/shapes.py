"""The shape of a table: brought to one line a figure, with one column that holds the date."""

from __future__ import annotations

import functools
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
import polars as pl
from numpy.typing import NDArray

from oat_tide.core.calendar import MONTH_NAMES
from oat_tide.intake import dates
from oat_tide.intake.dates import is_month_name, written_as
from oat_tide.intake.numbers import is_number
from oat_tide.intake.source import COUNT, FILE, MARKS, ROW, TORN, Source, thinned, whole_lines
from oat_tide.plan.plan import Intake

PERIOD, FIGURE = "period", "figure"
UNTOLD_YEAR = 2020
"""Taken for the first year where nothing tells it."""
_ENOUGH = 0.8
_SAMPLE = 1000
Tells = Callable[[str, str], bool]
"""Whether a cell of a column, by the name of that and the cell, tells a part of the year."""
_QUARTERS = ("Q1", "Q2", "Q3", "Q4")


@dataclass(frozen=True, eq=False, slots=True)
class Shaped:
    """Attributes:
    source: one line a figure.
    said: what was made of the table; empty where it stands as it was.
    asks_year: whether nothing tells the first year.
    spent: columns that the date was told by, and that say no more.
    date, figure: the columns that were made; empty where none was.
    """

    source: Source
    said: str = ""
    asks_year: bool = False
    spent: tuple[str, ...] = ()
    date: str = ""
    figure: str = ""


def shaped(source: Source, ask: Intake) -> Shaped:
    """The table as lines, by its content; as it stands where it is so already, or is asked to be left."""
    if ask.shape == "as it stands" or source.tables or COUNT in source.frame.columns:
        return Shaped(source)
    first = ask.first_year or UNTOLD_YEAR
    return (
        _months_across(source, first, not ask.first_year)
        or _wide(source)
        or _in_parts(source)
        or _bare_months(source, first, not ask.first_year)
        or _ordinals(source, first, not ask.first_year)
        or Shaped(source)
    )


def _sample(source: Source, name: str) -> list[str]:
    """Filled cells of a column."""
    whole = whole_lines(source.frame).head(_SAMPLE)
    return [text.strip() for text in whole[name].cast(pl.String).to_list() if text and text.strip()]


def _share(cells: list[str], holds: Callable[[str], object]) -> float:
    return sum(bool(holds(cell)) for cell in cells) / len(cells) if cells else 0.0


def _wide(source: Source) -> Shaped | None:
    """A column a day, week, month, quarter or year."""
    across = [name for name in source.columns if written_as(name)]
    if len(across) < 2 or not _hold_numbers(source, across):
        return None
    if any(_share(_sample(source, name), written_as) >= _ENOUGH for name in _others(source, across)):
        return None
    names = pl.DataFrame({PERIOD: across, "\N{PILCROW SIGN}date": across})
    words = {dates.DAY: "day", dates.WEEK: "week", dates.MONTH: "month", dates.QUARTER: "quarter"}
    kind = words.get(written_as(across[0]) or 0, "year")
    return Shaped(
        _melted(source, across, names),
        f"a column a {kind}, {len(across)} of them",
        date=PERIOD,
        figure=FIGURE,
    )


def _months_across(source: Source, first: int, untold: bool) -> Shaped | None:
    """Years down and months or quarters across; without a column of years it is one year, or a year a row."""
    months = [name for name in source.columns if is_month_name(name)]
    quarters = [name for name in source.columns if name.upper() in _QUARTERS]
    across = months if len(months) >= 3 else quarters
    if len(across) < 2 or not _hold_numbers(source, across):
        return None
    ends = [f"-{_month_of(name):02d}" if across is months else f" {name.upper()}" for name in across]
    kind = "months" if across is months else "quarters"
    names = pl.DataFrame({PERIOD: across, "\N{PILCROW SIGN}date": ends})
    others = _others(source, across)
    years = next((name for name in others if _share(_sample(source, name), _is_year) >= _ENOUGH), None)
    melted = _melted(source, across, names)
    if years is not None:
        text = pl.col(years).cast(pl.String).str.extract(r"(\d{2,4})")
        year = pl.when(text.str.len_chars() == 2).then(pl.concat_str(pl.lit("20"), text)).otherwise(text)
        said, untold = f"years down and {kind} across", False
    else:
        year, said = pl.lit(str(first)), f"{kind} across, of one year"
    frame = melted.frame.with_columns(
        pl.concat_str(year, pl.col(PERIOD).cast(pl.String)).cast(pl.Categorical).alias(PERIOD)
    )
    return Shaped(replace(melted, frame=frame), said, untold, (years,) if years else (), PERIOD, FIGURE)


def _others(source: Source, across: list[str]) -> list[str]:
    return [name for name in source.columns if name not in across]


def _hold_numbers(source: Source, names: list[str]) -> bool:
    cells = [cell for name in names for cell in _sample(source, name)]
    return _share(cells, is_number) >= 0.6


def _is_year(cell: str) -> bool:
    return written_as(cell) == dates.YEAR


def _month_of(name: str) -> int:
    text = name.strip().rstrip(".").lower()
    return next(place for place, full in enumerate(MONTH_NAMES, 1) if full.lower().startswith(text))


def _melted(source: Source, across: list[str], names: pl.DataFrame) -> Source:
    """A line for every filled cell of some columns: PERIOD from the column's name, FIGURE from the cell."""
    others = _others(source, across)
    marks = [name for name in MARKS if name in source.frame.columns]
    whole = pl.col(TORN).is_null()
    good = source.frame.filter(whole).with_row_index("\N{PILCROW SIGN}at")
    good = good.with_columns(pl.col(across).cast(pl.String))
    long = good.unpivot(
        across, index=[*marks, *others, "\N{PILCROW SIGN}at"], variable_name=PERIOD, value_name=FIGURE
    )
    long = long.filter(pl.col(FIGURE).str.strip_chars() != "")
    order = {name: place for place, name in enumerate(across)}
    long = long.sort("\N{PILCROW SIGN}at", pl.col(PERIOD).replace_strict(order, return_dtype=pl.Int32))
    told = dict(zip(names[PERIOD], names["\N{PILCROW SIGN}date"], strict=True))
    long = long.with_columns(pl.col(PERIOD).replace_strict(told).cast(pl.Categorical))
    long = long.select(*marks, *others, PERIOD, FIGURE)
    torn = source.frame.filter(~whole).select(*marks, *others)
    frame = pl.concat([long, torn], how="diagonal_relaxed").sort(FILE, ROW, maintain_order=True)
    return replace(source, frame=thinned(frame))


def _in_parts(source: Source) -> Shaped | None:
    """The year in one column, and the month, quarter or week in another."""
    cells = {name: _sample(source, name) for name in source.columns}
    if any(_share(each, _is_fine) >= _ENOUGH for each in cells.values()):
        return None
    years = next((name for name, each in cells.items() if _share(each, _is_year) >= _ENOUGH), None)
    if years is None:
        return None
    for name, each in cells.items():
        for tells, template in _PARTS:
            if name != years and _share(each, functools.partial(tells, name)) >= _ENOUGH:
                return Shaped(
                    _with_date(source, f"{years} + {name}", years, name, template),
                    f"the date stands in two columns, {years} and {name}",
                    spent=(years, name),
                    date=f"{years} + {name}",
                )
    return None


def _is_fine(cell: str) -> bool:
    return written_as(cell) not in (None, dates.YEAR)


def _in_range(most: int, word: str) -> Tells:
    def tells(name: str, cell: str) -> bool:
        return word in name.lower() and cell.isdecimal() and 1 <= int(cell) <= most

    return tells


_PARTS: tuple[tuple[Tells, str], ...] = (
    (lambda name, cell: is_month_name(cell), "month name"),
    (lambda name, cell: cell.upper() in _QUARTERS, "Q"),
    (_in_range(12, "month"), "month"),
    (_in_range(4, "quarter"), "quarter"),
    (_in_range(53, "week"), "week"),
)


def _with_date(source: Source, column: str, years: str, name: str, template: str) -> Source:
    text = pl.col(name).cast(pl.String).str.strip_chars()
    if template == "month name":
        month = text.str.slice(0, 3).str.to_titlecase().replace_strict(_NUMBERS, default=None)
        part = pl.concat_str(pl.lit("-"), month)
    elif template in ("Q", "quarter"):
        part = pl.concat_str(pl.lit(" Q"), text.str.strip_chars("Qq"))
    else:
        part = pl.concat_str(pl.lit("-W" if template == "week" else "-"), text.str.zfill(2))
    year = pl.col(years).cast(pl.String).str.strip_chars()
    frame = source.frame.with_columns(pl.concat_str(year, part).cast(pl.Categorical).alias(column))
    return replace(source, frame=frame)


_NUMBERS = {name[:3]: f"{place:02d}" for place, name in enumerate(MONTH_NAMES, 1)}


def _bare_months(source: Source, first: int, untold: bool) -> Shaped | None:
    """The names of months without a year: a new year begins wherever the months start again."""
    cells = {name: _sample(source, name) for name in source.columns}
    if any(_share(each, written_as) >= _ENOUGH for each in cells.values()):
        return None
    name = next((n for n, each in cells.items() if _share(each, is_month_name) >= _ENOUGH), None)
    if name is None:
        return None
    text = source.frame[name].cast(pl.String).str.strip_chars().str.slice(0, 3).str.to_titlecase()
    months = text.replace_strict(_NUMBERS, default=None).cast(pl.Int32, strict=False)
    others = [
        n
        for n, each in cells.items()
        if n != name and each and not _share(each, is_number) >= 0.6 and len(set(each)) < len(each) / 2
    ]
    keys = source.frame.select(pl.struct(others).rank("dense")).to_series() if others else None
    which = keys.cast(pl.Int64).to_numpy() if keys is not None else np.zeros(source.frame.height, np.int64)
    year = _years_of(months.fill_null(0).to_numpy(), which)
    told = [
        f"{first + int(y)}-{int(m):02d}" if m else None
        for y, m in zip(year, months.fill_null(0).to_list(), strict=True)
    ]
    column = f"{name} with its year"
    frame = source.frame.with_columns(pl.Series(column, told, pl.String).cast(pl.Categorical))
    said = f"months without a year; the first is taken for {first}"
    return Shaped(replace(source, frame=frame), said, untold, (name,), column)


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
    cells = {name: _sample(source, name) for name in source.columns}
    if any(_share(each, written_as) >= 0.6 for each in cells.values()):
        return None
    for name, each in cells.items():
        counted = each and all(cell.isdecimal() for cell in each) and name.lower() in _COUNTED
        if counted and sorted({int(cell) for cell in each}) == list(range(1, len(set(each)) + 1)):
            number = pl.col(name).cast(pl.String).str.strip_chars().cast(pl.Int32, strict=False)
            column = f"{name} with its year"
            year = (number + first - 1).cast(pl.String).cast(pl.Categorical).alias(column)
            said = f"years by their number; year 1 is taken for {first}"
            return Shaped(
                replace(source, frame=source.frame.with_columns(year)), said, untold, (name,), column
            )
    return None


_COUNTED = ("year", "period", "no", "nr", "number", "t", "n", "#")
