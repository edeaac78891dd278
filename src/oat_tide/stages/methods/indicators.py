"""A line with a level of every season."""

from __future__ import annotations

from functools import partial

from oat_tide.core.language import phrase
from oat_tide.core.methods.table import METHODS
from oat_tide.core.working.formula import Formula
from oat_tide.core.working.terms import Term
from oat_tide.stages.methods.ground import Ground
from oat_tide.stages.methods.linear import Linear, level_of, linear, more
from oat_tide.stages.methods.room import Room, no_seasons
from oat_tide.stages.places import season_names

MOST_SEASONS = 60
"""Seasons that have a coefficient each at the most."""


def _labels(g: Ground) -> dict[str, str]:
    full = season_names(g.grid, g.cycle.length)[2]
    return {f"season{place}": phrase("level of {each}", each=each) for place, each in enumerate(full)}


def _curve(g: Ground, found: dict[str, Term], t: Term) -> Formula:
    return level_of(found, "season", g.how.place[: g.d.columns], g.cycle.length) + found["slope"] * t


def _equation(g: Ground, found: dict[str, float]) -> str:
    return phrase("level of the season {more}", more=more(found["slope"], "t"))


def why_not(g: Ground) -> str:
    """Refuse periods without seasons, or with too many."""
    if g.cycle.length > MOST_SEASONS:
        return phrase(
            "{length} seasons are too many for a coefficient each. Take harmonic terms.",
            length=g.cycle.length,
        )
    return no_seasons(g)


_OWN = Linear(METHODS["indicators"], _curve, _equation, _labels)
ROOMS = (Room(_OWN.method, partial(linear, _OWN), why_not),)
