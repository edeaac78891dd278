"""Intake: can I trust this history? What was read, what it ties to, and what stands against periods."""

from __future__ import annotations

import functools
from collections.abc import Iterator
from dataclasses import dataclass
from functools import partial
from weakref import WeakKeyDictionary

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.language import counted, noun, phrase
from oat_tide.core.seasons.odd import HALF, MANY, Odd, find_odd
from oat_tide.core.series.coded import Coded
from oat_tide.core.series.panel import FILLED, INCOMPLETE, LEFT_OUT, PROVISIONAL, Panel, Sight
from oat_tide.core.series.reading import Reading
from oat_tide.core.series.tie_out import TieOut
from oat_tide.core.working.formula import Formula, added_up, either, given, mean, median, total
from oat_tide.core.working.number_format import fixed, full
from oat_tide.core.working.terms import Columns, Find, Term, known, same_place, wide
from oat_tide.plan.edits import edit
from oat_tide.plan.parts.evened import Evened
from oat_tide.plan.parts.intake import Intake
from oat_tide.plan.parts.periods import Periods
from oat_tide.plan.parts.sources import Sources
from oat_tide.plan.paths import P
from oat_tide.stages.common import as_of_handle, named, span
from oat_tide.stages.deck import Band, Coverage, Curve, Deck, LateWork, Mark
from oat_tide.stages.deck.draft import Draft
from oat_tide.stages.intake.asked import IntakeParts
from oat_tide.stages.intake.edits import pairs
from oat_tide.stages.intake.lists import listings, withheld_words
from oat_tide.stages.intake.periods import days_held
from oat_tide.stages.intake.sheet import cautions, sheet
from oat_tide.stages.intake.taken import taken
from oat_tide.stages.intake.tied import MOST_NAMED, outcome
from oat_tide.stages.needs import LEAVES, READING, TIE, need

NAME = "intake"
_MOST_MARKS = 6
_TIMES = 200
"""Percent above what was expected from which on it is said how many times."""


@dataclass(frozen=True, eq=False, slots=True)
class Needs:
    """What the stage stands on."""

    lines: Deck = need("lines")
    reading: Reading = need(READING)
    tie: TieOut = need(TIE)
    leaves: Panel = need(LEAVES)


def make(
    sight: Sight,
    ask: tuple[Sources, Intake, Evened, Periods],
    needs: Needs,
    late: LateWork,
) -> Deck:
    """The deck of Intake: the actual of every period, what is odd, and the facts of the sources."""
    lines, reading, tie, leaves = needs.lines, needs.reading, needs.tie, needs.leaves
    asked = IntakeParts(*ask).fitted(reading)
    d = Draft(NAME, sight)
    actual, *_ = (d.borrow(lines, name) for name in lines.figures)
    odd = _odd(d, sight, actual)
    told = _tie_out(d, reading, tie, actual)
    unit, grid = reading.unit, d.grid
    count = len(leaves.keys)
    return d.deck(
        bands=(Band(unit, (Curve("actual", "columns"),)),),
        sheet=lambda: sheet(d, sight, asked, reading, tie, odd, leaves, told),
        handles=(as_of_handle(sight),),
        listings=listings(asked, reading, tie),
        title=lambda series: (
            phrase(
                "{used} make {columns} of {count:,} series",
                used=counted(reading.used, "line"),
                columns=counted(d.columns, grid.kind),
                count=count,
            )
            + outcome(reading, tie)
        ),
        subtitle=lambda series: phrase(
            "{keys} · {unit} {per_period} · {span} · tint: lines held in the {kind}",
            keys=named(d.keys[series]),
            unit=unit,
            per_period=grid.per_period,
            span=span(sight, 0, d.columns - 1),
            kind=noun(grid.kind),
        ),
        finding=lambda series: _finding(d, reading, tie, series),
        cautions=lambda series: cautions(asked, reading, tie),
        marks=lambda series: _marks(d, sight, reading, lines, odd, series),
        coverage=partial(coverage, reading, leaves),
        sentence=taken(asked.intake, reading),
    )


