"""From sums by day to the leaf panel: every series by period, with what is known of each period."""

from __future__ import annotations

import itertools
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.exact import Values, added
from oat_tide.core.language import nouns, phrase
from oat_tide.core.periods.calendar import Closed, Days, Grid, begun_whole, last_complete, wholeness
from oat_tide.core.series.coded import Coded
from oat_tide.core.series.panel import FILLED, INCOMPLETE, LACKING, PROVISIONAL, Panel
from oat_tide.core.series.reading import Reading
from oat_tide.core.series.rulings import Ruling
from oat_tide.core.user_error import UserError
from oat_tide.intake.totals.sales import Sales
from oat_tide.intake.totals.sums import Totals

ON_LINES = ("withdrawn", "nothing sold", "not known")
"""What is ruled of the lines of series themselves, before anything is added up."""


Gaps = Literal["by content", "nothing sold", "not known"]


@dataclass(frozen=True, slots=True)
class Evening:
    """How sums are made even.

    Attributes:
        gaps: what a period without lines is.
        final_to: the last day whose figures are final, as a day number; None where all are.
        closed: days on which nothing could be sold.
        rulings: of the lines of series, as in ON_LINES.
    """

    gaps: Gaps = "by content"
    final_to: int | None = None
    closed: Closed = field(default=frozenset())
    rulings: tuple[Ruling, ...] = ()


MOST_CELLS = 100_000_000
"""Figures of a panel; a single false date can ask for any number of them."""


def panel(sales: Sales, grid: Grid, evening: Evening = Evening()) -> Panel:
    """The leaf panel.

    From a series' first line on, a period without lines is 0 or not known, as asked or by what the lines
    are like (`_gaps`); before it, not known. A period with a line whose figure cannot be read is not known.
    Periods that are not complete on the data-to date, or begun before the data do, are part. What is kept
    beside, such as a budget, may reach further than the data.
    """
    reading = sales.reading
    first, last_sold = _ends(sales.days, grid)
    last = last_sold
    for kept in (*sales.beside.values(), *((sales.unread,) if sales.unread else ())):
        begin, end = _ends(kept, grid)
        first, last = min(first, begin), max(last, end)
    first = min(first, grid.period(reading.since))
    shape = len(sales.keys), max(last, grid.period(reading.upto)) - first + 1
    if shape[0] * shape[1] > MOST_CELLS:
        stretch = phrase("{first} to {last}", first=grid.label(first), last=grid.label(first + shape[1] - 1))
        raise UserError(
            "{keys:,} series by {shape:,} {kinds}, {stretch}, are more than the {most_cells:,} "
            "figures that can be kept. Total by longer periods, take fewer columns for “Series "
            "by”, or set a false date aside.",
            keys=len(sales.keys),
            shape=shape[1],
            kinds=nouns(grid.kind),
            stretch=stretch,
            most_cells=MOST_CELLS,
        )
    sums, lines = _added(sales.days, grid, first, shape, sales.scale)
    unread = _lines(sales.unread, grid, first, shape) if sales.unread else np.zeros(shape, np.int64)
    totalled, coded = reading.totalled, Coded.of(sales.keys)
    figures, counted = _figures(sales, grid, first, sums, lines)
    after = np.arange(shape[1]) > max(last_sold, grid.period(reading.upto)) - first
    before = np.cumsum(lines + unread, axis=1) == 0
    born = ~before & ~after
    if evening.gaps == "by content" and totalled == "sum":
        lacking = born & _gaps(sales, coded, grid, first, lines, evening.rulings)
    else:
        lacking = born & (lines == 0) & (evening.gaps == "not known" or totalled != "sum")
    if evening.gaps == "by content" and totalled == "sum":
        lacking |= born & _undated(sales, grid, first, lines, last_sold)
        if reading.figures_in("asked"):
            # A column that may be a period is not read: what no series has a line in may be that one.
            lacking |= born & (lines.sum(0) == 0)
    # A longer period that lacks a row is the sum of what is known of it, and part; with no line, unknown.
    short = lacking & (lines > 0)
    lacking &= lines == 0
    unknown = before | after | lacking | (unread > 0)
    for ruling in evening.rulings:
        _rule(unknown, lacking, unread, lines, coded, grid, first, ruling)
    superseded = added(np.stack((sums, -figures)), sales.scale, 0) if totalled == "last" else 0.0
    values = np.where(unknown, np.nan, figures)
    flags = np.where(~unknown & (lines == 0), FILLED, 0).astype(np.uint8)
    flags[(lacking & unknown) | (unread > 0) | short] |= LACKING
    flags[short] |= INCOMPLETE
    flags[:, _part(reading, grid, first, shape[1], evening.closed)] |= INCOMPLETE
    if evening.final_to is not None:
        ends = grid.first_days(np.arange(first + 1, first + shape[1] + 1)) - 1
        flags[:, (ends > evening.final_to) & ~after] |= PROVISIONAL
    beside = {
        name: _kept_beside(kept, grid, first, shape, sales.scale) for name, kept in sales.beside.items()
    }
    return Panel(
        (sales.stamp, grid, evening),
        grid,
        first,
        sales.keys,
        values,
        counted,
        flags,
        sales.scale,
        beside,
        totalled=totalled,
        unread=unread,
        withheld=np.where(unknown, sums, superseded),
        coded=coded,
    )


