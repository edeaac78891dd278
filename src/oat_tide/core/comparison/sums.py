"""Running totals: plain sums, exact to the minor unit (see `core.exact`)."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.exact import Values, between, running_sums
from oat_tide.core.periods.calendar import Days


def running(values: Values, group: Days, scale: float) -> Values:
    """The sum of all that is known from the first period of each group on; NaN where nothing is yet.

    Args:
        group: (periods,) what a running total starts anew with, in runs.
        scale: minor units in one unit.
    """
    known = ~np.isnan(values)
    sums = running_sums(np.where(known, values, 0.0), scale)
    total = between(sums, _begins(group), np.arange(1, values.shape[1] + 1))
    return np.where(running_count(known, group) > 0, total / scale, np.nan)


def running_count(holds: NDArray[np.bool_], group: Days) -> Days:
    """(series, periods) for how many periods something holds, from the first of each group on.

    Args:
        holds: (series, periods).
        group: (periods,) what the count starts anew with, in runs.
    """
    begins, so_far = _begins(group), np.cumsum(holds, axis=1)
    before = np.where(begins > 0, so_far[:, np.maximum(begins - 1, 0)], 0)
    count: Days = so_far - before
    return count


def running_starts(values: Values, group: Days) -> Days:
    """(series, periods) the column that each running total starts from: its group's first, once known.

    Args:
        values: (series, periods).
        group: (periods,) what a running total starts anew with, in runs.
    """
    known = ~np.isnan(values)
    columns = np.arange(values.shape[1])
    begins = _begins(group)
    first_known = np.where(known.any(1), known.argmax(1) if known.shape[1] else 0, known.shape[1])[:, None]
    starts: Days = np.minimum(np.maximum(begins, first_known), columns)
    return starts


def _begins(group: Days) -> Days:
    """(periods,) the first column of the group that each lies in."""
    if not len(group):
        return group
    starts = np.concatenate(([True], np.diff(group) != 0))
    begins: Days = np.maximum.accumulate(np.where(starts, np.arange(len(group)), 0))
    return begins
