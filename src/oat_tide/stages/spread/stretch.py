"""What a total is spread over, from how it is written to whole periods."""

from __future__ import annotations

import datetime as dt
import re

from oat_tide.core.language import noun, phrase
from oat_tide.core.periods.calendar import Grid, day_number, spoken
from oat_tide.core.user_error import UserError

_HALF = re.compile(r"(\d{4})-?H([12])", re.IGNORECASE)
MOST_YEARS = 10
"""How far ahead a total may reach."""


def next_year(grid: Grid, home: int) -> int:
    """The first whole year after a period."""
    year = int(grid.years([home + 1])[0])
    return year if grid.year_first(year) == home + 1 else year + 1


def stretch(text: str, grid: Grid, home: int) -> tuple[int, int]:
    """The first and the last period of what is written; of nothing written the next whole year.

    Args:
        text: such as 2027, 2027-H1, 2027-Q2, 2027-03 or 2027-03..2027-08.
        home: the last period that is complete.

    Raises:
        UserError: it cannot be read, holds no whole period, or lies too far ahead.
    """
    said = text.strip()
    if not said:
        year = next_year(grid, home)
        return grid.year_first(year), grid.year_first(year + 1) - 1
    begin, _, end = said.partition("..")
    try:
        first, last = _read(begin, grid)[0], _read(end or begin, grid)[1]
    except (ValueError, OverflowError) as error:
        raise UserError(
            "“{text}” is no range of periods. Write it as in 2027, 2027-H1, 2027-Q2 or 2027-03..2027-08.",
            text=text,
        ) from error
    if last < first:
        raise UserError(
            "“{text}” ends before it begins, or no complete {kind} lies in it. Write it as in 2027.",
            text=text,
            kind=noun(grid.kind),
        )
    if last - home > MOST_YEARS * grid.cycle:
        raise UserError(
            "“{text}” lies more than {most_years} years ahead. Write a nearer one.",
            text=text,
            most_years=MOST_YEARS,
        )
    return first, last


def _read(text: str, grid: Grid) -> tuple[int, int]:
    """The whole periods of what is written; a year, and half of it, as the periods have it."""
    if found := _HALF.fullmatch(text.strip()):
        year, half = map(int, found.groups())
        first, stop = grid.year_first(year), grid.year_first(year + 1)
        middle = first + (stop - first) // 2
        return (first, middle - 1) if half == 1 else (middle, stop - 1)
    if re.fullmatch(r"\d{4}", text.strip()):
        year = int(text)
        return grid.year_first(year), grid.year_first(year + 1) - 1
    return _whole(*spoken(text, grid.week_start, grid.year_start), grid)


def _whole(begin: dt.date, end: dt.date, grid: Grid) -> tuple[int, int]:
    """The periods that lie within two days as a whole."""
    first, last = grid.period(day_number(begin)), grid.period(day_number(end))
    first += grid.first_day(first) < day_number(begin)
    last -= grid.last_day(last) > day_number(end)
    return first, last


def offered(grid: Grid, home: int, now: str) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """Stretches to pick from, as they are written and as they are called; the one in use among them."""
    this, following = int(grid.years([home + 1])[0]), next_year(grid, home)
    years = list(dict.fromkeys((following, this)))
    written = ["", *(f"{year}" for year in years[1:])]
    names = [grid.year_label(years[0]), *(grid.year_label(year) for year in years[1:])]
    if grid.cycle > 1:
        for year in years:
            for half, said in ((1, phrase("first half")), (2, phrase("second half"))):
                written.append(f"{year}-H{half}")
                names.append(phrase("{said} of {year_label}", said=said, year_label=grid.year_label(year)))
    if now not in written:
        written.append(now)
        names.append(now)
    return tuple(written), tuple(names)
