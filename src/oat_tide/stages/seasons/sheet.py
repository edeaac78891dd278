"""The side sheet of Seasons."""

from __future__ import annotations

from functools import partial

import numpy as np

from oat_tide.core.periods.calendar import WEEKDAYS
from oat_tide.core.working.number_format import fixed, significant
from oat_tide.plan.edits import Edit, edit, remove
from oat_tide.plan.parts.part import Part
from oat_tide.plan.parts.seasons import LONGEST_CYCLE, Seasons
from oat_tide.plan.paths import P
from oat_tide.stages.cycle import usual_cycle
from oat_tide.stages.deck import Choice, Entry, Fact, Item, Note, control
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
    """All of it; what the arrangement in sight is about stands first."""
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
        control(P.seasons.method, ask, names=("simple averages", "centred average", "local regression")),
        control(
            P.seasons.season, ask, names=("as suggested", "additive", "multiplicative"),
            why_nots=("", "", refused),
        ),
        Note(partial(words.suggestion, ground), "small"),
    ]  # fmt: skip
    if ask.method == "classical":
        items.append(control(P.seasons.joined, ask, names=("mean", "median", "mean without ends")))
    if ask.method == "loess":
        items += (
            control(
                P.seasons.seasonal, ask, kind="pick", choices=tuple(sorted({*_SPANS, ask.seasonal})),
                names=tuple(f"{each} cycles" for each in sorted({*_SPANS, ask.seasonal})),
            ),
            control(P.seasons.robust, ask),
        )  # fmt: skip
    usual = usual_cycle(ground.grid)
    if kind == "day":
        others = () if ask.cycle in (0, 7, 365) else (ask.cycle,)
        names = ("the week", "the year", *(f"{each} days" for each in others))
        now = 0 if ask.cycle == 7 else ask.cycle
        items.append(
            control(P.seasons.cycle, ask, kind="pick", now=now, choices=(0, 365, *others), names=names)
        )
    else:
        most = min(max(ground.past // 2, ask.cycle, 2), LONGEST_CYCLE)
        items.append(
            control(P.seasons.cycle, ask, now=ask.cycle or usual, lo=2, hi=most, unit=f"{kind}s")
            if most > 2
            else Note(f"A cycle of {usual} {kind}s." if usual else "", "small")
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
        f"{which} is not above zero, nor can a season multiply it."
        if bad.size == 1
        else (f"{which} and {len(bad) - 1} more are not above zero, nor can a season multiply them.")
    )


def _is_there(ground: Ground, taken: Taken, evidence: Evidence) -> list[Item]:
    facts = (
        "season_f", "season_f_chance", "season_rho", "season_strength", "chance", "trend_strength", "rank_p",
        "echo", "echo_chance", "form_ahead", "year_change",
    )  # fmt: skip
    return [
        Note("Is there a season?", "head"),
        Note(partial(words.is_there, ground, taken, evidence)),
        *ground.d.facts(*facts),
    ]


def _through(ground: Ground, line: CarriedOn) -> list[Item]:
    facts = "growth", "slope", "intercept", "s", "r2_without", "r2_raw", "r2_back", "next_year"
    return [
        Note("Line through the deseasonalised series", "head"),
        control(P.seasons.through, ground.ask, names=("straight line", "growth curve")),
        Note(partial(words.equation, line)),
        Note("Carried on and put back in season by the same indices it gives next year.", "small"),
        *ground.d.facts(*facts),
    ]


def _by_hand(ground: Ground) -> list[Item]:
    """What is set by hand, each with a way back."""
    if ground.ask.arrangement != "indices":
        return []
    ask, items = ground.ask, [Note("By hand", "head")]
    found: list[Item] = []
    for each in hands_of(ground, 0):
        note = f", {each.note}" if each.note else ""
        place = ask.by_hand.index(each)
        said = fixed(each.value, 2) if each.season == "multiplicative" else significant(each.value)
        found.append(
            Choice(
                f"{ground.season(each.place)} is {said}{note}", "ruled",
                (("Remove", remove(P.seasons.by_hand[place])),),
            )
        )  # fmt: skip
    for gone in gone_of(ground, 0):
        note = f", {gone.note}" if gone.note else ""
        place = ask.left_out.index(gone)
        found.append(
            Choice(
                f"{ground.season(gone.place)} {ground.grid.year_label(gone.year)} is left out{note}", "ruled",
                (("Remove", remove(P.seasons.left_out[place])),),
            )
        )  # fmt: skip
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
        Note("Selling days", "head"),
        control(
            P.seasons.per,
            ask,
            names=("period total", "per selling day"),
            why_nots=("", "A day is one day." if ground.grid.kind == "day" else ""),
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
        Choice("A holiday, fixed or from Easter", "", (), (_entry(ask, "holidays"),)),
        *_listed(ground, "moving"),
        Choice("What sells before a moving holiday", "", (), (_entry(ask, "moving"),)),
    ]
    return items


def _listed(ground: Ground, name: str) -> list[Item]:
    where = getattr(P.seasons, name)
    return [
        Choice(typed.said_of(each), "", (("Take out", remove(where[place])),))
        for place, each in enumerate(getattr(ground.ask, name))
    ]


def _entry(ask: Seasons, name: str) -> Entry:
    read = typed.holiday if name == "holidays" else typed.raised
    title = "25 Dec Christmas" if name == "holidays" else "Easter 14 days 8 %"

    def add(text: str) -> Edit:
        added: Part = read(text)
        return edit(getattr(P.seasons, name), (*getattr(ask, name), added))

    return Entry(title, "", add)
