"""The last known value, and the mean change since the first for each period on."""

from __future__ import annotations

import numpy as np

from oat_tide.core.language import noun, phrase
from oat_tide.core.methods.table import METHODS
from oat_tide.core.working.formula import given
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

_DRIFT = METHODS["drift"]


def lay(g: Ground, prefix: str, shown: bool) -> AppliedMethod:
    """Lay the last value with drift on a history."""
    ends = ends_of(g, prefix, shown)
    steps = steps_on(g, prefix, ends.last_at)
    begun, before = first_value(g, prefix, shown, ends), g.actual.shift(-1)
    change = g.d.define(
        f"{prefix}drift",
        phrase("mean change {per_period}", per_period=g.grid.per_period),
        (ends.last - begun) / since_first(ends),
        unit=g.unit,
        signed=True,
        shown=shown,
    )
    gone = np.arange(g.d.columns)[None] - 1.0 - ends.first_at[:, None]
    own = (before - begun) / given(np.where(gone > 0, gone, np.nan), phrase("periods since the first"))
    said = in_words(g, change, phrase("the last value and {{0}} for each {kind} on", kind=noun(g.grid.kind)))
    facts = f"{prefix}last", f"{prefix}drift"
    return carried_on(_DRIFT, before + own, ends.last + change * steps, said, facts)


ROOMS = (Room(_DRIFT, lay),)
