"""The median of slopes, of Theil and Sen."""

from __future__ import annotations

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.methods.robust import coefficients
from oat_tide.core.methods.table import METHODS
from oat_tide.core.methods.theil_sen import middle_slopes
from oat_tide.core.working.formula import median
from oat_tide.core.working.terms import known
from oat_tide.stages.by_kernel import ByKernel
from oat_tide.stages.methods.applied import AppliedMethod
from oat_tide.stages.methods.ground import Ground
from oat_tide.stages.methods.iterated import blank, found, line_in_words, numbers
from oat_tide.stages.methods.room import Room

_THEIL_SEN = METHODS["theil-sen"]


def find(values: Values, used: Values, ceiling: float) -> tuple[Values, ...]:
    """(series,) intercepts and slopes."""
    return coefficients(values, used, middle_slopes)[:2]


def lay(g: Ground, prefix: str, shown: bool) -> AppliedMethod:
    """Lay the median of slopes on a history."""
    d, last = g.d, max(g.past - 1, 0)
    intercept, slope = found(g, find, (blank(g), blank(g)))
    there = ~np.isnan(slope)[:, None]
    t = numbers(g, prefix, there)
    b = d.define(
        f"{prefix}slope", phrase("slope {per_period}", per_period=g.grid.per_period),
        ByKernel(lambda: slope[:, None], phrase("the median of the slopes of all pairs of periods"), True),
        signed=True, shown=shown,
    )  # fmt: skip
    off = d.define(
        f"{prefix}off_slope", phrase("actual less slope × t"), g.actual - b * t,
        where=g.span.used > 0, shown=False,
    )  # fmt: skip
    a = d.define(
        f"{prefix}intercept", phrase("intercept"), median(known(off.between(0, last))),
        values=intercept[:, None], where=there, shown=shown,
    )  # fmt: skip
    curve = a + b * t
    return AppliedMethod(
        _THEIL_SEN, curve, curve, lambda series: "", line_in_words(g, a, b),
        (f"{prefix}intercept", f"{prefix}slope"), through_time=True,
    )  # fmt: skip


ROOMS = (Room(_THEIL_SEN, lay),)
