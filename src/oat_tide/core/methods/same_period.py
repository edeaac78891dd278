"""The same period last year: as it was, with the growth of the last year, or with its drift.

Source: Makridakis, Wheelwright and Hyndman, Forecasting: Methods and Applications (1998), chapter 2.
"""

from __future__ import annotations

import numpy as np

from oat_tide.core.exact import Values
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
        sums = [
            np.lib.stride_tricks.sliding_window_view(each, m, axis=1).sum(-1)[:, :-1]
            for each in (np.where(both, now, 0.0), np.where(both, before, 0.0), both.astype(float))
        ]
        enough = 2 * sums[2] >= m
        # The year that ends before column c begins at c - m.
        year[:, 2 * m :], earlier[:, 2 * m :] = (np.where(enough, each, np.nan) for each in sums[:2])
        many[:, 2 * m :] = sums[2]
    return year, earlier, many


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
        "Same period last year, with growth",
        TEXTBOOK,
        each_start(same_period_growth),
        with_season=True,
    ),
    Method("same-period", "Same period last year", TEXTBOOK, each_start(same_period), with_season=True),
    Method(
        "same-period-drift",
        "Same period last year, with drift",
        TEXTBOOK,
        each_start(same_period_drift),
        with_season=True,
    ),
)
