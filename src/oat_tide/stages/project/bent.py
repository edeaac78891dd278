"""What is found by steps: lines that no odd period bends, and growth on the original scale."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

import numpy as np

from oat_tide.core.alike import alike
from oat_tide.core.exact import Values
from oat_tide.core.methods import growing, robust
from oat_tide.core.methods.designs import time
from oat_tide.core.series.panel import Panel
from oat_tide.core.trouble import Tell
from oat_tide.core.working.formula import exp, given, median, sum_of_products, total
from oat_tide.core.working.numerals import MINUS, significant
from oat_tide.core.working.terms import Term, known, wide
from oat_tide.plan.parts.project import Project
from oat_tide.stages.project.ground import Ground, span_of
from oat_tide.stages.project.laid import Laid, raised
from oat_tide.stages.reckoned import Reckoned

_SOON, _LONG = 400, "logistic"
"""Periods, of all series, whose steps are gone within a frame, and the one of which not even a few are."""


def bent(g: Ground, name: str, prefix: str = "", shown: bool = True) -> Laid:
    """Any of them."""
    return _MADE[name](g, name, prefix, shown)


def _t(g: Ground, prefix: str, there: np.ndarray) -> Term:
    return g.d.define(
        f"{prefix}t", "period number", given(g.numbers(""), g.first_number), where=there, shown=False
    )


def _huber(g: Ground, name: str, prefix: str, shown: bool) -> Laid:
    d, last = g.d, max(g.past - 1, 0)
    counts, intercept, slope = _found(g, name)
    counts = wide(counts, d.columns, 0.0)
    there = ~np.isnan(slope)[:, None]
    hidden = partial(d.define, shown=False)
    weight = hidden(
        f"{prefix}counts",
        "how much it counts",
        given(counts, "Huber's weight, once nothing changes"),
        where=there,
    )
    t = _t(g, prefix, there)
    z = hidden(f"{prefix}z", "actual in the fit", g.actual, where=weight > 0)
    w, ts, zs = (each.between(0, last) for each in (weight, t, z))
    t_mean = hidden(f"{prefix}t_mean", "mean period number, as they count", sum_of_products(w, ts) / total(w))
    z_mean = hidden(f"{prefix}z_mean", "mean of actual, as they count", sum_of_products(w, zs) / total(w))
    b = d.define(
        f"{prefix}slope", f"slope {g.grid.a_period}",
        sum_of_products(w, (ts - t_mean) * (zs - z_mean)) / sum_of_products(w, (ts - t_mean) ** 2),
        values=slope[:, None], signed=True, shown=shown,
    )  # fmt: skip
    a = d.define(
        f"{prefix}intercept", "intercept", z_mean - b * t_mean, values=intercept[:, None], shown=shown
    )
    curve = a + b * t
    return Laid(
        name, curve, curve, partial(_why_none, g), partial(_line, g, a, b),
        (f"{prefix}intercept", f"{prefix}slope"),
    )  # fmt: skip


def _huber_of(values: Values, used: Values, ceiling: float) -> tuple[Values, ...]:
    """(series, periods) Huber's weights, 0 out of the fit, and (series,) intercepts and slopes."""
    counts = np.zeros(values.shape)
    intercept, slope = (np.full(len(values), np.nan) for _ in range(2))
    for rows, own in alike(used > 0):
        if own.sum() < robust.FEWEST:
            continue
        t = time(int(own.argmax()), len(own))[own]
        intercept[rows], slope[rows], weights = robust.huber_weights(values[rows][:, own], t)
        counts[np.ix_(np.arange(len(values))[rows], np.flatnonzero(own))] = weights
    return counts, intercept, slope


def _theil_sen_of(values: Values, used: Values, ceiling: float) -> tuple[Values, ...]:
    return robust.coefficients(values, used, robust.middle_slopes)[:2]


def _growth_of(values: Values, used: Values, ceiling: float) -> tuple[Values, ...]:
    return growing.fit_growth(values, used)[:1]


def _logistic_of(values: Values, used: Values, ceiling: float) -> tuple[Values, ...]:
    return growing.fit_logistic(values, used, ceiling)[:1]


_STEPS: dict[str, Callable[[Values, Values, float], tuple[Values, ...]]] = {
    "huber": _huber_of,
    "theil-sen": _theil_sen_of,
    "growth-direct": _growth_of,
    "logistic": _logistic_of,
}
_NONE: dict[str, tuple[int, ...]] = {
    "huber": (0, 1, 1),
    "theil-sen": (1, 1),
    "growth-direct": (2,),
    "logistic": (3,),
}
"""The columns of each answer, 0 for one a period and 1 for one a series."""


def found_of(past: Panel, name: str, ask: Project, ceiling: float, tell: Tell) -> tuple[Values, ...]:
    """What is found by steps, of a panel; takes its time."""
    return _STEPS[name](
        past.settled, span_of(past, ask, past.columns).used, ceiling if ceiling > 0 else np.nan
    )


def _found(g: Ground, name: str) -> tuple[Values, ...]:
    """What is found by steps: at once of short histories, else later; nothing while it is still reckoned."""
    if name != _LONG and g.values.size <= _SOON:
        return _STEPS[name](g.values, g.span.used[:, : g.past], g.how.ceiling)
    # A span is all of what was asked for that it goes by.
    ask = Project(since=g.ask.since, until=g.ask.until)
    answer = g.late(found_of, g.sight.past, name, ask, g.ask.ceiling or -1.0)
    if answer is not None:
        return answer
    many = len(g.values)
    shapes = {0: g.values.shape, 1: (many,)}
    return tuple(
        np.full(shapes.get(each, (many, each)), 0.0 if each == 0 else np.nan) for each in _NONE[name]
    )


