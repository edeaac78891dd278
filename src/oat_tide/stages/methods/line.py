"""A straight line, and a growth curve, which is a line on the scale of logarithms."""

from __future__ import annotations

from functools import partial

from oat_tide.core.methods.shape import Method
from oat_tide.core.methods.table import METHODS
from oat_tide.core.working.formula import exp
from oat_tide.stages.fitted import line_of
from oat_tide.stages.methods.ground import Ground
from oat_tide.stages.methods.laid import Laid, raised
from oat_tide.stages.methods.room import Room
from oat_tide.stages.methods.straight import equation, regressed_of, through, why_none

GROWTH_REFUSAL = "A growth curve"


def lay(method: Method, g: Ground, prefix: str, shown: bool) -> Laid:
    """Lay a line or growth curve on a history."""
    got = through(g, g.actual, method.logs, prefix, shown, "", None)
    line = line_of(g.d, got, g.actual)
    regressed = regressed_of(g, got, line, prefix)
    curve = raised(line.curve) if method.logs else line.curve
    raise_by = raised(regressed.s**2 / 2) if method.logs and g.ask.mean else None
    if raise_by is not None:
        curve = curve * raise_by
    beside: tuple[str, ...] = ()
    if method.logs and shown:
        g.d.define("growth", f"growth {g.grid.a_period}", 100 * (exp(line.slope) - 1), unit="%", signed=True)
        beside = ("growth",)
    return Laid(
        method,
        curve,
        curve,
        partial(why_none, got, ""),
        partial(equation, got, g.unit),
        (f"{prefix}intercept", f"{prefix}slope"),
        regressed,
        line.curve,
        raise_by=raise_by,
        through_time=True,
        beside=beside,
    )


_LINE, _GROWTH = METHODS["line"], METHODS["growth"]
ROOMS = (
    Room(
        _LINE,
        partial(lay, _LINE),
        short="line",
        beside="A straight line's % growth shrinks along the way.",
        straight=True,
    ),
    Room(
        _GROWTH,
        partial(lay, _GROWTH),
        refusal=GROWTH_REFUSAL,
        short="curve",
        with_season="growth-season",
    ),
)