def _odd(d: Draft, sight: Sight, sold: Term) -> Odd:
    """What was to be expected of each period, as hidden figures, and which are odd."""
    past, unit = sight.past, sold.source.figure.unit
    actual = sold.seeing(past.whole)
    half = HALF[past.grid.kind]
    odd = find_odd(actual.values[:, : past.columns], past.grid, past.first)
    hidden = partial(d.define, shown=False)
    mean_around = _centred(actual, 7 if past.grid.kind == "day" else past.grid.cycle)
    around = either(wide(odd.centred, d.columns, False), mean_around, median(known(actual.over(-half, half))))
    there = wide(~np.isnan(odd.base), d.columns, False)
    base = hidden(
        "base", phrase("mean of a full cycle around it"), around, values=odd.base, where=there, unit=unit
    )
    ratio = hidden(
        "against_base", phrase("against that mean"), actual / base, values=odd.ratio, where=base > 0
    )
    alike = same_place(wide(odd.place[None], d.columns, -1)[0])
    there = np.arange(d.columns)[None] < past.columns
    enough, one = wide(odd.told, d.columns, False), given(1.0, phrase("too few years to compare"))
    every, usual = (
        hidden(name, label, either(enough, median(known(ratio.likes(find))), one), values=values, where=there)
        for name, label, find, values in (
            ("usual_of_all", phrase("usual at its place, all years"), alike, odd.every),
            ("usual", phrase("usual at its place, other years"), _others_of(alike), odd.usual),
        )
    )
    without = hidden(
        "without_usual", phrase("without what is usual"), actual / every, values=odd.without, unit=unit
    )
    line = given(
        wide(odd.around, d.columns, np.nan),
        phrase(
            "a line by medians of slopes through {half} periods at this end, without what is usual",
            half=2 * half + 1,
        ),
    )
    middle = either(wide(odd.carried, d.columns, False), line, median(known(without.over(-half, half))))
    held = wide(~np.isnan(odd.around), d.columns, False)
    level = hidden("level", phrase("level around it"), middle, values=odd.around, where=held, unit=unit)
    expected = hidden(
        "expected", phrase("Expected by level and season"), level * usual, where=actual, unit=unit
    )
    off = 100 * (actual / expected - 1)
    hidden(
        "off", phrase("Off what was expected"), off, values=odd.off, where=expected > 0, unit="%", signed=True
    )
    return odd


def _centred(actual: Term, cycle: int) -> Formula:
    """The centred mean of a whole cycle: of an even one half the first and half the last."""
    half = cycle // 2
    if cycle % 2:
        return mean(actual.over(-half, half))
    middle = total(actual.over(1 - half, half - 1))
    return (actual.shift(-half) / 2 + middle + actual.shift(half) / 2) / cycle


def _others_of(alike: Find) -> Find:
    """The columns at the same place but for the own one, where they are few."""

    def find(columns: Columns) -> Columns:
        found = alike(columns)
        few = (found >= 0).sum(1, keepdims=True) <= MANY
        return np.where(few & (found == columns[:, None]), -1, found)

    return find


def _tie_out(d: Draft, reading: Reading, tie: TieOut, actual: Term) -> tuple[str, ...]:
    """What the source holds, in lines and in the measure, what became of it, and what the series hold.

    Returns:
        the facts of what is in no series, or was kept back, in the order that they are told in.
    """
    unit, texts = reading.unit, phrase("added up from the texts of the source")
    measure = unit if reading.totalled == "sum" else reading.value

    def fact(name: str, label: str, value: float, why: str, unit: str) -> Term:
        return d.define(name, label, given(value, why), sees_later=True, unit=unit, exact=True)

    read = fact("read", phrase("lines read"), reading.read, phrase("counted in the source"), "lines")
    counts = {"used": reading.used, **dict(_others(reading))}
    made = [
        fact(name, label, counts[name], phrase("counted in the source"), "lines")
        for name, label in {"used": phrase("used"), **_OTHERS}.items()
        if name in counts and name != "aside"
    ]
    aside = read - added_up(made)
    d.define("aside", _OTHERS["aside"], aside, unit="lines", sees_later=True)
    fact("in_source", phrase("{measure} in the source", measure=measure), float(tie.source), texts, unit)
    count = len(reading.members[0]) if len(reading.members) == 1 else 0
    held = (
        phrase("{unit} in {count:,} series", unit=unit, count=count)
        if count
        else phrase("{unit} in all series", unit=unit)
    )
    fact("in_all", held, float(tie.series), phrase("added up over every series and period"), unit)
    left: list[Term] = []
    for place, each in enumerate(
        (*reading.figures_in("asked"), *reading.figures_in("no series"))[:MOST_NAMED]
    ):
        state = phrase("not settled") if each.use == "asked" else phrase("in no series")
        left.append(fact(f"left_{place}", f"{each.name}, {state}", float(each.amount), texts, each.name))
    for name in counts:
        if name in _OTHERS and reading.added(name):
            where = phrase("in total rows") if name == "totals" else _OTHERS[name]
            amount = float(reading.added(name))
            left.append(fact(f"{name}_amount", f"{measure} {where}", amount, texts, unit))
    if tie.withheld:
        why = phrase("lines of periods that are not known, or before the last of their period")
        said = f"{measure} {withheld_words(reading)}"
        left.append(fact("withheld", said, float(tie.withheld), why, unit))
    d.define(
        "in_series",
        phrase("{unit} in this series", unit=unit),
        total(known(actual.between(0, d.columns - 1))),
        unit=unit,
        sees_later=True,
        shown=reading.totalled != "mean",
    )
    return tuple(each.source.figure.name for each in left)


