"""Which lines can be used, and why the others cannot."""

from __future__ import annotations

import csv
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import cast

import numpy as np
import polars as pl
from numpy.typing import NDArray

from oat_tide.core.periods.calendar import date_of, day_number
from oat_tide.core.series.reading import TOTAL
from oat_tide.intake.cells import dates, numbers
from oat_tide.intake.cells.columns import NO_DAY, Coder, Much, When
from oat_tide.intake.source import FILE, ROW, TORN, Source
from oat_tide.plan.parts.intake import Intake, Mend

_TOTAL_WORD = (
    r"(?i)^(?:grand |sub-?|zwischen|sous-)?"
    r"(?:totals?|totale|totaux|totaal|totalt|sums?|summe|gesamt|insgesamt|somme|suma|soma|ensemble)\b"
)
_TOTAL = _TOTAL_WORD + r":?(?: \d{4})?:?$"
"""A cell that says no more makes its line a total; where a date should stand, one that begins so."""
_NAMED = {
    dates.DAY: "a day",
    dates.WEEK: "a week",
    dates.MONTH: "a month",
    dates.QUARTER: "a quarter",
    dates.YEAR: "a year",
}
ABOVE, NO_DATE = "above the header", "no date"
TORN_LINE, SWAPPED = "not as many fields as the header", "day and month could be swapped"
UNREAD_DATE, NO_NUMBER, UNREAD_NUMBER = "date cannot be read", "no number", "number cannot be read"
TOO_LARGE, TOO_LONG = "number too large", "a cell too long to be one"
_LONGEST_CELL = 32_767
"""Bytes of a cell: what a workbook can hold."""
_DATED_ABOVE = ("leave out", "date of the line above")
WAYS: dict[str, tuple[str, ...]] = {
    TOTAL: ("leave out", "use"),
    NO_DATE: _DATED_ABOVE,
    UNREAD_DATE: _DATED_ABOVE,
    SWAPPED: _DATED_ABOVE,
    NO_NUMBER: ("leave out", "count as 0"),
    UNREAD_NUMBER: ("leave out", "count as 0"),
}
"""What else can become of lines that are set aside; naming another length of time can be used as it is."""


@dataclass(frozen=True, eq=False, slots=True)
class Judged:
    """Which lines can be used.

    Attributes:
        reasons: what can be said against a line; the first is empty, for lines in use.
        why: of each line, the place of its reason.
        day: of each line, as mended by verdicts.
        units: of each line, whole minor units.
        rest: of each line, what they leave in units; None for nothing.
        unread: lines of a day that is known whose figure is not, and that nothing was ruled of.
        usual: what most dates name.
    """

    reasons: tuple[str, ...]
    why: NDArray[np.int8]
    day: NDArray[np.int32]
    units: NDArray[np.integer]
    rest: NDArray[np.float64] | None
    unread: NDArray[np.bool_]
    usual: int


def mended(source: Source, ask: Intake) -> Source:
    """The lines with the cells that were written anew."""
    frame = source.frame
    names = {file.name: place for place, file in enumerate(source.files)}
    for each in ask.mends:
        if each.file not in names:
            continue
        at = frame.select(
            ((pl.col(ROW) == each.row) & (pl.col(FILE) == names[each.file])).arg_true()
        ).to_series()
        if not len(at):
            continue
        frame = _rewritten(frame, source.columns, int(at[0]), each)
    return replace(source, frame=frame) if frame is not source.frame else source


def _rewritten(frame: pl.DataFrame, columns: list[str], at: int, mend: Mend) -> pl.DataFrame:
    if mend.column in columns:
        return frame.with_columns(_put(frame[mend.column], at, mend.text or None))
    for mark in ",;\t|":
        cells = next(csv.reader([mend.text], delimiter=mark), [])
        if len(cells) == len(columns) > 1:
            told = [_put(frame[name], at, cell or None) for name, cell in zip(columns, cells, strict=True)]
            return frame.with_columns(*told, _put(frame[TORN], at, None))
    return frame.with_columns(_put(frame[TORN], at, mend.text))


def _put(column: pl.Series, at: int, text: str | None) -> pl.Series:
    return column.cast(pl.String).scatter(at, text).cast(column.dtype)


