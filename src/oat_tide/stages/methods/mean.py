"""The mean of the last periods, carried forward."""

from __future__ import annotations

import numpy as np

from oat_tide.core.language import nouns, phrase
from oat_tide.core.methods.table import METHODS
from oat_tide.core.working.formula import given, mean
from oat_tide.stages.methods.applied import AppliedMethod
from oat_tide.stages.methods.carried import carried_on, in_words, nothing
from oat_tide.stages.methods.ground import Ground
from oat_tide.stages.methods.room import Room

_MEAN = METHODS["mean"]


def lay(g: Ground, prefix: str, shown: bool) -> AppliedMethod:
    """Lay the mean of the last periods on a history."""
    n, stop = g.how.last, g.span.end + 1
    whole = mean(g.actual.between(stop - n, stop - 1)) if stop >= n else given(np.nan)
    value = g.d.define(
        f"{prefix}mean_last",
        phrase("mean of the last {n} {kinds}", n=n, kinds=nouns(g.grid.kind)),
        whole,
        unit=g.unit,
        shown=shown,
        blank=phrase(
            "One of the last {n} {kinds} is not known, or there are fewer.", n=n, kinds=nouns(g.grid.kind)
        ),
    )
    said = in_words(
        g, value, phrase("the mean of the last {n} {kinds}, {{0}}", n=n, kinds=nouns(g.grid.kind))
    )
    fitted = mean(g.actual.over(-n, -1))
    return carried_on(_MEAN, fitted, value + nothing(g), said, (f"{prefix}mean_last",))


ROOMS = (Room(_MEAN, lay, settings=("last",)),)
