"""The side sheet of Intake: tie-out, what stands against periods and lines, how all was understood."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import PurePath

import numpy as np

from oat_tide.core.language import counted, phrase
from oat_tide.core.periods.calendar import MONTHS, Grid
from oat_tide.core.seasons.odd import Odd
from oat_tide.core.series.panel import Panel, Sight
from oat_tide.core.series.reading import Reading
from oat_tide.core.series.tie_out import TieOut
from oat_tide.core.working.number_format import fixed, full
from oat_tide.plan.edits import edit
from oat_tide.plan.paths import P
from oat_tide.stages.common import named
from oat_tide.stages.deck import Card, Cards, Caution, Fact, Item, Note, control
from oat_tide.stages.deck.draft import Draft
from oat_tide.stages.intake.asked import IntakeParts
from oat_tide.stages.intake.periods import gaps_taken, periods_found
from oat_tide.stages.intake.set_aside import lines_found
from oat_tide.stages.intake.settle import to_settle
from oat_tide.stages.intake.tied import own_totals
from oat_tide.stages.periods import period_controls

_MOST_FILES = 4


def sheet(
    d: Draft,
    sight: Sight,
    asked: IntakeParts,
    reading: Reading,
    tie: TieOut,
    odd: Odd,
    leaves: Panel,
    left: tuple[str, ...],
) -> tuple[Item, ...]:
    """Return the items of the side sheet, in order."""
    return (
        Note(phrase("Tie-out"), "head"),
        Fact("read"),
        Fact("used"),
        *((Fact("beside"),) if reading.beside else ()),
        Fact("aside"),
        *((Fact("totals"),) if reading.totals else ()),
        Fact("in_source"),
        Fact("in_all"),
        *map(Fact, left),
        Note(lambda series: _tie_words(sight, series, reading, tie), "small"),
        *own_totals(reading),
        *to_settle(asked.intake, reading),
        Note(gaps_taken(asked, leaves), "small"),
        # What waits for a decision stands open.
        *periods_found(d, sight, asked, reading, odd),
        *lines_found(asked, reading),
        Cards("intake", _folds(sight, asked, reading, leaves), folds=True),
    )


def _folds(sight: Sight, asked: IntakeParts, reading: Reading, leaves: Panel) -> tuple[Card, ...]:
    """What folds away, each under a head that says what it holds."""
    sums = phrase("{measure} by {date}", measure=asked.intake.value or reading.unit, date=asked.intake.date)
    parts = (
        (tuple(_sources(asked, reading)), reading.files[0].name if reading.files else ""),
        (tuple(_understood(asked, reading)), sums),
        (tuple(_evening(asked, reading, sight.past.grid, leaves)), ""),
    )
    return tuple(_card(items, said) for items, said in parts if len(items) > 1)


def _card(items: tuple[Item, ...], said: str) -> Card:
    """Items under the head that they begin with."""
    head = items[0]
    assert isinstance(head, Note), head
    return Card(head.text(0), said, items[1:])


def _tie_words(sight: Sight, series: int, reading: Reading, tie: TieOut) -> str:
    if not tie.ties:
        return phrase(
            "Does not tie: off by {full}. See the tie-out below by year.", full=full(float(tie.gap))
        )
    if asked := reading.figures_in("asked"):
        return phrase(
            "“{name}” is not read before you decide what it is: see below. All else agrees.",
            name=asked[0].name,
        )
    if reading.mark.asks:
        return phrase("Lines and sums agree, but how the figures are read is not settled: see below.")
    key = sight.past.keys[series]
    words = phrase("Ties to the last unit, by file, by year and in every dimension.")
    if tie.digits:
        words = phrase(
            "Figures have {decimals} decimals: their sums cannot be exact to the last. They tie "
            "to {digits} digits.",
            decimals=reading.decimals,
            digits=tie.digits,
        )
    if any(member is not None for member in key) and tie.source and reading.totalled == "sum":
        total = float(np.nansum(sight.values[series]))
        words += phrase(
            " {key} holds {total} % of what is used.",
            key=named(key),
            total=fixed(100 * total / float(tie.used), 1),
        )
    return words


def _sources(asked: IntakeParts, reading: Reading) -> Iterator[Item]:
    ask = asked.sources
    yield Note(phrase("Sources"), "head")
    for file in reading.files[:_MOST_FILES]:
        yield Note(file.name, "text")
        yield Note(f"{counted(file.read.lines, 'line')} · {file.form}", "small")
    if len(reading.files) > _MOST_FILES:
        more = len(reading.files) - _MOST_FILES
        yield Note(phrase("and {more:,} more, listed under Tie-out", more=more), "small")
    if reading.notes:
        yield Note(" ".join(reading.notes), "small")
    offers = reading.offers
    if offers.tables:
        yield control(
            P.sources.table,
            ask,
            kind="pick",
            choices=("", *offers.tables),
            names=(phrase("by content"), *offers.tables),
        )
    elif offers.sheets:
        hidden = {name: phrase("{name} · hidden", name=name) for name in offers.hidden}
        names = tuple(hidden.get(name, name) for name in offers.sheets)
        yield control(P.sources.sheets, ask, choices=offers.sheets, names=names)
        yield control(
            P.sources.block, ask, kind="pick", choices=tuple(range(7)), names=(phrase("largest"), *"123456")
        )
    elif any(PurePath(place).suffix.lower() not in (".parquet", "") for place in ask.places):
        yield control(P.sources.encoding, ask)
        yield control(P.sources.delimiter, ask)
        yield control(P.sources.quotes, ask)


def _understood(asked: IntakeParts, reading: Reading) -> Iterator[Item]:
    ask = asked.intake
    columns = tuple(column.name for column in reading.columns)
    dated = tuple(c.name for c in reading.columns if c.dates > 0.05 or c.name == ask.date)
    numeric = tuple(c.name for c in reading.columns if c.numbers > 0.05 or c.name == ask.value)
    taken = {ask.date, ask.value, ask.times, ask.scenario, *ask.also}
    free = tuple(name for name in (*columns, *(level.name for level in ask.levels)) if name not in taken)
    yield Note(phrase("Understood as"), "head")
    yield control(P.intake.date, ask, choices=dated, names=dated, kind="pick")
    for pattern in reading.patterns[:4]:
        yield Note(f"{pattern.shown} · {pattern.count:,}", "small")
    yield control(P.intake.value, ask, choices=numeric, names=numeric, kind="pick")
    others = tuple(name for name in numeric if name != ask.value)
    if others:
        yield control(
            P.intake.times, ask, choices=("", *others), names=(phrase("nothing else"), *others), kind="pick"
        )
    yield control(P.intake.by, ask, choices=free, names=tuple(_member_words(reading, name) for name in free))
    if ask.scenario:
        yield control(P.intake.actual, ask, kind="pick", choices=reading.scenarios, names=reading.scenarios)
    if ask.first_year or reading.asks_year:
        yield control(P.intake.first_year, ask)
    if ask.running or reading.may_run_on:
        yield control(P.intake.running, ask)
    yield control(
        P.intake.totalled, ask, names=(phrase("sum"), phrase("mean"), phrase("last of each period"))
    )
    yield control(P.intake.order, ask)
    yield control(P.intake.decimal, ask)
    if ask.filled or reading.may_fill:
        columns = tuple(dict.fromkeys((*ask.filled, *reading.may_fill)))
        yield control(P.intake.filled, ask, choices=columns, names=columns)
    yield control(
        P.intake.shape, ask, choices=reading.offers.shapes, names=tuple(map(phrase, reading.offers.shapes))
    )


def _member_words(reading: Reading, name: str) -> str:
    if name in reading.dimensions:
        return f"{name} · {counted(len(reading.members[reading.dimensions.index(name)]), 'value')}"
    return name


def _evening(asked: IntakeParts, reading: Reading, grid: Grid, leaves: Panel) -> Iterator[Item]:
    periods = asked.periods
    yield Note(phrase("Periods"), "head")
    yield control(P.intake.upto, asked.intake)
    yield control(P.evened.final_to, asked.evened)
    yield control(P.evened.gaps, asked.evened)
    yield from period_controls(periods, reading.kind, grid.kind)


def cautions(asked: IntakeParts, reading: Reading, tie: TieOut) -> tuple[Caution, ...]:
    """What the user should settle before trusting the history."""
    found = []
    if not tie.ties:
        found.append(
            Caution(phrase("Source and series do not tie. The tie-out by file and year shows where."))
        )
    if any("Nothing settles" in note for note in reading.notes) and asked.intake.order == "by evidence":
        text = next((each.text for each in reading.patterns if each.shown == "05/03/2024"), "05/03/2024")
        found.append(
            Caution(
                phrase(
                    "{text} in {date} is read day first, {both}; nothing in the source decides it.",
                    text=text,
                    date=asked.intake.date,
                    both=_both(text),
                ),
                way_out=edit(P.intake.order, "month first"),
                way_out_text=phrase("Read month first"),
            )
        )
    if reading.asks_year:
        found.append(Caution(phrase("The first year is not in the source. Set it under Understood as.")))
    if reading.may_run_on:
        found.append(
            Caution(
                phrase("The figures only rise within each year: they look like totals to date."),
                way_out=edit(P.intake.running, True),
                way_out_text=phrase("Take them apart into periods"),
            )
        )
    return tuple(found)


def _both(text: str) -> str:
    """Say both readings of a date that can be read in two ways."""
    parts = text.replace("-", "/").replace(".", "/").split("/")
    if len(parts) < 3 or not all(part.isdigit() for part in parts[:2]):
        return ""
    first, second = int(parts[0]), int(parts[1])
    if not (1 <= first <= 12 and 1 <= second <= 12):
        return ""
    return phrase(
        "{day} {month} and not {other_day} {other_month}",
        day=first,
        month=MONTHS[second - 1],
        other_day=second,
        other_month=MONTHS[first - 1],
    )
