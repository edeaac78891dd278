"""Dates out of text: the patterns that are known, and what settles day against month."""

from __future__ import annotations

import functools
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import polars as pl
from numpy.typing import NDArray

from oat_tide.intake.cells import month_words
from oat_tide.intake.cells.numbers import TYPED, plain

EARLIEST, LATEST = 1900, 2200
DAY, WEEK, MONTH, QUARTER, YEAR = 1, 2, 3, 4, 5
"""How much a cell tells: a day, an ISO week, a month, a quarter or only a year."""


@dataclass(frozen=True, slots=True)
class Pattern:
    """One way that dates are written.

    Attributes:
        tells: DAY to YEAR.
        parts: what each group of the pattern is, in order: "y" year, "m" month by its number, "M" by its
            name, "d" day, "w" week, "q" quarter, "p" period of a fiscal year; "?" day or month.
        written: the pattern.
        shown: how it is shown to people.
        fiscal: whether the year is a fiscal one.
    """

    tells: int
    parts: str
    written: str
    shown: str
    fiscal: bool = False

    def place(self, part: str) -> int:
        """The group that is a part of the date, 0 where none is."""
        return self.parts.find(part) + 1


_TIME = r"(?:[T ]\d{1,2}:\d{2}.*)?"
_YEAR = r"(\d{4}|\d{2})"
_WORD = rf"({month_words.WORD})\.?"
_GAP = r"(?: ?[-.] ?| (?:de |of )?|)"
_FY = rf"(?i:FY) ?{_YEAR}"
_TH = r"(?:\.?(?:er|re|e|ère|ème|eme|º|°|ª|o|st|nd|rd|th|:a)|\.)?"
_QUARTERS = {"1": 1, "2": 2, "3": 3, "4": 4, "I": 1, "II": 2, "III": 3, "IV": 4}
_QUARTER = "(IV|I{1,3}|[1-4])"
_QUARTER_IN_FULL = (
    "trim(?:estre|estr)?|quarters?|quartal|kvartal(?:et)?|kwartaal|kwartał|quartile|nelj(?:ännes)?|čtvrtletí"
    "|štvrťrok|negyedév|ketvirtis|квартал"
)
_QUARTER_WORD = rf"(?i:{_QUARTER_IN_FULL}|kw|tr|кв)\.?"
# A short word with a number after it may as well be a week, or a row of a list.
_QUARTER_AFTER = rf"(?:(?i:{_QUARTER_IN_FULL})\.? ?([1-4])|{_QUARTER_WORD} ?(IV|I{{1,3}}))"
PATTERNS = (
    Pattern(DAY, "ymd", rf"^(\d{{4}})[-/.](\d{{1,2}})[-/.](\d{{1,2}})\.?{_TIME}$", "2024-03-05"),
    Pattern(DAY, "ymd", r"^((?:19|20)\d{2})(\d{2})(\d{2})$", "20240305"),
    Pattern(DAY, "??y", rf"^(\d{{1,2}})[/.-](\d{{1,2}})[/.-]{_YEAR}(?: \d{{1,2}}:\d{{2}}.*)?$", "05/03/2024"),
    Pattern(WEEK, "wy", r"^(\d{1,2})\. ?KW[ /-](\d{4})$", "9. KW 2024"),
    Pattern(
        QUARTER, "qy", rf"^{_QUARTER}{_TH} ?{_QUARTER_WORD}(?: de| of)?[ -]?{_YEAR}$", "1st quarter 2024"
    ),
    Pattern(QUARTER, "yq", rf"^(\d{{4}})\.?[ -]{_QUARTER}{_TH} ?{_QUARTER_WORD}$", "2024 1st quarter"),
    Pattern(DAY, "dMy", rf"^(\d{{1,2}}){_TH}{_GAP}{_WORD}{_GAP}{_YEAR}$", "5 Mar 2024"),
    Pattern(DAY, "Mdy", rf"^{_WORD} (\d{{1,2}})(?:st|nd|rd|th)?,? (\d{{4}})$", "Mar 5, 2024"),
    Pattern(WEEK, "yw", r"^(\d{4})[ -]?[Ww](\d{1,2})$", "2024-W09"),
    Pattern(WEEK, "wy", r"^(?i:w|wk|week|kw|sem\.?) ?(\d{1,2})[ /-](\d{4})$", "W09 2024"),
    Pattern(MONTH, "ym", r"^(\d{4})[-/](\d{1,2})$", "2024-03"),
    Pattern(MONTH, "ym", r"^(\d{4})[ -]?[Mm](\d{1,2})$", "2024M03"),
    Pattern(MONTH, "my", r"^(\d{1,2})[/-](\d{4})$", "03/2024"),
    Pattern(MONTH, "my", r"^(0[1-9]|1[0-2])\.((?:19|20|21)\d{2})$", "03.2024"),
    Pattern(MONTH, "My", rf"^{_WORD}(?: ?[-./'’] ?| (?:de )?){_YEAR}$", "Mar 2024"),
    Pattern(MONTH, "yM", rf"^(\d{{4}})\.?[ -]{_WORD}$", "2024 Mar"),
    Pattern(QUARTER, "yq", r"^(\d{4})[ /-]?[QqTtKk]([1-4])$", "2024 Q1"),
    Pattern(QUARTER, "qy", rf"^[QqTtKk]([1-4])(?:[ /-]|-? ?['’])?{_YEAR}$", "Q1 2024"),
    Pattern(QUARTER, "qy", rf"^([1-4])[QqTt][ /-]?{_YEAR}$", "1Q 2024"),
    Pattern(QUARTER, "qy", rf"^(?i:{_QUARTER_IN_FULL})\.? ?{_QUARTER}[ /-]{_YEAR}$", "quarter 1 2024"),
    Pattern(QUARTER, "qy", rf"^{_QUARTER_WORD} ?(IV|I{{1,3}})[ /-]{_YEAR}$", "quarter I 2024"),
    Pattern(YEAR, "y", r"^((?:19|20|21)\d{2})$", "2024"),
    Pattern(YEAR, "y", rf"^{_FY}$", "FY24", fiscal=True),
    Pattern(QUARTER, "yq", rf"^{_FY}[ /-]?[Qq]([1-4])$", "FY24 Q1", fiscal=True),
    Pattern(QUARTER, "qy", rf"^[Qq]([1-4])[ /-]?{_FY}$", "Q1 FY24", fiscal=True),
    Pattern(MONTH, "yp", rf"^{_FY}[ /-]?[Pp](\d{{1,2}})$", "FY24 P03", fiscal=True),
    Pattern(MONTH, "py", rf"^[Pp](\d{{1,2}})[ /-]?{_FY}$", "P03 FY24", fiscal=True),
)
"""A cell is read by the first that it fits."""
_ISO, _SLASHED = PATTERNS[0].written, PATTERNS[2].written
_COMPILED = tuple((pattern, re.compile(pattern.written)) for pattern in PATTERNS)
_WHOLE_DAY = r"^\d{4}-\d\d-\d\d$"
_SPLIT_YEAR = r"^ *((?:19|20|21)\d{2})[/-](\d{2}|\d{4}) *$"
_SERIAL = r"^([2-7]\d{4})(?:\.\d+)?$"
SERIAL_SHOWN = "45356, a day number"
_BARE_WEEK = r"(?i)^(?:wk|week) ?(\d{1,2})$"
_SERIAL_ZERO = -25569
"""The day number of 30 December 1899, which workbooks count their days from."""
NO_MONTHS: Mapping[str, int] = {}
QUARTER_NAME = rf"^(?:[QqTtKk]([1-4])|([1-4])[QqTt]|{_QUARTER}{_TH} ?{_QUARTER_WORD}|{_QUARTER_AFTER})$"
"""A quarter without its year."""


