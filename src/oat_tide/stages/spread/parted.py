"""The total in parts: each its share of what is not locked, brought to whole figures that add up."""

from __future__ import annotations

from functools import partial

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.periods.calendar import day_number
from oat_tide.core.spread import Spread as Parts
from oat_tide.core.spread import Unmet, spread
from oat_tide.core.working.formula import Formula, either, given, only, rounded_down, total
from oat_tide.core.working.number_format import full
from oat_tide.core.working.terms import Term, known, wide
from oat_tide.plan.parts.spread import SpreadRequest
from oat_tide.stages.deck import Remark
from oat_tide.stages.spread.ground import Ground, Outcome
from oat_tide.stages.spread.made import Parted
from oat_tide.stages.spread.weights import NAMES, counting


def part(g: Ground, weights: Values) -> Outcome:
    """The parts of each series, or why there are none."""
    parts, why = [], []
    for series, asked in enumerate(g.asked):
        found, said = None, ""
        if asked.total or asked.locks:
            found, said = _of_one(g, asked, weights[series, g.at], g.locked[series, g.at])
        parts.append(found)
        why.append(said)
    return Outcome(tuple(parts), tuple(why))


def _of_one(g: Ground, asked: SpreadRequest, weights: Values, locked: Values) -> tuple[Parts | None, str]:
    free = np.isnan(locked)
    for figure in (asked.total, *locked[~free].tolist()):
        if not g.is_whole(figure):
            said = phrase("{full} does not come in {come}", full=full(figure), come=g.come)
            return None, phrase("{said}: write such a figure, or choose hundredths.", said=said)
    if (gone := np.isnan(weights) & free).any():
        which = g.label(g.first + int(gone.argmax()))
        return None, phrase(
            "{which} has nothing to be spread by. Spread evenly, or by something else.", which=which
        )
    units = np.array([0 if np.isnan(each) else g.units(each) for each in locked], np.int64)
    try:
        found = spread(
            g.units(asked.total), np.nan_to_num(weights), units, free, g.pack, _rest_in(g, len(locked))
        )
    except Unmet as error:
        return None, in_words(g, error, asked)
    return found, ""


def _rest_in(g: Ground, many: int) -> int | None:
    """The place of the period that takes what fills no pack."""
    if g.ask.rest is None:
        return None
    place = g.grid.period(day_number(g.ask.rest)) - g.d.first - g.first
    return place if 0 <= place < many else None


def in_words(g: Ground, error: Unmet, asked: SpreadRequest) -> str:
    """Why a total cannot be spread, and what to do."""
    by, whole, unit, basis = full(error.by / g.scale), full(asked.total), g.unit, NAMES[g.ask.by]
    return {
        "total": phrase("A total of {whole} cannot be spread: write one above zero.", whole=whole),
        "nothing": phrase("There are no periods to spread it over. Choose a longer range."),
        "locks": phrase(
            "The fixed figures are {by} more than the total of {whole}: free some, or raise it.",
            by=by,
            whole=whole,
        ),
        "lack": phrase(
            "Every period is fixed, and {by} {unit} of the total are left: free one.", by=by, unit=unit
        ),
        "weight": phrase(
            "By {basis} what is not fixed has no weight: free more, or spread evenly.", basis=basis
        ),
        "pack": phrase(
            "A pack of {pack} is more than the {by} {unit} that are left: take smaller packs.",
            pack=g.ask.pack,
            by=by,
            unit=unit,
        ),
    }[error.reason]


def rows(g: Ground, locked: Term, raw: Term, outcome: Outcome) -> Parted:
    """What each period gets, with the steps that lead to it."""
    d, shape = g.d, (len(g.d.keys), g.d.columns)
    asked = np.array([[each.total or np.nan] for each in g.asked])
    row = partial(d.define, unit=g.unit)
    whole = row(
        "total",
        phrase("total"),
        given(asked, phrase("as written")),
        exact=True,
        blank=phrase("Write a total."),
    )
    weight = counting(g, raw)
    free = np.isnan(g.locked) & g.inside
    there = np.array([[each is not None] for each in outcome.parts])
    locks = row("locked_total", phrase("fixed"), total(known(locked.between(g.first, g.last))), exact=True)
    left = packed = row("left", phrase("left to spread"), whole - locks, exact=True)
    counted = d.define("free_weight", phrase("weight of what is not fixed"), only(free, weight), shown=False)
    every = total(known(counted.between(g.first, g.last)))
    weights = d.define("weights", phrase("all of it"), every, shown=False)
    if g.pack > 1:
        packed = row("packed", phrase("of it in whole packs"), whole_packs(g, left), shown=False)
    share = row(
        "share_exact",
        phrase("its share of what is left"),
        packed * weight / weights,
        where=free & there,
        shown=False,
    )
    down = row("share_down", phrase("its share, rounded down"), whole_packs(g, share), shown=False)
    got = np.full(shape, np.nan)
    for series, found in enumerate(outcome.parts):
        if found is not None:
            got[series, g.at] = found.parts / g.scale
    more = given(got - wide(down.values, d.columns, np.nan), _why_up(g))
    up = row(
        "up", phrase("rounding up, with what is less than a pack"), more, where=free & there, shown=False
    )
    spread_row = row(
        "spread",
        phrase("Spread"),
        either(free, down + up, locked) if free.any() else locked,
        values=got,
        where=g.inside & there,
        adds_up=True,
        exact=True,
        blank=phrase("It lies outside of what the total is spread over, or nothing is spread yet."),
        remark=_holds_rest(g, outcome),
    )
    return Parted(raw, spread_row, whole, left)


def whole_packs(g: Ground, of: Term) -> Formula:
    """What of a figure comes in whole packs, whole figures or hundredths."""
    size = g.pack / g.scale
    return rounded_down(of) if size == 1 else size * rounded_down(of / size)


def _why_up(g: Ground) -> str:
    """Why a part is more than its share rounded down."""
    one = full(g.pack / g.scale)
    return phrase(
        "{one} more where the remainder is among the largest, so that all add up to the total", one=one
    )


def _holds_rest(g: Ground, outcome: Outcome) -> Remark:
    def remark(series: int, column: int) -> str:
        found = outcome.parts[series]
        if found is None or found.rest_in < 0 or column != g.first + found.rest_in:
            return ""
        return g.rest_held(found.rest)

    return remark
