"""Change between periods, and projections held against actuals. The last axis is time."""

from __future__ import annotations

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import NONE, Days


def share(part: Values, base: Values) -> Values:
    """100 * part / base; NaN where the base is zero, negative or not known."""
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.where(base > 0, 100 * part / base, np.nan)


def earlier(values: Values, columns: Days) -> Values:
    """The values that stand in other columns: what each period is held against.

    Args:
        values: (series, periods).
        columns: (periods,) the column to take for each; NONE or outside the data gives NaN.
    """
    there = (columns != NONE) & (columns >= 0) & (columns < values.shape[-1])
    return np.where(there, values[..., np.where(there, columns, 0)], np.nan)