@dataclass(frozen=True, slots=True)
class Order:
    """Which comes first in 05/03/2024.

    Attributes:
        day_first: True, False, or None where nothing settles it.
        days: cells that can only be read day first.
        months: cells that can only be read month first.
        open: cells that can be read both ways as different days.
    """

    day_first: bool | None
    days: int
    months: int
    open: int


@functools.lru_cache(1 << 14)
def written_as(cell: str) -> int | None:
    """DAY, WEEK, MONTH, QUARTER or YEAR for one cell that is written so; None for any other."""
    text = cell.replace(TYPED, "").strip()
    for pattern, compiled in _COMPILED:
        if (found := compiled.match(text)) and _could_be(pattern, found):
            return pattern.tells
    return YEAR if _splits(text) else None


def month_number(cell: str, language: str) -> int | None:
    """Months from year 0 to the first of a month, quarter or year that a cell names; None for any other."""
    text = cell.replace(TYPED, "").strip()
    for pattern, compiled in _COMPILED:
        if (found := compiled.match(text)) and _could_be(pattern, found):
            if pattern.tells < MONTH:
                return None
            year = int(found[pattern.place("y")])
            year += (2000 if year < 70 else 1900) if year < 100 else 0
            return 12 * year + _month_of(pattern, found, language) - 1
    return None


