"""From sums by day to the leaf panel: every series by period."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.calendar import Days, Grid, begun_whole, expected_weekdays, last_complete
from oat_tide.core.panel import FILLED, PART, Panel
from oat_tide.core.reading import Reading
from oat_tide.intake.sales import Sales, Totals


def panel(sales: Sales, grid: Grid) -> Panel:
    """The leaf panel.

    From a series' first line on, a period without lines is 0; before it, not known. Periods that are not
    complete on the data-to date, or begun before the data do, are part.
    """
    reading = sales.reading
    periods = grid.at(sales.days.day)
    first = min(int(periods.min()), grid.period(reading.since))
    width = max(int(periods.max()), grid.period(reading.upto)) - first + 1
    units, lines = _added(sales.days, grid, first, (len(sales.keys), width))
    unborn = np.cumsum(lines, axis=1) == 0
    values = np.where(unborn, np.nan, units / sales.scale)
    flags = np.where(~unborn & (lines == 0), FILLED, 0).astype(np.uint8)
    flags[:, _part(reading, grid, first, width)] |= PART
    return Panel((sales.stamp, grid), grid, first, sales.keys, values, lines, flags, sales.scale)


def _added(
    totals: Totals, grid: Grid, first: int, shape: tuple[int, int]
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Whole units and lines, (series, periods); what lies outside is left out."""
    units, lines = np.zeros(shape, np.int64), np.zeros(shape, np.int64)
    columns = grid.at(totals.day) - first
    held = (columns >= 0) & (columns < shape[1])
    place = totals.key[held], columns[held]
    np.add.at(units, place, totals.units[held])
    np.add.at(lines, place, totals.count[held])
    return units, lines


def _part(reading: Reading, grid: Grid, first: int, width: int) -> Days:
    """The columns of part periods."""
    expected = expected_weekdays(reading.selling, reading.upto)
    columns = np.arange(width)
    part = columns + first > last_complete(grid, reading.upto, expected)
    start = grid.period(reading.since)
    # The first year says what was sold on at the start: later lines decide nothing there.
    at_start = expected_weekdays(reading.selling, min(reading.since + 363, reading.upto))
    if not begun_whole(grid, start, reading.since, at_start):
        part |= columns + first <= start
    return np.flatnonzero(part)