def _theil_sen(g: Ground, name: str, prefix: str, shown: bool) -> Laid:
    d, last = g.d, max(g.past - 1, 0)
    intercept, slope = _found(g, name)
    there = ~np.isnan(slope)[:, None]
    t = _t(g, prefix, there)
    b = d.define(
        f"{prefix}slope", f"slope {g.grid.a_period}",
        Reckoned(lambda: slope[:, None], "the median of the slopes of all pairs of periods", True),
        signed=True, shown=shown,
    )  # fmt: skip
    off = d.define(
        f"{prefix}off_slope", "actual less slope × t", g.actual - b * t,
        where=g.span.used > 0, shown=False,
    )  # fmt: skip
    a = d.define(
        f"{prefix}intercept", "intercept", median(known(off.between(0, last))), values=intercept[:, None],
        where=there, shown=shown,
    )  # fmt: skip
    curve = a + b * t
    return Laid(
        name, curve, curve, partial(_why_none, g), partial(_line, g, a, b),
        (f"{prefix}intercept", f"{prefix}slope"),
    )  # fmt: skip


def _growth(g: Ground, name: str, prefix: str, shown: bool) -> Laid:
    d = g.d
    (found,) = _found(g, name)
    there = ~np.isnan(found[:, :1])
    t = _t(g, prefix, there)
    least = "that with the least squared errors on the original scale"
    level = d.define(
        f"{prefix}level_at_0", "level at t = 0", Reckoned(lambda: np.exp(found[:, :1]), least, True),
        unit=g.unit, shown=shown,
    )  # fmt: skip
    b = d.define(
        f"{prefix}slope", f"slope of ln {g.grid.a_period}", Reckoned(lambda: found[:, 1:], least, True),
        signed=True, shown=False,
    )  # fmt: skip
    d.define(
        f"{prefix}growth", f"growth {g.grid.a_period}", 100 * (exp(b) - 1), unit="%", signed=True, shown=shown
    )
    curve = level * raised(b * t)

    def said(series: int) -> str:
        if np.isnan(found[series, 0]):
            return "no fit"
        a, c = np.exp(found[series]).tolist()
        return f"{g.unit} = {significant(a, 5)} × {significant(c, 6)}^t"

    return Laid(name, curve, curve, partial(_why_none, g), said, (f"{prefix}level_at_0", f"{prefix}growth"))


def _logistic(g: Ground, name: str, prefix: str, shown: bool) -> Laid:
    d = g.d
    (found,) = _found(g, name)
    there = ~np.isnan(found[:, :1])
    t = _t(g, prefix, there)
    least = "that with the least squared errors"
    given_by_hand = g.ask.ceiling > 0
    ceiling = d.define(
        f"{prefix}ceiling", "ceiling",
        given(g.ask.ceiling, "by hand") if given_by_hand
        else Reckoned(lambda: np.exp(found[:, 2:]), least, True),
        unit=g.unit, shown=shown, where=there,
    )  # fmt: skip
    a, b = (
        d.define(
            prefix + short,
            label,
            Reckoned(partial(_column, found, place), least, True),
            signed=True,
            shown=shown,
        )
        for place, (short, label) in enumerate(
            (("at_0", "ln of its odds at t = 0"), ("slope", f"its slope {g.grid.a_period}"))
        )
    )
    curve = ceiling / (1 + exp(0 - (a + b * t)))

    def said(series: int) -> str:
        if np.isnan(found[series, 0]):
            return "no fit"
        one, other, top = found[series].tolist()
        sign = MINUS if other > 0 else "+"
        return (
            f"{g.unit} = {significant(float(np.exp(top)), 5)} ÷ (1 + {significant(float(np.exp(-one)), 4)} × "
            f"e^({sign}{significant(abs(other), 4)} t))"
        )

    return Laid(
        name, curve, curve, partial(_no_ceiling, g, there), said,
        (f"{prefix}ceiling", f"{prefix}at_0", f"{prefix}slope"),
    )  # fmt: skip


def _column(found: Values, place: int) -> Values:
    return found[:, place : place + 1]


def _no_ceiling(g: Ground, there: np.ndarray, series: int) -> str:
    n = int((g.span.used[series] > 0).sum())
    if there[series, 0] or n < 4:
        return ""
    largest = float(np.nanmax(np.where(g.span.used[series, : g.past] > 0, g.values[series], np.nan)))
    if 0 < g.ask.ceiling <= largest:
        return (
            f"The ceiling, {significant(g.ask.ceiling, 5)}, is below what has sold, "
            f"{significant(largest, 5)}. Give a higher one, or 0 to have it fitted."
        )
    if (g.values[series][g.span.used[series, : g.past] > 0] < 0).any():
        return "Saturating growth needs figures that are not below zero. Take a line."
    return (
        "This history tells no ceiling: its growth does not slacken, or it falls, or it is one jump. Give a "
        "ceiling by hand, or take a growth curve."
    )


def _line(g: Ground, a: Term, b: Term, series: int) -> str:
    intercept, slope = (float(each.source.values[series, 0]) for each in (a, b))
    if np.isnan(slope):
        return "no fit"
    sign = MINUS if slope < 0 else "+"
    return f"{g.unit} = {significant(intercept, 5)} {sign} {significant(abs(slope), 4)} × t"


def _why_none(g: Ground, series: int) -> str:
    return ""


_MADE: dict[str, Callable[[Ground, str, str, bool], Laid]] = {
    "huber": _huber,
    "theil-sen": _theil_sen,
    "growth-direct": _growth,
    "logistic": _logistic,
}