def _month_of(pattern: Pattern, found: re.Match[str], language: str) -> int:
    """The first month of what a cell names, within its year."""
    if place := pattern.place("M"):
        word = found[place]
        return month_words.month_in(word, language) or month_words.month_agreed_on(word) or 1
    if place := pattern.place("q"):
        return 3 * _QUARTERS[found[place]] - 2
    place = pattern.place("m") or pattern.place("p")
    return int(found[place]) if place else 1


def _splits(text: str) -> bool:
    """Whether a cell is a year and the one after it, such as 2021/22."""
    found = re.match(_SPLIT_YEAR, text)
    return found is not None and (int(found[1]) + 1) % 100 == int(found[2]) % 100


def is_month_name(cell: str) -> bool:
    """Whether a cell is the bare name of a month, such as "Mar", "mars" or "März"."""
    return month_words.is_month(cell)


def quarter_of(cell: str) -> int:
    """The quarter that a cell names without its year, such as Q1, T1 or 1er trim.; 0 for any other cell."""
    found = re.match(QUARTER_NAME, cell.strip())
    return _QUARTERS[next(each for each in found.groups() if each)] if found else 0


def _could_be(pattern: Pattern, found: re.Match[str]) -> bool:
    """Whether what stands for a month can be one, by its number or its name."""
    if place := pattern.place("M"):
        return month_words.is_month(found.group(place))
    numbers = [int(text) for text, part in zip(found.groups(), pattern.parts, strict=True) if part in "m?"]
    return not numbers or (min(numbers) >= 1 and min(numbers) <= 12)


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


def found_in(frame: pl.DataFrame, column: str) -> tuple[Pattern, ...]:
    """The patterns that any cell of a column is written in: it need not be held against the others."""
    text = plain(column)
    held = frame.select(
        text.str.contains(each.written).any().alias(str(at)) for at, each in enumerate(PATTERNS)
    )
    return tuple(each for each, fits in zip(PATTERNS, held.row(0), strict=True) if fits)


def _fits(text: pl.Expr, pattern: Pattern, months: Mapping[str, int]) -> pl.Expr:
    """Whether each cell is written so; what stands for the name of a month must be one."""
    fits = text.str.contains(pattern.written)
    if place := pattern.place("M"):
        fits &= text.str.extract(pattern.written, place).is_in(list(months))
    return fits


def precision(
    column: str, months: Mapping[str, int] = NO_MONTHS, patterns: Sequence[Pattern] = PATTERNS
) -> pl.Expr:
    """DAY, WEEK, MONTH, QUARTER or YEAR; null where the cell fits no pattern."""
    text = plain(column)
    found = [pl.when(_fits(text, pattern, months)).then(pattern.tells) for pattern in patterns]
    return pl.coalesce(*found, pl.when(text.str.contains(_SERIAL)).then(DAY))


def is_fiscal(column: str, patterns: Sequence[Pattern] = PATTERNS) -> pl.Expr:
    """Whether each cell names a fiscal year."""
    text = plain(column)
    fiscal = [text.str.contains(pattern.written) for pattern in patterns if pattern.fiscal]
    return pl.any_horizontal(pl.lit(False), *fiscal).fill_null(False)


def shown_as(
    column: str, months: Mapping[str, int] = NO_MONTHS, patterns: Sequence[Pattern] = PATTERNS
) -> pl.Expr:
    """The pattern that a cell is written in, by an example; null where it fits none."""
    text = plain(column)
    zoned = text.str.contains(r"(?:Z|[+-]\d{2}:?\d{2})$") & text.str.contains(":")
    found = [pl.when(_fits(text, pattern, months)).then(pl.lit(pattern.shown)) for pattern in patterns]
    timed = pl.when(text.str.contains(_ISO) & zoned).then(pl.lit("2024-03-05 14:30 with a zone"))
    return pl.coalesce(timed, *found, pl.when(text.str.contains(_SERIAL)).then(pl.lit(SERIAL_SHOWN)))


def bare_week(column: str) -> pl.Expr:
    """The number of a week that names no year, such as "wk 23"; null for any other cell."""
    return plain(column).str.extract(_BARE_WEEK).cast(pl.Int32, strict=False)


def is_serial(cell: str) -> bool:
    """Whether a cell could be the day number of a workbook, from 1954 to 2119."""
    return re.match(_SERIAL, cell.strip()) is not None


