"""The side sheet of Intake: tie-out, what stands against periods and lines, how all was understood."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import PurePath
from typing import Any, get_args

import msgspec
import numpy as np

from oat_tide.core.periods.calendar import MONTHS, WEEKDAYS, Grid
from oat_tide.core.series.odd import Odd
from oat_tide.core.series.panel import FILLED, LACKING, LEFT_OUT, PART, PROVISIONAL, REPLACED, Panel, Sight
from oat_tide.core.series.reading import COPY, TOTAL, Reading
from oat_tide.core.series.tie_out import TieOut
from oat_tide.core.working.numerals import fixed, full
from oat_tide.core.working.tree import Ref
from oat_tide.plan.edits import Edit, P, edit
from oat_tide.plan.parts.evened import Act, Evened, Ruled
from oat_tide.plan.parts.intake import Intake, WayOut
from oat_tide.plan.parts.periods import Periods
from oat_tide.plan.parts.sources import Sources
from oat_tide.stages.common import counted, named
from oat_tide.stages.deck import Caution, Choice, Entry, Fact, Item, Knob, Note, knob
from oat_tide.stages.deck.draft import Draft
from oat_tide.stages.intake import edits
from oat_tide.stages.intake.firsts import by_age, movements
from oat_tide.stages.intake.settle import to_settle

_MOST_ODD, _MOST_FILES, _MOST_ALIKE, _MOST_RULINGS = 4, 4, 4, 12
_WORDS: dict[str, str] = {
    "use": "Use them",
    "date of the line above": "Date of the line above",
    "count as 0": "Count as 0",
    "leave out": "Leave out",
    "leave copies out": "Leave copies out",
}
_ACTS: dict[str, str] = {
    "keep": "kept",
    "leave out": "left out of fits",
    "expected": "counts as expected",
    "whole": "taken as whole",
    "note": "noted",
    "closed": "closed",
    "no stock": "no stock",
    "withdrawn": "withdrawn",
    "nothing sold": "nothing sold",
    "not known": "not known",
}


@dataclass(frozen=True, slots=True)
class Asked:
    """The parts of the plan that Intake shows."""

    sources: Sources
    intake: Intake
    evened: Evened
    periods: Periods

    def fitted(self, reading: Reading) -> Asked:
        """The same with the roles as they are lived by in the shape at hand."""
        roles = {"date": reading.date, "value": reading.value, "by": reading.dimensions}
        return replace(self, intake=msgspec.structs.replace(self.intake, **roles))


def sheet(
    d: Draft, sight: Sight, asked: Asked, reading: Reading, tie: TieOut, odd: Odd, leaves: Panel
) -> tuple[Item, ...]:
    """All items of the sheet, in order."""
    return (
        Note(lambda s: "Tie-out", "head"),
        Fact("read"),
        Fact("used"),
        *((Fact("beside"),) if reading.beside else ()),
        Fact("aside"),
        *((Fact("totals"),) if reading.totals else ()),
        Fact("in_source"),
        Fact("in_all"),
        *(
            Fact(name)
            for name in ("beside_amount", "aside_amount", "totals_amount", "withheld")
            if name in d.figures
        ),
        Note(lambda s: _tie_words(sight, s, reading, tie), "small"),
        *to_settle(asked.intake, reading),
        *_periods_found(d, sight, asked, reading, odd),
        *_lines_found(asked, reading),
        *_sources(asked, reading),
        *_understood(asked, reading),
        *_evening(asked, reading, sight.past.grid, leaves),
    )


def _note(text: str, kind: str = "small") -> Note:
    """A note that says the same of every series."""
    return Note(lambda s: text, kind)


def _tie_words(sight: Sight, series: int, reading: Reading, tie: TieOut) -> str:
    if not tie.ties:
        return f"Does not tie: off by {full(float(tie.gap))}. See the tie-out below by year."
    if reading.mark.asks:
        return "Lines and sums agree, but how the figures are read is not settled: see below."
    key = sight.past.keys[series]
    words = "Ties to the last unit, by file, by year and in every dimension."
    if tie.digits:
        words = (
            f"Figures have {reading.decimals} decimals: their sums cannot be exact to the last. They tie to "
            f"{tie.digits} digits."
        )
    if any(member is not None for member in key) and tie.source and reading.totalled == "sum":
        total = float(np.nansum(sight.all("values")[series]))
        words += f" {named(key)} holds {fixed(100 * total / float(tie.used), 1)} % of what is used."
    return words


# Periods


def days_held(sight: Sight, reading: Reading, column: int) -> tuple[int, int]:
    """How many days of a column the data hold, and how many it has."""
    grid, period = sight.past.grid, sight.past.first + column
    first, last = grid.first_day(period), grid.last_day(period)
    return max(min(last, reading.upto) - max(first, reading.since) + 1, 0), last - first + 1


def _periods_found(d: Draft, sight: Sight, asked: Asked, reading: Reading, odd: Odd) -> Iterator[Item]:
    """Part, odd and provisional periods of the series in sight, and what was ruled."""
    where = edits.pairs(reading, sight.past.keys[0])
    ruled = {(r.where, r.first, r.last): r for r in asked.evened.rulings}
    found: list[Item] = []
    for column in np.flatnonzero(d.flags[0] & PART).tolist():
        held, whole = days_held(sight, reading, column)
        if held:
            ruling = _ruling(sight, where, column, "whole")
            text = f"{d.grid.label(d.first + column)} is part, {held} of {whole} days: kept out of fits."
            found.append(Choice(text, "part", (("Take as whole", edits.with_ruling(asked.evened, ruling)),)))
    oddest = sorted(np.flatnonzero(odd.odd[0]).tolist(), key=lambda c: -abs(odd.off[0, c]))
    settled = LEFT_OUT | REPLACED
    open_ = [
        c for c in oddest if not d.flags[0, c] & settled and (where, *edits.days_of(sight, c)) not in ruled
    ]
    for column in open_[:_MOST_ODD]:
        found.append(_odd_choice(d, sight, asked, where, odd, column))
    if len(open_) > _MOST_ODD:
        found.append(Note(lambda s: f"and {len(open_) - _MOST_ODD:,} more that are odd by less", "small"))
    found += _gaps_found(d, sight, asked, where)
    for ruling in asked.evened.rulings[:_MOST_RULINGS]:
        found.append(_ruled_choice(asked, ruling))
    found += _provisional(d, sight, asked.evened)
    if found:
        yield Note(lambda s: "Part, odd and provisional", "head")
        yield from found


def _gaps_found(d: Draft, sight: Sight, asked: Asked, where: Any) -> Iterator[Item]:
    """Holes and an early end of the series in sight, when it is one of several."""
    past = sight.past
    held = np.flatnonzero(past.lines[0])
    if not where or not held.size:
        return
    first, last = int(held[0]), int(held[-1])
    gone = past.columns - 1 - last
    if gone >= 2 and not np.isnan(past.values[0, -1]):
        start = edits.days_of(sight, last + 1)[0]
        ruling = Ruled(where=where, first=start, last=edits.FOREVER, act="withdrawn")
        text = f"No line since {d.grid.label(d.first + last)}: taken as nothing sold."
        yield Choice(text, "part", (("Withdrawn", edits.with_ruling(asked.evened, ruling)),))
    holes = int((past.lines[0, first:last] == 0).sum())
    if holes:
        days = edits.days_of(sight, first)[0], edits.days_of(sight, last)[1]
        unknown = bool(np.isnan(past.values[0, first:last]).any())
        other: Act = "nothing sold" if unknown else "not known"
        ruling = Ruled(where=where, first=days[0], last=days[1], act=other)
        now = "not known" if unknown else "nothing sold"
        text = f"{counted(holes, d.grid.kind)} without a line: {now}."
        yield Choice(text, "part", ((_ACTS[other].capitalize(), edits.with_ruling(asked.evened, ruling)),))


def _ruling(sight: Sight, where: Any, column: int, act: Any, **more: Any) -> Ruled:
    first, last = edits.days_of(sight, column)
    return Ruled(where=where, first=first, last=last, act=act, **more)


def _odd_choice(d: Draft, sight: Sight, asked: Asked, where: Any, odd: Odd, column: int) -> Choice:
    size, expected = float(odd.off[0, column]), float(odd.expected[0, column])
    way = "under" if size < 0 else "over"
    text = f"{d.grid.label(d.first + column)} stands {fixed(abs(size), 0)} % {way} its level and season."
    put = _ruling(sight, where, column, "expected", value=round(expected * _scale(sight)) / _scale(sight))
    outcomes: tuple[tuple[str, Edit | None], ...] = tuple(
        (words, edits.with_ruling(asked.evened, ruling))
        for words, ruling in (
            ("Keep", _ruling(sight, where, column, "keep")),
            ("Leave out", _ruling(sight, where, column, "leave out")),
            (f"Put {full(put.value)}", put),
        )
    )
    return Choice(text, "odd", outcomes, evidence=Ref("intake", "off", 0, column))


def _scale(sight: Sight) -> float:
    """Minor units in one unit."""
    return sight.past.scale


def _ruled_choice(asked: Asked, ruling: Ruled) -> Choice:
    """A ruling as it stands, to be written on or taken back."""
    whom = ", ".join(member for _, member in ruling.where) or "All"
    figure = f" {full(ruling.value)}" if ruling.act == "expected" else ""
    text = f"{whom}, {_days(ruling)}: {_ACTS[ruling.act]}{figure}" + (
        f" – {ruling.note}" if ruling.note else ""
    )
    entries = [Entry("Note", ruling.note, lambda text: edits.noted(asked.evened, ruling, text))]
    if ruling.act == "expected":
        now = full(ruling.value)
        entries.append(Entry("Expected", now, lambda text: edits.expected(asked.evened, ruling, text)))
    return Choice(text, "ruled", (("Take back", edits.without_ruling(asked.evened, ruling)),), tuple(entries))


def _days(ruling: Ruled) -> str:
    """The days of a ruling, as a month where they are one."""
    first, last = ruling.first, ruling.last
    if last >= edits.FOREVER:
        return f"from {first:%Y-%m-%d}"
    if (
        first.day == 1
        and (last + dt.timedelta(1)).day == 1
        and (first.year, first.month) == (last.year, last.month)
    ):
        return f"{MONTHS[first.month - 1]} {first.year}"
    return f"{first:%Y-%m-%d}" if first == last else f"{first:%Y-%m-%d} – {last:%Y-%m-%d}"


def _provisional(d: Draft, sight: Sight, evened: Evened) -> Iterator[Item]:
    late = np.flatnonzero(d.flags[0] & PROVISIONAL).tolist()
    whole = [column for column in late if not d.flags[0, column] & PART]
    if whole:
        yield Choice(
            f"{d.grid.label(d.first + whole[0])} and later: provisional.",
            "provisional",
            (("All are final", edit(P.evened.final_to, None)),),
        )
    for age, shares in sorted(by_age(movements(evened.firsts, sight)).items()):
        mean, spread = float(np.mean(shares)), float(np.std(shares))
        after = f"{counted(age, d.grid.kind)} after its end" if age else "at its end"
        yield _note(
            f"First figures seen {after} moved by {fixed(mean, 1, plus=True)} % on average "
            f"(spread {fixed(spread, 1)}), {counted(len(shares), 'figure')}."
        )


# Lines


def _lines_found(asked: Asked, reading: Reading) -> Iterator[Item]:
    """Lines set aside by reason, copies, and members that may be one, with what can become of them."""
    ask = asked.intake
    verdicts = {each.reason: each.way for each in ask.verdicts}
    found: list[Item] = []
    for aside in reading.asides:
        text = f"{aside.count:,} · {aside.reason}, first in row {aside.row:,}"
        outcomes: list[tuple[str, Edit | None]] = [
            (_WORDS[way], _verdict(ask, aside.reason, way)) for way in aside.ways
        ]
        if verdicts.get(aside.reason) == "leave out":
            outcomes = [("Left out", None), *(each for each in outcomes if each[0] != "Leave out")]
        found.append(Choice(text, "" if aside.reason == TOTAL else "aside", tuple(outcomes)))
    for reason, way in verdicts.items():
        if all(aside.reason != reason for aside in reading.asides) and way != "leave copies out":
            back: tuple[tuple[str, Edit | None], ...] = (
                ("Take back", edits.with_verdict(ask, reason, None)),
            )
            found.append(Choice(f"{reason}: {_WORDS[way].lower()}", "ruled", back))
    if reading.copies and COPY not in verdicts:
        out = edits.with_verdict(ask, COPY, "leave copies out")
        found.append(
            Choice(
                f"{counted(reading.copies, 'line')} repeat another one exactly; kept.",
                "",
                (("Leave out", out),),
            )
        )
    apart = {(each.of, each.old) for each in ask.renames if each.old == each.new}
    for alike in [each for each in reading.alike if (each.of, each.old) not in apart][:_MOST_ALIKE]:
        found.append(
            Choice(
                f"{alike.old} ({counted(alike.lines, 'line')}) may be {alike.new}.",
                "",
                (
                    ("Take as one", edits.with_rename(ask, alike.of, alike.old, alike.new)),
                    ("They are two", edits.with_rename(ask, alike.of, alike.old, alike.old)),
                ),
            )
        )
    for rename in ask.renames:
        if rename.old != rename.new:
            left = tuple(each for each in ask.renames if each != rename)
            found.append(
                Choice(
                    f"{rename.old} is taken for {rename.new}",
                    "ruled",
                    (("Take back", edit(P.intake.renames, left)),),
                )
            )
    if reading.dimensions:
        entry = Entry("old = new", "", lambda text: edits.renamed(ask, reading, text))
        found.append(Choice("One name became another:", "", entries=(entry,)))
    if found:
        yield Note(lambda s: "Lines", "head")
        yield from found


def _verdict(ask: Intake, reason: str, way: str) -> Edit:
    assert way in get_args(WayOut)
    return edits.with_verdict(ask, reason, way)  # type: ignore[arg-type]


# Sources and how they were understood


def _sources(asked: Asked, reading: Reading) -> Iterator[Item]:
    ask = asked.sources
    yield Note(lambda s: "Sources", "head")
    for file in reading.files[:_MOST_FILES]:
        yield _note(file.name, "text")
        yield _note(f"{counted(file.read.lines, 'line')} · {file.form}")
    if len(reading.files) > _MOST_FILES:
        more = len(reading.files) - _MOST_FILES
        yield Note(lambda s: f"and {more:,} more, listed under Tie-out", "small")
    if reading.notes:
        yield Note(lambda s: " ".join(reading.notes), "small")
    offers = reading.offers
    if offers.tables:
        yield knob(
            P.sources.table,
            ask,
            kind="pick",
            choices=("", *offers.tables),
            names=("by content", *offers.tables),
        )
    elif offers.sheets:
        hidden = {name: f"{name} · hidden" for name in offers.hidden}
        names = tuple(hidden.get(name, name) for name in offers.sheets)
        yield knob(P.sources.sheets, ask, choices=offers.sheets, names=names)
        yield knob(P.sources.block, ask, kind="pick", choices=tuple(range(7)), names=("largest", *"123456"))
    elif any(PurePath(place).suffix.lower() not in (".parquet", "") for place in ask.places):
        yield knob(P.sources.encoding, ask)
        yield knob(P.sources.delimiter, ask)
        yield knob(P.sources.quotes, ask)


def _understood(asked: Asked, reading: Reading) -> Iterator[Item]:
    ask = asked.intake
    columns = tuple(column.name for column in reading.columns)
    dated = tuple(c.name for c in reading.columns if c.dates > 0.05 or c.name == ask.date)
    numeric = tuple(c.name for c in reading.columns if c.numbers > 0.05 or c.name == ask.value)
    taken = {ask.date, ask.value, ask.times, ask.scenario, *ask.also}
    free = tuple(name for name in (*columns, *(level.name for level in ask.levels)) if name not in taken)
    yield Note(lambda s: "Understood as", "head")
    yield knob(P.intake.date, ask, choices=dated, names=dated, kind="pick")
    for pattern in reading.patterns[:4]:
        yield _note(f"{pattern.shown} · {pattern.count:,}")
    yield knob(P.intake.value, ask, choices=numeric, names=numeric, kind="pick")
    others = tuple(name for name in numeric if name != ask.value)
    if others:
        yield knob(P.intake.times, ask, choices=("", *others), names=("nothing else", *others), kind="pick")
    yield knob(P.intake.by, ask, choices=free, names=tuple(_member_words(reading, name) for name in free))
    if ask.scenario:
        yield knob(P.intake.actual, ask, kind="pick", choices=reading.scenarios, names=reading.scenarios)
    if ask.first_year or reading.asks_year:
        yield knob(P.intake.first_year, ask)
    if ask.running or reading.may_run_on:
        yield knob(P.intake.running, ask)
    yield knob(P.intake.totalled, ask, names=("sum", "mean", "last of each period"))
    yield knob(P.intake.order, ask)
    yield knob(P.intake.decimal, ask)
    yield knob(P.intake.shape, ask, choices=reading.offers.shapes, names=reading.offers.shapes)


def _member_words(reading: Reading, name: str) -> str:
    if name in reading.dimensions:
        return f"{name} · {counted(len(reading.members[reading.dimensions.index(name)]), 'value')}"
    return name


def gaps_of(leaves: Panel) -> tuple[int, int]:
    """Periods of series without a line, taken as nothing sold and as not known."""
    missing = (leaves.flags & LACKING > 0) & (leaves.lines == 0) & (leaves.unread == 0)
    return int((leaves.flags & FILLED > 0).sum()), int(missing.sum())


def _gaps_taken(asked: Asked, leaves: Panel) -> str:
    """What periods without a line were taken for."""
    kind = leaves.grid.kind
    sold, missing = gaps_of(leaves)
    said = []
    if sold:
        said.append(f"{counted(sold, kind)} of series without a line: taken as nothing sold.")
    if missing:
        said.append(f"{counted(missing, kind)} of series without a line: taken as not known.")
        if asked.evened.gaps == "by content" and leaves.totalled == "sum":
            said.append("They have one line at most, and nine tenths of them are there.")
    return " ".join(said) or f"No {kind} of a series is without a line."


def _evening(asked: Asked, reading: Reading, grid: Grid, leaves: Panel) -> Iterator[Item]:
    periods = asked.periods
    yield Note(lambda s: "Made even", "head")
    yield knob(P.intake.upto, asked.intake)
    yield knob(P.evened.final_to, asked.evened)
    yield knob(P.evened.gaps, asked.evened)
    yield _note(_gaps_taken(asked, leaves))
    yield _named_knob(P.periods.year_start, periods, tuple(range(1, 13)), MONTHS)
    if reading.kind == "day":
        yield _named_knob(P.periods.week_start, periods, tuple(range(7)), WEEKDAYS)
        names = ("of the calendar", "4-4-5 weeks", "4-5-4 weeks", "5-4-4 weeks")
        yield knob(P.periods.weeks, periods, names=names)
        if periods.weeks != "calendar" or grid.kind == "block":
            yield knob(P.periods.anchor, periods)
        if periods.weeks != "calendar":
            yield knob(P.periods.long_period, periods)
        if grid.kind == "block":
            yield knob(P.periods.block, periods)


def _named_knob(where: Any, ask: Any, choices: tuple[int, ...], names: tuple[str, ...]) -> Knob:
    return knob(where, ask, kind="pick", choices=choices, names=names)


def cautions(asked: Asked, reading: Reading, tie: TieOut) -> tuple[Caution, ...]:
    """What the user should settle before trusting the history."""
    found = []
    if not tie.ties:
        found.append(Caution("Source and series do not tie. The tie-out by file and year shows where."))
    if any("Nothing settles" in note for note in reading.notes) and asked.intake.order == "by evidence":
        text = next((each.text for each in reading.patterns if each.shown == "05/03/2024"), "05/03/2024")
        found.append(
            Caution(
                f"{text} in {asked.intake.date} is read day first, {_both(text)}; nothing there settles it.",
                way_out=edit(P.intake.order, "month first"),
                way_out_text="Read month first",
            )
        )
    if reading.asks_year:
        found.append(Caution("Nothing tells the first year. Set it under Understood as."))
    if reading.may_run_on:
        found.append(
            Caution(
                "The figures only rise within each year: they look like totals to date.",
                way_out=edit(P.intake.running, True),
                way_out_text="Take them apart into periods",
            )
        )
    return tuple(found)


def _both(text: str) -> str:
    """Both readings of a date that can be read in two ways."""
    parts = text.replace("-", "/").replace(".", "/").split("/")
    if len(parts) < 3 or not all(part.isdigit() for part in parts[:2]):
        return ""
    first, second = int(parts[0]), int(parts[1])
    if not (1 <= first <= 12 and 1 <= second <= 12):
        return ""
    return f"{first} {MONTHS[second - 1]} and not {second} {MONTHS[first - 1]}"
