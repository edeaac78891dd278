"""The median of slopes: one odd period does not bend it.

Sources: Theil, A rank-invariant method of linear and polynomial regression analysis (1950); Sen, Estimates
of the regression coefficient based on Kendall's tau (1968).
"""

from __future__ import annotations

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.methods.robust import one_start
from oat_tide.core.methods.shape import Method, each_start

_PAIRS = 2_000_000
"""Slopes of pairs that are held at a time."""


def middle_slopes(z: Values, t: Values) -> tuple[Values, Values]:
    """(series,) the median of z - b t, and (series,) b, the median of the slopes of all pairs."""
    one, other = np.triu_indices(len(t), 1)
    slope, at = np.empty(len(z)), max(_PAIRS // max(len(one), 1), 1)
    for begin in range(0, len(z), at):
        part = z[begin : begin + at]
        slope[begin : begin + at] = np.median((part[:, other] - part[:, one]) / (t[other] - t[one]), axis=1)
    return np.median(z - slope[:, None] * t, axis=1), slope


METHODS = (
    Method(
        "theil-sen",
        phrase("Median of slopes (Theil, Sen)"),
        phrase("Theil, 1950; Sen, 1968"),
        each_start(one_start(middle_slopes)),
        parameters=2,
        curve=True,
        iterated=True,
    ),
)
