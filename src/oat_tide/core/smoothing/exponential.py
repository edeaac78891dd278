"""Exponential smoothing in component form: a level, a level with a trend, or one with a damped trend.

    forecast   f(t) = l(t-1) + phi b(t-1)
    level      l(t) = a y(t) + (1 - a) f(t)
    trend      b(t) = b* (l(t) - l(t-1)) + (1 - b*) phi b(t-1)

Without a trend b is 0; a trend that is not damped has phi = 1. A period that is not known is taken as it was
forecast. Start by the rule: the level begins at the first known period, as its value; with a trend both
begin at the fifth known period, the level as its value and the trend as the mean change since the first.
Start fitted: level and trend before the first known period, with the least sum of squared one-step errors.

Sources: Holt, Forecasting Seasonals and Trends by Exponentially Weighted Moving Averages (1957); Gardner and
McKenzie, Forecasting Trends in Time Series (1985).
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import Days

Kind = Literal["level", "trend", "damped"]
Begins = Literal["by rule", "fitted"]
BEGIN = 5
"""The known periods that a trend begins from."""
FEWEST: dict[Kind, int] = {"level": 2, "trend": BEGIN, "damped": BEGIN}
"""The known periods that it takes to fit a start."""
LOWEST, HIGHEST = 0.01, 0.99
"""Bounds of the smoothing constants."""
LEAST_DAMPED, MOST_DAMPED = 0.80, 0.98
"""Bounds of phi, where the trend is damped."""
_GRID_A, _GRID_B, _GRID_PHI = (0.1, 0.3, 0.5, 0.7, 0.9), (0.05, 0.2, 0.5, 0.8), (0.8, 0.9, 0.98)
_STEPS = (0.1, 0.05, 0.02, 0.01)
"""The search goes by these steps; constants are found to two decimals, so that they can be written."""
_ROUNDING = 1e-20
"""Squared errors of so little of the squared values are those of rounding: nothing tells them apart."""
_MANY = 400
"""So many series go period by period, all at once; fewer are solved as equations, which costs less there."""
_AT_ONCE = 8192
"""Periods of all series that are solved together, few enough to stay near the processor."""


@dataclass(frozen=True, eq=False, slots=True)
class Constants:
    """The smoothing constants of each series.

    Attributes:
        alpha: (series,) of the level.
        beta: (series,) of the trend, b*; 0 without one.
        phi: (series,) what is kept of the trend from period to period; 0 without one.
    """

    alpha: Values
    beta: Values
    phi: Values


@dataclass(frozen=True, eq=False, slots=True)
class Start:
    """What each series starts from.

    Attributes:
        level: (series,) the level at `at`.
        trend: (series,) the trend at `at`.
        at: (series,) the column that the start stands at, -1 for before all; `columns` where there is none.
    """

    level: Values
    trend: Values
    at: Days


@dataclass(frozen=True, eq=False, slots=True)
class States:
    """What comes of smoothing.

    Attributes:
        level: (series, columns) from the start on; NaN before.
        trend: (series, columns) the same.
        forecast: (series, columns) one step ahead, made of the periods before; NaN up to the start.
    """

    level: Values
    trend: Values
    forecast: Values


def same(alpha: float, beta: float, phi: float, series: int) -> Constants:
    """Use the same constants for every series."""
    return Constants(*(np.full(series, each) for each in (alpha, beta, phi)))


def of_kind(kind: Kind, alpha: float, beta: float, phi: float, series: int) -> Constants:
    """The same for every series, as far as the kind has them: a trend that is not damped is kept whole."""
    own = {"level": (0.0, 0.0), "trend": (beta, 1.0), "damped": (beta, phi)}[kind]
    return same(alpha, *own, series)


def begin(values: Values, kind: Kind) -> Start:
    """The start by the rule.

    Args:
        values: (series, columns); NaN is not known.
    """
    columns = values.shape[1]
    known = ~np.isnan(values)
    order = np.cumsum(known, axis=1)
    rows = np.arange(len(values))

    def at(nth: int) -> Days:
        """(series,) the column of the nth known period."""
        there = order >= nth
        return np.where(there.any(1), there.argmax(1) if columns else 0, columns)

    first = at(1)
    if kind == "level":
        begins, trend = first, np.zeros(len(values))
    else:
        begins = at(BEGIN)
    safe = np.minimum(begins, max(columns - 1, 0))
    level = values[rows, safe] if columns else np.full(len(values), np.nan)
    if kind != "level" and columns:
        apart = np.maximum(begins - first, 1)
        trend = (level - values[rows, np.minimum(first, columns - 1)]) / apart
    elif kind != "level":
        trend = np.full(len(values), np.nan)
    return Start(np.asarray(level), np.asarray(trend), begins)


def best_start(values: Values, kind: Kind, constants: Constants) -> Start:
    """The start before the first known period with the least sum of squared one-step errors.

    An error is linear in both: e = e0 - l u - b v, e0 those of a start of 0, u and v what a level and a trend
    of 1 come to. So level and trend are a regression of e0 on u and v, here by making v orthogonal to u.
    There is none where fewer periods are known than it takes.

    Args:
        values: (series, columns); NaN is not known.
    """
    series, columns = values.shape
    known = ~np.isnan(values)
    enough = known.sum(axis=1) >= FEWEST[kind]
    at = np.where(enough, known.argmax(axis=1) - 1 if columns else -1, columns)
    none, one = np.zeros(series), np.ones(series)
    e = np.nan_to_num(one_step_errors(values, constants, Start(none, none, at)))
    u = -np.nan_to_num(one_step_errors(values * 0, constants, Start(one, none, at)))
    if kind == "level":
        return Start(_share(e, u), none, at)
    v = -np.nan_to_num(one_step_errors(values * 0, constants, Start(none, one, at)))
    shared = _share(v, u)
    trend = _share(e, v - shared[:, None] * u)
    return Start(_share(e, u) - trend * shared, trend, at)


def _share(rows: Values, on: Values) -> Values:
    """(series,) the coefficient of each row on another; 0 where that has no size."""
    squares = np.einsum("ij,ij->i", on, on)
    share: Values = np.einsum("ij,ij->i", rows, on) / np.where(squares > 0, squares, np.inf)
    return share


def start_of(values: Values, kind: Kind, begins: Begins, constants: Constants) -> Start:
    """The start by the rule, or the best with these constants."""
    return begin(values, kind) if begins == "by rule" else best_start(values, kind, constants)


def smooth(values: Values, constants: Constants, start: Start) -> States:
    """Smooth every series with its own constants.

    Args:
        values: (series, columns); NaN is not known.
    """
    reckoned = _by_period if len(values) >= _MANY else _by_series
    level, trend = reckoned(values, constants, start)
    ahead = level[:, :-1] + constants.phi[:, None] * trend[:, :-1]
    since = np.arange(values.shape[1]) - start.at[:, None]
    level, trend = (np.where(since >= 0, each[:, 1:], np.nan) for each in (level, trend))
    return States(level, trend, np.where(since > 0, ahead, np.nan))


def _by_period(values: Values, constants: Constants, start: Start) -> tuple[Values, Values]:
    """(series, 1 + columns) level and trend before the first period and at each, one after the other."""
    level, trend = (np.zeros((len(values), 1 + values.shape[1])) for _ in range(2))
    alpha, beta, phi = constants.alpha, constants.beta, constants.phi
    now, slope = (np.where(start.at < 0, each, 0.0) for each in (start.level, start.trend))
    level[:, 0], trend[:, 0] = now, slope
    for column in range(values.shape[1]):
        y, begins = values[:, column], start.at == column
        ahead = now + phi * slope
        new = np.where(np.isnan(y), ahead, alpha * y + (1 - alpha) * ahead)
        slope = np.where(begins, start.trend, beta * (new - now) + (1 - beta) * phi * slope)
        now = np.where(begins, start.level, new)
        level[:, column + 1], trend[:, column + 1] = now, slope
    return level, trend


def _by_series(values: Values, constants: Constants, start: Start) -> tuple[Values, Values]:
    """The same, so many series at once as stay near the processor."""
    level, trend = (np.empty((len(values), 1 + values.shape[1])) for _ in range(2))
    step = max(1, _AT_ONCE // level.shape[1])
    for some in (slice(at, at + step) for at in range(0, len(values), step)):
        own = Start(start.level[some], start.trend[some], start.at[some])
        level[some], trend[some] = _recursed(values[some], _of(constants, some), own)
    return level, trend


def _recursed(values: Values, constants: Constants, start: Start) -> tuple[Values, Values]:
    """(series, 1 + columns) level and trend before the first period and at each; 0 before the start.

    Every level and trend is an equation in those of the period before: solved one after the other, they are
    a triangle of equations with three diagonals under the first.
    """
    from scipy.linalg.lapack import dtbtrs  # loads slowly, and only exponential smoothing needs it

    series, periods = len(values), values.shape[1] + 1
    since = np.arange(periods) - (start.at + 1)[:, None]
    goes_on = since > 0
    known = np.zeros((series, periods), bool)
    np.equal(values, values, out=known[:, 1:])  # only what is not known is unlike itself
    known &= goes_on
    alpha, beta, phi = (each[:, None] for each in (constants.alpha, constants.beta, constants.phi))
    right = np.zeros((series, periods, 2))
    np.multiply(values, alpha, out=right[:, 1:, 0], where=known[:, 1:])
    at = np.nonzero(since == 0)
    right[at] = np.column_stack((start.level[at[0]], start.trend[at[0]]))
    # What is not known is taken as it was forecast; nothing before the start counts after it.
    kept = np.where(known, 1.0 - alpha, goes_on)
    band = np.zeros((series, periods, 2, 4))
    of_level, of_trend = band[:, :, 0], band[:, :, 1]
    np.negative(beta, out=of_level[:, :, 1], where=goes_on)
    np.negative(kept[:, 1:], out=of_level[:, :-1, 2])
    np.copyto(of_level[:, :-1, 3], beta, where=goes_on[:, 1:])
    np.multiply(of_level[:, :-1, 2], phi, out=of_trend[:, :-1, 1])
    np.copyto(of_trend[:, :-1, 2], (beta - 1.0) * phi, where=goes_on[:, 1:])
    diagonals = band.reshape(-1, 4).T
    found = dtbtrs(diagonals, right.ravel(), uplo="L", diag="U")[0].reshape(series, periods, 2)
    return found[:, :, 0], found[:, :, 1]


def fitted(values: Values, kind: Kind, begins: Begins = "by rule") -> Constants:
    """The constants with the least sum of squared one-step errors, to two decimals, within their bounds.

    A grid first, then a search around its best until no step betters any, all series at once. Where nothing
    can be told, such as of a constant series, the first of the grid stands.

    Args:
        values: (series, columns); NaN is not known.
        begins: the start that they are held against; the best start is found anew for every set of them.
    """
    betas, phis = {
        "level": ((0.0,), (0.0,)),
        "trend": (_GRID_B, (1.0,)),
        "damped": (_GRID_B, _GRID_PHI),
    }[kind]
    best = same(_GRID_A[0], betas[0], phis[0], len(values))
    search = _Search(values, kind, begins, best, np.full(len(values), np.inf))
    everyone = np.arange(len(values))
    for alpha, beta, phi in itertools.product(_GRID_A, betas, phis):
        search.take(everyone, same(alpha, beta, phi, len(values)))
    free = {"level": ("alpha",), "trend": ("alpha", "beta"), "damped": ("alpha", "beta", "phi")}[kind]
    moving = everyone
    while moving.size:
        before = search.least[moving]
        for step, name in itertools.product(_STEPS, free):
            for way in (-step, step):
                now = _of(search.best, moving)
                search.take(moving, replace(now, **{name: _within(name, getattr(now, name) + way)}))
        moving = moving[search.least[moving] < before]
    return search.best


@dataclass(eq=False, slots=True)
class _Search:
    """The best constants so far, and their sums of squared errors."""

    values: Values
    kind: Kind
    begins: Begins
    best: Constants
    least: Values

    def take(self, rows: Days, other: Constants) -> None:
        """Take other constants for those of some series that they are better for."""
        values = self.values[rows]
        squares = squared_errors(values, other, start_of(values, self.kind, self.begins, other))
        squares[squares < _ROUNDING * np.nansum(values**2, axis=1)] = 0
        better = squares < self.least[rows]
        for name in ("alpha", "beta", "phi"):
            getattr(self.best, name)[rows[better]] = getattr(other, name)[better]
        self.least[rows[better]] = squares[better]


def _of(constants: Constants, rows: Days | slice) -> Constants:
    return Constants(constants.alpha[rows], constants.beta[rows], constants.phi[rows])


def _within(name: str, value: Values) -> Values:
    low, high = (LEAST_DAMPED, MOST_DAMPED) if name == "phi" else (LOWEST, HIGHEST)
    return np.round(np.clip(value, low, high), 2).astype(np.float64)


def one_step_errors(values: Values, constants: Constants, start: Start) -> Values:
    """(series, columns) actual minus forecast; NaN where either is not known."""
    return values - smooth(values, constants, start).forecast


def squared_errors(values: Values, constants: Constants, start: Start) -> Values:
    """(series,) the sum of squared one-step errors."""
    errors = np.nan_to_num(one_step_errors(values, constants, start))
    squares: Values = np.einsum("ij,ij->i", errors, errors)
    return squares


def carried(phi: Values, steps: int) -> Values:
    """(series, steps) what the trend counts for so many steps ahead: phi + phi^2 + ..."""
    powers: Values = np.cumsum(phi[:, None] ** np.arange(1, steps + 1), axis=1)
    return powers
