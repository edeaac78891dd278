"""Weighted means over windows, the shapes of weights, and what a row of weights does to a series.

Weights are given newest first, the first at the newest period of the window. Sources: Makridakis, Wheelwright
and Hyndman (1998), 3/2; Spencer, On the graduation of the rates of sickness and mortality (1904).
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from oat_tide.core.exact import Values

SPENCER = tuple(float(w) for w in (-3, -6, -5, 3, 21, 46, 67, 74, 67, 46, 21, 3, -5, -6, -3))
"""Spencer's fifteen-term weights (1904): centred, they keep any cubic as it is."""


def rising_weights(window: int) -> tuple[float, ...]:
    """Linear weights, the newest first: n, n - 1, ... 1 (Makridakis et al., 1998, 3/2)."""
    return tuple(float(n) for n in range(window, 0, -1))


def halving_weights(window: int) -> tuple[float, ...]:
    """Each weight half of the next newer one, down to 1 at the oldest: 4, 2, 1; below 1 where that is large.

    From 2**10 down, so that a long window does not begin with a figure that nobody can read.
    """
    newest = min(window - 1, 10)
    return tuple(2.0 ** (newest - age) for age in range(window))


def weighted_mean(values: Values, weights: Sequence[float], ahead: int = 0) -> Values:
    """The weighted mean of the periods of each window (Makridakis et al., 1998, 3/2).

    Args:
        values: (..., periods); NaN is not known.
        weights: one a period, the newest first.
        ahead: periods after the current one that the window takes in.

    Returns:
        (..., periods); NaN where the window is not full or holds a value not known.

    Raises:
        ValueError: the weights do not add up to more than zero.
    """
    if not weights or not sum(weights) > 0:
        raise ValueError("the weights must add up to more than zero")
    return _weighted_sum(np.asarray(values, np.float64), weights, ahead, np.nan) / sum(weights)


def weighted_known(values: Values, weights: Sequence[float], ahead: int = 0) -> Values:
    """The weighted mean of what is known in each window; weights of what is not are left out.

    Returns:
        (..., periods); NaN where the weights that are left do not add up to more than zero.
    """
    total = _weighted_sum(np.nan_to_num(values, nan=0.0), weights, ahead, 0.0)
    share = held_weights(~np.isnan(values), weights, ahead)
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.where(share > 0, total / share, np.nan)


def held_weights(holds: np.ndarray, weights: Sequence[float], ahead: int = 0) -> Values:
    """(..., periods) the sum of the weights that stand at periods where something holds."""
    return _weighted_sum(holds.astype(np.float64), weights, ahead, 0.0)


def _weighted_sum(values: Values, weights: Sequence[float], ahead: int, outside: float) -> Values:
    room, periods = len(weights) + abs(ahead), values.shape[-1]
    beyond = np.full((*values.shape[:-1], room), outside)
    padded = np.concatenate((beyond, values, beyond), axis=-1)
    total = np.zeros(values.shape)
    for age, weight in enumerate(weights):
        start = room + ahead - age
        total += weight * padded[..., start : start + periods]
    return total


def lag(weights: Sequence[float], ahead: int = 0) -> float:
    """The mean age of the weights, in periods: sum(k w) / sum(w), k = 0 for the current period."""
    return sum((age - ahead) * weight for age, weight in enumerate(weights)) / sum(weights)


def left_of_cycle(weights: Sequence[float], cycle: float) -> float:
    """What a window leaves of the swing of a sine of this length: |sum w exp(-2 pi i k / m)| / sum w.

    The gain of a linear filter (Makridakis et al., 1998, 3/2; Granger and Hatanaka, 1964).

    Args:
        weights: one a period.
        cycle: periods in the cycle.
    """
    turn = 2 * math.pi / cycle
    across = sum(weight * math.cos(turn * age) for age, weight in enumerate(weights))
    up = sum(weight * math.sin(turn * age) for age, weight in enumerate(weights))
    return math.hypot(across, up) / sum(weights)


def less_change(actual: Values, smoothed: Values) -> Values:
    """Less period-to-period change: 1 - mean|change of smoothed| / mean|change of actual|, same periods.

    A definition of our own: how much smaller the changes from period to period become.

    Args:
        actual, smoothed: (series, periods).

    Returns:
        (series, 1); NaN where nothing can be compared or the actual does not change.
    """
    steps = np.abs(np.diff(smoothed)), np.abs(np.diff(actual))
    both = ~np.isnan(steps[0]) & ~np.isnan(steps[1])
    smooth, rough = (np.where(both, step, 0.0).sum(-1, keepdims=True) for step in steps)
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.where(rough > 0, 1 - smooth / rough, np.nan)
