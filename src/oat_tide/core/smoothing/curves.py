"""The one-step error of every length of window, and of every smoothing constant, on the same periods."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from oat_tide.core.accuracy.errors import Measure, loss, measured
from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import Days
from oat_tide.core.smoothing import exponential
from oat_tide.core.smoothing.windows import Mask

_NEAR = 1 << 15
"""Cells reckoned at a time: what one step leaves is still near the processor for the next."""


def targets(values: Values, longest: int, before: Days | None = None) -> Mask:
    """(series, columns) the periods that every length up to the longest forecasts, and that are known.

    Every window lies within the history, and the period before is known; others that are not known are left
    out of the windows.

    Args:
        values: (series, columns); NaN is not known.
        longest: periods of the longest window.
        before: (columns,) the like period of the year before, below 0 for none; it must be known as well.
    """
    known = ~np.isnan(values)
    begun = np.maximum.accumulate(known, axis=1)
    ready: Mask = np.zeros(values.shape, np.bool_)
    if 0 < longest < values.shape[1]:
        ready[:, longest:] = begun[:, :-longest] & known[:, longest:] & known[:, longest - 1 : -1]
    if before is not None:
        ready &= (before >= 0) & known[:, np.maximum(before, 0)]
    return ready


def window_curve(values: Values, ready: Mask, longest: int, measure: Measure, rising: bool = False) -> Values:
    """The one-step error of the rolling mean of every length.

    The forecast of a period is the mean of what is known in so many periods before it, plain or with weights
    n, n - 1, ... 1. One pass: the sum over n periods is that over n - 1 and one more, and the sum with
    rising weights is that of n - 1 and the plain sum over n.

    Args:
        values: (series, columns); NaN is not known.
        ready: (series, columns) the targets.

    Returns:
        (series, longest) for lengths 1 to the longest; NaN without targets.
    """
    out = np.full((len(values), longest), np.nan)
    step = max(_NEAR // max(values.shape[1], 1), 1)
    for at in range(0, len(values), step):
        rows = slice(at, at + step)
        out[rows] = _curve(values[rows], ready[rows], longest, measure, rising)
    return out


def _curve(values: Values, ready: Mask, longest: int, measure: Measure, rising: bool) -> Values:
    there = np.flatnonzero(ready.any(0))
    out = np.full((len(values), longest), np.nan)
    if not there.size:
        return out
    # Columns before the first target need not be reckoned.
    first, known = int(there[0]), ~np.isnan(values)
    y = np.where(known, values, 0.0)
    own, weigh = y[:, first:], ready[:, first:].astype(np.float64)
    sums = _Sums(y, first, rising)
    counts = None if known.all() else _Sums(known.astype(np.float64), first, rising)
    whole = (np.abs(own) * weigh).sum(1)
    if measure == "MAPE":
        weigh = np.where(own != 0, weigh, 0.0)
    count = weigh.sum(1)
    if measure == "MAPE":
        weigh = np.divide(100 * weigh, np.abs(own), out=np.zeros_like(own), where=own != 0)
    error = np.empty(own.shape)
    for n in range(1, longest + 1):
        total = sums.add(n)
        if counts is None:
            np.multiply(total, -2 / (n * (n + 1)) if rising else -1 / n, out=error)
        else:
            np.divide(-total, np.maximum(counts.add(n), 1.0), out=error)
        error += own
        np.multiply(error, error, out=error) if measure == "RMSE" else np.abs(error, out=error)
        # Of one series the product of two rows is many times as quick.
        out[:, n - 1] = error[0] @ weigh[0] if len(own) == 1 else np.einsum("ij,ij->i", error, weigh)
    below = whole if measure == "WAPE" else count
    with np.errstate(invalid="ignore", divide="ignore"):
        found: Values = np.where(below[:, None] > 0, out / below[:, None], np.nan)
    if measure == "RMSE":
        found = np.sqrt(found)
    return 100 * found if measure == "WAPE" else found


class _Sums:
    """Sums of the periods before each target, plain or with weights that rise by one, length by length."""

    def __init__(self, values: Values, first: int, rising: bool) -> None:
        self._values, self._first = values, first
        self._plain = np.zeros((len(values), values.shape[1] - first))
        self._rising = np.zeros(self._plain.shape) if rising else None

    def add(self, length: int) -> Values:
        """The sums of this length, one more than before."""
        self._plain += self._values[:, self._first - length : self._values.shape[1] - length]
        if self._rising is None:
            return self._plain
        self._rising += self._plain
        return self._rising


def constant_curve(
    values: Values,
    ready: Mask,
    kind: exponential.Kind,
    alphas: Sequence[float],
    others: tuple[float, float],
    measure: Measure,
    begins: exponential.Begins = "by rule",
) -> Values:
    """The one-step error of exponential smoothing by its constant of the level.

    Args:
        others: b* and phi, held; not used for a level alone.
        begins: a fitted start is found anew for every constant.

    Returns:
        (series, alphas).
    """

    def one(alpha: float) -> Values:
        constants = exponential.of_kind(kind, alpha, *others, len(values))
        start = exponential.start_of(values, kind, begins, constants)
        forecast = exponential.smooth(values, constants, start).forecast
        return measured(loss(np.where(ready, values - forecast, np.nan), values, measure), values, measure)

    return np.stack([one(alpha) for alpha in alphas], axis=1)
