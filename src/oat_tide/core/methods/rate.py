"""Growth by a rate a year that is set by hand.

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
    known_before,
    last_known,
    used_of,
)


def rate(values: Values, weights: Values, horizon: int, how: How) -> tuple[Values, Fitted]:
    """The last known period, grown on by a rate a year that is set by hand."""
    own = used_of(values, weights)
    value, at = last_known(own)
    a_period = (1 + how.rate) ** (1 / how.year)
    steps = own.shape[1] - at[:, None] + np.arange(horizon)
    return value[:, None] * a_period**steps, lambda: known_before(own)[0] * a_period


METHODS = (Method("rate", phrase("Growth by a set rate"), TEXTBOOK, each_start(rate)),)
