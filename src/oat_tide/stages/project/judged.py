"""What a regression is judged by: how sure its coefficients are, its fit, the residual of each period."""

from __future__ import annotations

from functools import partial

import numpy as np

from oat_tide.core.language import counted, noun, phrase
from oat_tide.core.working.formula import (
    Formula,
    count,
    either,
    f_tail,
    given,
    ln,
    only,
    sqrt,
    sum_of_products,
    t_quantile,
    t_tail,
    total,
)
from oat_tide.core.working.terms import Term, known
from oat_tide.stages.common import year_before
from oat_tide.stages.methods.applied import LARGEST, AppliedMethod, Regressed, raised
from oat_tide.stages.methods.ground import Ground
from oat_tide.stages.project.projection import Coefficient, Judged, Limits

_STEP = 400
"""Columns that the like ones are looked up by: a drag over days moves their number in every frame."""


def remains_of(g: Ground, fitted: Term) -> Term:
    """Actual less fitted, on the original scale."""
    return g.d.define(
        "remains",
        phrase("Residual"),
        g.actual - fitted,
        where=g.span.used > 0,
        unit=g.unit,
        signed=True,
        blank=phrase("It is not in the fit."),
    )


def judge(g: Ground, laid: AppliedMethod, told: Regressed, fitted: Term) -> Judged:
    """The facts of a regression and, of every period, how far off it lies and how hard it pulls."""
    d = g.d
    # Of logarithms what is explained is told on the original scale, too.
    original = (_original_scale(g, told, fitted),) if told.logs and laid.season is None else ()
    coefficients = _coefficients(g, laid, told)
    whole, durbin_watson = _as_a_whole(g, laid, told)
    spread = told.s * sqrt(only(told.kept > 0, told.kept))
    standardised = d.define(
        "standardised",
        phrase("Standardised residual"),
        only(spread > 0, told.residual / spread),
        signed=True,
        where=told.residual,
        blank=phrase("It is not in the fit, or the fit goes through it whatever it is."),
    )
    cook = d.define(
        "cook",
        phrase("Cook's distance"),
        standardised**2 * told.leverage / (1 - told.leverage) / float(told.terms),
        where=standardised,
        shown=False,
    )
    return Judged(coefficients, (*whole, *original), durbin_watson, standardised, cook)


def _coefficients(g: Ground, laid: AppliedMethod, told: Regressed) -> tuple[Coefficient, ...]:
    """The standard error of each coefficient, its t and p, and its limits."""
    fact, found = partial(g.d.define, signed=True), []
    level = given(g.ask.sure / 100, "level")
    for name, coefficient, square in zip(laid.facts, told.coefficients, told.squares, strict=True):
        label = coefficient.source.figure.label
        error = fact(
            f"{name}_error",
            phrase("standard error of {label}", label=label),
            told.s * sqrt(square),
            signed=False,
        )
        t = fact(f"{name}_t", phrase("t of {label}", label=label), only(error > 0, coefficient / error))
        p = fact(f"{name}_p", phrase("p of {label}", label=label), t_tail(t, told.freedom), signed=False)
        margin = t_quantile(level, told.freedom) * error
        lower = phrase("{label}, {sure:g} % lower", label=label, sure=g.ask.sure)
        upper = phrase("{label}, {sure:g} % upper", label=label, sure=g.ask.sure)
        low = fact(f"{name}_lower", lower, coefficient - margin)
        high = fact(f"{name}_upper", upper, coefficient + margin)
        found.append(Coefficient(coefficient, error, t, p, Limits(g.ask.sure, low, high)))
    return tuple(found)


def _as_a_whole(g: Ground, laid: AppliedMethod, told: Regressed) -> tuple[tuple[Term, ...], Term]:
    """What the fit explains, and whether its residuals hang together; that last fact once more by itself."""
    d, last, k = g.d, max(g.past - 1, 0), float(told.terms)
    n, sse, sst = told.n, told.sse, told.sst
    scale = phrase(" on the log scale") if told.logs else ""
    r2 = d.define("r2", f"R²{scale}", 1 - sse / sst, where=sst > 0, blank=phrase("Nothing varies."))
    freedom = told.freedom
    adjusted = d.define(
        "adjusted_r2",
        phrase("adjusted R²{scale}", scale=scale),
        1 - (1 - r2) * (freedom + told.spent + (k - 1)) / only(freedom > 0, freedom),
        where=sst > 0,
    )
    f = d.define(
        "f", phrase("F of the regression"), only(sse > 0, (sst - sse) / (k - 1) / told.s**2), where=sst > 0,
        blank=phrase("The fit is perfect, or nothing varies."),
    )  # fmt: skip
    p_of_f = d.define(
        "f_p", phrase("p of F"), f_tail(f, given(k - 1, phrase("coefficients less one")), freedom)
    )
    p = k + 1
    terms = laid.method.regression
    weighted = terms is not None and terms.weights is not None
    aicc = d.define(
        "aicc",
        phrase("AICc"),
        n * ln(sse / n) + 2 * p + only(n - p - 1 > 0, 2 * p * (p + 1) / (n - p - 1)),
        where=np.zeros((len(d.keys), 1), np.bool_) if weighted else sse > 0,
        signed=True,
        blank=phrase("It is not given for fits with weights.")
        if weighted
        else phrase("It takes more than {p:g} periods, and a fit that is not perfect.", p=p + 1),
    )
    hidden = partial(d.define, shown=False)
    square = hidden("residual_square", phrase("square of the residual"), told.residual**2)
    change = told.residual - told.residual.shift(-1)
    step = hidden("residual_step", phrase("square of its change from the period before"), change**2)
    steps, squares = (total(known(each.between(0, last))) for each in (step, square))
    pairs = count(known(step.between(0, last)))
    durbin_watson = d.define(
        "durbin_watson",
        phrase("Durbin-Watson"),
        steps / squares * (count(known(square.between(0, last))) - 1) / only(pairs > 0, pairs),
        where=sse > 0,
        blank=phrase("Nothing is missed."),
    )
    return (r2, adjusted, told.s, f, p_of_f, aicc, durbin_watson, n), durbin_watson