def _figures(
    sales: Sales, grid: Grid, first: int, sums: Values, lines: NDArray[np.int64]
) -> tuple[Values, NDArray[np.int64]]:
    """What lines make the figure of their period, and how many: all of them, or those of its last day."""
    if sales.reading.totalled == "sum":
        return sums, lines
    if sales.reading.totalled == "mean":
        with np.errstate(invalid="ignore", divide="ignore"):
            return sums / lines, lines
    days = sales.days
    period = grid.at(days.day.astype(np.int64)) - first
    # Sums stand in the order of their days: the last one written for a period stays.
    last, count = np.zeros(sums.shape), np.zeros(sums.shape, np.int64)
    last[days.key, period] = days.figures(sales.scale)
    count[days.key, period] = days.count
    return last, count


_THERE, _FEWEST = 0.9, 3
"""The share of a series' periods that must be there for a missing one to be not known, and how many lines
tell it."""
_MOST_PLACES = 50_000_000


def _gaps(
    sales: Sales,
    coded: Coded,
    grid: Grid,
    first: int,
    lines: NDArray[np.int64],
    rulings: tuple[Ruling, ...],
) -> NDArray[np.bool_]:
    """Which periods lack a line: (series, periods). They are not known, or where others lie in them, part.

    So it is where each series has at most one line a period, and nine tenths of its periods between first
    and last are there: of three or more, for fewer lines tell nothing. That holds for the periods in use, and
    for the shorter ones that the source has a row for: a quarter that lacks a month is part, unless that was
    ruled to be nothing sold.
    """
    missing = np.zeros(lines.shape, bool)
    if sales.days.count.max() > 1:
        return missing
    if lines.max() <= 1:
        missing = _missing(lines, _rows_there(lines))
    own = _own_grid(sales.reading, grid)
    if own is None:
        return missing
    begin, end = _ends(sales.days, own)
    end = max(end, own.period(sales.reading.upto))
    if (end - begin + 1) * len(lines) > _MOST_PLACES:
        return missing
    finer = _lines(sales.days, own, begin, (len(lines), end - begin + 1))
    if finer.max() > 1:
        return missing
    lost = _missing(finer, _rows_there(finer))
    for ruling in rulings:
        if ruling.act != "not known":
            lost[_ruled(coded, own, begin, end, ruling)] = False
    within = grid.at(own.first_days(np.arange(begin, end + 1))) - first
    rows, places = np.nonzero(lost)
    missing[rows, within[places]] = True
    return missing


def _undated(sales: Sales, grid: Grid, first: int, lines: NDArray[np.int64], last: int) -> NDArray[np.bool_]:
    """Which periods without lines may hold a line whose date cannot be read: (series, periods).

    They are those of a series with such lines of whose like periods nine tenths have lines: of all from its
    first line to the last of the source, by days of those of the same weekday.
    """
    missing = np.zeros(lines.shape, bool)
    rows = np.flatnonzero([key in sales.undated for key in sales.keys])
    periods = first + np.arange(lines.shape[1])
    alike = (periods + 3) % 7 if grid.kind == "day" else np.zeros(len(periods), np.int64)
    for row in rows.tolist():
        held = lines[row] > 0
        own = (np.cumsum(held) > 0) & (periods <= last)
        there = np.bincount(alike[own], held[own], 7) >= _THERE * np.bincount(alike[own], minlength=7)
        missing[row] = own & ~held & there[alike]
    return missing


