"""The last known value, and the mean change since the first for each period on.

Source: Makridakis, Wheelwright and Hyndman, Forecasting: Methods and Applications (1998), chapter 2.
"""

from __future__ import annotations

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.methods.shape import (
    TEXTBOOK,
    Fitted,
    How,
    Method,
    each_start,
    first_known,
    known_before,
    last_known,
    used_of,
)
from oat_tide.core.periods.calendar import Days


def drift(values: Values, weights: Values, horizon: int, how: How) -> tuple[Values, Fitted]:
    """The last known value and, for each period on, the mean change since the first."""
    own = used_of(values, weights)
    value, at = last_known(own)
    first, first_at = first_known(own)
    with np.errstate(invalid="ignore", divide="ignore"):
        change = np.where(at > first_at, (value - first) / (at - first_at), np.nan)
    steps = own.shape[1] - at[:, None] + np.arange(horizon)
    return value[:, None] + change[:, None] * steps, lambda: _one_step(own, first, first_at)


def _one_step(own: Values, first: Values, first_at: Days) -> Values:
    """One-step forecasts: the last known before, and the mean change up to there."""
    earlier, at = known_before(own)
    apart = at - first_at[:, None]
    with np.errstate(invalid="ignore", divide="ignore"):
        change = np.where(apart > 0, (earlier - first[:, None]) / apart, np.nan)
    return np.asarray(earlier + change * (np.arange(own.shape[1]) - at))


METHODS = (Method("drift", phrase("Last value with drift"), TEXTBOOK, each_start(drift)),)
