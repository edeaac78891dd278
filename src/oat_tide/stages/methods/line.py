"""A straight line, and a growth curve, which is a line on the scale of logarithms."""

from __future__ import annotations

from functools import partial

from oat_tide.core.language import phrase
from oat_tide.core.methods.shape import Method
from oat_tide.core.methods.table import METHODS
from oat_tide.core.working.formula import exp
from oat_tide.stages.methods.applied import AppliedMethod
from oat_tide.stages.methods.ground import Ground
from oat_tide.stages.methods.room import Room
from oat_tide.stages.methods.straight import drawn, equation, through, why_none

GROWTH_REFUSAL = phrase("A growth curve")


def lay(method: Method, g: Ground, prefix: str, shown: bool) -> AppliedMethod:
    """Lay a line or growth curve on a history."""
    got = through(g, g.actual, method.logs, prefix, shown, "", None)
    own = drawn(g, g.actual, got, prefix)
    beside: tuple[str, ...] = ()
    if method.logs and shown:
        g.d.define(
            "growth",
            phrase("growth {per_period}", per_period=g.grid.per_period),
            100 * (exp(own.line.slope) - 1),
            unit="%",
            signed=True,
        )
        beside = ("growth",)
    return AppliedMethod(
        method,
        own.curve,
        own.curve,
        partial(why_none, got, ""),
        partial(equation, got, g.unit),
        (f"{prefix}intercept", f"{prefix}slope"),
        own.regressed,
        own.line.curve,
        raise_by=own.raise_by,
        through_time=True,
        beside=beside,
    )


_LINE, _GROWTH = METHODS["line"], METHODS["growth"]
ROOMS = (
    Room(
        _LINE,
        partial(lay, _LINE),
        short=phrase("line"),
        beside=phrase("On a straight line, growth in % becomes smaller over time."),
        straight=True,
    ),
    Room(
        _GROWTH,
        partial(lay, _GROWTH),
        refusal=GROWTH_REFUSAL,
        short=phrase("curve"),
        with_season="growth-season",
    ),
)
