"""Dates as they are typed: in ISO form, by the order of the locale or of the file, with names of months."""

from __future__ import annotations

import calendar
import datetime as dt
import re
from collections.abc import Iterable

from PyQt6.QtCore import QLocale

from oat_tide.core.periods.calendar import spoken
from oat_tide.core.periods.named import month_named, plain_digits, use_names
from oat_tide.core.series.reading import Pattern

_NUMBERS = re.compile(r"(\d{1,2})[./ -](\d{1,2})[./ -](\d{4}|\d{2})")
_NAMED = re.compile(r"(?:(\d{1,2})\.? )?([^\W\d_]{3,}\.?) (\d{4})")
_order = [True]


def use_locale() -> None:
    """Take the order of day and month from the desktop's locale."""
    written = QLocale.system().dateFormat(QLocale.FormatType.ShortFormat)
    _order[0] = written.find("d") < written.find("M")
    locale, long = QLocale.system(), QLocale.FormatType.LongFormat
    use_names([locale.standaloneMonthName(month, long) for month in range(1, 13)])


def use_order_of(patterns: Iterable[Pattern]) -> None:
    """Take the order in which a file writes its dates, where one of them tells."""
    for pattern in patterns:
        found, read = _NUMBERS.match(pattern.text), re.match(r"(\d{1,2}) ", pattern.read)
        if found and read and int(found[1]) != int(found[2]):
            _order[0] = int(read[1]) == int(found[1])
            return


def days_of(text: str, week_start: int = 0, year_start: int = 1) -> tuple[dt.date, dt.date]:
    """The first and last day of what is typed: 2026-03-31, 31/03/2026, 31 Mar 2026, Mar 2026, 2026Q1 or 2026.

    Raises:
        ValueError: it is none of these, or there is no such date.
    """
    text = plain_digits(" ".join(text.split()))
    if found := _NUMBERS.fullmatch(text):
        return _numbers(int(found[1]), int(found[2]), int(found[3]))
    if found := _NAMED.fullmatch(text):
        return _named(text, found[1], found[2], int(found[3]))
    return spoken(text, week_start, year_start)


def _numbers(one: int, two: int, year: int) -> tuple[dt.date, dt.date]:
    day, month = (one, two) if _order[0] else (two, one)
    if month > 12:
        # Only the other order makes a date of it.
        day, month = month, day
    date = dt.date(year if year > 99 else 2000 + year, month, day)
    return date, date


def _named(text: str, day: str | None, name: str, year: int) -> tuple[dt.date, dt.date]:
    month = month_named(name)
    if not month:
        raise ValueError(f"“{text}” names no month")
    if day is not None:
        date = dt.date(year, month, int(day))
        return date, date
    return dt.date(year, month, 1), dt.date(year, month, calendar.monthrange(year, month)[1])
