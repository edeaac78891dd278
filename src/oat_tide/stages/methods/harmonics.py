"""A line with waves within the year."""

from __future__ import annotations

from functools import partial

import numpy as np

from oat_tide.core.language import noun, phrase
from oat_tide.core.methods.table import METHODS
from oat_tide.core.periods.calendar import WEEKDAYS
from oat_tide.core.working.formula import Formula, added_up, given
from oat_tide.core.working.number_format import significant
from oat_tide.core.working.terms import Term
from oat_tide.stages.methods.ground import Ground
from oat_tide.stages.methods.linear import Linear, level_of, linear, more
from oat_tide.stages.methods.room import Room


def _labels(g: Ground) -> dict[str, str]:
    named = {f"weekday{place}": phrase("level of {each}", each=each) for place, each in enumerate(WEEKDAYS)}
    for pair in range(1, g.how.pairs + 1):
        named |= {
            f"sin{pair}": phrase("sine of wave {pair}", pair=pair),
            f"cos{pair}": phrase("cosine of wave {pair}", pair=pair),
        }
    return named


def _curve(g: Ground, found: dict[str, Term], t: Term) -> Formula:
    level: Formula = found.get("intercept", found["slope"])
    if g.how.weekday is not None:
        level = level_of(found, "weekday", g.how.weekday[: g.d.columns], 7)
    waves = []
    for pair in range(1, g.how.pairs + 1):
        angle = 2 * np.pi * pair * g.how.phase[: g.d.columns]
        for short, said, values in (("sin", "sine", np.sin(angle)), ("cos", "cosine", np.cos(angle))):
            why = phrase(
                "{said} of {pair} × 2π times the part of its year that has gone", said=said, pair=pair
            )
            waves.append(found[f"{short}{pair}"] * given(values[None], why))
    return added_up((level + found["slope"] * t, *waves))


def _equation(g: Ground, found: dict[str, float]) -> str:
    level = (
        phrase("level of the weekday") if g.how.weekday is not None else significant(found["intercept"], 5)
    )
    waves = phrase("a wave") if g.how.pairs == 1 else phrase("{pairs} harmonics", pairs=g.how.pairs)
    return phrase(
        "{level} {more} + {waves} per year", level=level, more=more(found["slope"], "t"), waves=waves
    )


def why_not(g: Ground) -> str:
    """Refuse periods that do not divide a year."""
    if g.how.back:
        return ""
    return (
        phrase("A {kind} has no harmonics within a year.", kind=noun(g.grid.kind))
        if g.cycle.length
        else phrase("A {kind} has no seasons.", kind=noun(g.grid.kind))
    )


_OWN = Linear(METHODS["harmonics"], _curve, _equation, _labels)
ROOMS = (Room(_OWN.method, partial(linear, _OWN), why_not, settings=("pairs",)),)
