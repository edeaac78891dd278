"""Growth that slackens as it comes up to a ceiling."""

from __future__ import annotations

from functools import partial

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.methods.logistic import fit_logistic
from oat_tide.core.methods.table import METHODS
from oat_tide.core.working.formula import exp, given
from oat_tide.core.working.number_format import MINUS, significant
from oat_tide.stages.by_kernel import ByKernel
from oat_tide.stages.methods.applied import AppliedMethod
from oat_tide.stages.methods.ground import Ground
from oat_tide.stages.methods.iterated import blank, column, found, numbers
from oat_tide.stages.methods.room import Room

_LOGISTIC = METHODS["logistic"]


def find(values: Values, used: Values, ceiling: float) -> tuple[Values, ...]:
    """(series, 3) the logarithm of its odds at 0, their slope, and the logarithm of the ceiling."""
    return fit_logistic(values, used, ceiling)[:1]


def lay(g: Ground, prefix: str, shown: bool) -> AppliedMethod:
    """Lay saturating growth on a history."""
    d = g.d
    (own,) = found(g, find, (blank(g, 3),), soon=False)
    there = ~np.isnan(own[:, :1])
    t = numbers(g, prefix, there)
    least = phrase("that with the least squared errors")
    given_by_hand = g.ask.ceiling > 0
    ceiling = d.define(
        f"{prefix}ceiling", phrase("ceiling"),
        given(g.ask.ceiling, phrase("by hand")) if given_by_hand
        else ByKernel(lambda: np.exp(own[:, 2:]), least, True),
        unit=g.unit, shown=shown, where=there,
    )  # fmt: skip
    a, b = (
        d.define(
            prefix + short,
            label,
            ByKernel(partial(column, own, place), least, True),
            signed=True,
            shown=shown,
        )
        for place, (short, label) in enumerate(
            (
                ("at_0", phrase("ln of its odds at t = 0")),
                ("slope", phrase("its slope {per_period}", per_period=g.grid.per_period)),
            )
        )
    )
    curve = ceiling / (1 + exp(0 - (a + b * t)))

    def said(series: int) -> str:
        if np.isnan(own[series, 0]):
            return phrase("no fit")
        one, other, top = own[series].tolist()
        sign = MINUS if other > 0 else "+"
        return (
            f"{g.unit} = {significant(float(np.exp(top)), 5)} ÷ (1 + {significant(float(np.exp(-one)), 4)} × "
            f"e^({sign}{significant(abs(other), 4)} t))"
        )

    return AppliedMethod(
        _LOGISTIC, curve, curve, partial(_no_ceiling, g, there), said,
        (f"{prefix}ceiling", f"{prefix}at_0", f"{prefix}slope"), through_time=True,
    )  # fmt: skip


def _no_ceiling(g: Ground, there: np.ndarray, series: int) -> str:
    n = int((g.span.used[series] > 0).sum())
    if there[series, 0] or n < 4:
        return ""
    largest = float(np.nanmax(np.where(g.span.used[series, : g.past] > 0, g.values[series], np.nan)))
    if 0 < g.ask.ceiling <= largest:
        return phrase(
            "The ceiling, {ceiling}, is below what has sold, {largest}. Give a higher one, or 0 "
            "to have it fitted.",
            ceiling=significant(g.ask.ceiling, 5),
            largest=significant(largest, 5),
        )
    if (g.values[series][g.span.used[series, : g.past] > 0] < 0).any():
        return phrase("Saturating growth needs figures that are not below zero. Take a line.")
    return phrase(
        "No ceiling can be estimated: growth is not slowing, or the history falls, or it is "
        "one jump. Enter a ceiling, or choose a growth curve."
    )


ROOMS = (Room(_LOGISTIC, lay, settings=("ceiling",)),)
