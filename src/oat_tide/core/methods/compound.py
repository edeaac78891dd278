"""Compound growth, from the first known period to the last.

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
    last_known,
    used_of,
)
from oat_tide.core.periods.calendar import Days


def compound(values: Values, weights: Values, horizon: int, how: How) -> tuple[Values, Fitted]:
    """The last known period, grown on as from the first known to it: (last / first)^(1/k) - 1."""
    own = used_of(values, weights)
    value, at = last_known(own)
    first, first_at = first_known(own)
    with np.errstate(invalid="ignore", divide="ignore"):
        fits = (at > first_at) & (first > 0) & (value > 0)
        growth = np.where(fits, (value / first) ** (1 / np.where(fits, at - first_at, 1)), np.nan)
    past = own.shape[1]

    def curve(columns: Days) -> Values:
        return np.asarray(value[:, None] * growth[:, None] ** (columns - at[:, None]))

    def fitted() -> Values:
        # What lies between the two periods is the curve that joins them.
        columns = np.arange(past)
        return np.where(columns >= first_at[:, None], curve(columns), np.nan)

    return curve(np.arange(past, past + horizon)), fitted


METHODS = (Method("compound", phrase("Compound growth"), TEXTBOOK, each_start(compound)),)
