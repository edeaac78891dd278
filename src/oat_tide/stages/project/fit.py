"""What Project fits, and on which periods."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import day_number
from oat_tide.core.regression import LineFit, fit_line
from oat_tide.core.series.panel import LEFT_OUT, PART, Sight
from oat_tide.plan.parts.project import Project

MOST_YEARS = 10
"""How far a projection reaches at the most."""


@dataclass(frozen=True, eq=False)
class Fit:
    """What was fitted, and to what.

    Attributes:
        growth: whether the logarithms were fitted.
        start: (series, 1) the first column of the fit span.
        end: its last column, one for all.
        used: (series, columns) 1 for a period in the fit.
        t: (series, columns) period numbers, 1 at the start of the span.
        z: (series, columns) what was fitted: the actual or its logarithm, NaN outside the fit.
        line: the fit.
        not_above_zero: (series, columns) periods of the span that no growth curve can take.
    """

    growth: bool
    start: Values
    end: int
    used: Values
    t: Values
    z: Values
    line: LineFit
    not_above_zero: NDArray[np.bool_]


def horizon_of(ask: Project, sight: Sight) -> int:
    """Periods to project: as asked, at most MOST_YEARS' worth, or to the end of the fiscal year."""
    grid, last = sight.past.grid, sight.past.first + sight.past.columns - 1
    if ask.reach == "end of fiscal year":
        year = int(grid.years([last + 1])[0])
        return grid.year_first(year + 1) - 1 - last
    return min(ask.horizon, MOST_YEARS * grid.cycle)


def fit(sight: Sight, ask: Project, columns: int) -> Fit:
    """Fit every series on the fit span; part periods and periods not known stay out."""
    past = sight.past
    usable = ~np.isnan(past.values) & (past.flags & (PART | LEFT_OUT) == 0)
    own_first = np.where(usable.any(1), usable.argmax(1) if past.columns else 0, past.columns)[:, None]
    asked = _column(sight, ask.since) if ask.since else 0
    start = np.maximum(own_first, asked).astype(float)
    end = min(past.columns - 1, _column(sight, ask.until) if ask.until else past.columns - 1)
    place = np.arange(columns, dtype=float)[None]
    inside = (place >= start) & (place <= end)
    used = np.zeros((len(past.keys), columns))
    used[:, : past.columns] = usable & inside[:, : past.columns]
    y = np.full(used.shape, np.nan)
    y[:, : past.columns] = past.settled
    growth = ask.method == "growth"
    refused = np.zeros(used.shape, np.bool_)
    if growth:
        refused = (used > 0) & ~(y > 0)
        used = np.where(refused.any(1, keepdims=True), 0.0, used)
    with np.errstate(invalid="ignore", divide="ignore"):
        z = np.where(used > 0, np.log(y) if growth else y, np.nan)
    t = place - start + 1
    return Fit(growth, start, end, used, t, z, fit_line(t, z, used), refused)


def _column(sight: Sight, date: dt.date) -> int:
    return sight.past.grid.period(day_number(date)) - sight.past.first
