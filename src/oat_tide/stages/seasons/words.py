"""What Seasons says in words: titles and findings."""

from __future__ import annotations

import math

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import noun, nouns, phrase
from oat_tide.core.seasons.indices import drift
from oat_tide.core.seasons.presence import FEWEST_CYCLES
from oat_tide.core.seasons.swing import CLOSE, FEWEST
from oat_tide.core.working.number_format import compact, fixed, significant
from oat_tide.core.working.terms import Term
from oat_tide.stages.common import as_known_now, listed, named, titled
from oat_tide.stages.cycle import usual_cycle, year_of
from oat_tide.stages.seasons.ground import Ground
from oat_tide.stages.seasons.line import CarriedOn
from oat_tide.stages.seasons.taken import Taken
from oat_tide.stages.seasons.told import LEVEL, Evidence

_METHODS = {
    "simple": phrase("simple averages"),
    "classical": phrase("centred average"),
    "loess": phrase("local regression"),
}
_LARGE = 1e6
"""Figures from which on they are told in millions."""
_FEW = 3
"""Seasons that are named one by one."""


def index_said(ground: Ground, series: int, value: float) -> str:
    """An index in few words: "1.32", "+212"."""
    if ground.multiplies[series]:
        return fixed(value, 2)
    if abs(value) >= _LARGE:
        return ("+" if value > 0 else "−") + compact(abs(value))
    return significant(value, 4, plus=True)


def _index(taken: Taken | None, series: int) -> Values | None:
    """(seasons,) the indices in use; None where there are none."""
    used = None if taken is None else taken.used.values[series]
    return None if used is None or np.isnan(used).all() else used


def title(ground: Ground, taken: Taken | None, series: int) -> str:
    """The highest and the lowest season; where there is none, that."""
    name = named(ground.d.keys[series])
    if ground.why_none[series]:
        return phrase("{name}: it is too early to find a season", name=name)
    used = _index(taken, series)
    if used is None:
        return phrase("{name}: no index yet", name=name)
    if ground.told.said(series) == "no":
        return phrase("{name} has no season beyond chance", name=name)
    (most, highest), (least, lowest) = (
        (_in_or_on(ground, place), index_said(ground, series, float(used[place])))
        for place in (int(np.nanargmax(used)), int(np.nanargmin(used)))
    )
    of = phrase("times its trend") if ground.multiplies[series] else ground.unit
    return phrase(
        "{name} sells most {most}, {highest} {of}, and least {least}, {lowest}",
        name=name,
        most=most,
        highest=highest,
        of=of,
        least=least,
        lowest=lowest,
    )


def _in_or_on(ground: Ground, place: int) -> str:
    return f"{phrase('on') if ground.grid.kind == 'day' else phrase('in')} {ground.season(place)}"


def subtitle(ground: Ground, series: int) -> str:
    """The unit, the method, and what indices average."""
    if not ground.cycle.length:
        return f"{ground.unit} {ground.grid.per_period}" + as_known_now(ground.sight)
    ask, kind = ground.ask, ground.grid.kind
    how = _METHODS[ask.method]
    if ask.method == "classical":
        to = phrase("ratio to") if ground.multiplies[series] else phrase("difference from")
        how = phrase(
            "{to} {how} of {length} {kinds}", to=to, how=how, length=ground.cycle.length, kinds=nouns(kind)
        )
    neutral = "1" if ground.multiplies[series] else "0"
    per = phrase(" · by selling day") if ground.adjusted else ""
    return phrase(
        "{unit} {per_period} · {how} · indices average {neutral}{per}",
        unit=ground.unit,
        per_period=ground.grid.per_period,
        how=how,
        neutral=neutral,
        per=per,
    ) + as_known_now(ground.sight)


def without_title(ground: Ground, line: CarriedOn | None, series: int) -> str:
    """What the deseasonalised series does, and next year's total."""
    name, slope = named(ground.d.keys[series]), math.nan if line is None else _fact(line.slope, series)
    if line is None or ground.why_none[series] or np.isnan(slope):
        return phrase("{name}: nothing deseasonalised yet", name=name)
    change = slope * year_of(ground.grid, ground.cycle.length)
    way = phrase("rises") if change > 0 else phrase("falls")
    if line.growth is not None:
        growth = _fact(line.growth, series)
        return phrase(
            "{name} without its season {way} by {growth} % {per_period}",
            name=name,
            way=way,
            growth=fixed(abs(growth), 2),
            per_period=ground.grid.per_period,
        )
    return phrase(
        "{name} without its season {way} by {change} {unit} per year",
        name=name,
        way=way,
        change=compact(abs(change)),
        unit=ground.unit,
    )


def _fact(term: Term, series: int) -> float:
    return float(term.values[series, 0])


def equation(line: CarriedOn, series: int) -> str:
    """The line as an equation."""
    slope, intercept = _fact(line.slope, series), _fact(line.intercept, series)
    if np.isnan(slope):
        return phrase("No line can be laid through it: it takes three deseasonalised periods.")
    sign = "+" if slope >= 0 else "−"
    if line.growth is not None:
        return f"y = e^({significant(intercept, 6)} {sign} {significant(abs(slope), 4)} t)"
    return phrase(
        "y = {intercept} {sign} {slope} t",
        intercept=significant(intercept, 6),
        sign=sign,
        slope=significant(abs(slope), 5),
    )


