"""In sequence: each period against the one before, and against the like period of the year before."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

import numpy as np

from oat_tide.core.exact import Values, added
from oat_tide.core.language import counted, noun, phrase
from oat_tide.core.periods.calendar import NONE, Days
from oat_tide.core.series.coded import Key
from oat_tide.core.series.panel import Panel, Sight, narrowed
from oat_tide.core.series.reading import Reading
from oat_tide.core.working.formula import mean, percent, total
from oat_tide.core.working.number_format import compact, fixed, significant
from oat_tide.core.working.terms import Term
from oat_tide.plan.edits import edit
from oat_tide.plan.parts.history import History
from oat_tide.plan.paths import P
from oat_tide.stages.common import as_known_now, as_of_handle, named, span, year_before
from oat_tide.stages.deck import (
    Band,
    Choice,
    Curve,
    Deck,
    Explanation,
    Fact,
    Item,
    Note,
    control,
)
from oat_tide.stages.deck.draft import Draft, from_lines
from oat_tide.stages.history import NAME
from oat_tide.stages.history.context import HistoryContext
from oat_tide.stages.history.years import settled, whole
from oat_tide.stages.intake.edits import pairs
from oat_tide.stages.published import Actuals, actuals_of
from oat_tide.stages.scenarios import against_scenarios, borrow_scenarios

_NO_LIKE = {
    "week": phrase("Week 53 has no matching week 52 weeks earlier."),
    "day": phrase("29 February has no matching day a year earlier."),
}
"""Why a period has no other to be held against."""


def make(context: HistoryContext) -> Deck:
    """The deck: change on the period before and on the like period of the year before."""
    sight, ask, lines = context.sight, context.ask, context.lines
    d = Draft(NAME, sight)
    actuals = actuals_of(lines)
    d.borrow(lines, "actual")
    kind, unit = d.grid.kind, actuals.unit
    actual = actuals.actual.seeing(sight.whole)
    against = partial(_against, d, actuals, actual)
    against(
        np.arange(d.columns) - 1,
        "before",
        phrase("Change on previous {kind}", kind=noun(kind)),
        phrase("Change on previous {kind}, %", kind=noun(kind)),
    )
    if kind != "year":
        columns = year_before(d.grid, d.first, d.columns)
        # Weeks are held against the one 52 weeks earlier, which has not always the same number.
        weeks = kind == "week"
        said = (
            phrase("Change on 52 weeks earlier")
            if weeks
            else phrase("Change on same {kind} last year", kind=noun(kind))
        )
        against(columns, "year", said, f"{said}, %")
    budgets = borrow_scenarios(d, lines)
    against_scenarios(d, lines, actual)
    latest = _trailing(d, sight, lines)
    pinned = pins(d, sight, ask, context.leaves, context.reading, unit)
    return d.deck(
        bands=_bands(d, ask, pinned, actuals, budgets),
        sheet=lambda: (
            *_pin_choices(sight, ask, context.reading, pinned),
            Note(_latest(d), "head"),
            Fact("trailing"),
            Fact("trailing_before"),
            Fact("growth"),
            Fact("trailing_mean"),
        ),
        handles=(as_of_handle(sight),),
        arrangements=context.arrangements,
        marks=lines.marks,
        title=lambda series: phrase("{kind} by {kind}", kind=noun(kind)),
        subtitle=lambda series: (
            f"{unit} {d.grid.per_period} · {span(sight, 0, d.columns - 1)}"
            f"{phrase(' · against 52 weeks earlier') if kind == 'week' else ''}{as_known_now(sight)}"
        ),
        finding=lambda series: _finding(d, actuals.adds_up, *latest, series),
    )


def _against(
    d: Draft, actuals: Actuals, actual: Term, columns: Days, name: str, label: str, share_label: str
) -> None:
    """Two rows: the difference from another period, and that as % of it."""
    other, kind = actual.like(columns), d.grid.kind

    def why_not(series: int, column: int) -> str:
        if np.isnan(actual.values[series, column]):
            return phrase("The period is part, or not known.")
        base = other.values[series, column]
        if columns[column] == NONE:
            return _NO_LIKE.get(kind, phrase("There is no matching period a year earlier."))
        if np.isnan(base):
            return phrase("There is no complete period to compare it with.")
        return phrase("The base is {base}: a share of it means nothing.", base=significant(base))

    row = partial(d.define, sees_later=True, signed=True, blank=why_not)
    # A year's difference is the sum of its months'; of one period on the last, the sum is another thing.
    adds_up = name == "year" and actuals.adds_up
    brief = phrase("Change on last year") if name == "year" and kind != "week" else ""
    difference = row(f"on_{name}", label, actual - other, unit=actuals.unit, adds_up=adds_up, brief=brief)
    row(f"growth_{name}", share_label, percent(difference, other), unit="%", brief=phrase("the same, %"))


def _trailing(d: Draft, sight: Sight, lines: Deck) -> tuple[Term, Term]:
    """The total of the last year of periods up to the as-of, and its change on the year before in %."""
    past, length, unit = sight.past, d.grid.cycle, actuals_of(lines).unit
    actual = whole(sight, lines)

    enough = past.columns >= length and past.totalled == "sum"

    def add_total(name: str, label: str, stop: int) -> Term:
        there = np.array([[stop >= length and past.totalled == "sum"]])
        return d.define(
            name,
            label,
            total(actual.between(stop - length, stop - 1)),
            values=lambda: added(actual.values[:, stop - length : stop], past.scale, 1)[:, None],
            where=there,
            unit=unit,
        )

    now = add_total("trailing", phrase("total"), past.columns)
    then = add_total("trailing_before", phrase("the year before"), past.columns - length)
    growth = d.define("growth", phrase("growth"), percent(now - then, then), unit="%", signed=True)
    average = mean(settled(sight, lines).between(past.columns - length, past.columns - 1))
    d.define(
        "trailing_mean",
        phrase("mean {per_period}", per_period=d.grid.per_period),
        average,
        where=np.array([[enough]]),
        unit=unit,
    )
    return now, growth


def _stretch(d: Draft) -> str:
    return counted(1 if d.grid.kind == "year" else d.grid.cycle, d.grid.kind)


def _finding(d: Draft, adds_up: bool, now: Term, change: Term, series: int) -> str:
    total, growth = (float(each.values[series, 0]) for each in (now, change))
    if np.isnan(total):
        if not adds_up:
            return phrase("figures that are\nnot added up")
        if d.past < d.grid.cycle:
            return phrase("less than\n{stretch} of history", stretch=_stretch(d))
        return phrase("{stretch}:\nnot all known", stretch=_stretch(d))
    head = f"{_latest(d)} {compact(total)}"
    if np.isnan(growth):
        return phrase("{head},\nno growth rate", head=head)
    before = (
        phrase("the year before")
        if d.grid.kind == "year"
        else phrase("the {cycle} before", cycle=d.grid.cycle)
    )
    return phrase(
        "{head},\n{growth} % on {before}", head=head, growth=fixed(growth, 1, plus=True), before=before
    )


def _latest(d: Draft) -> str:
    """The latest year of periods in words."""
    if d.grid.kind == "year":
        return d.grid.label(d.first + d.past - 1)
    return phrase("Last {stretch}", stretch=_stretch(d))


def _bands(
    d: Draft, ask: History, pinned: list[tuple[str, str]], actuals: Actuals, budgets: tuple[Curve, ...]
) -> tuple[Band, ...]:
    """The series in sight with its budgets or the pinned ones: on one chart, or a chart each on one scale."""
    if not pinned:
        line = Curve("actual", "actual", label=actuals.label.lower())
        return (Band(actuals.unit, (*budgets, line)),)
    own = named(d.keys[0])
    if ask.multiples == "a chart each":
        others = (Band(said, (Curve(name, "actual"),)) for name, said in pinned)
        return (Band(own, (Curve("actual", "actual"),)), *others)
    curves = [
        Curve(name, "smoothed", label=said, shade=1 - 0.7 * place / len(pinned))
        for place, (name, said) in enumerate(pinned)
    ]
    return (Band(actuals.unit, (*curves, Curve("actual", "actual", label=own))),)


def pins(
    d: Draft, sight: Sight, ask: History, leaves: Panel, reading: Reading, unit: str
) -> list[tuple[str, str]]:
    """Rows of the pinned series that there are, beside the one in sight: figure and name of each."""
    found: list[tuple[str, str]] = []
    dimensions = reading.dimensions
    for where in ask.pinned:
        key = tuple(dict(where).get(name) for name in dimensions)
        if len(d.keys) != 1 or key == d.keys[0] or any(name not in dimensions for name, _ in where):
            continue
        seen = narrowed(leaves, key)
        past = sight.past.columns
        values, lines = seen.values[:, :past], seen.lines[:, :past]
        if np.isnan(values).all():
            continue
        name = f"pinned_{len(found)}"
        how = _from_lines(d.first, key, values[0], lines[0])
        shown = np.where(sight.past.whole, values, np.nan)
        d.add(name, named(key), shown, how, unit=unit, adds_up=True, blank=_not_pinned)
        found.append((name, named(key)))
    return found


def _not_pinned(series: int, column: int) -> str:
    return phrase("Not known, part, or after the as-of.")


def _from_lines(first: int, key: Key, values: Values, lines: Days) -> Explanation:
    return lambda series, column: from_lines(float(values[column]), key, first + column, int(lines[column]))


def _pin_choices(
    sight: Sight, ask: History, reading: Reading, pinned: list[tuple[str, str]]
) -> Iterator[Item]:
    """Pinning the series in sight, and taking pinned ones off."""
    if not reading.dimensions or len(sight.past.keys) != 1:
        return
    key = sight.past.keys[0]
    where = pairs(reading, key)
    yield Note(phrase("Pinned series"), "head")
    for each in ask.pinned:
        rest = tuple(other for other in ask.pinned if other != each)
        name = ", ".join(member for _, member in each) or phrase("All")
        yield Choice(name, "ruled", ((phrase("Take off"), edit(P.history.pinned, rest)),))
    if where not in ask.pinned and len(ask.pinned) < 6:
        pin = edit(P.history.pinned, (*ask.pinned, where))
        yield Choice(phrase("{key}, in sight", key=named(key)), "", ((phrase("Pin it"), pin),))
    if pinned:
        yield control(P.history.multiples, ask)
