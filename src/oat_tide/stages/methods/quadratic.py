"""A parabola."""

from __future__ import annotations

from functools import partial

from oat_tide.core.language import phrase
from oat_tide.core.methods.table import METHODS
from oat_tide.core.working.formula import Formula
from oat_tide.core.working.number_format import significant
from oat_tide.core.working.terms import Term
from oat_tide.stages.methods.ground import Ground
from oat_tide.stages.methods.linear import Linear, linear, more
from oat_tide.stages.methods.room import Room


def _curve(g: Ground, found: dict[str, Term], t: Term) -> Formula:
    return found["intercept"] + found["slope"] * t + found["t2"] * t**2


def _equation(g: Ground, found: dict[str, float]) -> str:
    head = f"{significant(found['intercept'], 5)} {more(found['slope'], 't')}"
    return f"{head} {more(found['t2'], 't²')}"


_OWN = Linear(METHODS["quadratic"], _curve, _equation, lambda g: {"t2": phrase("coefficient of t²")})
ROOMS = (Room(_OWN.method, partial(linear, _OWN)),)
