"""From sums by day to the leaf panel: every series by period, with what is known of each period."""

from __future__ import annotations

import itertools
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.calendar import Closed, Days, Grid, begun_whole, expected_weekdays, last_complete
from oat_tide.core.panel import FILLED, PART, PROVISIONAL, Panel, Values, fits_key
from oat_tide.core.reading import Reading
from oat_tide.core.rulings import Ruling
from oat_tide.intake.sales import Sales
from oat_tide.intake.totals import Totals

ON_LINES = ("withdrawn", "nothing sold", "not known")
"""What is ruled of the lines of series themselves, before anything is added up."""


@dataclass(frozen=True, slots=True)
class Evening:
    """How sums are made even.

    Attributes:
        not_known: whether a period without lines is not known rather than nothing sold.
        final_to: the last day whose figures are final, as a day number; None where all are.
        closed: days on which nothing could be sold.
        rulings: of the lines of series, as in ON_LINES.
    """

    not_known: bool = False
    final_to: int | None = None
    closed: Closed = field(default=frozenset())
    rulings: tuple[Ruling, ...] = ()


def panel(sales: Sales, grid: Grid, evening: Evening = Evening()) -> Panel:
    """The leaf panel.

    From a series' first line on, a period without lines is 0 or, if so asked, not known; before it, not
    known. Periods that are not complete on the data-to date, or begun before the data do, are part. What
    is kept beside, such as a budget, may reach further than the data.
    """
    reading = sales.reading
    first, last_sold = _ends(sales.days, grid)
    last = last_sold
    for kept in sales.beside.values():
        begin, end = _ends(kept, grid)
        first, last = min(first, begin), max(last, end)
    first = min(first, grid.period(reading.since))
    shape = len(sales.keys), max(last, grid.period(reading.upto)) - first + 1
    units, lines = _added(sales.days, grid, first, shape)
    after = np.arange(shape[1]) > max(last_sold, grid.period(reading.upto)) - first
    unknown = (np.cumsum(lines, axis=1) == 0) | after
    if evening.not_known:
        unknown |= lines == 0
    for ruling in evening.rulings:
        _rule(unknown, lines, sales, grid, first, ruling)
    values = np.where(unknown, np.nan, units / sales.scale)
    flags = np.where(~unknown & (lines == 0), FILLED, 0).astype(np.uint8)
    flags[:, _part(reading, grid, first, shape[1], evening.closed)] |= PART
    if evening.final_to is not None:
        ends = grid.first_days(np.arange(first + 1, first + shape[1] + 1)) - 1
        flags[:, (ends > evening.final_to) & ~after] |= PROVISIONAL
    stamp = (sales.stamp, grid, evening)
    beside = {
        name: _kept_beside(kept, grid, first, shape, sales.scale) for name, kept in sales.beside.items()
    }
    return Panel(stamp, grid, first, sales.keys, values, lines, flags, sales.scale, beside)


def _ends(totals: Totals, grid: Grid) -> tuple[int, int]:
    """The first and the last period of some sums."""
    return grid.period(int(totals.day.min())), grid.period(int(totals.day.max()))


def _rule(
    unknown: NDArray[np.bool_],
    lines: NDArray[np.int64],
    sales: Sales,
    grid: Grid,
    first: int,
    ruling: Ruling,
) -> None:
    """Heed one ruling: only periods without lines can be other than they are."""
    rows = np.array([fits_key(own, ruling.key) for own in sales.keys], bool)[:, None]
    starts = grid.first_days(np.arange(first, first + unknown.shape[1] + 1))
    covered = (starts[:-1] >= ruling.first) & (starts[1:] - 1 <= ruling.last)
    empty = rows & covered & (lines == 0)
    unknown[empty] = ruling.act != "nothing sold"


def _kept_beside(kept: Totals, grid: Grid, first: int, shape: tuple[int, int], scale: float) -> Values:
    units, lines = _added(kept, grid, first, shape)
    return np.where(lines == 0, np.nan, units / scale)


def _added(
    totals: Totals, grid: Grid, first: int, shape: tuple[int, int]
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Whole units and lines, (series, periods); what lies outside is left out."""
    series, periods = shape
    units, lines = np.zeros((periods, series), np.int64), np.zeros((periods, series), np.int64)
    # Sums stand in the order of their days, so those of a period stand together.
    edges = np.searchsorted(totals.day, grid.first_days(np.arange(first, first + periods + 1)))
    for period, (start, stop) in enumerate(itertools.pairwise(edges)):
        if start < stop:
            some = slice(start, stop)
            # Whole units that add up below 2**53 are exact in doubles.
            units[period] = np.rint(np.bincount(totals.key[some], totals.units[some], series))
            lines[period] = np.bincount(totals.key[some], totals.count[some], series)
    return units.T.copy(), lines.T.copy()


def _part(reading: Reading, grid: Grid, first: int, width: int, closed: Closed) -> Days:
    """The columns of part periods."""
    expected = expected_weekdays(reading.selling, reading.upto)
    columns = np.arange(width)
    part = columns + first > last_complete(grid, reading.upto, expected, closed)
    start = grid.period(reading.since)
    # The first year says what was sold on at the start: later lines decide nothing there.
    at_start = expected_weekdays(reading.selling, min(reading.since + 363, reading.upto))
    if not begun_whole(grid, start, reading.since, at_start, closed):
        part |= columns + first <= start
    return np.flatnonzero(part)