def suggestion(ground: Ground, series: int) -> str:
    """Why the season is taken to multiply, or to add."""
    if ground.why_none[series] and "above zero" not in ground.why_none[series]:
        return ""
    row = ground.sold.values[series, : ground.past]
    if (row[~np.isnan(row)] <= 0).any():
        return phrase("Some periods are not above zero: only an additive season takes them.")
    ahead = float(ground.judged.ahead[series])
    if np.isnan(ahead):
        return phrase(
            "It takes {fewest} cycles to separate additive from multiplicative: multiplicative until then.",
            fewest=FEWEST,
        )
    said = phrase("log-likelihood {ahead} ahead", ahead=fixed(abs(ahead), 1))
    if abs(ahead) < CLOSE:
        return phrase(
            "Too close to decide ({said}): both give nearly the same, and multiplicative is suggested.",
            said=said,
        )
    if ahead > 0:
        return phrase(
            "A swing that grows with the level is likelier ({said}): multiplicative suits.", said=said
        )
    return phrase("A swing that stays the same is likelier ({said}): additive suits.", said=said)


def is_there(ground: Ground, taken: Taken, evidence: Evidence, series: int) -> str:
    """One plain sentence, with what drifts."""
    said = ground.told.said(series)
    if not said:
        return ground.why_none[series] or phrase("It is too early to say.")
    what = _what_explains(ground)
    f, chance = (fixed(_fact(each, series), 1) for each in (evidence.f, evidence.chance))
    if said == "yes":
        share = fixed(100 * _fact(evidence.strength, series), 0)
        return phrase(
            "The season explains {share} % of the variation around the trend, more than chance "
            "would: by {what}, F {f}, 95 % limit by chance {chance}.{drifting}",
            share=share,
            what=what,
            f=f,
            chance=chance,
            drifting=drifting(ground, taken, series),
        )
    if said == "too short":
        return phrase(
            "Too short to say: it takes {fewest_cycles} cycles. So far F is {f}; 95 % limit by "
            "chance {chance}.",
            fewest_cycles=FEWEST_CYCLES,
            f=f,
            chance=chance,
        )
    return phrase(
        "No season beyond chance: {what} explains no more than chance does in a history of "
        "this length (F {f}, 95 % limit by chance {chance}). The figures below are noise, "
        "and no season is drawn.",
        what=what,
        f=f,
        chance=chance,
    )


def _what_explains(ground: Ground) -> str:
    kind, length = ground.grid.kind, ground.cycle.length
    if kind == "day" and length in (7, ground.grid.cycle):
        return phrase("the weekday") if length == 7 else phrase("the day of the year")
    return (
        phrase("the {kind}", kind=noun(kind))
        if length == usual_cycle(ground.grid)
        else phrase("the place in {length} {kinds}", length=length, kinds=nouns(kind))
    )


def drifting(ground: Ground, taken: Taken, series: int) -> str:
    """The seasons whose ratios drift over the years."""
    past = ground.past
    counted = taken.counted.values[series : series + 1, :past]
    place, years = ground.cycle.place[:past], ground.cycle.years[:past]
    (slope,), (p,) = drift(counted, place, ground.cycle.length, years)
    # There are many seasons, and one in twenty drifts by chance.
    found = np.flatnonzero((p < LEVEL / len(p)) & ~np.isnan(p)).tolist()
    if not found:
        return ""
    names = [
        phrase(
            "{season} ({slope} a year)",
            season=ground.season(place),
            slope=significant(float(slope[place]), 2, plus=True),
        )
        for place in sorted(found, key=lambda place: float(p[place]))
    ]
    have, them = (phrase("has"), phrase("it")) if len(found) == 1 else (phrase("have"), phrase("them"))
    return phrase(
        " {names} {have} changed over the years; older years are less reliable for {them}.",
        names=listed(names, _FEW),
        have=have,
        them=them,
    )


def finding(ground: Ground, taken: Taken | None, evidence: Evidence | None, series: int) -> str:
    """The highest and lowest season, how strong it is and which way the trend goes."""
    if ground.why_none[series]:
        return phrase("too early\nto find a season")
    used = _index(taken, series)
    if taken is None or evidence is None or used is None:
        return phrase("no index yet")
    said = ground.told.said(series)
    if said == "no":
        return phrase("no season\nbeyond chance")
    high, low = int(np.nanargmax(used)), int(np.nanargmin(used))
    ends = (
        f"{ground.brief_season(place)} {index_said(ground, series, float(used[place]))}"
        for place in (high, low)
    )
    strength = _fact(evidence.strength, series)
    strong = (
        phrase("uncertain") if said != "yes" else phrase("strong") if strength >= 0.7 else phrase("clear")
    )
    return f"{' · '.join(ends)}\n{strong}{_trend_way(taken.trend.values[series])}"


def _trend_way(trend: Values) -> str:
    known = trend[~np.isnan(trend)]
    if known.size < 2 or known[0] == known[-1]:
        return ""
    return phrase(", trend rising") if known[-1] > known[0] else phrase(", trend falling")


def hint(ground: Ground) -> str:
    """What can be written where."""
    return titled(
        phrase(
            "in a year's row, Delete leaves a ratio out or restores it; a note typed there "
            "leaves it out with that note. In “by hand” an index is written, with a note behind "
            "it."
        )
    )
