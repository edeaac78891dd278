"""The same period last year: as it was, with the growth of the last year, or with its drift.

Source: Makridakis, Wheelwright and Hyndman, Forecasting: Methods and Applications (1998), chapter 2.
"""

from __future__ import annotations

import numpy as np

from oat_tide.core.alike import Mask
from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.methods.shape import TEXTBOOK, Fitted, How, Method, each_start, used_of


def same_period(values: Values, weights: Values, horizon: int, how: How) -> tuple[Values, Fitted]:
    """The same period last year, and of that year where a period lies further ahead."""
    own = used_of(values, weights)
    return _like(own, horizon, how)[0], lambda: _like_before(own, how)


def same_period_growth(values: Values, weights: Values, horizon: int, how: How) -> tuple[Values, Fitted]:
    """The same period last year times the growth of the last year on the one before, for each year on."""
    own = used_of(values, weights)
    found, cycles = _like(own, horizon, how)
    growth = _share(*_years(own, how.back)[:2])

    def fitted() -> Values:
        return _like_before(own, how) * _share(*_years_before(own, how.back)[:2])

    return found * growth[:, None] ** cycles, fitted


def same_period_drift(values: Values, weights: Values, horizon: int, how: How) -> tuple[Values, Fitted]:
    """The same period last year, and for each year on what the last year lay above the year before."""
    own = used_of(values, weights)
    found, cycles = _like(own, horizon, how)
    change = _change(*_years(own, how.back))

    def fitted() -> Values:
        return _like_before(own, how) + _change(*_years_before(own, how.back))

    return found + change[:, None] * cycles, fitted


def _like(own: Values, horizon: int, how: How) -> tuple[Values, Values]:
    """(series, horizon) what each period ahead repeats, and (horizon,) how many years earlier it lies."""
    m, columns = how.back, own.shape[1]
    if not m or columns < m:
        return np.full((len(own), horizon), np.nan), np.ones(horizon)
    cycles = np.arange(horizon) // m + 1
    return own[:, columns + np.arange(horizon) - cycles * m], cycles.astype(float)


def _like_before(own: Values, how: How) -> Values:
    """(series, columns) the same period of the year before."""
    found = np.full(own.shape, np.nan)
    if 0 < how.back < own.shape[1]:
        found[:, how.back :] = own[:, : -how.back]
    return found


def _years(own: Values, m: int) -> tuple[Values, Values, Values]:
    """(series,) what the last year comes to, the one before, and of how many periods: those known in both.

    NaN where that is less than half of them.
    """
    none = np.full(len(own), np.nan)
    if not m or own.shape[1] < 2 * m:
        return none, none, none
    now, before = own[:, -m:], own[:, -2 * m : -m]
    both = ~np.isnan(now) & ~np.isnan(before)
    enough = 2 * both.sum(1) >= m
    year, earlier = (np.where(enough, np.where(both, each, 0.0).sum(1), np.nan) for each in (now, before))
    return year, earlier, both.sum(1).astype(float)


def _years_before(own: Values, m: int) -> tuple[Values, Values, Values]:
    """(series, columns) the same three of the periods before each."""
    year, earlier, many = (np.full(own.shape, np.nan) for _ in range(3))
    if m and own.shape[1] > 2 * m:
        now, before = own[:, m:], own[:, :-m]
        both = ~np.isnan(now) & ~np.isnan(before)
        for out, row in ((year, now), (earlier, before)):
            out[:, m:] = year_before(np.where(both, row, np.nan), m)
        many[:, m:] = many_before(both, m)
    return year, earlier, many


def year_before(row: Values, m: int) -> Values:
    """(series, columns) what is known of the year before each comes to; NaN where that is less than half."""
    known, out = ~np.isnan(row), np.full(row.shape, np.nan)
    if 0 < m < row.shape[1]:
        windows = np.lib.stride_tricks.sliding_window_view(np.where(known, row, 0.0), m, axis=1)
        out[:, m:] = windows.sum(-1)[:, :-1]
    with np.errstate(invalid="ignore"):
        return np.where(2 * many_before(known, m) >= m, out, np.nan)


def many_before(known: Mask, m: int) -> Values:
    """(series, columns) how many periods of the year before each are known; NaN where that is not whole."""
    out = np.full(known.shape, np.nan)
    if 0 < m < known.shape[1]:
        running = np.cumsum(known, axis=1)
        out[:, m] = running[:, m - 1]
        out[:, m + 1 :] = running[:, m:-1] - running[:, : -m - 1]
    return out


def _share(year: Values, earlier: Values) -> Values:
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.where((earlier > 0) & (year > 0), year / earlier, np.nan)


def _change(year: Values, earlier: Values, many: Values) -> Values:
    """What a period of the last year lies above its like one."""
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.asarray((year - earlier) / many)


METHODS = (
    Method(
        "same-period-growth",
        phrase("Same period last year, with growth"),
        TEXTBOOK,
        each_start(same_period_growth),
        with_season=True,
    ),
    Method(
        "same-period", phrase("Same period last year"), TEXTBOOK, each_start(same_period), with_season=True
    ),
    Method(
        "same-period-drift",
        phrase("Same period last year, with drift"),
        TEXTBOOK,
        each_start(same_period_drift),
        with_season=True,
    ),
)
