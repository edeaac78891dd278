"""What a spread says: title, subtitle, what it asks beside the projection, and what stands against it."""

from __future__ import annotations

import math

import numpy as np

from oat_tide.core.language import counted, noun, nouns, phrase
from oat_tide.core.working.number_format import compact, fixed, full
from oat_tide.core.working.terms import Term
from oat_tide.plan.edits import edit
from oat_tide.plan.paths import P
from oat_tide.stages.common import as_known_now, listed, named
from oat_tide.stages.deck import Caution
from oat_tide.stages.spread.children import Children
from oat_tide.stages.spread.ground import Ground, Outcome
from oat_tide.stages.spread.made import Beside, Going, Parted
from oat_tide.stages.spread.weights import NAMES


def title(g: Ground, outcome: Outcome, series: int) -> str:
    """The total and what it is spread over."""
    name = named(g.d.keys[series])
    if outcome.parts[series] is None:
        return phrase("{name}: nothing spread over {over} yet", name=name, over=g.over)
    return phrase(
        "{name}: {full} {unit} over {over}",
        name=name,
        full=full(g.asked[series].total),
        unit=g.unit,
        over=g.over,
    )


def subtitle(g: Ground, outcome: Outcome, series: int) -> str:
    """The unit, by what, how it comes out, and how many are locked."""
    come = {
        "whole": phrase("whole figures"),
        "packs": phrase("packs of {pack}", pack=g.ask.pack),
        "decimals": phrase("hundredths"),
    }[g.ask.rounded]
    locked = int((~np.isnan(g.locked[series, g.at])).sum())
    locks = phrase(" · {locked} of {many} fixed", locked=locked, many=g.many) if locked else ""
    found = outcome.parts[series]
    rest = ""
    if found is not None and found.rest:
        rest = phrase(
            " · {full} fill no pack, and lie in {first}",
            full=full(found.rest / g.scale),
            first=g.label(g.first + found.rest_in),
        )
    return phrase(
        "{unit} {per_period} · by {names} · {come}{locks}{rest}{as_known_now}",
        unit=g.unit,
        per_period=g.grid.per_period,
        names=NAMES[g.ask.by],
        come=come,
        locks=locks,
        rest=rest,
        as_known_now=as_known_now(g.sight),
    )


def asks_for(g: Ground, outcome: Outcome, beside: Beside, series: int) -> str:
    """What the total asks for beside the projection."""
    if outcome.parts[series] is None:
        return (
            ""
            if outcome.why[series]
            else phrase("Write a total of {unit} to spread it over {over}.", unit=g.unit, over=g.over)
        )
    gap = _fact(beside.gap, series)
    if np.isnan(gap):
        return phrase(
            "The projection does not reach over all of it: there is nothing to compare the total with."
        )
    if abs(gap) < 0.05:
        return phrase("The total is what the projection says.")
    return phrase(
        "The total is {gap} % {which} the projection.",
        gap=fixed(abs(gap), 1),
        which=phrase("above") if gap > 0 else phrase("below"),
    )


def goes(g: Ground, going: Going, series: int) -> str:
    """How far it has come."""
    sold, to_go, rate = (_fact(each, series) for each in (going.sold, going.to_go, going.rate_needed))
    if np.isnan(sold) or np.isnan(to_go):
        return ""
    if to_go <= 0:
        return phrase("{full} {unit} have sold: the total is reached.", full=full(sold), unit=g.unit)
    if np.isnan(rate):
        return phrase(
            "{sold} {unit} have sold, and no {kind} is left for {to_go}.",
            sold=full(sold),
            unit=g.unit,
            kind=noun(g.grid.kind),
            to_go=full(to_go),
        )
    return phrase(
        "{full} {unit} have sold; {rate} {per_period} are needed from now on.",
        full=full(sold),
        unit=g.unit,
        rate=compact(rate),
        per_period=g.grid.per_period,
    )


def finding(g: Ground, outcome: Outcome, beside: Beside, series: int) -> str:
    """The total, and what it asks for."""
    if outcome.parts[series] is None:
        return phrase("no total\nto spread yet")
    gap = _fact(beside.gap, series)
    said = "" if np.isnan(gap) else phrase("\n{gap} % on projection", gap=fixed(gap, 1, plus=True))
    return phrase("{total} over {over}{said}", total=compact(g.asked[series].total), over=g.over, said=said)


def _fact(term: Term | None, series: int) -> float:
    return math.nan if term is None else float(term.values[series, 0])


def cautions(
    g: Ground, outcome: Outcome, parted: Parted | None, beside: Beside, children: Children | None, series: int
) -> tuple[Caution, ...]:
    """What stands against it, and what to know of it."""
    said = [outcome.why[series]]
    if children is not None:
        said += [children.why, *children.said]
    clipped = None if parted is None else _clipped(g, parted.raw, series)
    found = _far(g, beside.baseline, series), clipped, _oversold(g, outcome, series), _by_day(g)
    return (*(Caution(each) for each in said if each), *(each for each in found if each is not None))


def _far(g: Ground, baseline: Term, series: int) -> Caution | None:
    """A projection that ends before the total does."""
    values = baseline.values[series, g.at]
    if not np.isnan(values).any() or np.isnan(g.sold.values[series]).all():
        return None
    need = g.last + 1 - g.past
    horizon = g.project.columns - g.project.past
    if need <= horizon or need < 1:
        return None
    return Caution(
        phrase(
            "The projection covers {horizon} and the spread needs {need}.",
            horizon=counted(horizon, g.grid.kind),
            need=need,
        ),
        way_out=edit(P.project.horizon, need),
        way_out_text=phrase("Project {need} {kinds} ahead", need=need, kinds=nouns(g.grid.kind)),
    )


def _clipped(g: Ground, raw: Term, series: int) -> Caution | None:
    """Periods that weigh less than nothing."""
    at = np.flatnonzero(raw.values[series, g.at] < 0)
    if not at.size:
        return None
    which = listed([g.label(g.first + int(each)) for each in at])
    return Caution(
        phrase("By {names} {which} would be below zero, and get nothing.", names=NAMES[g.ask.by], which=which)
    )


def _oversold(g: Ground, outcome: Outcome, series: int) -> Caution | None:
    """A period that has sold more than its share, and is not locked at it."""
    found = outcome.parts[series]
    if found is None or g.past <= g.first:
        return None
    stop = min(g.past, g.last + 1)
    over = g.sold.values[series, g.first : stop] - found.parts[: stop - g.first] / g.scale
    free = np.isnan(g.locked[series, g.first : stop])
    at = np.flatnonzero((over > 0) & free)
    if not at.size:
        return None
    worst = int(at[over[at].argmax()])
    more = phrase(", and {size} more did so", size=at.size - 1) if at.size > 1 else ""
    much = f"{full(round(float(over[worst]), 2))} {g.unit}"
    return Caution(
        phrase(
            "{first} sold {much} more than its share{more}. Fix what has sold to spread the rest again.",
            first=g.label(g.first + worst),
            much=much,
            more=more,
        )
    )


def _by_day(g: Ground) -> Caution | None:
    if g.seasonal.per != "selling day" or not g.ask.by.startswith("index") or g.grid.kind == "day":
        return None
    return Caution(
        phrase(
            "The indices are of a selling day, and {kinds} are weighted as if they all had as "
            "many. Take the history apart as it is for indices of a {kind}.",
            kinds=nouns(g.grid.kind),
            kind=noun(g.grid.kind),
        ),
        way_out=edit(P.seasons.per, "period"),
        way_out_text=phrase("Take it apart as it is"),
    )
