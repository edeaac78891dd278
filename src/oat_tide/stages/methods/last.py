"""The last known value, carried forward."""

from __future__ import annotations

from oat_tide.core.language import phrase
from oat_tide.core.methods.table import METHODS
from oat_tide.stages.methods.applied import AppliedMethod
from oat_tide.stages.methods.carried import carried_on, ends_of, in_words, nothing
from oat_tide.stages.methods.ground import Ground
from oat_tide.stages.methods.room import Room

_LAST = METHODS["last"]


def lay(g: Ground, prefix: str, shown: bool) -> AppliedMethod:
    """Lay the last value on a history."""
    value = ends_of(g, prefix, shown).last
    said = in_words(g, value, phrase("the last value, {0}"))
    return carried_on(_LAST, g.actual.shift(-1), value + nothing(g), said, (f"{prefix}last",))


ROOMS = (Room(_LAST, lay),)