def months_written(cells: Iterable[str | None]) -> dict[str, int]:
    """The month of each word that stands for one in a column, all read in one language."""
    words = (re.search(month_words.WORD, cell) for cell in cells if cell)
    return month_words.months_of(found[0] for found in words if found)


def day(
    column: str,
    day_first: bool | None,
    months: Mapping[str, int] = NO_MONTHS,
    year_start: int = 1,
    patterns: Sequence[Pattern] = PATTERNS,
) -> pl.Expr:
    """The column as dates; null where it is none. A week, month, quarter or year stands for its first day.

    Args:
        day_first: how 05/03/2024 is read; None leaves those cells null that could be read both ways.
        months: what words name months, as `months_written` tells.
        year_start: the month that fiscal years begin with; they are named by the year it lies in.
        patterns: those that the column is held against.
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
    found = []
    for pattern in patterns:
        year, month, own_day = _parts(text, pattern, months)
        if pattern.place("?"):
            month, own_day = month_part, day_part
        if pattern.place("w"):
            week = text.str.extract(pattern.written, pattern.place("w")).str.zfill(2)
            iso = pl.concat_str(year, pl.lit("-W"), week, pl.lit("-1"))
            found.append(iso.str.to_date("%G-W%V-%u", strict=False))
            continue
        if pattern.fiscal and year_start > 1:
            months_on = month.cast(pl.Int32, strict=False) + year_start - 2
            year = (_full_year(year) + months_on // 12).cast(pl.String)
            month = months_on % 12 + 1
        found.append(_date(year, month, own_day))
    serial = text.str.extract(_SERIAL, 1).cast(pl.Int32, strict=False) + _SERIAL_ZERO
    return pl.coalesce(*found, serial.cast(pl.Date))


def _parts(text: pl.Expr, pattern: Pattern, months: Mapping[str, int]) -> tuple[pl.Expr, pl.Expr, pl.Expr]:
    """Year as text, month and day of cells that fit a pattern; what it does not tell is the first."""

    def part(name: str) -> pl.Expr:
        return text.str.extract(pattern.written, pattern.place(name))

    day_ = part("d") if pattern.place("d") else pl.lit(1)
    if pattern.place("M"):
        month = part("M").replace_strict(months, default=None, return_dtype=pl.Int32)
    elif pattern.place("q"):
        month = part("q").replace_strict(_QUARTERS, default=None, return_dtype=pl.Int32) * 3 - 2
    elif pattern.place("p"):
        number = part("p").cast(pl.Int32, strict=False)
        month = pl.when(number.is_between(1, 12)).then(number)
    else:
        month = part("m") if pattern.place("m") else pl.lit(1)
    return part("y"), month, day_


def fiscal_years(texts: pl.Series) -> pl.Series:
    """2021/22 as FY2021, in a column that has only such years; else the texts as they are."""
    year, following = (texts.str.extract(_SPLIT_YEAR, part).cast(pl.Int32, strict=False) for part in (1, 2))
    split = ((year + 1) % 100 == following % 100) & year.is_not_null()
    known = texts.is_not_null()
    if known.sum() < 2 or not bool((split | ~known).all()):
        return texts
    return (
        pl.select(pl.when(known).then(pl.concat_str(pl.lit("FY"), year.cast(pl.String))))
        .to_series()
        .alias(texts.name)
    )


def whole_days(texts: pl.Series) -> pl.Series | None:
    """The dates of a column that is written as 2024-03-05 throughout, null where one is none; else None."""
    if texts.null_count() or not texts.str.contains(_WHOLE_DAY).all():
        return None
    found = texts.str.to_date("%Y-%m-%d", strict=False)
    return found.set(~found.dt.year().is_between(EARLIEST, LATEST).fill_null(True), None)


def _full_year(year: pl.Expr) -> pl.Expr:
    """The year in four digits: 69 is 2069, and 70 is 1970."""
    number = year.cast(pl.Int32, strict=False)
    century = pl.when(number < 70).then(2000).otherwise(1900)
    return pl.when(year.str.len_chars() == 2).then(number + century).otherwise(number)


def _date(year: pl.Expr, month: pl.Expr, day_: pl.Expr) -> pl.Expr:
    full = _full_year(year)
    text = pl.concat_str(
        full.cast(pl.String).str.zfill(4),
        month.cast(pl.Int32, strict=False).cast(pl.String).str.zfill(2),
        day_.cast(pl.Int32, strict=False).cast(pl.String).str.zfill(2),
    )
    return pl.when(full.is_between(EARLIEST, LATEST)).then(text).str.to_date("%Y%m%d", strict=False)
