"""The last known value, carried forward.

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


def last(values: Values, weights: Values, horizon: int, how: How) -> tuple[Values, Fitted]:
    """The last known value in every period ahead."""
    own = used_of(values, weights)
    return np.repeat(last_known(own)[0][:, None], horizon, axis=1), lambda: known_before(own)[0]


METHODS = (Method("last", phrase("Last value"), TEXTBOOK, each_start(last)),)
