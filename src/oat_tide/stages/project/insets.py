"""Residuals as small charts: how they hang together, how they are spread, and fitted against actual."""

from __future__ import annotations

import itertools
from functools import partial

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import counted, nouns, phrase
from oat_tide.core.periods.calendar import Days, Grid
from oat_tide.core.working.formula import count, given, normal_tail, only, sqrt
from oat_tide.core.working.number_format import fixed
from oat_tide.core.working.terms import Term, known
from oat_tide.stages.by_kernel import ByKernel
from oat_tide.stages.deck import Axis, Curve, Inset, Item, Note
from oat_tide.stages.deck.axis import Names
from oat_tide.stages.methods.applied import AppliedMethod, Regressed
from oat_tide.stages.methods.ground import Ground
from oat_tide.stages.project.projection import Judged

_MOST_SERIES = 20
"""Series of a deck that has these charts: they are looked at one series at a time."""
_STEP, _WIDEST = 0.5, 3.0
"""Of standardised residuals."""
_EDGES = np.arange(-_WIDEST, _WIDEST + _STEP, _STEP)


def _lags(many: int, kind: str) -> Axis:
    short = tuple(str(lag) for lag in range(1, many + 1))
    return Axis(short, short, tuple(counted(lag, kind) + " apart" for lag in range(1, many + 1)))


def _sizes() -> Axis:
    names = tuple(fixed(float(each), 1) for each in (_EDGES[:-1] + _EDGES[1:]) / 2)
    full = tuple(
        phrase("{a} to {b}", a=fixed(float(a), 1), b=fixed(float(b), 1))
        for a, b in itertools.pairwise(_EDGES)
    )
    return Axis(names, names, full)


def define_insets(g: Ground, laid: AppliedMethod, fitted: Term, judged: Judged | None) -> bool:
    """The figures of the small charts, on axes of their own; whether there are any."""
    if laid.regressed is None or judged is None or len(g.d.keys) > _MOST_SERIES or g.past < 4:
        return False
    _together(g, laid.regressed)
    _spread(g, judged.standardised)
    return _by_size(g, fitted)


def insets(g: Ground) -> tuple[Item, ...]:
    """The small charts."""
    limits = (Curve("chance_above", "average"), Curve("chance_below", "average"))
    return (
        Note(phrase("Residuals"), "head"),
        Note(
            phrase("Autocorrelation by lag in {kinds}, with 95 % limits of chance", kinds=nouns(g.grid.kind)),
            "small",
        ),
        Inset(phrase("Autocorrelation of residuals"), "lags", (Curve("autocorrelation", "bars"), *limits)),
        Note(phrase("Distribution of standardised residuals, with the normal curve"), "small"),
        Inset(
            phrase("Distribution of residuals"),
            "sizes",
            (Curve("many_of_size", "columns"), Curve("normal", "average")),
        ),
        Note(
            phrase("Fitted against actual: the {kinds} in order of what is fitted", kinds=nouns(g.grid.kind)),
            "small",
        ),
        Inset(
            phrase("Fitted against actual"),
            "by size",
            (Curve("actual_by_size", "actual"), Curve("fitted_by_size", "fitted")),
        ),
    )


def _together(g: Ground, told: Regressed) -> None:
    """The autocorrelation of residuals, and what chance stays within: 1.96 over the root of n."""
    d, last = g.d, g.past - 1
    many = max(min(2 * (g.cycle.length or 4), g.past // 2, 40), 1)
    d.lay("lags", _lags(many, g.grid.kind))
    row = partial(d.define, shown=False, axis="lags")
    row(
        "autocorrelation", phrase("autocorrelation of residuals"),
        ByKernel(
            lambda: _echoes(told.residual.source.values[:, : g.past], many),
            phrase("the sum of products of residuals so far apart, over that of their squares"),
        ),
        signed=True,
    )  # fmt: skip
    n = d.define(
        "residuals_n", phrase("residuals"), count(known(told.residual.between(0, last))), shown=False
    )
    limit = row(
        "chance_above", phrase("chance stays below"), _flat(len(d.keys), many) + 1.96 / sqrt(only(n > 0, n))
    )
    row("chance_below", phrase("chance stays above"), 0 - limit, signed=True)


def _flat(series: int, columns: int) -> ByKernel:
    return ByKernel(lambda: np.zeros((series, columns)), "nothing")


def _echoes(residual: Values, many: int) -> Values:
    """(series, lags) NaN where nothing is missed."""
    off = np.nan_to_num(residual)
    squares = (off**2).sum(1)
    found = np.full((len(off), many), np.nan)
    for lag in range(1, many + 1):
        with np.errstate(invalid="ignore", divide="ignore"):
            found[:, lag - 1] = np.where(squares > 0, (off[:, lag:] * off[:, :-lag]).sum(1) / squares, np.nan)
    return found


def _spread(g: Ground, standardised: Term) -> None:
    """How many standardised residuals lie within each half of one, and how many would if they were normal."""
    d, edges = g.d, _EDGES
    d.lay("sizes", _sizes())
    row = partial(d.define, shown=False, axis="sizes")
    row(
        "many_of_size", phrase("residuals of that size"),
        ByKernel(partial(_many_of, standardised, edges), phrase("counted; the outermost hold all beyond")),
        exact=True,
    )  # fmt: skip
    n = d.define(
        "told_n",
        phrase("standardised residuals"),
        count(known(standardised.between(0, g.past - 1))),
        shown=False,
    )
    low, high = edges[:-1].copy(), edges[1:].copy()
    low[0], high[-1] = -9.0, 9.0
    beyond = (given(each[None], phrase("where the size ends")) for each in (low, high))
    first, second = beyond
    row("normal", phrase("of a normal distribution"), n * (normal_tail(first) - normal_tail(second)))


def _many_of(standardised: Term, edges: Values) -> Values:
    found = np.zeros((len(standardised.source.values), len(edges) - 1))
    for row, own in enumerate(standardised.source.values):
        kept = np.clip(own[~np.isnan(own)], edges[0], edges[-1])
        found[row] = np.histogram(kept, edges)[0]
    return found


def _named(grid: Grid, first: int, order: Days, place: int) -> str:
    return grid.label(first + int(order[place]))


def _by_size(g: Ground, fitted: Term) -> bool:
    """Periods of the fit in order of what is fitted, of the series in sight; whether there are any."""
    d = g.d
    own = fitted.source.values[0, : g.past]
    there = np.flatnonzero(~np.isnan(own) & (g.span.used[0, : g.past] > 0))
    if not there.size:
        return False
    order = there[np.argsort(own[there], kind="stable")]
    names = Names(len(order), partial(_named, g.grid, d.first, order))
    d.lay("by size", Axis(names, names, names))
    row = partial(d.define, shown=False, axis="by size", unit=g.unit)
    row("actual_by_size", phrase("actual"), g.actual.like(order))
    row("fitted_by_size", phrase("fitted"), fitted.like(order))
    return True
