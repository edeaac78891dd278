"""Running totals and trailing windows: plain sums, exact to the minor unit (see `core.exact`)."""

from __future__ import annotations

import datetime as dt

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.exact import Values, between, running_sums
from oat_tide.core.periods.calendar import Days, Grid, Kind, date_of, day_number


def running(values: Values, group: Days, scale: float) -> Values:
    """The sum of all that is known from the first period of each group on; NaN where nothing is yet.

    Args:
        group: (periods,) what a running total starts anew with, in runs.
        scale: minor units in one unit.
    """
    known = ~np.isnan(values)
    sums = running_sums(np.where(known, values, 0.0), scale)
    total = between(sums, _begins(group), np.arange(1, values.shape[1] + 1))
    return np.where(running_count(known, group) > 0, total / scale, np.nan)


def running_count(holds: NDArray[np.bool_], group: Days) -> Days:
    """(series, periods) for how many periods something holds, from the first of each group on.

    Args:
        holds: (series, periods).
        group: (periods,) what the count starts anew with, in runs.
    """
    begins, so_far = _begins(group), np.cumsum(holds, axis=1)
    before = np.where(begins > 0, so_far[:, np.maximum(begins - 1, 0)], 0)
    count: Days = so_far - before
    return count


def running_starts(values: Values, group: Days) -> Days:
    """(series, periods) the column that each running total starts from: its group's first, once known.

    Args:
        values: (series, periods).
        group: (periods,) what a running total starts anew with, in runs.
    """
    known = ~np.isnan(values)
    columns = np.arange(values.shape[1])
    begins = _begins(group)
    first_known = np.where(known.any(1), known.argmax(1) if known.shape[1] else 0, known.shape[1])[:, None]
    starts: Days = np.minimum(np.maximum(begins, first_known), columns)
    return starts


def _begins(group: Days) -> Days:
    """(periods,) the first column of the group that each lies in."""
    if not len(group):
        return group
    starts = np.concatenate(([True], np.diff(group) != 0))
    begins: Days = np.maximum.accumulate(np.where(starts, np.arange(len(group)), 0))
    return begins


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
