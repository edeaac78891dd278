"""The side sheet of Seasons."""

from __future__ import annotations

from functools import partial

import numpy as np

from oat_tide.core.language import nouns, phrase
from oat_tide.core.periods.calendar import WEEKDAYS
from oat_tide.core.working.number_format import fixed, significant
from oat_tide.plan.edits import Edit, edit, remove
from oat_tide.plan.parts.part import Part
from oat_tide.plan.parts.seasons import LONGEST_CYCLE, Seasons
from oat_tide.plan.paths import P
from oat_tide.stages.cycle import usual_cycle
from oat_tide.stages.deck import Card, Cards, Choice, Entry, Fact, Item, Note, control
from oat_tide.stages.seasons import typed, words
from oat_tide.stages.seasons.ground import Ground, gone_of, hands_of
from oat_tide.stages.seasons.line import CarriedOn
from oat_tide.stages.seasons.selling import Days
from oat_tide.stages.seasons.taken import Taken
from oat_tide.stages.seasons.told import Evidence

_SPANS = (7, 9, 11, 13, 15, 21, 31)
_MANY = 12


def sheet(
    ground: Ground, taken: Taken | None, evidence: Evidence | None, line: CarriedOn | None, held: Days | None
) -> tuple[Item, ...]:
    """Return the items of the side sheet, those of the current arrangement first."""
    items: list[Item] = [*_method(ground)]
    if taken is not None and evidence is not None:
        items += _through(ground, line) if line is not None else []
        if ground.ask.arrangement == "parts":
            items.append(control(P.seasons.over, ground.ask))
        items += _is_there(ground, taken, evidence)
        items += _by_hand(ground)
    return (*items, *_days(ground, held))


