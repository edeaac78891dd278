"""Past starts: everything made anew from what lies before each (Tashman, 2000).

Source: Tashman, Out-of-sample tests of forecasting accuracy: an analysis and review (2000).
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Protocol

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import Days


class Ahead(Protocol):
    """What a method says."""

    @property
    def ahead(self) -> Values:
        """(starts, series, horizon) what each start projects."""


Method = Callable[[Values, Values, Days, int, Any], Ahead]
"""(values, weights, starts, horizon, how) -> what each start projects (`core/methods/shape`)."""


def from_starts(
    kernel: Method, values: Values, weights: Values, starts: Days, horizon: int, how: Any
) -> tuple[Values, Values]:
    """(starts, series, horizon) what each start projects, and what came; NaN where that is not known.

    What is not in the fit is not known.

    Args:
        values, weights: (series, periods) as of the methods.
    """
    ahead = kernel(values, weights, starts, horizon, how).ahead
    own = np.where(weights > 0, values, np.nan)
    padded = np.concatenate((own, np.full((len(own), horizon), np.nan)), axis=1)
    at = np.asarray(starts)[:, None] + np.arange(horizon)
    return ahead, np.moveaxis(padded[:, at], 0, 1)
