"""Compound growth, from the first known period to the last."""

from __future__ import annotations

from oat_tide.core.language import phrase
from oat_tide.core.methods.table import METHODS
from oat_tide.core.working.formula import only
from oat_tide.stages.methods.applied import AppliedMethod
from oat_tide.stages.methods.carried import (
    carried_on,
    ends_of,
    first_value,
    in_words,
    since_first,
    steps_on,
)
from oat_tide.stages.methods.ground import Ground
from oat_tide.stages.methods.room import Room

_COMPOUND = METHODS["compound"]


def lay(g: Ground, prefix: str, shown: bool) -> AppliedMethod:
    """Lay compound growth on a history."""
    ends = ends_of(g, prefix, shown)
    steps = steps_on(g, prefix, ends.last_at)
    begun, value = first_value(g, prefix, shown, ends), ends.last
    growth = g.d.define(
        f"{prefix}compound",
        phrase("compound growth {per_period}", per_period=g.grid.per_period),
        100 * (only(begun > 0, only(value > 0, value / begun)) ** (1 / since_first(ends)) - 1),
        unit="%",
        signed=True,
        shown=shown,
    )
    curve = value * (1 + growth / 100) ** steps
    said = in_words(g, growth, phrase("the last value, growing by {0} % ") + g.grid.per_period)
    return carried_on(
        _COMPOUND, curve, curve, said, tuple(prefix + each for each in ("last", "first", "compound"))
    )


ROOMS = (Room(_COMPOUND, lay),)
