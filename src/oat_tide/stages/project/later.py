"""Where the as-of is moved back: how the projection has done against what sold since."""

from __future__ import annotations

import math
from functools import partial
from typing import Any

from oat_tide.core.language import counted, phrase
from oat_tide.core.methods.table import METHODS
from oat_tide.core.working.formula import Formula, choose, count, only, percent, size, total
from oat_tide.core.working.number_format import fixed
from oat_tide.core.working.terms import Term, known
from oat_tide.stages.deck import Item, Note
from oat_tide.stages.deck.draft import of
from oat_tide.stages.methods.ground import Ground
from oat_tide.stages.project.projection import Limits, Projection, Since, value


def beside(g: Ground, name: str, projected: Term) -> Since:
    """The same of another method, whose difference has no row."""
    actual = of(g.lines, "actual", seen=g.sight.whole)
    row = partial(g.d.define, shown=False, sees_later=True, signed=True)
    off = row(f"{name}_difference", phrase("Difference"), actual - projected, where=projected, unit=g.unit)
    share = row(f"{name}_share", phrase("Difference, % of projected"), percent(off, projected), unit="%")
    return against_what_sold(g, projected, off, share, (), f"{name}_")


def against_what_sold(
    g: Ground, projected: Term, difference: Term, share: Term, limits: tuple[Limits, ...], prefix: str = ""
) -> Since:
    """The mean size of the difference in % of projected, its bias, and how many lie inside the intervals.

    Args:
        prefix: of the names of its figures.
    """
    d, last = g.d, g.d.columns - 1
    actual = of(g.lines, "actual", seen=g.sight.whole)

    def hidden(name: str, label: str, formula: Formula, **look: Any) -> Term:
        return d.define(prefix + name, label, formula, shown=False, sees_later=True, **look)

    missed = hidden("missed_share", phrase("absolute difference, % of projected"), size(share), unit="%")
    every = known(missed.between(g.past, last))
    many = hidden("sold_since", phrase("periods sold since"), count(every), exact=True)
    mean = hidden(
        "mean_missed",
        phrase("mean absolute error, % of projected"),
        only(many > 0, total(every) / many),
        unit="%",
    )
    there = hidden(
        "projected_sold", phrase("projected, of what has sold"), only(size(difference) + 1 > 0, projected)
    )
    off, whole = (total(known(each.between(g.past, last))) for each in (difference, there))
    bias = hidden("bias_since", phrase("bias, % of projected"), percent(off, whole), unit="%", signed=True)
    held = []
    for each in limits:
        name, lower, upper = f"{each.level:g}", each.lower, each.upper
        within = choose(actual < lower, 0.0, choose(actual > upper, 0.0, 1.0))
        inside = hidden(
            f"inside_{name}",
            phrase("inside the {name} % interval", name=name),
            only(size(difference) + 1 > 0, only(upper - lower + 1 > 0, within)),
        )
        many_inside = hidden(
            f"many_inside_{name}",
            phrase("inside the {name} % interval", name=name),
            total(known(inside.between(g.past, last))),
        )
        held.append((each.level, many_inside))
    return Since(many, mean, bias, tuple(held))


def said_of_later(g: Ground, since: Since, series: int) -> str:
    """What the head of its rows says; empty where nothing has sold since."""
    mean, bias = value(since.mean_missed, series), value(since.bias, series)
    if not g.sight.moved_back or not value(since.sold, series) > 0 or math.isnan(mean):
        return ""
    way = fixed(-bias, 1, plus=True)
    return phrase("misses {mean} %, bias {way} %", mean=fixed(mean, 1), way=way)


def told_of_later(g: Ground, made: Projection) -> tuple[Item, ...]:
    """A line of the sheet, where anything has sold since the as-of, and one for each method beside."""
    if not g.sight.moved_back or not value(made.since.sold, 0) > 0:
        return ()
    line = Note(partial(_line, g, made.since))
    if not made.others:
        return (line,)
    others = ((METHODS[name].title, each) for name, each in made.others.items())
    every = ((made.laid.method.title, made.since), *others)
    return (line, *(Note(partial(_missed, title, since), "small") for title, since in every))


def _missed(title: str, since: Since, series: int) -> str:
    """What a method missed, and which way, to be held beside others."""
    mean, bias = value(since.mean_missed, series), value(since.bias, series)
    if not value(since.sold, series) > 0 or math.isnan(mean):
        return phrase("{title}: nothing to compare", title=title)
    way = fixed(-bias, 1, plus=True)
    return phrase("{title}: misses {mean} %, bias {way} %", title=title, mean=fixed(mean, 1), way=way)


def _line(g: Ground, since: Since, series: int) -> str:
    many = value(since.sold, series)
    if not many > 0:
        return phrase("No complete period has sold since.")
    mean, bias = value(since.mean_missed, series), value(since.bias, series)
    way = phrase(
        "{bias} % {which} than projected in total",
        bias=fixed(abs(bias), 1),
        which=phrase("more") if bias > 0 else phrase("less"),
    )
    side = (
        phrase(
            "{way} (the projection was too {which})",
            way=way,
            which=phrase("low") if bias > 0 else phrase("high"),
        )
        if bias
        else phrase("as projected in total")
    )
    inside = phrase(" and ").join(
        phrase("{value:g} inside {level:g} %", value=value(many_inside, series), level=level)
        for level, many_inside in since.inside
    )
    return phrase(
        "Of {many} sold since: mean absolute error {mean} % of projected; sold {side}; {inside}.",
        many=counted(int(many), g.grid.kind),
        mean=fixed(mean, 1),
        side=side,
        inside=inside,
    )
