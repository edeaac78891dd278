"""Intake: can I trust this history? What was read, what was set aside, and whether it ties."""

from __future__ import annotations

from typing import Any

import numpy as np

from oat_tide.core.calendar import MONTHS, WEEKDAYS
from oat_tide.core.numerals import fixed, trimmed
from oat_tide.core.panel import FILLED, PART, Sight
from oat_tide.core.reading import Reading
from oat_tide.core.working import Given, Lines, Op, Working
from oat_tide.plan.edits import P, edit
from oat_tide.plan.plan import Intake
from oat_tide.stages.common import as_of_handle, counted, named, span
from oat_tide.stages.deck import Band, Caution, Curve, Deck, Draft, Fact, Item, Knob, Listing, Note, knob

NAME = "intake"


def make(sight: Sight, ask: Intake, needs: tuple[Any, ...], late: Any) -> Deck:
    """The deck of Intake: the actual of every period, and the facts of the source."""
    (reading,) = needs
    d = Draft(NAME, sight)
    actual, lines, flags = sight.all("values"), sight.all("lines"), sight.all("flags").astype(np.uint8)

    def came_from(series: int, column: int) -> Working:
        if flags[series, column] & FILLED:
            return Given(0.0, "no line lies in the period: nothing was sold")
        count = int(lines[series, column])
        return Lines(float(actual[series, column]), d.keys[series], d.first + column, count)

    def unknown(series: int, column: int) -> str:
        return "Not known: it lies before the first line of this series." if column < actual.shape[1] else ""

    d.add(
        "actual",
        "Actual",
        actual,
        came_from,
        unit=reading.unit,
        sees_later=True,
        adds_up=True,
        why_blank=unknown,
    )
    d.add(
        "lines",
        "Lines",
        np.where(np.isnan(actual), np.nan, lines.astype(float)),
        lambda s, c: Given(float(lines[s, c]), "lines counted in the period"),
        unit="lines",
        sees_later=True,
        adds_up=True,
    )
    _tie_out(d, reading)
    unit, grid = reading.unit, d.grid

    return d.deck(
        bands=(Band(unit, (Curve("actual", "columns"),)),),
        sheet=lambda: _sheet(sight, ask, reading),
        handles=(as_of_handle(sight),),
        listings=_listings(reading),
        title=lambda s: (
            f"{counted(reading.used, 'line')} of {reading.source} in {counted(d.columns, grid.kind)}"
        ),
        subtitle=lambda s: f"{named(d.keys[s])} · {unit} {grid.a_period} · {span(sight, 0, d.columns - 1)}",
        finding=lambda s: _finding(d, reading),
        cautions=lambda s: _cautions(ask, reading, sight),
    )


def _tie_out(d: Draft, reading: Reading) -> None:
    """Lines read = used + set aside; the measure in the source = the measure in the series."""

    def fact(name: str, label: str, value: float, working: Working, **more: Any) -> None:
        values = np.full((len(d.keys), 1), value)
        d.add(name, label, values, lambda s, c: working, fact=True, sees_later=True, **more)

    fact("read", "lines read", reading.read, Given(reading.read, "counted in the source"), unit="lines")
    fact("used", "used", reading.used, Given(reading.used, "counted in the source"), unit="lines")
    d.add(
        "aside",
        "set aside",
        np.full((len(d.keys), 1), float(reading.aside)),
        lambda s, c: Op("-", (d.cell("read", s), d.cell("used", s))),
        fact=True,
        unit="lines",
        sees_later=True,
    )
    fact(
        "in_source",
        f"{reading.unit} in the lines used",
        reading.total_in_source,
        Given(reading.total_in_source, "added up line by line"),
        unit=reading.unit,
    )
    actual = d.figures["actual"].values
    d.add(
        "in_series",
        f"{reading.unit} in this series",
        np.nansum(actual, axis=1, keepdims=True),
        lambda s, c: Op("sum", (d.run("actual", s, 0, d.columns - 1),)),
        fact=True,
        unit=reading.unit,
        sees_later=True,
    )