def _original_scale(g: Ground, told: Regressed, fitted: Term) -> Term:
    """R² on the original scale: of the actuals themselves, not of their logarithms."""
    d, last = g.d, max(g.past - 1, 0)
    hidden = partial(d.define, shown=False)
    u, n = told.counts.between(0, last), told.n
    y = hidden("y", phrase("actual in the fit"), g.actual, where=told.counts > 0)
    y_mean = hidden(
        "y_mean",
        phrase("mean of actual in the fit"),
        sum_of_products(u, y.between(0, last)) / n,
        where=told.s,
    )
    miss = hidden("miss", phrase("actual minus fitted"), y - fitted)
    off = hidden("off", phrase("actual minus its mean"), y - y_mean)
    sse, sst = (sum_of_products(u, each.between(0, last) ** 2) for each in (miss, off))
    share = only(sst > 0, 1 - only(sse < LARGEST, sse) / sst)
    return d.define(
        "r2_original",
        phrase("R² on the original scale"),
        share,
        where=told.s,
        blank=phrase("The fit is too far off."),
    )


def growth(g: Ground, projected: Term) -> tuple[Term, tuple[Term, ...]]:
    """The total ahead, and its growth: on the year before, and from the first to the last."""
    d, stop = g.d, g.past + g.horizon
    in_past = (np.arange(d.columns) < g.past)[None]
    whole = d.define(
        "known_or_projected",
        phrase("actual, then projected"),
        either(in_past, g.actual, projected),
        shown=False,
        unit=g.unit,
    )
    base = whole.like(year_before(g.grid, d.first, -(-d.columns // _STEP) * _STEP)[: d.columns])
    d.define(
        "on_year",
        phrase("Change on same {kind} last year, %", kind=noun(g.grid.kind)),
        only(base > 0, 100 * (whole / base - 1)),
        brief=phrase("on last year, %"),
        where=g.ahead,
        unit="%",
        signed=True,
        blank=phrase(
            "Only projected periods are compared with the year before here, where that is above zero."
        ),
    )
    by_period = _by_period(g, whole, stop)
    ahead = d.define(
        "ahead_total",
        _all(g, phrase("the next {0}")),
        total(projected.between(g.past, stop - 1)),
        unit=g.unit,
    )
    before = _base_of(g, base)
    d.define(
        "on_base",
        phrase("Projected less last year"),
        projected - before,
        unit=g.unit,
        signed=True,
        adds_up=g.actuals.adds_up,
        blank=phrase("Only projected periods have it, where the year before is known."),
    )
    held = d.define(
        "ahead_before",
        _all(g, phrase("the same {0} a year before")),
        total(before.between(g.past, stop - 1)),
        unit=g.unit,
        shown=False,
    )
    on_year = d.define(
        "ahead_growth",
        phrase("growth on the year before"),
        only(held > 0, 100 * (ahead / held - 1)),
        unit="%",
        signed=True,
        blank=phrase("The year before is not known, or not above zero."),
    )
    return ahead, (on_year, *by_period)


def _by_period(g: Ground, whole: Term, stop: int) -> tuple[Term, ...]:
    """Growth from period to period, and compound over the horizon; what it is on is named."""
    d, latest = g.d, g.grid.named(g.d.first + g.past - 1)
    before = whole.shift(-1)
    if g.grid.kind != "year":
        d.define(
            "on_before",
            phrase("Change on previous {kind}, %", kind=noun(g.grid.kind)),
            only(before > 0, 100 * (whole / before - 1)),
            brief=phrase("on previous {kind}, %", kind=noun(g.grid.kind)),
            where=g.ahead,
            unit="%",
            signed=True,
            blank=phrase("Only projected periods have it, where the one before is above zero."),
            remark=lambda series, column: (
                phrase("Change on the actual of {latest}.", latest=latest) if column == g.past else ""
            ),
        )
    if g.grid.kind in ("day", "week"):
        # From one day to another it says nothing.
        return ()
    many, ahead = len(d.keys), given(float(g.horizon), phrase("periods ahead"))
    first, last = (whole.at(np.full(many, column)) for column in (g.past - 1, stop - 1))
    compound = d.define(
        "ahead_compound",
        phrase("compound growth per {kind}", kind=noun(g.grid.kind)),
        100 * (only(first > 0, only(last > 0, last / first)) ** (1 / ahead) - 1),
        unit="%",
        signed=True,
        blank=phrase("{latest} is not known, or not above zero.", latest=latest),
    )
    if g.how.year <= 1:
        return (compound,)
    a_year = d.define(
        "ahead_a_year",
        phrase("compound growth per year"),
        100 * (raised(float(g.how.year) * ln(1 + compound / 100)) - 1),
        unit="%",
        signed=True,
        blank=phrase("{latest} is not known, or not above zero.", latest=latest),
    )
    return compound, a_year


def _base_of(g: Ground, base: Formula) -> Term:
    """What each projected period is held against: the actual a year before, or what is projected of it."""
    return g.d.define(
        "year_base",
        phrase("Same {kind} last year", kind=noun(g.grid.kind)),
        base,
        unit=g.unit,
        adds_up=g.actuals.adds_up,
        blank=phrase("The year before is not known."),
    )


def _all(g: Ground, words: str) -> str:
    return words.format(counted(g.horizon, g.grid.kind))
