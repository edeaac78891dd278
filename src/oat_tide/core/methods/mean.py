"""The mean of the last periods, carried forward.

Source: Makridakis, Wheelwright and Hyndman, Forecasting: Methods and Applications (1998), chapter 3.
"""

from __future__ import annotations

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.methods.shape import TEXTBOOK, Fitted, How, Method, each_start, used_of


def mean_of_last(values: Values, weights: Values, horizon: int, how: How) -> tuple[Values, Fitted]:
    """The mean of what is known of the last periods; a window with a period not known has none."""
    own, n = used_of(values, weights), how.last
    columns = own.shape[1]
    found = own[:, columns - n :].mean(1) if columns >= n else np.full(len(own), np.nan)
    return np.repeat(found[:, None], horizon, axis=1), lambda: _one_step(own, n)


def _one_step(own: Values, n: int) -> Values:
    """(series, columns) the mean of the periods before each."""
    columns = own.shape[1]
    found = np.full((len(own), columns + 1), np.nan)
    if columns >= n:
        found[:, n:] = np.lib.stride_tricks.sliding_window_view(own, n, axis=1).mean(-1)
    return found[:, :-1]


METHODS = (Method("mean", phrase("Mean of the last periods"), TEXTBOOK, each_start(mean_of_last)),)
