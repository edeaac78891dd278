"""What stands against periods: part, odd and provisional ones, gaps, and what was ruled."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator

import numpy as np

from oat_tide.core.language import counted, noun, phrase
from oat_tide.core.periods.calendar import MONTHS
from oat_tide.core.seasons.odd import Odd
from oat_tide.core.series.panel import (
    FILLED,
    INCOMPLETE,
    LACKING,
    LEFT_OUT,
    PROVISIONAL,
    REPLACED,
    Panel,
    Sight,
)
from oat_tide.core.series.reading import Reading
from oat_tide.core.working.number_format import fixed, full
from oat_tide.core.working.tree import Ref
from oat_tide.plan.edits import Edit, edit
from oat_tide.plan.parts.evened import Evened, Ruled, RulingKind
from oat_tide.plan.parts.part import Pairs
from oat_tide.plan.paths import P
from oat_tide.stages.deck import Choice, Entry, Item, Note
from oat_tide.stages.deck.draft import Draft
from oat_tide.stages.intake import edits
from oat_tide.stages.intake.asked import IntakeParts
from oat_tide.stages.intake.firsts import by_age, movements

_MOST_ODD, _MOST_RULINGS = 4, 12
_ACTS: dict[str, str] = {
    "keep": phrase("kept"),
    "leave out": phrase("left out of averages and fits"),
    "expected": phrase("counts as expected"),
    "whole": phrase("taken as complete"),
    "note": phrase("noted"),
    "closed": phrase("closed"),
    "no stock": phrase("no stock"),
    "withdrawn": phrase("withdrawn"),
    "nothing sold": phrase("nothing sold"),
    "not known": phrase("not known"),
}


def days_held(sight: Sight, reading: Reading, column: int) -> tuple[int, int]:
    """How many days of a column the data hold, and how many it has."""
    grid, period = sight.past.grid, sight.past.first + column
    first, last = grid.first_day(period), grid.last_day(period)
    return max(min(last, reading.upto) - max(first, reading.since) + 1, 0), last - first + 1


def periods_found(d: Draft, sight: Sight, asked: IntakeParts, reading: Reading, odd: Odd) -> Iterator[Item]:
    """Part, odd and provisional periods of the series in sight, and what was ruled."""
    where = edits.pairs(reading, sight.past.keys[0])
    ruled = {(r.where, r.first, r.last): r for r in asked.evened.rulings}
    found: list[Item] = []
    for column in np.flatnonzero(d.flags[0] & INCOMPLETE).tolist():
        held, whole = days_held(sight, reading, column)
        if held:
            ruling = _ruling(sight, where, column, "whole")
            why = (
                phrase("something in it is not known")
                if held == whole
                else phrase("{held} of {whole} days", held=held, whole=whole)
            )
            text = phrase(
                "{first} is incomplete, {why}: left out of averages and fits.",
                first=d.grid.label(d.first + column),
                why=why,
            )
            few = (
                phrase("Only {held} of {whole} days are there: treat it as complete", held=held, whole=whole)
                if 2 * held < whole
                else ""
            )
            take = ((phrase("Treat as complete"), edits.with_ruling(asked.evened, ruling)),)
            found.append(Choice(text, "part", take, again=few))
    oddest = sorted(np.flatnonzero(odd.odd[0]).tolist(), key=lambda c: -abs(odd.off[0, c]))
    settled = LEFT_OUT | REPLACED
    open_ = [
        c for c in oddest if not d.flags[0, c] & settled and (where, *edits.days_of(sight, c)) not in ruled
    ]
    for column in open_[:_MOST_ODD]:
        found.append(_odd_choice(d, sight, asked, where, odd, column))
    if len(open_) > _MOST_ODD:
        found.append(
            Note(phrase("and {open:,} more that are odd by less", open=len(open_) - _MOST_ODD), "small")
        )
    found += _gaps_found(d, sight, asked, where)
    for ruling in asked.evened.rulings[:_MOST_RULINGS]:
        found.append(_ruled_choice(asked, ruling))
    found += _provisional(d, sight, asked.evened)
    if found:
        yield Note(phrase("Incomplete, unusual and provisional"), "head")
        yield from found


def _gaps_found(d: Draft, sight: Sight, asked: IntakeParts, where: Pairs) -> Iterator[Item]:
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
        text = phrase("No line since {first}: taken as nothing sold.", first=d.grid.label(d.first + last))
        yield Choice(text, "part", ((phrase("Withdrawn"), edits.with_ruling(asked.evened, ruling)),))
    holes = int((past.lines[0, first:last] == 0).sum())
    if holes:
        days = edits.days_of(sight, first)[0], edits.days_of(sight, last)[1]
        unknown = bool(np.isnan(past.values[0, first:last]).any())
        other: RulingKind = "nothing sold" if unknown else "not known"
        ruling = Ruled(where=where, first=days[0], last=days[1], act=other)
        now = phrase("not known") if unknown else phrase("nothing sold")
        text = phrase("{holes} without a line: {now}.", holes=counted(holes, d.grid.kind), now=now)
        yield Choice(text, "part", ((_ACTS[other].capitalize(), edits.with_ruling(asked.evened, ruling)),))


def _ruling(sight: Sight, where: Pairs, column: int, act: RulingKind, value: float = 0.0) -> Ruled:
    first, last = edits.days_of(sight, column)
    return Ruled(where=where, first=first, last=last, act=act, value=value)


def _odd_choice(d: Draft, sight: Sight, asked: IntakeParts, where: Pairs, odd: Odd, column: int) -> Choice:
    size, expected = float(odd.off[0, column]), float(odd.expected[0, column])
    side = phrase("under") if size < 0 else phrase("over")
    text = phrase(
        "{first} is {size} % {side} what level and season suggest.",
        first=d.grid.label(d.first + column),
        size=fixed(abs(size), 0),
        side=side,
    )
    put = _ruling(sight, where, column, "expected", value=round(expected * _scale(sight)) / _scale(sight))
    outcomes: tuple[tuple[str, Edit | None], ...] = tuple(
        (words, edits.with_ruling(asked.evened, ruling))
        for words, ruling in (
            (phrase("Keep"), _ruling(sight, where, column, "keep")),
            (phrase("Leave out"), _ruling(sight, where, column, "leave out")),
            (phrase("Replace by {full}", full=full(put.value)), put),
        )
    )
    return Choice(text, "odd", outcomes, evidence=Ref("intake", "off", 0, column))


def _scale(sight: Sight) -> float:
    """Minor units in one unit."""
    return sight.past.scale


def _ruled_choice(asked: IntakeParts, ruling: Ruled) -> Choice:
    """A ruling as it stands, to be written on or taken back."""
    whom = ", ".join(member for _, member in ruling.where) or phrase("All")
    figure = f" {full(ruling.value)}" if ruling.act == "expected" else ""
    text = f"{whom}, {_days(ruling)}: {_ACTS[ruling.act]}{figure}" + (
        f" – {ruling.note}" if ruling.note else ""
    )
    entries = [Entry(phrase("Note"), ruling.note, lambda text: edits.noted(asked.evened, ruling, text))]
    if ruling.act == "expected":
        now = full(ruling.value)
        entries.append(
            Entry(phrase("Expected"), now, lambda text: edits.expected(asked.evened, ruling, text))
        )
    return Choice(
        text, "ruled", ((phrase("Remove"), edits.without_ruling(asked.evened, ruling)),), tuple(entries)
    )


def _days(ruling: Ruled) -> str:
    """The days of a ruling, as a month where they are one."""
    first, last = ruling.first, ruling.last
    if last >= edits.FOREVER:
        return phrase("from {first:%Y-%m-%d}", first=first)
    if (
        first.day == 1
        and (last + dt.timedelta(1)).day == 1
        and (first.year, first.month) == (last.year, last.month)
    ):
        return f"{MONTHS[first.month - 1]} {first.year}"
    return f"{first:%Y-%m-%d}" if first == last else f"{first:%Y-%m-%d} – {last:%Y-%m-%d}"


def _provisional(d: Draft, sight: Sight, evened: Evened) -> Iterator[Item]:
    open_ = np.flatnonzero(d.flags[0] & PROVISIONAL).tolist()
    whole = [column for column in open_ if not d.flags[0, column] & INCOMPLETE]
    if whole:
        yield Choice(
            phrase("{first} and later: provisional.", first=d.grid.label(d.first + whole[0])),
            "provisional",
            ((phrase("Mark all final"), edit(P.evened.final_to, None)),),
        )
    for age, shares in sorted(by_age(movements(evened.firsts, sight)).items()):
        mean, spread = float(np.mean(shares)), float(np.std(shares))
        after = phrase("{age} after its end", age=counted(age, d.grid.kind)) if age else phrase("at its end")
        yield Note(
            phrase(
                "First-published figures seen {after} moved by {mean} % on average (spread "
                "{spread}), {shares}.",
                after=after,
                mean=fixed(mean, 1, plus=True),
                spread=fixed(spread, 1),
                shares=counted(len(shares), "figure"),
            ),
            "small",
        )


def gaps_of(leaves: Panel) -> tuple[int, int]:
    """Periods of series without a line, taken as nothing sold and as not known."""
    missing = (leaves.flags & LACKING > 0) & (leaves.lines == 0) & (leaves.unread == 0)
    return int((leaves.flags & FILLED > 0).sum()), int(missing.sum())


def gaps_taken(asked: IntakeParts, leaves: Panel) -> str:
    """What periods without a line were taken for."""
    kind = leaves.grid.kind
    sold, missing = gaps_of(leaves)
    said = []
    if sold:
        said.append(
            phrase("{sold} of series without a line: taken as nothing sold.", sold=counted(sold, kind))
        )
    if missing:
        said.append(
            phrase("{missing} of series without a line: taken as not known.", missing=counted(missing, kind))
        )
        if asked.evened.gaps == "by content" and leaves.totalled == "sum":
            said.append(phrase("They have one line at most, and nine tenths of them are there."))
    return " ".join(said) or phrase("No {kind} of a series is without a line.", kind=noun(kind))
