"""Which lines can be used, and why the others cannot."""

from __future__ import annotations

import csv
import math
from dataclasses import dataclass
from typing import cast

import numpy as np
import polars as pl
from numpy.typing import NDArray

from oat_tide.core.language import phrase
from oat_tide.core.periods.calendar import date_of, day_number
from oat_tide.core.series.reading import ABOVE, TOTAL
from oat_tide.intake.cells import dates, numbers
from oat_tide.intake.cells.columns import NO_DAY, Coder, Much, When
from oat_tide.intake.meaning import names
from oat_tide.intake.meaning.sum_rows import Row
from oat_tide.intake.pace.stretches import Numbers, at_hand
from oat_tide.intake.source import Source
from oat_tide.intake.table import FILE, ROW, TORN, Table
from oat_tide.plan.parts.intake import CellEdit, Intake

_NAMED = {
    dates.DAY: phrase("a day"),
    dates.WEEK: phrase("a week"),
    dates.MONTH: phrase("a month"),
    dates.QUARTER: phrase("a quarter"),
    dates.YEAR: phrase("a year"),
}
NO_DATE = phrase("no date")
TORN_LINE, SWAPPED = phrase("not as many fields as the header"), phrase("day and month could be swapped")
UNREAD_DATE, NO_NUMBER, UNREAD_NUMBER = (
    phrase("date cannot be read"),
    phrase("no number"),
    phrase("number cannot be read"),
)
TOO_LARGE, TOO_LONG = phrase("number too large"), phrase("a cell too long to be one")
_LONGEST_CELL = 32_767
"""Bytes of a cell: what a workbook can hold."""
_DATED_ABOVE = ("leave out", "date of the line above")
OUTCOMES: dict[str, tuple[str, ...]] = {
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
        undated: lines whose figure is known and whose date is not, and that nothing was ruled of.
        usual: what most dates name.
    """

    reasons: tuple[str, ...]
    why: NDArray[np.int8]
    day: Numbers
    units: Numbers
    rest: NDArray[np.float64] | None
    unread: NDArray[np.bool_]
    undated: NDArray[np.bool_]
    usual: int


def mended(source: Source, ask: Intake) -> Source:
    """The lines with the cells that were written anew."""
    names = {file.name: place for place, file in enumerate(source.files)}
    mends = [each for each in ask.mends if each.file in names]
    if not mends:
        return source
    frame = source.frame
    for each in mends:
        at = frame.select(
            ((pl.col(ROW) == each.row) & (pl.col(FILE) == names[each.file])).arg_true()
        ).to_series()
        if not len(at):
            continue
        frame = _rewritten(frame, source.columns, int(at[0]), each)
    return source.with_frame(frame)


def _rewritten(frame: pl.DataFrame, columns: list[str], at: int, mend: CellEdit) -> pl.DataFrame:
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


class _Said:
    """What is said against lines; the first thing said of a line holds.

    Attributes:
        reasons: those given; the first is empty, for lines in use.
        why: of each line, the place of its reason.
    """

    def __init__(self, lines: int) -> None:
        self.reasons = [""]
        self.why = np.zeros(lines, np.int8)

    @property
    def open(self) -> NDArray[np.bool_]:
        """Lines that nothing was said against yet."""
        found: NDArray[np.bool_] = self.why == 0
        return found

    def against(self, mask: NDArray[np.bool_], reason: str) -> None:
        """Say this against lines that nothing was said against yet."""
        new = mask & self.open
        if new.any():
            if reason not in self.reasons:
                self.reasons.append(reason)
            self.why[new] = self.reasons.index(reason)


@dataclass(frozen=True, slots=True)
class Suspects:
    """What may be a total.

    Attributes:
        columns: those of text, whether or not they tell series apart.
        rows: those that hold the sum of others: file and row.
        members: (column, text) of those that do.
    """

    columns: tuple[str, ...] = ()
    rows: frozenset[Row] = frozenset()
    members: tuple[tuple[str, str], ...] = ()


def judge(
    coder: Coder, ask: Intake, by: tuple[str, ...], totals: Suspects, when: When, much: Much, scale: float
) -> Judged:
    """Tell the lines that can be used from the others, the verdicts of the user heeded.

    Args:
        by: the columns that tell series apart.
        totals: what may be one.
        scale: minor units in one unit.
    """
    verdicts: dict[str, str] = {each.reason: each.outcome for each in ask.verdicts}
    said = _Said(coder.table.height)
    _say_torn(coder.table, said)
    _say_too_long(coder, (ask.date, *by), said)
    if verdicts.get(TOTAL) != "use":
        _say_totals(coder, ask.date, totals, said)
    day = _dated(coder.table, when, verdicts, said)
    usual = _say_other_lengths(when, verdicts, said)
    unread = _say_without_figure(much, verdicts, said)
    undated = _undated(much, verdicts, said)
    units, rest = _in_minor_units(much, scale, said)
    return Judged(tuple(said.reasons), said.why, day, units, rest, unread, undated, usual)


def _undated(much: Much, verdicts: dict[str, str], said: _Said) -> NDArray[np.bool_]:
    """Lines with a figure that lie in no period for their date, and that nothing was ruled of."""
    unruled = [
        place
        for place, reason in enumerate(said.reasons)
        if reason in (NO_DATE, UNREAD_DATE, SWAPPED) and reason not in verdicts
    ]
    mask = np.isin(said.why, unruled) if unruled else np.zeros(len(said.why), bool)
    return mask & much.spread(np.isfinite(much.number)) if mask.any() else mask


def _say_torn(table: Table, said: _Said) -> None:
    """Lines that have not as many fields as the header, those above it apart."""
    if table.torn is not None:
        said.against(table.torn & (table[ROW].to_numpy() < _first_whole(table, table.torn)), ABOVE)
        said.against(table.torn, TORN_LINE)


def _say_too_long(coder: Coder, names: tuple[str, ...], said: _Said) -> None:
    """Lines with a cell that no workbook could hold."""
    for name in names:
        long = coder(name).texts.str.len_bytes().fill_null(0) > _LONGEST_CELL
        if long.any():
            said.against(coder(name).spread(long), TOO_LONG)


def _dated(table: Table, when: When, verdicts: dict[str, str], said: _Said) -> Numbers:
    """The day of each line, where that was ruled the one of the last good line above it."""
    if not (when.day == NO_DAY).any():
        return when.cells.later(when.day)
    day = when.cells.spread(when.day)
    dated = "date of the line above" in verdicts.values()
    above = _line_above(table, (day != NO_DAY) & said.open) if dated else np.zeros(0, np.int64)
    undated = when.day == NO_DAY
    for cells, reason in ((when.blank, NO_DATE), (when.swapped, SWAPPED), (undated, UNREAD_DATE)):
        if not cells.any():
            continue
        mask = when.cells.spread(cells)
        if verdicts.get(reason) == "date of the line above":
            takes = mask & said.open & (day == NO_DAY) & (above >= 0)
            day[takes] = day[above[takes]]
            week = when.cells.spread(when.week)
            weeks = takes & (week > 0) & (week <= 53)
            day[weeks] = [_in_week(int(d), int(w)) for d, w in zip(day[weeks], week[weeks], strict=True)]
        said.against(mask & (day == NO_DAY), reason)
    return day


def _say_other_lengths(when: When, verdicts: dict[str, str], said: _Said) -> int:
    """Lines whose date names another length of time than most do. Gives what most name."""
    undated = when.day == NO_DAY
    known = np.bincount(when.told, when.cells.counts * ~undated, minlength=6)
    usual = int(known.argmax())
    for told, words in _NAMED.items():
        reason = phrase(
            "names {words} where others name {usual}", words=words, usual=_NAMED.get(usual, "a day")
        )
        if told != usual and known[told] and verdicts.get(reason) != "use":
            said.against(when.cells.spread((when.told == told) & ~undated), reason)
    return usual


def _say_without_figure(much: Much, verdicts: dict[str, str], said: _Said) -> NDArray[np.bool_]:
    """Lines without a figure that can be read. Gives those that nothing was ruled of."""
    unread = np.isnan(much.number) & ~much.blank
    unruled = np.zeros(len(said.why), bool)
    for cells, reason in ((much.blank, NO_NUMBER), (unread, UNREAD_NUMBER)):
        if cells.any() and verdicts.get(reason) != "count as 0":
            mask = much.spread(cells)
            if reason not in verdicts:
                unruled |= mask & said.open
            said.against(mask, reason)
    return unruled


def _in_minor_units(much: Much, scale: float, said: _Said) -> tuple[Numbers, NDArray[np.float64] | None]:
    """The figure of each line in whole minor units, and what they leave; nothing where it is not used."""
    within = np.abs(much.number) < numbers.LARGEST
    too_large = ~within & ~np.isnan(much.number)
    if too_large.any():
        said.against(much.spread(too_large), TOO_LARGE)
    figures = np.where(within, much.number, 0.0)
    exact = np.rint(figures * scale)
    narrow = np.abs(exact).max(initial=0) < 2**31
    units = much.later(exact.astype(np.int32 if narrow else np.int64))
    left = figures - exact / scale if math.log10(scale) < much.places else None
    rest = None if left is None else much.spread(left)
    if said.why.any():
        units = np.where(said.open, at_hand(units), 0)
        rest = None if rest is None else np.where(said.open, rest, 0.0)
    return units, rest


def outcomes(reason: str) -> tuple[str, ...]:
    """What else can become of lines set aside for a reason."""
    return ("leave out", "use") if reason.startswith("names ") else OUTCOMES.get(reason, ("leave out",))


def _first_whole(table: Table, torn: NDArray[np.bool_]) -> NDArray[np.int64]:
    """For each line the first row of its file that is whole."""
    files, rows = table[FILE].to_numpy(), table[ROW].to_numpy()
    most = np.iinfo(np.int64).max
    firsts = np.full(int(files.max(initial=0)) + 1, most)
    np.minimum.at(firsts, files[~torn], rows[~torn])
    return cast(NDArray[np.int64], firsts[files])


def _say_totals(coder: Coder, date: str, totals: Suspects, said: _Said) -> None:
    """Tell total rows: by their words, by what they are a total of, and by what they add up to."""
    begins = coder(date).texts.fill_null("").str.strip_chars().str.contains(names.TOTAL_BEGINS)
    if begins.any():
        said.against(coder(date).spread(begins), TOTAL)
    coded = [name for name in totals.columns if coder.text(name) is None]
    known = {text.casefold() for name in coded for text in coder(name).texts.drop_nulls().str.strip_chars()}
    for name in totals.columns:
        mask = _called_totals(coder, name, known)
        if mask is not None:
            said.against(mask, TOTAL)
    for name, member in totals.members:
        cells = coder(name)
        said.against(cells.spread(cells.texts.fill_null("").str.strip_chars() == member), TOTAL)
    if totals.rows:
        lines = coder.table.lines(np.arange(coder.table.height), (FILE, ROW))
        rows = pl.DataFrame(list(totals.rows), {FILE: pl.UInt16, ROW: pl.Int64}, orient="row")
        held = lines.with_row_index("at").join(rows, on=[FILE, ROW], how="semi")["at"].to_numpy()
        mask = np.zeros(coder.table.height, bool)
        mask[held] = True
        said.against(mask, TOTAL)


def _called_totals(coder: Coder, name: str, known: set[str]) -> NDArray[np.bool_] | None:
    """The lines that a column calls a total, of all or of what a known text names; None for none."""
    text = coder.text(name)
    if text is not None:
        # Of many different texts few can be totals: these are looked for before they are read.
        likely = text.str.contains_any(names.TOTAL_STEMS, ascii_case_insensitive=True).fill_null(False)
        found = text.filter(likely).str.strip_chars().str.contains(names.TOTAL_ALONE)
        if not found.any():
            return None
        mask = np.zeros(len(text), bool)
        mask[np.flatnonzero(likely.to_numpy())[found.to_numpy()]] = True
        return mask
    cells = coder(name)
    texts = cells.texts.fill_null("").str.strip_chars()
    found = texts.str.contains(names.TOTAL_ALONE)
    parts = texts.to_frame("cell").select(
        pl.coalesce(pl.col("cell").str.extract(names.TOTAL_OF, group) for group in (1, 2)).alias("of")
    )["of"]
    found |= pl.Series([text is not None and text.casefold() in known for text in parts], dtype=pl.Boolean)
    return cells.spread(found) if found.any() else None


def _line_above(table: Table, dated: NDArray[np.bool_]) -> NDArray[np.int64]:
    """For each line the last dated one above it in its file, -1 where there is none."""
    at = np.maximum.accumulate(np.where(dated, np.arange(len(dated)), -1))
    files = table[FILE].to_numpy()
    return np.where((at >= 0) & (files[at] == files), at, -1)


def _in_week(day: int, week: int) -> int:
    """The Monday of an ISO week in the year of another day."""
    year = date_of(day).isocalendar().year
    first = date_of(day).fromisocalendar(year, 1, 1)
    return day_number(first) + 7 * (week - 1)
