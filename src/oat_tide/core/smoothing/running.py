"""A smoother that runs on: what it forecasts of every period of a history, and of those to come.

The forecast of a period is made of those before it: the last smoothed figure of a window or a level, the
level and so many steps of the trend where there is one. Sources: Makridakis, Wheelwright and Hyndman,
Forecasting: Methods and Applications (1998), 3/2 and chapter 4; Holt (1957); Gardner and McKenzie (1985).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.smoothing import exponential, ranks, sums
from oat_tide.core.smoothing.weights import weighted_known, weighted_mean
from oat_tide.core.smoothing.windows import Holds, Mask, Window, cut, holds

Taken = Literal["mean", "median", "total", "lowest", "highest", "trimmed", "weighted"]
_RANKS = {"median": ranks.window_median, "lowest": ranks.window_lowest, "highest": ranks.window_highest}


@dataclass(frozen=True, eq=False, slots=True)
class Windowed:
    """A smoother by a window of what lies before.

    Attributes:
        kind: what is taken of it.
        window: of as many columns as a history can have, or more.
        weights: of a weighted mean, the newest first.
        trim: how many of the lowest and of the highest a trimmed mean goes without.
        short: whether a window that is not full counts with what there is.
        skips: whether one counts that holds a period not known.
    """

    kind: Taken
    window: Window
    weights: tuple[float, ...] = ()
    trim: int = 1
    short: bool = False
    skips: bool = False


@dataclass(frozen=True, eq=False, slots=True)
class Exponential:
    """Exponential smoothing.

    Attributes:
        kind: whether there is a trend, and whether it is damped.
        begins: how it starts.
        constants: alpha, beta and phi where they are set; None where they are fitted.
    """

    kind: exponential.Kind
    begins: exponential.Begins = "by rule"
    constants: tuple[float, float, float] | None = None


@dataclass(frozen=True, eq=False, slots=True)
class Smoother:
    """What runs on, and whether it is taken of the series without its season, which is put back."""

    by: Windowed | Exponential
    deseasonalised: bool = False


def taken(
    kind: Taken,
    values: Values,
    window: Window,
    weights: tuple[float, ...] = (),
    trim: int = 1,
    lenient: bool = False,
    scale: float = 1.0,
) -> Values:
    """(series, columns) what is taken of each window.

    Args:
        values: (series, columns); NaN is not known.
        weights: of a weighted mean, the newest first.
        lenient: whether a window that lacks something is taken of what there is.
        scale: minor units in one unit.
    """
    if kind == "weighted":
        assert window.offsets is not None
        return (weighted_known if lenient else weighted_mean)(values, weights, window.offsets[1])
    if kind == "trimmed":
        return ranks.window_trimmed(values, window, trim, lenient)
    if kind == "mean" and not lenient and window.offsets and not window.offsets[1]:
        return sums.rolling_mean(values, 1 - window.offsets[0], scale)
    if kind in ("mean", "total"):
        return (sums.window_mean if kind == "mean" else sums.window_total)(values, window, scale)
    return _RANKS[kind](values, window, lenient)


def has_figure(held: Holds, kind: Taken, trim: int, short: bool, skips: bool) -> Mask:
    """(series, columns) the windows that have a figure, by what is asked of ends and gaps."""
    return held.counts(short, skips) & (held.known >= (2 * trim + 1 if kind == "trimmed" else 1))


def run_on(values: Values, by: Windowed | Exponential, horizon: int) -> tuple[Values, Values]:
    """What a smoother forecasts.

    Args:
        values: (series, columns); NaN is not known.

    Returns:
        (series, horizon) of the periods to come and (series, columns) of each period by those before it.
    """
    if not values.shape[1]:
        return np.full((len(values), horizon), np.nan), values
    return (_windowed if isinstance(by, Windowed) else _exponential)(values, by, horizon)  # type: ignore[arg-type]


def _windowed(values: Values, by: Windowed, horizon: int) -> tuple[Values, Values]:
    window = cut(by.window, values.shape[1])
    found = taken(by.kind, values, window, by.weights, by.trim, by.short or by.skips)
    found = np.where(has_figure(holds(values, window), by.kind, by.trim, by.short, by.skips), found, np.nan)
    return np.repeat(found[:, -1:], horizon, axis=1), _moved(found)


def _exponential(values: Values, by: Exponential, horizon: int) -> tuple[Values, Values]:
    series, columns = values.shape
    constants = (
        exponential.fitted(values, by.kind, by.begins)
        if by.constants is None
        else exponential.of_kind(by.kind, *by.constants, series)
    )
    start = exponential.start_of(values, by.kind, by.begins, constants)
    states = exponential.smooth(values, constants, start)
    begins = (start.at + (by.begins == "fitted"))[:, None]
    level = np.where(np.arange(columns) < begins, np.nan, states.level)
    if by.kind == "level":
        return np.repeat(level[:, -1:], horizon, axis=1), _moved(level)
    steps = exponential.carried(constants.phi, horizon)
    rises = constants.phi[:, None] * states.trend
    return level[:, -1:] + steps * states.trend[:, -1:], _moved(level + rises)


def _moved(rows: Values) -> Values:
    """(series, columns) what each period before said."""
    out = np.full(rows.shape, np.nan)
    out[:, 1:] = rows[:, :-1]
    return out
