"""Which periods a window takes in, and what it holds of them. The last axis is time.

A window is trailing (the current period and those before it), centred, or from so many periods back to so
many ahead. Centred over an even number of periods it is two windows, one period apart, whose mean is taken:
the 2xM rule. Source: Makridakis, Wheelwright and Hyndman, Forecasting: Methods and Applications (1998), 3/2.
"""

from __future__ import annotations

import datetime as dt
import functools
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import Days, Grid, Kind, date_of, day_number

Mask = NDArray[np.bool_]


@dataclass(frozen=True, eq=False)
class Window:
    """The columns that the window of each column takes in.

    Attributes:
        columns: how many there are.
        offsets: of the first and the last from each column, where all windows are alike.
        starts: else (columns,) the first of each, which ends with its column; it may lie before all columns.
    """

    columns: int
    offsets: tuple[int, int] | None = None
    starts: Days | None = None

    @functools.cached_property
    def first(self) -> Days:
        """(columns,) the first column of each; it may lie before all columns."""
        return self.starts if self.offsets is None else np.arange(self.columns) + self.offsets[0]  # type: ignore[return-value]

    @functools.cached_property
    def last(self) -> Days:
        """(columns,) the last; it may lie after all of them."""
        return np.arange(self.columns) + (self.offsets[1] if self.offsets else 0)

    def of(self, column: int) -> tuple[int, int]:
        """The first and the last column of one window."""
        if self.offsets is None:
            return int(self.first[column]), column
        return column + self.offsets[0], column + self.offsets[1]

    @functools.cached_property
    def lengths(self) -> Days:
        """(columns,) how many columns each window takes in."""
        return self.last - self.first + 1

    def by_length(self) -> list[tuple[int, NDArray[np.integer]]]:
        """The lengths there are, and the columns of each; spans of months differ in days."""
        return [(int(n), np.flatnonzero(self.lengths == n)) for n in np.unique(self.lengths)]


def placed(back: int, ahead: int, columns: int) -> Window:
    """From so many periods back to so many ahead, the current one among them."""
    return Window(columns, (-back, ahead))


def trailing(length: int, columns: int) -> Window:
    """The current period and the `length` - 1 before it."""
    return placed(length - 1, 0, columns)


def cut(window: Window, columns: int) -> Window:
    """The windows of the first columns alone."""
    return Window(columns, window.offsets, None if window.starts is None else window.starts[:columns])


@functools.lru_cache(64)
def centred(length: int, columns: int) -> tuple[Window, ...]:
    """Around the current period; of an even length two windows, whose mean is taken: the 2xM rule."""
    half = length // 2
    if length % 2:
        return (placed(half, half, columns),)
    return placed(half, half - 1, columns), placed(half - 1, half, columns)


def spanning(grid: Grid, first: int, columns: int, kind: Kind, length: int) -> Window:
    """The span of so many days, weeks, months, quarters or years that ends with each period, by calendar.

    The last N days are N days, the last day among them; the last N months go back to the day after the same
    day of the month N months earlier, or after the last of that month where it is shorter.

    Args:
        first: the period of the first column.
    """
    ends = grid.first_days(np.arange(first + 1, first + columns + 1)) - 1
    if kind in _MONTHS:
        months = length * _MONTHS[kind]
        begins = np.array([day_number(_months_back(date_of(int(day)), months)) + 1 for day in ends], np.int64)
    else:
        begins = ends - length * (7 if kind == "week" else 1) + 1
    # A period that lies in the span only in part is not of it.
    starts = grid.at(begins)
    starts = np.where(grid.first_days(starts) < begins, starts + 1, starts)
    return Window(columns, starts=starts - first)


_MONTHS = {"month": 1, "quarter": 3, "year": 12}


def _months_back(day: dt.date, months: int) -> dt.date:
    number = day.year * 12 + day.month - 1 - months
    year, month = divmod(number, 12)
    last = (dt.date(year + (month == 11), (month + 1) % 12 + 1, 1) - dt.timedelta(1)).day
    return dt.date(year, month + 1, min(day.day, last))


def held(holds: Mask, window: Window) -> NDArray[np.int64]:
    """(..., columns) in how many periods of each window something holds."""
    running = np.zeros((*holds.shape[:-1], holds.shape[-1] + 1), np.int64)
    np.cumsum(holds, axis=-1, out=running[..., 1:])
    low, high = clipped(window)
    count: NDArray[np.int64] = running[..., high] - running[..., low]
    return count


@dataclass(frozen=True, eq=False, slots=True)
class Holds:
    """What the windows hold of a figure.

    Attributes:
        known: (..., columns) the periods of each window that are known.
        full: whether it lies within the history: from the first known period to the last column.
        gaps: how many periods of it within the history are not known.
    """

    known: NDArray[np.int64]
    full: Mask
    gaps: NDArray[np.int64]

    def counts(self, short: bool, skips: bool) -> Mask:
        """(..., columns) the windows that have a figure.

        Args:
            short: whether one that is not full counts with what there is.
            skips: whether one counts that holds a period not known; that period is left out.
        """
        there = self.known > 0
        there &= self.full | short
        there &= (self.gaps == 0) | skips
        return there


def holds(values: Values, window: Window) -> Holds:
    """What the windows hold of (..., columns); NaN is not known, and nothing lies before the first known."""
    known = ~np.isnan(values)
    low, high = clipped(window)
    if known.all():
        # All that lies within is known: nothing need be counted.
        inside = np.broadcast_to(high - low, values.shape)
        full = (window.first >= 0) & (window.last < values.shape[-1])
        return Holds(inside, np.broadcast_to(full, values.shape), np.zeros(values.shape, np.int64))
    inside = held(np.maximum.accumulate(known, axis=-1), window)
    count = held(known, window)
    return Holds(count, (inside == window.lengths) & (window.last < values.shape[-1]), inside - count)


def over(kernel: Callable[[Values, int], Values], values: Values, window: Window) -> Values:
    """A kernel of trailing windows over windows of any place and length.

    Args:
        kernel: (values, length) -> (..., columns) over the trailing window of that length, whose result is
            used only where such a window lies within the values.
        values: (..., columns), none of them NaN.

    Returns:
        (..., columns); NaN where a window does not lie within the values.
    """
    columns = values.shape[-1]
    out = np.full(values.shape, np.nan)
    if window.offsets is not None:
        low, high = window.offsets
        begin, end = max(-low, 0), columns - max(high, 0)
        if begin < end:
            out[..., begin:end] = kernel(values, high - low + 1)[..., begin + high : end + high]
        return out
    for length, at in window.by_length():
        at = at[(window.first[at] >= 0) & (window.last[at] < columns)]
        if at.size:
            out[..., at] = kernel(values, length)[..., window.last[at]]
    return out


def clipped(window: Window, at: slice = slice(None)) -> tuple[Days, Days]:
    """The first column of each window and the one after its last, within what there is.

    Args:
        at: the columns whose windows are asked for.
    """
    place = np.arange(*at.indices(window.columns))
    if window.offsets is None:
        assert window.starts is not None
        first, last = window.starts[at], place
    else:
        first, last = place + window.offsets[0], place + window.offsets[1]
    # Written out: numpy's own clip takes five times as long where there is little to clip.
    low = np.maximum(np.minimum(first, window.columns), 0)
    return low, np.maximum(np.minimum(last + 1, window.columns), low)