def _own_grid(reading: Reading, grid: Grid) -> Grid | None:
    """The periods that the source has rows for, where they are shorter than those in use; else None."""
    if reading.kind in ("day", grid.kind):
        return None
    return reading.grid if reading.grid.kind == reading.kind else grid.of(reading.kind)


def _rows_there(lines: NDArray[np.int64]) -> NDArray[np.bool_]:
    """(series, 1) whether nine tenths of a series' periods are there."""
    held = lines > 0
    present = held.sum(1)
    width = held.shape[1]
    span = width - held[:, ::-1].argmax(1) - held.argmax(1)
    there: NDArray[np.bool_] = (present >= _FEWEST) & (present >= _THERE * span)
    return there[:, None]


def _missing(lines: NDArray[np.int64], there: NDArray[np.bool_]) -> NDArray[np.bool_]:
    missing: NDArray[np.bool_] = there & (lines == 0) & (np.cumsum(lines, axis=1) > 0)
    return missing


def _ends(totals: Totals, grid: Grid) -> tuple[int, int]:
    """The first and the last period of some sums."""
    return grid.period(int(totals.day.min())), grid.period(int(totals.day.max()))


def _rule(
    unknown: NDArray[np.bool_],
    lacking: NDArray[np.bool_],
    unread: NDArray[np.int64],
    lines: NDArray[np.int64],
    coded: Coded,
    grid: Grid,
    first: int,
    ruling: Ruling,
) -> None:
    """Heed one ruling: only periods without lines can be other than they are."""
    empty = _ruled(coded, grid, first, first + unknown.shape[1] - 1, ruling) & (lines == 0)
    unknown[empty] = ruling.act != "nothing sold"
    lacking[empty] = ruling.act == "not known"
    if ruling.act != "not known":
        unread[empty] = 0


def _ruled(coded: Coded, grid: Grid, first: int, last: int, ruling: Ruling) -> NDArray[np.bool_]:
    """(series, periods) what a ruling covers of the periods from the first to the last."""
    rows = coded.within(ruling.key)[:, None]
    starts = grid.first_days(np.arange(first, last + 2))
    covered: NDArray[np.bool_] = rows & (starts[:-1] >= ruling.first) & (starts[1:] - 1 <= ruling.last)
    return covered


def _kept_beside(kept: Totals, grid: Grid, first: int, shape: tuple[int, int], scale: float) -> Values:
    sums, lines = _added(kept, grid, first, shape, scale)
    return np.where(lines == 0, np.nan, sums)


def _added(
    totals: Totals, grid: Grid, first: int, shape: tuple[int, int], scale: float
) -> tuple[Values, NDArray[np.int64]]:
    """Sums in units and lines, (series, periods); what lies outside is left out."""
    series, periods = shape
    sums, lines = np.zeros((periods, series)), np.zeros((periods, series), np.int64)
    # Sums stand in the order of their days, so those of a period stand together.
    edges = np.searchsorted(totals.day, grid.first_days(np.arange(first, first + periods + 1)))
    for period, (start, stop) in enumerate(itertools.pairwise(edges)):
        if start < stop:
            some = slice(start, stop)
            # Whole units that add up below 2**53 are exact in doubles.
            sums[period] = np.rint(np.bincount(totals.key[some], totals.units[some], series)) / scale
            if totals.rest is not None:
                sums[period] += np.bincount(totals.key[some], totals.rest[some], series)
            lines[period] = np.bincount(totals.key[some], totals.count[some], series)
    return sums.T.copy(), lines.T.copy()


def _lines(totals: Totals, grid: Grid, first: int, shape: tuple[int, int]) -> NDArray[np.int64]:
    """How many lines, (series, periods)."""
    out = np.zeros(shape, np.int64)
    np.add.at(out, (totals.key, grid.at(totals.day.astype(np.int64)) - first), totals.count)
    return out


def _part(reading: Reading, grid: Grid, first: int, width: int, closed: Closed) -> Days:
    """The columns of part periods."""
    columns = np.arange(width)
    upto = wholeness(grid, reading.selling, reading.upto, closed)
    part = columns + first > last_complete(grid, reading.upto, upto)
    start = grid.period(reading.since)
    # The first year says what was sold on at the start: later lines decide nothing there.
    at_start = wholeness(grid, reading.selling, min(reading.since + 365, reading.upto), closed)
    if not begun_whole(grid, start, reading.since, at_start):
        part |= columns + first <= start
    return np.flatnonzero(part)
