"""Lines through the periods of a fit that are not found by least squares: what they share.

Sources: those of the rooms that use it, `huber` and `theil_sen`.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np

from oat_tide.core.alike import Mask, alike
from oat_tide.core.exact import Values
from oat_tide.core.methods.designs import time
from oat_tide.core.methods.shape import Fitted, How, OneStart
from oat_tide.core.periods.calendar import Days
from oat_tide.core.rows import columns_of

FEWEST = 3
"""Periods that it takes."""

Line = Callable[[Values, Values], tuple[Values, Values]]
"""((series, periods) all known, (periods,) t) -> (series,) intercepts and (series,) slopes."""


def one_start(fit: Line) -> OneStart:
    """A line as one start."""

    def run(values: Values, weights: Values, horizon: int, how: How) -> tuple[Values, Fitted]:
        intercept, slope, first = coefficients(values, weights, fit)
        past = values.shape[1]

        def line(columns: Days) -> Values:
            return np.asarray(intercept[:, None] + slope[:, None] * (columns - first[:, None] + 1))

        return line(np.arange(past, past + horizon)), lambda: line(np.arange(past))

    return run


def coefficients(values: Values, weights: Values, fit: Line) -> tuple[Values, Values, Values]:
    """(series,) intercepts, slopes, and the first periods of the fits; NaN of fewer than three periods."""
    used = (weights > 0) & ~np.isnan(values)
    intercept, slope = (np.full(len(values), np.nan) for _ in range(2))
    first = used.argmax(1).astype(float) if values.shape[1] else np.zeros(len(values))
    for rows, _, z, t in fits(values, used):
        intercept[rows], slope[rows] = fit(z, t)
    return intercept, slope, first


def fits(values: Values, used: Mask) -> Iterator[tuple[Days | slice, Mask, Values, Values]]:
    """Series whose fits use the same three periods or more: rows, (columns,) these, their values and t."""
    for rows, own in alike(used):
        if own.sum() >= FEWEST:
            yield rows, own, columns_of(values[rows], own), time(int(own.argmax()), len(own))[own]
