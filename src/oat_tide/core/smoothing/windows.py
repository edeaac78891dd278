"""Moving averages over trailing windows. The last axis is time.

Source: Makridakis, Wheelwright and Hyndman, Forecasting: Methods and Applications (1998), section 3/2.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from oat_tide.core.exact import Values, parted


def rolling_mean(values: Values, window: int, scale: float = 1.0) -> Values:
    """The mean of each period and the `window` - 1 before it (Makridakis et al., 1998, 3/2).

    Sums are differences of running sums of whole minor units, so the cost does not depend on the window
    and the sum is exact while the running sum stays below 2**53 minor units.

    Args:
        values: (..., periods); NaN is not known.
        window: periods in the window, at least 1.
        scale: minor units in one unit, so that values * scale are whole numbers.

    Returns:
        (..., periods); NaN where the window is not full or holds a value not known.
    """
    values = np.asarray(values, np.float64)
    out = np.full(values.shape, np.nan)
    if values.shape[-1] < window:
        return out
    gone = np.isnan(values)
    units, rest = parted(np.where(gone, 0.0, values), scale)
    sums = _windowed_sum(units, window)
    if rest is not None:
        sums += _windowed_sum(rest, window)
    out[..., window - 1 :] = sums / (scale * window)
    if gone.any():
        out[..., window - 1 :][_windowed_sum(gone.astype(np.int64), window) > 0] = np.nan
    return out


def _windowed_sum(values: np.ndarray, window: int) -> np.ndarray:
    running = np.cumsum(values, axis=-1)
    sums = running[..., window - 1 :].copy()
    sums[..., 1:] -= running[..., :-window]
    return sums


def weighted_mean(values: Values, weights: Sequence[float]) -> Values:
    """The weighted mean of each period and those before it (Makridakis et al., 1998, 3/2).

    Args:
        values: (..., periods); NaN is not known.
        weights: one a period, the newest first; not below zero, and not all zero.

    Returns:
        (..., periods); NaN where the window is not full or holds a value not known.

    Raises:
        ValueError: weights below zero, or none above.
    """
    if not weights or min(weights) < 0 or sum(weights) <= 0:
        raise ValueError("weights must not be below zero, and one must be above")
    values = np.asarray(values, np.float64)
    window, periods = len(weights), values.shape[-1]
    out = np.full(values.shape, np.nan)
    if periods >= window:
        total = np.zeros((*values.shape[:-1], periods - window + 1))
        for age, weight in enumerate(weights):
            total += weight * values[..., window - 1 - age : periods - age]
        out[..., window - 1 :] = total / sum(weights)
    return out


def rising_weights(window: int) -> tuple[float, ...]:
    """Linear weights, the newest first: n, n - 1, ... 1 (Makridakis et al., 1998, 3/2)."""
    return tuple(float(n) for n in range(window, 0, -1))


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