_OTHERS = {"beside": phrase("other scenarios"), "aside": phrase("set aside"), "totals": phrase("total rows")}


def _others(reading: Reading) -> Iterator[tuple[str, int]]:
    """What became of lines that are not used, and how many they are."""
    for name in _OTHERS:
        if name == "aside" or getattr(reading, name):
            yield name, getattr(reading, name)


def _finding(d: Draft, reading: Reading, tie: TieOut, series: int) -> str:
    said = phrase("off by {full}", full=full(float(tie.gap)))
    if tie.ties:
        said = phrase("{used} tie", used=counted(reading.used, "line"))
    asked = reading.figures_in("asked")
    if tie.ties and reading.asks:
        said = f"“{asked[0].name}”?" if asked else phrase("decimal mark?")
    if reading.aside:
        return phrase("{said}\n{aside:,} set aside", said=said, aside=reading.aside)
    if in_none := reading.figures_in("no series"):
        columns = in_none[0].name if len(in_none) == 1 else counted(len(in_none), "column")
        return phrase("{said}\n{columns} in no series", said=said, columns=columns)
    open_ = int((d.flags[series] & PROVISIONAL > 0).sum())
    return f"{said}\n" + (phrase("{open} provisional", open=open_) if open_ else phrase("none set aside"))


def _marks(d: Draft, sight: Sight, reading: Reading, lines: Deck, odd: Odd, series: int) -> tuple[Mark, ...]:
    """What is said on the chart: the oddest periods, notes, and the part ones."""
    marks = list(lines.marks(series))
    oddest = sorted(np.flatnonzero(odd.odd[series]).tolist(), key=lambda c: -abs(odd.off[series, c]))
    for column in oddest[:_MOST_MARKS]:
        size = float(odd.off[series, column])
        side = "low" if size < 0 else "high"
        # What is many times too high is no percentage that anybody reads.
        said = (
            f"{fixed(abs(size), 0)} % {side}"
            if size < _TIMES
            else phrase("{size} × expected", size=fixed(1 + size / 100, 1))
        )
        said += phrase(", left out") if d.flags[series, column] & LEFT_OUT else ""
        marks.append(Mark(column, said, "odd"))
    for column in np.flatnonzero(d.flags[series] & INCOMPLETE).tolist():
        held, whole = days_held(sight, reading, column)
        if held:
            marks.append(Mark(column, phrase("part, {held} of {whole} days", held=held, whole=whole), "part"))
    return tuple(marks)


@functools.lru_cache(4)
def coverage(reading: Reading, leaves: Panel) -> Coverage:
    """Every series by period, the largest first, and what is to be said of its start and end."""
    order, names = _in_order(leaves)
    flags = leaves.flags[order]
    flags[leaves.lines[order] > 0] &= ~np.uint8(FILLED)
    return Coverage(
        names,
        leaves.lines[order],
        flags,
        np.isnan(leaves.values[order]),
        _said(reading, leaves, order),
        lambda row: edit(P.where, pairs(reading, leaves.keys[int(order[row])])),
    )


_Order = tuple[NDArray[np.intp], tuple[str, ...]]
_ORDERS: WeakKeyDictionary[Coded, _Order] = WeakKeyDictionary()


def _in_order(leaves: Panel) -> _Order:
    """The places of the series, the largest first, and their names, whatever is ruled of them."""
    found = _ORDERS.get(leaves.coded)
    if found is None:
        order = np.argsort(-leaves.lines.sum(1), kind="stable")
        found = _ORDERS[leaves.coded] = order, tuple(named(leaves.keys[at]) for at in order.tolist())
    return found


def _said(
    reading: Reading, leaves: Panel, order: NDArray[np.intp]
) -> tuple[tuple[tuple[int, str], ...], ...]:
    """What is to be said of the start and the end of each series, with the column it is said at."""
    held, grid = leaves.lines[order] > 0, leaves.grid
    last = min(max(grid.period(reading.upto) - leaves.first, 0), leaves.columns - 1)
    starts, ends = held.argmax(1), leaves.columns - 1 - held[:, ::-1].argmax(1)
    whole = (leaves.flags[0] & INCOMPLETE) == 0
    after = np.flatnonzero(whole[: last + 1])
    since = len(after) - np.searchsorted(after, ends, "right")
    said: list[tuple[tuple[int, str], ...]] = [()] * len(order)
    for row in np.flatnonzero(held.any(1) & ((starts > 1) | (since >= 2))).tolist():
        first, end, own = int(starts[row]), int(ends[row]), []
        if first > 1:
            own.append((first, phrase("since {first}", first=grid.label(leaves.first + first))))
        if since[row] >= 2:
            gone = np.isnan(leaves.values[order[row], after[-1]])
            word = phrase("withdrawn after") if gone else phrase("last sold")
            own.append((end, f"{word} {grid.label(leaves.first + end)}"))
        said[row] = tuple(own)
    return tuple(said)
