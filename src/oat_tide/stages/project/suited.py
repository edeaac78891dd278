"""Which method a new plan starts with: by season where there is one, else by trend or level."""

from __future__ import annotations

import numpy as np

from oat_tide.core.regression import fit_line
from oat_tide.core.series.panel import Panel
from oat_tide.plan.parts.project import Name
from oat_tide.plan.parts.seasons import Seasons
from oat_tide.stages.answers import Inline
from oat_tide.stages.cycle import cycle_of
from oat_tide.stages.presence import presence_of

_SURE = 2.0
"""Standard errors from none beyond which a slope is told from it."""
_MEAN = 3
"""Periods in the mean of the last, of those that make no year."""
_WANDERS = 0.5
"""What errors keep of the one before from which a level is no fixed one."""
_FEWEST = 4
"""Periods from which a trend can be told."""


def suited(total: Panel) -> Name:
    """The method for a total of everything; a part period and what is ruled out do not count.

    With a season, as all stages are told: the same period last year with its growth, which needs two
    years above zero, or else with its drift. Without one a line where its slope is told from none, errors
    that hang together counted (Bartlett, 1935). Else the mean of the last periods, and of a level that
    wanders, or where too few are known, the last.
    """
    values, how = total.judged, Seasons()
    cycle = cycle_of(how, total.grid, total.first, total.columns)
    if cycle.length and presence_of(total, how, cycle, Inline()).said(0) == "yes":
        above_zero = not (values <= 0).any()
        return "same-period-growth" if above_zero else "same-period-drift"
    slopes, echo = _line(values)
    if slopes:
        return "line"
    many = cycle.length or _MEAN
    last = values[0, -many:]
    wanders = echo > _WANDERS or len(last) < many or np.isnan(last).any()
    return "last" if wanders else "mean"


def _line(values: np.ndarray) -> tuple[bool, float]:
    """Whether the slope of a line is told from none, and what its errors keep of the one before."""
    known = ~np.isnan(values)
    if known.sum() < _FEWEST:
        return False, 0.0
    t = np.arange(1.0, values.shape[1] + 1)[None]
    fit = fit_line(t, values, known.astype(float))
    off = np.where(known, values - fit.at(t), 0.0)[0]
    squares = float((off**2).sum())
    if not squares > 0:
        return bool(abs(fit.slope[0, 0]) > 0), 0.0
    echo = float(np.clip((off[1:] * off[:-1]).sum() / squares, 0.0, 0.99))
    error = np.sqrt(squares / (known.sum() - 2) / fit.sxx[0, 0] * (1 + echo) / (1 - echo))
    return bool(abs(fit.slope[0, 0]) > _SURE * error), echo
