"""What is carried forward: the last value, the same period last year, the mean of the last periods.

Sources: Makridakis, Wheelwright and Hyndman, Forecasting: Methods and Applications (1998), chapters 2 and 3,
for the naive methods and the drift.
"""

from __future__ import annotations

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.methods.shape import How, first_known, heeded, known_before, last_known
from oat_tide.core.periods.calendar import Days


def last(values: Values, weights: Values, horizon: int, how: How) -> tuple[Values, Values]:
    """The last known value, carried forward."""
    own = heeded(values, weights)
    return np.repeat(last_known(own)[0][:, None], horizon, axis=1), known_before(own)[0]


def drift(values: Values, weights: Values, horizon: int, how: How) -> tuple[Values, Values]:
    """The last known value and, for each period on, the mean change since the first."""
    own = heeded(values, weights)
    value, at = last_known(own)
    first, first_at = first_known(own)
    with np.errstate(invalid="ignore", divide="ignore"):
        change = np.where(at > first_at, (value - first) / (at - first_at), np.nan)
    steps = own.shape[1] - at[:, None] + np.arange(horizon)
    return value[:, None] + change[:, None] * steps, _drifted(own, first, first_at)


def _drifted(own: Values, first: Values, first_at: Days) -> Values:
    """One-step forecasts: the last known before, and the mean change up to there."""
    earlier, at = known_before(own)
    apart = at - first_at[:, None]
    with np.errstate(invalid="ignore", divide="ignore"):
        change = np.where(apart > 0, (earlier - first[:, None]) / apart, np.nan)
    return np.asarray(earlier + change * (np.arange(own.shape[1]) - at))


def mean_of_last(values: Values, weights: Values, horizon: int, how: How) -> tuple[Values, Values]:
    """The mean of what is known of the last periods; a window with a period not known has none."""
    own = heeded(values, weights)
    n, columns = how.last, own.shape[1]
    found = np.full((len(own), columns + 1), np.nan)
    if columns >= n:
        windows = np.lib.stride_tricks.sliding_window_view(own, n, axis=1)
        found[:, n:] = windows.mean(-1)
    return np.repeat(found[:, -1:], horizon, axis=1), found[:, :-1]


def same_period(values: Values, weights: Values, horizon: int, how: How) -> tuple[Values, Values]:
    """The same period last year, and of that year where a period lies further ahead."""
    own = heeded(values, weights)
    return _like(own, horizon, how)[0], _like_before(own, how)


def same_period_growth(values: Values, weights: Values, horizon: int, how: How) -> tuple[Values, Values]:
    """The same period last year times the growth of the last year on the one before, for each year on."""
    own = heeded(values, weights)
    found, cycles = _like(own, horizon, how)
    return found * _growth(own, how)[:, None] ** cycles, _like_before(own, how) * _growth_before(own, how)


def same_period_drift(values: Values, weights: Values, horizon: int, how: How) -> tuple[Values, Values]:
    """The same period last year, and for each year on what the last year lay above the year before."""
    own = heeded(values, weights)
    found, cycles = _like(own, horizon, how)
    year, earlier, many = _years(own, how.back)
    years, befores, counts = _years_before(own, how.back)
    with np.errstate(invalid="ignore", divide="ignore"):
        change, changes = (year - earlier) / many, (years - befores) / counts
    return found + change[:, None] * cycles, _like_before(own, how) + changes


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


def _growth(own: Values, how: How) -> Values:
    return _share(*_years(own, how.back)[:2])


def _share(year: Values, earlier: Values) -> Values:
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.where((earlier > 0) & (year > 0), year / earlier, np.nan)


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


def _growth_before(own: Values, how: How) -> Values:
    return _share(*_years_before(own, how.back)[:2])
