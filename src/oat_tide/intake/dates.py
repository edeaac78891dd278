"""Dates out of text: the patterns that are known, and what settles day against month."""

from __future__ import annotations

import functools
import re
from dataclasses import dataclass

import numpy as np
import polars as pl
from numpy.typing import NDArray

from oat_tide.core.calendar import MONTH_NAMES, MONTHS
from oat_tide.intake.numbers import plain

EARLIEST, LATEST = 1900, 2200
_ISO = r"^(\d{4})[-/.](\d{1,2})[-/.](\d{1,2})(?:[T ]\d{1,2}:\d{2}.*)?$"
_WHOLE_DAY = r"^\d{4}-\d\d-\d\d$"
_PACKED = r"^((?:19|20)\d{2})(\d{2})(\d{2})$"
_SLASHED = r"^(\d{1,2})[/.-](\d{1,2})[/.-](\d{4}|\d{2})(?: \d{1,2}:\d{2}.*)?$"
_NAMED = r"^(\d{1,2})[ -]?([A-Za-z]{3})[a-z]*\.?[ -]?(\d{4}|\d{2})$"
_MONTH = r"^(\d{4})[-/](\d{1,2})$"
_NAMED_MONTH = r"^([A-Za-z]{3})[a-z]*\.?[ -](\d{4}|\d{2})$"
_AMERICAN = r"^([A-Za-z]{3})[a-z]*\.? (\d{1,2}),? (\d{4})$"
_WEEK = r"^(\d{4})[ -]?[Ww](\d{1,2})$"
_QUARTER = r"^(\d{4})[ /-]?[Qq]([1-4])$"
_QUARTER_FIRST = r"^[Qq]([1-4])[ /-]?(\d{4}|\d{2})$"
_YEAR = r"^((?:19|20|21)\d{2})$"
_FISCAL = r"^[Ff][Yy] ?(\d{4}|\d{2})$"
_SERIAL = r"^([2-7]\d{4})(?:\.\d+)?$"
_BARE_WEEK = r"(?i)^(?:wk|week) ?(\d{1,2})$"
_SERIAL_ZERO = -25569
"""The day number of 30 December 1899, which workbooks count their days from."""

DAY, WEEK, MONTH, QUARTER, YEAR = 1, 2, 3, 4, 5
"""How much a cell tells: a day, an ISO week, a month, a quarter or only a year."""


_WRITTEN = (
    (DAY, re.compile(_ISO), (2,)),
    (DAY, re.compile(_PACKED), (2,)),
    (DAY, re.compile(_SLASHED), (1, 2)),
    (DAY, re.compile(_NAMED), (2,)),
    (DAY, re.compile(_AMERICAN), (1,)),
    (WEEK, re.compile(_WEEK), ()),
    (MONTH, re.compile(_MONTH), (2,)),
    (MONTH, re.compile(_NAMED_MONTH), (1,)),
    (QUARTER, re.compile(_QUARTER), ()),
    (QUARTER, re.compile(_QUARTER_FIRST), ()),
    (YEAR, re.compile(_YEAR), ()),
    (YEAR, re.compile(_FISCAL), ()),
)
SHOWN = (
    *("2024-03-05", "20240305", "05/03/2024", "5 Mar 2024", "Mar 5, 2024", "2024-W09", "2024-03", "Mar 2024"),
    *("2024 Q1", "Q1 2024", "2024", "FY24", "45356, a day number"),
)
"""How each pattern is shown to people, in the order of `_WRITTEN`; the last is `_SERIAL`."""


@dataclass(frozen=True, slots=True)
class Order:
    """Which comes first in 05/03/2024.

    Attributes:
        day_first: True, False, or None where nothing settles it.
        days, months: cells that can only be read day first, and only month first.
        open: cells that can be read both ways as different days.
    """

    day_first: bool | None
    days: int
    months: int
    open: int


@functools.lru_cache(1 << 14)
def written_as(cell: str) -> int | None:
    """DAY, WEEK, MONTH, QUARTER or YEAR for one cell that is written so; None for any other."""
    text = cell.strip()
    for how, pattern, months in _WRITTEN:
        if found := pattern.match(text):
            return how if _has_month(found, months) else None
    return None


def is_month_name(cell: str) -> bool:
    """Whether a cell is the bare name of a month, such as "Mar" or "March"."""
    text = cell.strip().rstrip(".").lower()
    return len(text) >= 3 and any(name.lower().startswith(text) for name in MONTH_NAMES)


def _has_month(found: re.Match[str], places: tuple[int, ...]) -> bool:
    """Whether one of the groups can be a month, by its number or its name."""
    parts = [found.group(place) for place in places]
    return not parts or any(p.title() in MONTHS if p.isalpha() else 1 <= int(p) <= 12 for p in parts)


def order_of(frame: pl.DataFrame, column: str, counts: NDArray[np.int64] | None = None) -> Order:
    """What the cells of a column say about the order of day and month.

    Args:
        counts: how often each cell stands in the file; once when left out.
    """
    first, second = _slashed_parts(column)
    many = pl.Series(counts if counts is not None else np.ones(frame.height, np.int64))
    days, months, unsettled = frame.select(
        days=_times((first > 12) & (second <= 12), many),
        months=_times((second > 12) & (first <= 12), many),
        open=_times((first <= 12) & (second <= 12) & (first != second), many),
    ).row(0)
    settled = None if (days > 0) == (months > 0) else days > 0
    return Order(settled, days, months, unsettled)


def _times(holds: pl.Expr, many: pl.Series) -> pl.Expr:
    return (holds.fill_null(False).cast(pl.Int64) * many).sum()


