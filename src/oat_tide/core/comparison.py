"""Periods held against like periods: years laid over each other, running and trailing totals, the usual.

All arrays are (series, periods) with NaN for what is not known; sums are of whole minor units and exact.
"""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.calendar import Days, Grid, Kind, date_of, day_number
from oat_tide.core.exact import Values, between, running_sums
from oat_tide.core.odd import median_known

_LEAP = 2024
"""A year with a 29 February, on which days of any year find their place."""


@dataclass(frozen=True, eq=False, slots=True)
class Overlay:
    """Where the periods of each year stand when years are laid over each other.

    Attributes:
        years: fiscal years, the earliest first.
        places: how many places a year has: 12 months, 53 weeks, 366 days.
        column: (years, places) the column of each period, -1 where the year has none or the data do not.
        place: (periods,) the place of each column, from 0.
    """

    years: tuple[int, ...]
    places: int
    column: Days
    place: Days


def overlay(grid: Grid, first: int, count: int) -> Overlay:
    """Lay the years over each other.

    Months and quarters stand by their number in the fiscal year, weeks by their week number (week 53 alone
    in the last place), days by month and day, so that 29 February has a place of its own.
    """
    periods = np.arange(first, first + count)
    place = _day_places(grid, periods) if grid.kind == "day" else grid.places(periods) - 1
    of_year = grid.years(periods)
    years = tuple(int(year) for year in np.unique(of_year))
    most = {"day": 366, "week": 53}.get(grid.kind, int(place.max(initial=grid.cycle - 1)) + 1)
    column = np.full((len(years), most), -1, np.int64)
    if count:
        column[of_year - years[0], place] = np.arange(count)
    return Overlay(years, most, column, place)


def _day_places(grid: Grid, days: Days) -> Days:
    """The place of each day in a leap year that begins as the fiscal year does."""
    dates = days.astype("datetime64[D]")
    months = dates.astype("datetime64[M]")
    day = (dates - months.astype("datetime64[D]")).astype(np.int64)
    month = months.astype(np.int64) % 12
    first = day_number(dt.date(_LEAP, 1, 1))
    starts = np.array([day_number(dt.date(_LEAP, each, 1)) - first for each in range(1, 13)])
    places: Days = (starts[month] + day - starts[grid.year_start - 1]) % 366
    return places


def laid_over(values: Values, over: Overlay) -> Values:
    """(series, years, places) of (series, periods)."""
    return np.where(over.column >= 0, values[:, np.maximum(over.column, 0)], np.nan)


def running(values: Values, group: Days, scale: float) -> Values:
    """The sum from the first period of each group on; nothing sold is flat, and not known stays so.

    Args:
        group: (periods,) what a running total starts anew with, in runs.
        scale: minor units in one unit.
    """
    known = ~np.isnan(values)
    sums = running_sums(np.where(known, values, 0.0), scale)
    starts = np.concatenate(([True], np.diff(group) != 0)) if len(group) else np.zeros(0, bool)
    begins = np.maximum.accumulate(np.where(starts, np.arange(len(group)), 0)) if len(group) else group
    # A hole within a group leaves what follows not known; what precedes the first line is no hole.
    seen = np.cumsum(known, axis=1)
    seen_before = np.where(begins > 0, seen[:, np.maximum(begins - 1, 0)], 0)
    born = seen > 0
    first_known = np.where(known.any(1), known.argmax(1), values.shape[1])[:, None]
    expected = np.arange(values.shape[1])[None] - np.maximum(begins, first_known) + 1
    whole = born & (seen - seen_before == expected)
    total = between(sums, begins, np.arange(1, values.shape[1] + 1))
    return np.where(whole, total / scale, np.nan)


def window_total(values: Values, start: Days, stop: Days, scale: float, short: bool = False) -> Values:
    """The sum of a window for every period.

    Args:
        start, stop: (periods,) the first column of each window and the one after its last; may lie outside.
        short: whether a window that is not full gives the sum of what it holds; else it is NaN.
    """
    count = values.shape[1]
    known = ~np.isnan(values)
    sums = running_sums(np.where(known, values, 0.0), scale)
    low, high = np.clip(start, 0, count), np.clip(stop, 0, count)
    total = between(sums, low, high) / scale
    held = window_known(values, start, stop)
    whole = held == (stop - start)[None]
    return np.where(whole | (short & (held > 0)), total, np.nan)


