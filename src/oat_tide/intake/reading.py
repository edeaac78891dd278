"""The plain facts of a source that was understood, for the stages."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import polars as pl
from numpy.typing import NDArray

from oat_tide.core.calendar import Grid, day_number
from oat_tide.core.reading import COPY, Aside, FileTie, Offers, Reading
from oat_tide.intake import judged, recognise
from oat_tide.intake.cells import When
from oat_tide.intake.keys import Keyed
from oat_tide.intake.rhythm import rhythm
from oat_tide.intake.shapes import UNTOLD_YEAR, Shaped
from oat_tide.intake.source import FILE, ROW, TORN, Source, whole_lines
from oat_tide.intake.totals import Lines, Totals, counted
from oat_tide.plan.plan import Intake

_PREVIEWED = 60
_FEW_SCENARIOS = 12
_MOST_RUNNING = 200_000
"""Lines beyond which figures are no totals to date: there would be one a period and series."""


@dataclass(frozen=True, eq=False, slots=True)
class Facts:
    """What understanding a source came to. Attributes: as `sales.read` makes them, in that order."""

    source: Source
    shape: Shaped
    ask: Intake
    dated: When
    judgement: judged.Judged
    found: Keyed
    lines: Lines
    days: Totals
    scale: float
    beside: tuple[str, ...]


def reading_of(facts: Facts, copies: int) -> Reading:
    """Gather the facts for the stages.

    Args:
        copies: lines that repeat an earlier one.
    """
    source, shape, ask, lines, days = facts.source, facts.shape, facts.ask, facts.lines, facts.days
    dated, judgement, found = facts.dated, facts.judgement, facts.found
    frame = shape.source.frame
    why, reasons = judgement.why, (*judgement.reasons, COPY)
    if np.count_nonzero(lines.good) < np.count_nonzero(why == 0):
        why = np.where((why == 0) & ~lines.good, len(reasons) - 1, why)
    starts = np.flatnonzero(np.diff(days.day, prepend=days.day[0] - 1))
    selling, by_day = days.day[starts].astype(np.int64), np.add.reduceat(days.units, starts)
    beat = rhythm(selling, judgement.usual)
    since, upto = int(selling[0]), int(selling[-1])
    looks = recognise.look(source)
    notes = _notes(source, shape, ask, dated, looks)
    if beat.said:
        beat_grid = Grid(beat.kind, beat.grid.week_start, beat.grid.year_start)
        since, upto = beat_grid.first_day(beat_grid.period(since)), beat_grid.last_day(beat_grid.period(upto))
        notes = (*notes, f"{beat.said.capitalize()}.")
    at = np.flatnonzero(why)
    files = [file.name for file in source.files]

    def list_aside(start: int, stop: int) -> list[tuple[str, ...]]:
        return [
            (files[file], f"{row:,}", reasons[why[place]], text)
            for place, (file, row, text) in zip(at[start:stop], _texts(frame, at[start:stop]), strict=True)
        ]

    files_tied = _ties(source, frame[FILE], lines)
    years = Grid("year").at(selling)
    by_year = _sums(years - years.min(), by_day)
    scenarios: tuple[str, ...] = ()
    if ask.scenario:
        scenarios = tuple(
            sorted({" ".join(str(t).split()) for t in frame[ask.scenario].unique().drop_nulls()})
        )
    return Reading(
        source=source.name,
        files=files_tied,
        columns=recognise.columns(recognise.look(shape.source) if shape.said else looks, ask),
        preview=_preview(shape.source),
        dimensions=ask.by,
        members=tuple(tuple(sorted({str(key[i]) for key in found.keys})) for i in range(len(ask.by))),
        alike=found.alike,
        unit=f"{ask.value} × {ask.times}" if ask.times else ask.value,
        scale=facts.scale,
        kind=beat.kind,
        grid=beat.grid,
        since=since,
        upto=day_number(ask.upto) if ask.upto else upto,
        selling=selling,
        patterns=dated.patterns,
        unsettled=dated.order.open if ask.order == "by evidence" and dated.order.day_first is None else 0,
        read=sum(file.read for file in files_tied),
        used=sum(file.used for file in files_tied),
        beside=sum(file.beside for file in files_tied),
        copies=copies,
        asides=_asides(frame, why, reasons, lines.counts, files),
        list_aside=list_aside,
        years=tuple((int(years.min()) + 1970 + i, int(each)) for i, each in enumerate(by_year)),
        scenarios=scenarios[:_FEW_SCENARIOS],
        beside_names=facts.beside,
        asks_year=shape.asks_year,
        may_run_on=not ask.running and _runs_on(lines),
        offers=Offers(source.sheets, source.hidden, source.tables),
        notes=notes,
    )


def _sums(groups: NDArray[np.integer], units: NDArray[np.int64]) -> NDArray[np.int64]:
    """Sums of whole units by group; below 2**53 they are exact in doubles."""
    return np.rint(np.bincount(groups, units)).astype(np.int64)


def _ties(source: Source, file: pl.Series, lines: Lines) -> tuple[FileTie, ...]:
    size = len(source.files)
    at = np.zeros(0, np.uint16) if size == 1 else file.to_numpy()

    def by_file(values: NDArray[np.integer] | None, mask: NDArray[np.bool_]) -> list[int]:
        """Sums of the values of some lines, or how many lines there are."""
        if size == 1:
            return [int(np.count_nonzero(mask) if values is None else values.sum(where=mask))]
        if values is None:
            return [int(each) for each in counted(at[mask], size)]
        return [int(each) for each in np.rint(np.bincount(at[mask], values[mask], size))]

    read = by_file(lines.counts, np.ones(len(lines.used), bool))
    used, good = by_file(lines.counts, lines.used), by_file(lines.counts, lines.good)
    added = by_file(lines.units, lines.used)
    return tuple(
        FileTie(each.name, each.form, read[i], used[i], good[i] - used[i], read[i] - good[i], added[i])
        for i, each in enumerate(source.files)
    )


def _texts(frame: pl.DataFrame, at: NDArray[np.int64]) -> list[tuple[int, int, str]]:
    """File, row and the whole text of some lines."""
    some = frame[at]
    names = [name for name in some.columns if not name.startswith("\N{PILCROW SIGN}")]
    cells = pl.concat_str([pl.col(name).cast(pl.String).fill_null("") for name in names], separator=" | ")
    return some.select(FILE, ROW, text=pl.coalesce(pl.col(TORN).cast(pl.String), cells)).rows()


def _asides(
    frame: pl.DataFrame,
    why: NDArray[np.int8],
    reasons: tuple[str, ...],
    counts: NDArray[np.int64] | None,
    files: list[str],
) -> tuple[Aside, ...]:
    found = []
    for place in range(1, len(reasons)):
        at = np.flatnonzero(why == place)
        if at.size:
            file, row, text = _texts(frame, at[:1])[0]
            many = at.size if counts is None else int(counts[at].sum())
            found.append(Aside(reasons[place], many, files[file], row, text, judged.ways(reasons[place])))
    return tuple(sorted(found, key=lambda each: -each.count))


def _preview(source: Source) -> tuple[tuple[str, ...], ...]:
    frame = (source.sample or source).frame
    whole = whole_lines(frame).head(_PREVIEWED).select(source.columns)
    return tuple(tuple(cell or "" for cell in row) for row in whole.cast(pl.String).rows())


def _notes(
    source: Source, shape: Shaped, ask: Intake, dated: When, looks: tuple[recognise.Look, ...]
) -> tuple[str, ...]:
    notes = []
    if shape.said:
        notes.append(f"Understood as {shape.said}.")
    if shape.asks_year:
        notes.append(f"Nothing tells the first year; it is taken for {ask.first_year or UNTOLD_YEAR}.")
    order = dated.order
    if ask.order == "by evidence" and order.day_first is not None:
        sure, first = (order.days, "day") if order.day_first else (order.months, "month")
        notes.append(
            f"Dates like 05/03/2024 are read {first} first: {sure:,} of those written can only be read so."
        )
    elif ask.order == "by evidence" and 2 * order.open > source.frame.height:
        notes.append(f"Nothing settles whether day or month comes first in {ask.date}; read day first.")
    if any("zone" in pattern.shown for pattern in dated.patterns):
        notes.append("Times with a zone count for the day that is written.")
    if any(pattern.shown == "FY24" for pattern in dated.patterns):
        notes.append("FY24 is read as the year 2024.")
    dates = [look.name for look in looks if look.dates >= 0.6]
    if len(dates) > 1 and ask.date in dates:
        others = ", ".join(name for name in dates if name != ask.date)
        notes.append(f"Several dates a line: {ask.date} is taken, not {others}.")
    if source.hidden:
        notes.append(f"Hidden sheets: {', '.join(source.hidden[:6])}.")
    return tuple(notes)


def _runs_on(lines: Lines) -> bool:
    """Whether figures only rise within each year and start again with the next, for two years or more."""
    if not 12 <= np.count_nonzero(lines.used) <= _MOST_RUNNING:
        return False
    at = np.flatnonzero(lines.used)
    day, key = lines.day.astype(np.int64), lines.key
    at = at[np.lexsort((day[at], key[at]))]
    same = key[at][1:] == key[at][:-1]
    if len(np.unique(Grid("year").at(day[at]))) < 2:
        return False
    if (np.diff(day[at])[same] <= 0).any():
        return False
    of_year = Grid("year").at(day[at])
    turns = np.diff(of_year) > 0
    falls = np.diff(lines.units[at]) < 0
    within = same & ~turns
    over = same & turns
    return bool(within.sum() >= 6 and not falls[within].any() and over.any() and falls[over].all())