def _slashed_parts(column: str) -> tuple[pl.Expr, pl.Expr]:
    text = plain(column)
    return tuple(text.str.extract(_SLASHED, part).cast(pl.Int32, strict=False) for part in (1, 2))  # type: ignore[return-value]


def precision(column: str) -> pl.Expr:
    """DAY, WEEK, MONTH, QUARTER or YEAR; null where the cell fits no pattern."""
    text = plain(column)
    found = [pl.when(text.str.contains(pattern.pattern)).then(how) for how, pattern, _ in _WRITTEN]
    return pl.coalesce(*found, pl.when(text.str.contains(_SERIAL)).then(DAY))


def shown_as(column: str) -> pl.Expr:
    """The pattern that a cell is written in, by an example; null where it fits none."""
    text = plain(column)
    zoned = text.str.contains(r"(?:Z|[+-]\d{2}:?\d{2})$") & text.str.contains(":")
    found = [
        pl.when(text.str.contains(pattern.pattern)).then(pl.lit(shown))
        for (_, pattern, _), shown in zip(_WRITTEN, SHOWN, strict=False)
    ]
    timed = pl.when(text.str.contains(_ISO) & zoned).then(pl.lit("2024-03-05 14:30 with a zone"))
    return pl.coalesce(timed, *found, pl.when(text.str.contains(_SERIAL)).then(pl.lit(SHOWN[-1])))


def bare_week(column: str) -> pl.Expr:
    """The number of a week that names no year, such as "wk 23"; null for any other cell."""
    return plain(column).str.extract(_BARE_WEEK).cast(pl.Int32, strict=False)


def is_serial(cell: str) -> bool:
    """Whether a cell could be the day number of a workbook, from 1954 to 2119."""
    return re.match(_SERIAL, cell.strip()) is not None


def day(column: str, day_first: bool | None) -> pl.Expr:
    """The column as dates; null where it is none. A week, month, quarter or year stands for its first day.

    Args:
        day_first: how 05/03/2024 is read; None leaves those cells null that could be read both ways.
    """
    text = plain(column)
    first, second = _slashed_parts(column)
    day_part: pl.Expr
    month_part: pl.Expr
    if day_first is None:
        # A cell that can be read in one way only, or is the same day in both, is no question.
        day_part = pl.when(first > 12).then(first).when((second > 12) | (first == second)).then(second)
        month_part = pl.when(first > 12).then(second).when((second > 12) | (first == second)).then(first)
    else:
        day_part, month_part = (first, second) if day_first else (second, first)
    return pl.coalesce(
        _date(*(text.str.extract(_ISO, part) for part in (1, 2, 3))),
        _date(*(text.str.extract(_PACKED, part) for part in (1, 2, 3))),
        _date(text.str.extract(_SLASHED, 3), month_part, day_part),
        _date(
            text.str.extract(_NAMED, 3),
            _month_number(text.str.extract(_NAMED, 2)),
            text.str.extract(_NAMED, 1),
        ),
        _date(text.str.extract(_MONTH, 1), text.str.extract(_MONTH, 2), pl.lit(1)),
        _date(text.str.extract(_NAMED_MONTH, 2), _month_number(text.str.extract(_NAMED_MONTH, 1)), pl.lit(1)),
        _date(
            text.str.extract(_AMERICAN, 3),
            _month_number(text.str.extract(_AMERICAN, 1)),
            text.str.extract(_AMERICAN, 2),
        ),
        pl.concat_str(
            text.str.extract(_WEEK, 1), pl.lit("-W"), text.str.extract(_WEEK, 2).str.zfill(2), pl.lit("-1")
        ).str.to_date("%G-W%V-%u", strict=False),
        _date(text.str.extract(_QUARTER, 1), _first_month(text.str.extract(_QUARTER, 2)), pl.lit(1)),
        _date(
            text.str.extract(_QUARTER_FIRST, 2), _first_month(text.str.extract(_QUARTER_FIRST, 1)), pl.lit(1)
        ),
        _date(text.str.extract(_YEAR, 1), pl.lit(1), pl.lit(1)),
        _date(text.str.extract(_FISCAL, 1), pl.lit(1), pl.lit(1)),
        (text.str.extract(_SERIAL, 1).cast(pl.Int32, strict=False) + _SERIAL_ZERO).cast(pl.Date),
    )


def whole_days(texts: pl.Series) -> pl.Series | None:
    """The dates of a column that is written as 2024-03-05 throughout, null where one is none; else None."""
    if texts.null_count() or not texts.str.contains(_WHOLE_DAY).all():
        return None
    found = texts.str.to_date("%Y-%m-%d", strict=False)
    return found.set(~found.dt.year().is_between(EARLIEST, LATEST).fill_null(True), None)


def _first_month(quarter: pl.Expr) -> pl.Expr:
    return quarter.cast(pl.Int32, strict=False) * 3 - 2


def _month_number(name: pl.Expr) -> pl.Expr:
    numbers = {month: number for number, month in enumerate(MONTHS, 1)}
    return name.str.to_titlecase().replace_strict(numbers, default=None, return_dtype=pl.Int32)


def _date(year: pl.Expr, month: pl.Expr, day_: pl.Expr) -> pl.Expr:
    number = year.cast(pl.Int32, strict=False)
    century = pl.when(number < 70).then(2000).otherwise(1900)
    full = pl.when(year.str.len_chars() == 2).then(number + century).otherwise(number)
    text = pl.concat_str(
        full.cast(pl.String).str.zfill(4),
        month.cast(pl.Int32, strict=False).cast(pl.String).str.zfill(2),
        day_.cast(pl.Int32, strict=False).cast(pl.String).str.zfill(2),
    )
    return pl.when(full.is_between(EARLIEST, LATEST)).then(text).str.to_date("%Y%m%d", strict=False)