def _method(ground: Ground) -> list[Item]:
    ask, kind = ground.ask, ground.grid.kind
    refused = _no_products(ground)
    items: list[Item] = [
        control(
            P.seasons.method,
            ask,
            names=(phrase("simple averages"), phrase("centred average"), phrase("local regression")),
        ),
        control(
            P.seasons.season,
            ask,
            names=(phrase("as suggested"), phrase("additive"), phrase("multiplicative")),
            why_nots=("", "", refused),
        ),
        Note(partial(words.suggestion, ground), "small"),
    ]
    if ask.method == "classical":
        items.append(
            control(
                P.seasons.joined, ask, names=(phrase("mean"), phrase("median"), phrase("mean without ends"))
            )
        )
    if ask.method == "loess":
        items += (
            control(
                P.seasons.seasonal, ask, kind="pick", choices=tuple(sorted({*_SPANS, ask.seasonal})),
                names=tuple(phrase("{each} cycles", each=each) for each in sorted({*_SPANS, ask.seasonal})),
            ),
            control(P.seasons.robust, ask),
        )  # fmt: skip
    usual = usual_cycle(ground.grid)
    if kind == "day":
        others = () if ask.cycle in (0, 7, 365) else (ask.cycle,)
        names = (
            phrase("the week"),
            phrase("the year"),
            *(phrase("{each} days", each=each) for each in others),
        )
        now = 0 if ask.cycle == 7 else ask.cycle
        items.append(
            control(P.seasons.cycle, ask, kind="pick", now=now, choices=(0, 365, *others), names=names)
        )
    else:
        most = min(max(ground.past // 2, ask.cycle, 2), LONGEST_CYCLE)
        items.append(
            control(P.seasons.cycle, ask, now=ask.cycle or usual, lo=2, hi=most, unit=nouns(kind))
            if most > 2
            else Note(
                phrase("A cycle of {usual} {kinds}.", usual=usual, kinds=nouns(kind)) if usual else "",
                "small",
            )
        )
    return items


def _no_products(ground: Ground) -> str:
    """Why no season can multiply here; empty where it can."""
    row = ground.sold.values[0, : ground.past]
    bad = np.flatnonzero(~np.isnan(row) & (row <= 0))
    if not bad.size:
        return ""
    which = ground.grid.label(ground.d.first + int(bad[0]))
    return (
        phrase("{which} is not above zero, nor can a season multiply it.", which=which)
        if bad.size == 1
        else phrase(
            "{which} and {bad} more are not above zero, nor can a season multiply them.",
            which=which,
            bad=len(bad) - 1,
        )
    )


def _is_there(ground: Ground, taken: Taken, evidence: Evidence) -> list[Item]:
    facts = (
        "season_f", "season_f_chance", "season_rho", "season_strength", "chance", "trend_strength", "rank_p",
        "echo", "echo_chance", "form_ahead", "year_change",
    )  # fmt: skip
    found = ground.d.facts(*facts)
    folded = (Cards("evidence", (Card(phrase("Evidence"), "", tuple(found)),), folds=True),) if found else ()
    return [
        Note(phrase("Is there a season?"), "head"),
        Note(partial(words.is_there, ground, taken, evidence)),
        *folded,
    ]


def _through(ground: Ground, line: CarriedOn) -> list[Item]:
    facts = "growth", "slope", "intercept", "s", "r2_without", "r2_raw", "r2_back", "next_year"
    return [
        Note(phrase("Line through the deseasonalised series"), "head"),
        control(P.seasons.through, ground.ask, names=(phrase("straight line"), phrase("growth curve"))),
        Note(partial(words.equation, line)),
        Note(phrase("Carried on and put back in season by the same indices it gives next year."), "small"),
        *ground.d.facts(*facts),
    ]


def _by_hand(ground: Ground) -> list[Item]:
    """What is set by hand, each with a way back."""
    if ground.ask.arrangement != "indices":
        return []
    ask, items = ground.ask, [Note(phrase("By hand"), "head")]
    found: list[Item] = []
    for each in hands_of(ground, 0):
        note = f", {each.note}" if each.note else ""
        place = ask.by_hand.index(each)
        said = fixed(each.value, 2) if each.season == "multiplicative" else significant(each.value)
        found.append(
            Choice(
                phrase("{season} is {said}{note}", season=ground.season(each.place), said=said, note=note),
                "ruled",
                ((phrase("Remove"), remove(P.seasons.by_hand[place])),),
            )
        )
    for gone in gone_of(ground, 0):
        note = f", {gone.note}" if gone.note else ""
        place = ask.left_out.index(gone)
        found.append(
            Choice(
                phrase(
                    "{season} {year_label} is left out{note}",
                    season=ground.season(gone.place),
                    year_label=ground.grid.year_label(gone.year),
                    note=note,
                ),
                "ruled",
                ((phrase("Remove"), remove(P.seasons.left_out[place])),),
            )
        )
    return [
        *ground.d.facts("factor", "hand_factor"),
        *items,
        *found[:_MANY],
        Note(words.hint(ground), "small"),
    ]


def _days(ground: Ground, held: Days | None) -> list[Item]:
    """Selling days: which weekdays, holidays and moving ones."""
    ask = ground.ask
    items: list[Item] = [
        Note(phrase("Selling days"), "head"),
        control(
            P.seasons.per,
            ask,
            names=(phrase("period total"), phrase("per selling day")),
            why_nots=("", phrase("A day is one day.") if ground.grid.kind == "day" else ""),
        ),
    ]
    if held is None:
        return items
    items += [
        control(
            P.seasons.weekdays, ask, now=held.weekdays, kind="many", choices=tuple(range(7)), names=WEEKDAYS
        ),
        Fact("average_days"),
        *_listed(ground, "holidays"),
        Choice(phrase("A holiday, fixed or from Easter"), "", (), (_entry(ask, "holidays"),)),
        *_listed(ground, "moving"),
        Choice(phrase("What sells before a moving holiday"), "", (), (_entry(ask, "moving"),)),
    ]
    return items


def _listed(ground: Ground, name: str) -> list[Item]:
    where = getattr(P.seasons, name)
    return [
        Choice(typed.said_of(each), "", ((phrase("Take out"), remove(where[place])),))
        for place, each in enumerate(getattr(ground.ask, name))
    ]


def _entry(ask: Seasons, name: str) -> Entry:
    read = typed.holiday if name == "holidays" else typed.raised
    title = phrase("25 Dec Christmas") if name == "holidays" else phrase("Easter 14 days 8 %")

    def add(text: str) -> Edit:
        added: Part = read(text)
        return edit(getattr(P.seasons, name), (*getattr(ask, name), added))

    return Entry(title, "", add)
