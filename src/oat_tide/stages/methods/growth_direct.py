"""A curve of constant growth, fitted on the scale of the values themselves."""

from __future__ import annotations

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.methods.growth_direct import fit_growth
from oat_tide.core.methods.table import METHODS
from oat_tide.core.working.formula import exp
from oat_tide.core.working.number_format import significant
from oat_tide.stages.by_kernel import ByKernel
from oat_tide.stages.methods.applied import AppliedMethod, raised
from oat_tide.stages.methods.ground import Ground
from oat_tide.stages.methods.iterated import blank, found, numbers
from oat_tide.stages.methods.room import Room

_GROWTH = METHODS["growth-direct"]


def find(values: Values, used: Values, ceiling: float) -> tuple[Values, ...]:
    """(series, 2) the logarithm of its level at 0, and its slope."""
    return fit_growth(values, used)[:1]


def lay(g: Ground, prefix: str, shown: bool) -> AppliedMethod:
    """Lay growth, fitted on the original scale, on a history."""
    d = g.d
    (own,) = found(g, find, (blank(g, 2),))
    there = ~np.isnan(own[:, :1])
    t = numbers(g, prefix, there)
    least = phrase("that with the least squared errors on the original scale")
    level = d.define(
        f"{prefix}level_at_0", phrase("level at t = 0"), ByKernel(lambda: np.exp(own[:, :1]), least, True),
        unit=g.unit, shown=shown,
    )  # fmt: skip
    b = d.define(
        f"{prefix}slope",
        phrase("slope of ln {per_period}", per_period=g.grid.per_period),
        ByKernel(lambda: own[:, 1:], least, True),
        signed=True,
        shown=False,
    )
    d.define(
        f"{prefix}growth",
        phrase("growth {per_period}", per_period=g.grid.per_period),
        100 * (exp(b) - 1),
        unit="%",
        signed=True,
        shown=shown,
    )
    curve = level * raised(b * t)

    def said(series: int) -> str:
        if np.isnan(own[series, 0]):
            return phrase("no fit")
        a, c = np.exp(own[series]).tolist()
        return f"{g.unit} = {significant(a, 5)} × {significant(c, 6)}^t"

    facts = f"{prefix}level_at_0", f"{prefix}growth"
    return AppliedMethod(_GROWTH, curve, curve, lambda series: "", said, facts, through_time=True)


ROOMS = (Room(_GROWTH, lay, with_season="growth-season"),)
