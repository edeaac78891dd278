"""A smoother run on, of the series or of the deseasonalised one.

Sources: Makridakis, Wheelwright and Hyndman, Forecasting: Methods and Applications (1998), 4/3; Holt (1957);
Gardner and McKenzie (1985).
"""

from __future__ import annotations

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.methods.seasonal import in_season, season
from oat_tide.core.methods.shape import TEXTBOOK, Fitted, How, Method, each_start, used_of
from oat_tide.core.smoothing.running import run_on


def smoothed(values: Values, weights: Values, horizon: int, how: How) -> tuple[Values, Fitted]:
    """A smoother run on; where it is taken of the series without its season, that is put back."""
    smoother, own = how.smoother, used_of(values, weights)
    if smoother is None:
        return np.full((len(own), horizon), np.nan), lambda: own * np.nan
    if not smoother.deseasonalised or not how.cycle:
        ahead, fitted = run_on(own, smoother.by, horizon)
        return ahead, lambda: fitted
    found = season(values, how)
    # Where no season is told the series itself runs on.
    untold = np.isnan(found.indices).all(1, keepdims=True)
    ahead, fitted = run_on(np.where(untold, own, found.without(own)), smoother.by, horizon)
    back, put_back = in_season(found, ahead, lambda: fitted, how, own.shape[1])
    return np.where(untold, ahead, back), lambda: np.where(untold, fitted, put_back())


METHODS = (
    Method(
        "smoothed",
        phrase("Smoother, extended"),
        phrase("{textbook}; Holt, 1957; Gardner and McKenzie, 1985", textbook=TEXTBOOK),
        each_start(smoothed),
        iterated=True,
    ),
)