def window_known(values: Values, start: Days, stop: Days) -> Values:
    """How many periods of each window are known."""
    holds = np.concatenate((np.zeros((len(values), 1)), np.cumsum(~np.isnan(values), axis=1)), axis=1)
    count = values.shape[1]
    held: Values = holds[:, np.clip(stop, 0, count)] - holds[:, np.clip(start, 0, count)]
    return held


def span_starts(grid: Grid, first: int, count: int, kind: Kind, length: int) -> Days:
    """The first column of the span of `length` days, weeks or months that ends with each period.

    The last N days are N days, the last day among them; the last N months go back to the day after the same
    day of the month N months earlier, or after the last of that month where it is shorter.
    """
    ends = grid.first_days(np.arange(first + 1, first + count + 1)) - 1
    if kind != "month":
        begins = ends - length * (7 if kind == "week" else 1) + 1
    else:
        begins = np.array([day_number(_months_back(date_of(int(day)), length)) + 1 for day in ends])
    return grid.at(begins) - first


def _months_back(day: dt.date, months: int) -> dt.date:
    number = day.year * 12 + day.month - 1 - months
    year, month = divmod(number, 12)
    last = (dt.date(year + (month == 11), (month + 1) % 12 + 1, 1) - dt.timedelta(1)).day
    return dt.date(year, month + 1, min(day.day, last))


def usual(values: Values, place: Days) -> Values:
    """The mean of all periods at the same place, for every period; NaN where none is known."""
    out = np.full_like(values, np.nan)
    for each in np.unique(place):
        at = place == each
        known = ~np.isnan(values[:, at])
        count = known.sum(1)
        with np.errstate(invalid="ignore", divide="ignore"):
            mean = np.where(known, values[:, at], 0.0).sum(1) / count
        out[:, at] = np.where(count > 0, mean, np.nan)[:, None]
    return out


def of_years(laid: Values, kind: str) -> Values:
    """(series, places) of (series, years, places): "mean", "median", "lowest" or "highest"."""
    known = ~np.isnan(laid)
    count = known.sum(1)
    if kind == "mean":
        with np.errstate(invalid="ignore", divide="ignore"):
            return np.where(count > 0, np.where(known, laid, 0.0).sum(1) / count, np.nan)
    if kind == "median":
        return median_known(np.moveaxis(laid, 1, -1))
    reduce = np.fmin.reduce if kind == "lowest" else np.fmax.reduce
    found: NDArray[np.float64] = reduce(laid, axis=1, initial=np.nan)
    return found


@dataclass(frozen=True, slots=True)
class Tally:
    """What a selection of periods adds up to; NaN where it cannot be told.

    Attributes:
        count: known periods; steps: from the first of them to the last.
        change, change_share: of the last on the first, absolute and in %.
        compound: growth a period in %.
        share: of the sum of the years it lies in, in %.
    """

    count: int
    total: float
    mean: float
    median: float
    lowest: float
    highest: float
    steps: int
    change: float
    change_share: float
    compound: float
    share: float


def tally(values: Values, columns: Days, grid: Grid, first: int) -> Tally:
    """Add up some periods of one series.

    Args:
        values: (periods,) of the series.
        columns: sorted columns.
    """
    at = np.array([c for c in columns.tolist() if 0 <= c < len(values) and values[c] == values[c]], np.int64)
    nan = float("nan")
    if not at.size:
        return Tally(0, nan, nan, nan, nan, nan, 0, nan, nan, nan, nan)
    chosen = values[at]
    start, end, steps = float(chosen[0]), float(chosen[-1]), int(at[-1] - at[0])
    change = end - start if steps else nan
    grows = start > 0 and end > 0 and steps > 0
    years = grid.years(np.arange(first, first + len(values)))
    whole = np.nansum(values[np.isin(years, np.unique(years[at]))])
    total = float(chosen.sum())
    return Tally(
        len(at),
        total,
        float(chosen.mean()),
        float(np.median(chosen)),
        float(chosen.min()),
        float(chosen.max()),
        steps,
        change,
        100 * change / start if start > 0 and steps else nan,
        100 * ((end / start) ** (1 / steps) - 1) if grows else nan,
        float(100 * total / whole) if whole > 0 else nan,
    )
