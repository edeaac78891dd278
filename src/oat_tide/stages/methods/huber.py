"""Huber's line: periods far off it count less."""

from __future__ import annotations

from functools import partial

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.methods.huber import huber_weights
from oat_tide.core.methods.robust import fits
from oat_tide.core.methods.table import METHODS
from oat_tide.core.working.formula import given, sum_of_products, total
from oat_tide.core.working.terms import wide
from oat_tide.stages.methods.applied import AppliedMethod
from oat_tide.stages.methods.ground import Ground
from oat_tide.stages.methods.iterated import blank, found, line_in_words, numbers
from oat_tide.stages.methods.room import Room

_HUBER = METHODS["huber"]


def find(values: Values, used: Values, ceiling: float) -> tuple[Values, ...]:
    """(series, periods) Huber's weights, 0 out of the fit, and (series,) intercepts and slopes."""
    counts = np.zeros(values.shape)
    intercept, slope = (np.full(len(values), np.nan) for _ in range(2))
    for rows, own, z, t in fits(values, used > 0):
        intercept[rows], slope[rows], weights = huber_weights(z, t)
        counts[np.ix_(np.arange(len(values))[rows], np.flatnonzero(own))] = weights
    return counts, intercept, slope


def lay(g: Ground, prefix: str, shown: bool) -> AppliedMethod:
    """Lay Huber's line on a history."""
    d, last = g.d, max(g.past - 1, 0)
    counts, intercept, slope = found(g, find, (np.zeros(g.values.shape), blank(g), blank(g)))
    counts = wide(counts, d.columns, 0.0)
    there = ~np.isnan(slope)[:, None]
    hidden = partial(d.define, shown=False)
    weight = hidden(
        f"{prefix}counts",
        phrase("how much it counts"),
        given(counts, phrase("Huber's weight, once nothing changes")),
        where=there,
    )
    t = numbers(g, prefix, there)
    z = hidden(f"{prefix}z", phrase("actual in the fit"), g.actual, where=weight > 0)
    w, ts, zs = (each.between(0, last) for each in (weight, t, z))
    t_mean = hidden(
        f"{prefix}t_mean", phrase("mean period number, as they count"), sum_of_products(w, ts) / total(w)
    )
    z_mean = hidden(
        f"{prefix}z_mean", phrase("mean of actual, as they count"), sum_of_products(w, zs) / total(w)
    )
    b = d.define(
        f"{prefix}slope", phrase("slope {per_period}", per_period=g.grid.per_period),
        sum_of_products(w, (ts - t_mean) * (zs - z_mean)) / sum_of_products(w, (ts - t_mean) ** 2),
        values=slope[:, None], signed=True, shown=shown,
    )  # fmt: skip
    a = d.define(
        f"{prefix}intercept", phrase("intercept"), z_mean - b * t_mean, values=intercept[:, None], shown=shown
    )
    curve = a + b * t
    return AppliedMethod(
        _HUBER, curve, curve, lambda series: "", line_in_words(g, a, b),
        (f"{prefix}intercept", f"{prefix}slope"), through_time=True,
    )  # fmt: skip


ROOMS = (Room(_HUBER, lay),)
