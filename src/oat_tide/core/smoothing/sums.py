"""Rolling totals and means, exact on whole minor units, in time that does not depend on the window.

Sums are differences of running sums of whole minor units (see `core.exact`), so a sum is exact while the
running sum stays below 2**53 minor units. Source: Makridakis, Wheelwright and Hyndman (1998), 3/2.
"""

from __future__ import annotations

import functools
from typing import NamedTuple

import numpy as np

from oat_tide.core.exact import NEAR, Values, running_sums
from oat_tide.core.periods.calendar import Days
from oat_tide.core.smoothing.windows import Mask, Window, clipped, held, trailing


def window_total(values: Values, window: Window, scale: float = 1.0) -> Values:
    """The sum of what is known in each window; 0 of nothing.

    Args:
        values: (..., columns); NaN is not known.
        scale: minor units in one unit, so that values * scale are whole numbers.
    """
    units = _minor_units(values, window, scale, np.isnan(values))
    units /= scale
    return units


def window_mean(values: Values, window: Window, scale: float = 1.0) -> Values:
    """The mean of what is known in each window; NaN of nothing. Arguments as of `window_total`."""
    gone = np.isnan(values)
    units = _minor_units(values, window, scale, gone)
    missing = bool(gone.any())
    # One division: the nearest there is to the exact mean.
    with np.errstate(invalid="ignore"):
        for part in _stretches(window):
            units[..., part.at] /= scale * (held(~gone, window)[..., part.at] if missing else part.length)
    return units


def _minor_units(values: Values, window: Window, scale: float, gone: Mask) -> Values:
    """(..., columns) what each window comes to in minor units."""
    whole, rest = running_sums(np.where(gone, 0.0, values) if gone.any() else values, scale)
    units = np.empty(values.shape)
    for part in _stretches(window):
        np.subtract(whole[..., part.high], whole[..., part.low], out=units[..., part.at])
        if rest is not None:
            units[..., part.at] += rest[..., part.high] - rest[..., part.low]
    return units


class _Stretch(NamedTuple):
    """Columns, and where the running sums of their windows begin and end."""

    at: slice
    low: slice | Days
    high: slice | Days
    length: int | Days


@functools.lru_cache(64)
def _stretches(window: Window) -> tuple[_Stretch, ...]:
    """All columns; of windows that are alike, those that lie within by slices: many times as quick."""
    if window.offsets is None:
        low, high = clipped(window)
        return (_Stretch(slice(0, window.columns), low, high, high - low),)
    (first, last), columns = window.offsets, window.columns
    begin = min(max(-first, 0), columns)
    end = max(columns - max(last, 0), begin)
    inside = slice(begin + first, end + first), slice(begin + last + 1, end + last + 1)
    found = [_Stretch(slice(begin, end), *inside, last - first + 1)]
    for edge in (slice(0, begin), slice(end, columns)):
        low, high = clipped(window, edge)
        found.append(_Stretch(edge, low, high, high - low))
    return tuple(found)


def rolling_mean(values: Values, window: int, scale: float = 1.0) -> Values:
    """The mean of each period and the `window` - 1 before it; NaN where that lacks anything.

    Args:
        values: (..., periods); NaN is not known.
        window: periods in the window, at least 1.
        scale: minor units in one unit.
    """
    periods = values.shape[-1]
    if periods > NEAR:
        rows = [_mean_of_long(row, window, scale) for row in values.reshape(-1, periods)]
        known = [row for row in rows if row is not None]
        if len(known) == len(rows):
            return (known[0] if len(rows) == 1 else np.array(known)).reshape(values.shape)
    takes = trailing(window, periods)
    found = window_mean(values, takes, scale)
    found[..., : window - 1] = np.nan
    gone = np.isnan(values)
    if gone.any():
        found[held(gone, takes) > 0] = np.nan
    return found


def _mean_of_long(values: Values, window: int, scale: float) -> Values | None:
    """The same of a long series, a piece at a time; None where not all is known and whole minor units."""
    out = np.empty(len(values))
    out[: window - 1] = np.nan
    # Running sums of a piece, and of the window before it.
    sums, units, left = np.zeros(window + NEAR), np.empty(NEAR), np.empty(NEAR)
    for start in range(0, len(values), NEAR):
        part = values[start : start + NEAR]
        whole, rest = units[: len(part)], left[: len(part)]
        np.rint(np.multiply(part, scale, out=whole), out=whole)
        np.divide(whole, scale, out=rest)
        if not np.array_equal(rest, part):
            return None
        own = sums[window : window + len(part)]
        np.cumsum(whole, out=own)
        own += sums[window - 1]
        skip = max(window - 1 - start, 0)
        found = out[start + skip : start + len(part)]
        np.subtract(own[skip:], sums[skip : len(part)], out=found)
        found /= scale * window
        sums[:window] = sums[len(part) : len(part) + window].copy()
    return out
