"""What all stages stand on: the actual of every period, and what was ruled of it. It has no page."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

import numpy as np

from oat_tide.core.language import counted, noun, phrase
from oat_tide.core.periods.calendar import day_number
from oat_tide.core.series.panel import FILLED, INCOMPLETE, LACKING, LEFT_OUT, REPLACED, Sight, fits_key
from oat_tide.core.series.reading import Reading
from oat_tide.core.working.formula import either, given
from oat_tide.core.working.number_format import full
from oat_tide.core.working.tree import Given, Op, Working
from oat_tide.plan.parts.evened import Evened
from oat_tide.stages.common import named
from oat_tide.stages.deck import Deck, LateWork, Look, Mark
from oat_tide.stages.deck.draft import Draft, from_lines
from oat_tide.stages.needs import READING, need
from oat_tide.stages.published import Actuals, actuals_of

NAME = "lines"
_LATEST = dt.date(2400, 1, 1)
_MOST_SCENARIOS = 3
"""Scenarios that are shown; more would hide the history."""


@dataclass(frozen=True, eq=False, slots=True)
class Needs:
    """What the stage stands on."""

    reading: Reading = need(READING)


def make(sight: Sight, ask: tuple[Evened], needs: Needs, late: LateWork) -> Deck:
    """The figures that are added up from the lines themselves."""
    reading = needs.reading
    (evened,) = ask
    d = Draft(NAME, sight)
    actual, lines, unread = sight.values, sight.lines, sight.unread
    flags = sight.flags
    unit, totalled = reading.unit, reading.totalled

    def came_from(series: int, column: int) -> Working:
        count = 0 if flags[series, column] & FILLED else int(lines[series, column])
        value, key, period = float(actual[series, column]), d.keys[series], d.first + column
        if totalled != "mean":
            return from_lines(value, key, period, count)
        return Op(
            "/", (from_lines(value * count, key, period, count), Given(float(count), phrase("lines counted")))
        )

    def unknown(series: int, column: int) -> str:
        if column >= actual.shape[1]:
            return ""
        bad = int(unread[series, column])
        if bad:
            which = phrase("a line") if bad == 1 else phrase("{bad:,} lines", bad=bad)
            return phrase(
                "Not known: the figure of {which} in it cannot be read. Decide on that in Intake.",
                which=which,
            )
        if not (lines[series, : column + 1].any() or unread[series, : column + 1].any()):
            return phrase("Not known: it lies before the first line of this series.")
        return phrase("Not known: no line lies in the period.")

    def remark(series: int, column: int) -> str:
        return _remark(int(flags[series, column]), float(sight.settled[series, column]), d.grid.kind)

    shared = Look(unit=unit, sees_later=True, adds_up=totalled == "sum")
    label = named_actual(reading.history)
    sold = d.add("actual", label, actual, came_from, **(shared | Look(blank=unknown, remark=remark)))
    held = given(lines.astype(float), phrase("lines counted in the period"))
    known = ~np.isnan(actual)
    d.define("lines", phrase("Lines"), held, where=known, unit="lines", sees_later=True, adds_up=True)
    adjusted = sold
    if (flags & (REPLACED | LEFT_OUT)).any():
        expected = given(sight.settled, phrase("expected, put in the place of the actual"))
        settled = either(flags & REPLACED > 0, expected, sold)
        gone = phrase("It is left out, or not known.")
        look = shared | Look(blank=gone, unlike="actual")
        adjusted = d.define(
            "settled",
            phrase("Adjusted {label}", label=label[:1].lower() + label[1:]),
            settled,
            where=flags & LEFT_OUT == 0,
            **look,
        )
    scenarios = []
    for place, name in enumerate(sight.past.beside):
        kept = given(sight.beside(name), phrase("added up line by line, apart from the history"))
        # A further measure counts something of its own.
        own = shared | Look(unit=unit if name in reading.scenarios else name)
        made = d.define(f"beside_{place}", name, kept, where=~np.isnan(sight.beside(name)), **own)
        scenarios += [made] if own["unit"] == unit else []
    return d.deck(
        bands=(),
        title=lambda series: named(d.keys[series]),
        subtitle=lambda series: f"{unit} {d.grid.per_period}",
        finding=lambda series: counted(d.columns, d.grid.kind),
        marks=lambda series: _notes(sight, evened, reading.dimensions, series),
        published=Actuals(sold, adjusted, tuple(scenarios[:_MOST_SCENARIOS]), unit, totalled == "sum"),
    )


def named_actual(history: str) -> str:
    """What the history is called: a row of budgets is never called Actual."""
    return phrase("Actual") if not history or history.lower().startswith("act") else history


def _remark(flags: int, settled: float, kind: str) -> str:
    """What the flags of a period say of its figure."""
    said = []
    if flags & LEFT_OUT:
        said.append(phrase("Left out of averages and fits."))
    elif flags & REPLACED:
        said.append(phrase("Averages and fits use {full} in its place.", full=full(settled)))
    if flags & LACKING:
        said.append(phrase("Something in it has no line that is known: it adds nothing."))
    if flags & INCOMPLETE:
        said.append(
            phrase(
                "It is a part {kind}: the data do not hold all of it, and averages and fits go without it.",
                kind=noun(kind),
            )
        )
    return " ".join(said)


def _notes(sight: Sight, evened: Evened, dimensions: tuple[str, ...], series: int) -> tuple[Mark, ...]:
    """What the user has noted on periods of the series, or of one it belongs to; seen in every stage."""
    past, found = sight.past, []
    for each in evened.rulings:
        key = tuple(dict(each.where).get(name) for name in dimensions)
        if each.note and fits_key(past.keys[series], key):
            first = past.grid.period(day_number(each.first)) - past.first
            last = past.grid.period(day_number(min(each.last, _LATEST))) - past.first
            if first < sight.columns and last >= 0:
                # A note on a wider series is shown as that one's.
                note = each.note if key == past.keys[series] else f"{named(key)}: {each.note}"
                found.append(Mark(min(max((first + last) // 2, 0), sight.columns - 1), note, "note"))
    return tuple(found)


def borrow_actual(d: Draft, lines: Deck) -> None:
    """Show the actual in another deck, and beside it the one as ruled where there is one."""
    found = actuals_of(lines)
    for term in dict.fromkeys((found.actual, found.adjusted)):
        d.borrow(lines, term.source.figure.name)