def judge(coder: Coder, ask: Intake, by: tuple[str, ...], when: When, much: Much, scale: float) -> Judged:
    """Tell the lines that can be used from the others, the verdicts of the user heeded.

    Args:
        by: the columns that tell series apart.
        scale: minor units in one unit.
    """
    frame = coder.frame
    verdicts = {each.reason: each.way for each in ask.verdicts}
    undated = when.day == NO_DAY
    known = np.bincount(when.told, when.cells.counts * ~undated, minlength=6)
    usual = int(known.argmax())
    reasons = [""]
    why = np.zeros(frame.height, np.int8)
    day = when.cells.spread(when.day)

    def against(mask: NDArray[np.bool_], reason: str) -> None:
        """Say this against lines that nothing was said against yet."""
        new = mask & (why == 0)
        if new.any():
            if reason not in reasons:
                reasons.append(reason)
            why[new] = reasons.index(reason)

    if frame[TORN].null_count() < frame.height:
        torn = frame[TORN].is_not_null().to_numpy()
        against(torn & (frame[ROW].to_numpy() < _first_whole(frame, torn)), ABOVE)
        against(torn, TORN_LINE)
    for name in (ask.date, *by):
        long = coder(name).texts.str.len_bytes().fill_null(0) > _LONGEST_CELL
        if long.any():
            against(coder(name).spread(long), TOO_LONG)
    if verdicts.get(TOTAL) != "use":
        _say_totals(coder, (ask.date, *by), against)
    if "date of the line above" in verdicts.values():
        # What stands below a bad line takes its date from the last good one.
        above = _line_above(frame, (day != NO_DAY) & (why == 0))
    for cells, reason in ((when.blank, NO_DATE), (when.swapped, SWAPPED), (undated, UNREAD_DATE)):
        if not cells.any():
            continue
        mask = when.cells.spread(cells)
        if verdicts.get(reason) == "date of the line above":
            takes = mask & (why == 0) & (day == NO_DAY) & (above >= 0)
            day[takes] = day[above[takes]]
            week = when.cells.spread(when.week)
            weeks = takes & (week > 0) & (week <= 53)
            day[weeks] = [_in_week(int(d), int(w)) for d, w in zip(day[weeks], week[weeks], strict=True)]
        against(mask & (day == NO_DAY), reason)
    for told, words in _NAMED.items():
        reason = f"names {words} where others name {_NAMED.get(usual, 'a day')}"
        if told != usual and known[told] and verdicts.get(reason) != "use":
            against(when.cells.spread((when.told == told) & ~undated), reason)
    unread = np.isnan(much.number) & ~much.blank
    no_figure = np.zeros(frame.height, bool)
    for cells, reason in ((much.blank, NO_NUMBER), (unread, UNREAD_NUMBER)):
        if cells.any() and verdicts.get(reason) != "count as 0":
            mask = much.spread(cells)
            if reason not in verdicts:
                no_figure |= mask & (why == 0)
            against(mask, reason)
    within = np.abs(much.number) < numbers.LARGEST
    too_large = ~within & ~np.isnan(much.number)
    if too_large.any():
        against(much.spread(too_large), TOO_LARGE)
    figures = np.where(within, much.number, 0.0)
    exact = np.rint(figures * scale)
    narrow = np.abs(exact).max(initial=0) < 2**31
    units = much.spread(exact.astype(np.int32 if narrow else np.int64))
    left = figures - exact / scale if scale < 10.0**much.places else None
    rest = None if left is None else much.spread(left)
    if why.any():
        units = np.where(why == 0, units, 0)
        rest = None if rest is None else np.where(why == 0, rest, 0.0)
    return Judged(tuple(reasons), why, day, units, rest, no_figure, usual)


def ways(reason: str) -> tuple[str, ...]:
    """What else can become of lines set aside for a reason."""
    return ("leave out", "use") if reason.startswith("names ") else WAYS.get(reason, ("leave out",))


def _first_whole(frame: pl.DataFrame, torn: NDArray[np.bool_]) -> NDArray[np.int64]:
    """For each line the first row of its file that is whole."""
    files, rows = frame[FILE].to_numpy(), frame[ROW].to_numpy()
    most = np.iinfo(np.int64).max
    firsts = np.full(int(files.max(initial=0)) + 1, most)
    np.minimum.at(firsts, files[~torn], rows[~torn])
    return cast(NDArray[np.int64], firsts[files])


def _say_totals(
    coder: Coder, columns: tuple[str, ...], against: Callable[[NDArray[np.bool_], str], None]
) -> None:
    """Tell total rows. The first of the columns holds the dates."""
    for place, name in enumerate(columns):
        cells = coder(name)
        pattern = _TOTAL_WORD if place == 0 else _TOTAL
        totals = cells.texts.fill_null("").str.strip_chars().str.contains(pattern)
        if totals.any():
            against(cells.spread(totals), TOTAL)


def _line_above(frame: pl.DataFrame, dated: NDArray[np.bool_]) -> NDArray[np.int64]:
    """For each line the last dated one above it in its file, -1 where there is none."""
    at = np.maximum.accumulate(np.where(dated, np.arange(len(dated)), -1))
    files = frame[FILE].to_numpy()
    return np.where((at >= 0) & (files[at] == files), at, -1)


def _in_week(day: int, week: int) -> int:
    """The Monday of an ISO week in the year of another day."""
    year = date_of(day).isocalendar().year
    first = date_of(day).fromisocalendar(year, 1, 1)
    return day_number(first) + 7 * (week - 1)