def _sheet(sight: Sight, ask: Intake, reading: Reading) -> tuple[Item, ...]:
    grid = sight.past.grid
    columns = tuple(column.name for column in reading.columns)
    dated = tuple(c.name for c in reading.columns if c.dates > 0.05 or c.name == ask.date)
    numeric = tuple(c.name for c in reading.columns if c.numbers > 0.05 or c.name == ask.value)
    free = tuple(name for name in columns if name not in (ask.date, ask.value))
    return (
        Note(lambda s: "Tie-out", "head"),
        Fact("read"),
        Fact("used"),
        Fact("aside"),
        Fact("in_source"),
        Fact("in_series"),
        Note(lambda s: _tie_words(sight, s, reading), "small"),
        Note(lambda s: "Source", "head"),
        Note(lambda s: reading.source),
        Note(lambda s: " ".join((f"{reading.files[0].form}.", *reading.notes)), "small"),
        Note(lambda s: "Understood as", "head"),
        knob(P.intake.date, ask, choices=dated, names=dated, kind="pick"),
        knob(P.intake.value, ask, choices=numeric, names=numeric, kind="pick"),
        knob(P.intake.by, ask, choices=free, names=tuple(_member_words(reading, name) for name in free)),
        Note(lambda s: "Dates and periods", "head"),
        knob(P.intake.order, ask),
        knob(P.intake.upto, ask),
        _named_knob(P.periods.week_start, grid, tuple(range(7)), WEEKDAYS),
        _named_knob(P.periods.year_start, grid, tuple(range(1, 13)), MONTHS),
    )


def _named_knob(where: Any, grid: Any, choices: tuple[int, ...], names: tuple[str, ...]) -> Knob:
    return knob(where, grid, kind="pick", choices=choices, names=names)


def _member_words(reading: Reading, name: str) -> str:
    if name in reading.dimensions:
        return f"{name} · {counted(len(reading.members[reading.dimensions.index(name)]), 'value')}"
    return name


def _tie_words(sight: Sight, series: int, reading: Reading) -> str:
    key, total = sight.past.keys[series], float(np.nansum(sight.all("values")[series]))
    if any(member is not None for member in key):
        share = 100 * total / reading.total_in_source if reading.total_in_source else 0.0
        return f"{named(key)} holds {fixed(share, 1)} % of the whole."
    gap = total - reading.total_in_source
    return "Ties to the last unit." if gap == 0 else f"Does not tie: off by {trimmed(gap, 6)}."


def _listings(reading: Reading) -> tuple[Listing, ...]:
    count = reading.aside
    if not count:
        return ()
    reasons = " · ".join(f"{aside.count:,} {aside.reason}" for aside in reading.asides)
    title = f"{counted(count, 'line')} set aside"
    if len(reading.files) > 1:
        return (Listing(title, ("file", "row", "why", "the line"), count, reading.list_aside, note=reasons),)

    def fetch(start: int, stop: int) -> list[tuple[str, ...]]:
        return [row[1:] for row in reading.list_aside(start, stop)]

    return (Listing(title, ("row", "why", "the line"), count, fetch, note=reasons),)


def _finding(d: Draft, reading: Reading) -> str:
    aside = reading.aside
    return f"{counted(reading.used, 'line')} used\n" + (f"{aside:,} set aside" if aside else "none set aside")


def _cautions(ask: Intake, reading: Reading, sight: Sight) -> tuple[Caution, ...]:
    found = []
    if any("Nothing settles" in note for note in reading.notes) and ask.order == "by evidence":
        found.append(
            Caution(
                f"Dates such as 05/03/2024 in {ask.date} are read day first; nothing there settles it.",
                way_out=edit(P.intake.order, "month first"),
                way_out_text="Read month first",
            )
        )
    swapped = next((a for a in reading.asides if "swapped" in a.reason), None)
    if swapped:
        found.append(
            Caution(
                f"{counted(swapped.count, 'line')} set aside because day and month could be swapped, "
                f"the first in row {swapped.row:,}.",
                way_out=edit(P.intake.order, "day first"),
                way_out_text="Read day first",
            )
        )
    flags = sight.all("flags")[0].astype(int)
    for column in np.flatnonzero(flags & PART):
        found.append(_part_caution(reading, sight, int(column)))
    return tuple(found)


def _part_caution(reading: Reading, sight: Sight, column: int) -> Caution:
    grid, period = sight.past.grid, sight.past.first + column
    first, last = grid.first_day(period), grid.last_day(period)
    days = min(last, reading.upto) - max(first, reading.since) + 1
    return Caution(
        f"{grid.label(period)} is part: the data hold {days} of its {last - first + 1} days. "
        "It is kept out of fits, windows and comparisons."
    )
