"""Regressions linear in their coefficients, each of these a sum of what the periods pull on it."""

from __future__ import annotations

import functools
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import nouns, phrase
from oat_tide.core.methods import regression
from oat_tide.core.methods.least_squares import Regression, joint, pulls
from oat_tide.core.methods.shape import Method, Terms
from oat_tide.core.periods.calendar import Days
from oat_tide.core.working.formula import (
    Formula,
    either,
    given,
    ln,
    only,
    rounded_to,
    sqrt,
    sum_of_products,
    total,
)
from oat_tide.core.working.number_format import MINUS, significant
from oat_tide.core.working.terms import Term, wide
from oat_tide.stages.by_kernel import ByKernel
from oat_tide.stages.methods.applied import AppliedMethod, Regressed, raised
from oat_tide.stages.methods.ground import Ground


@dataclass(frozen=True, eq=False, slots=True)
class Linear:
    """What a room tells of its regression.

    Attributes:
        method: the method.
        labels: its coefficients for people, beside those of a line.
        curve: (ground, coefficients by name, period number) -> its terms times its coefficients.
        equation: (ground, coefficients of a series by name) -> the fit with its numbers, without the unit.
    """

    method: Method
    curve: Callable[[Ground, dict[str, Term], Term], Formula]
    equation: Callable[[Ground, dict[str, float]], str]
    labels: Callable[[Ground], dict[str, str]] = lambda g: {}

    @property
    def terms(self) -> Terms:
        """What it is linear in."""
        assert self.method.regression is not None
        return self.method.regression

    @property
    def weighted(self) -> bool:
        """Whether some periods count more than others."""
        return self.terms.weights is not None

    @property
    def scale(self) -> str:
        """What is fitted."""
        return phrase("logarithm of actual, in the fit") if self.terms.logs else phrase("actual in the fit")


def linear(own: Linear, g: Ground, prefix: str, shown: bool) -> AppliedMethod:
    """Lay a regression by least squares on a history; its coefficients are shown as facts."""
    d, logs = g.d, own.terms.logs
    fit = regression.fit(own.terms, g.values, g.span.used[:, : g.past], d.columns - g.past, g.how)
    there = ~np.isnan(fit.coefficients[:, :1])
    hidden = partial(d.define, shown=False)
    counts = hidden(
        f"{prefix}used",
        phrase("weight in the fit") if own.weighted else phrase("in the fit"),
        given(wide(np.where(there, fit.weights, 0.0), d.columns, 0.0), phrase("0 out of the fit")),
    )
    z = hidden(
        f"{prefix}z",
        own.scale,
        only(counts > 0, ln(g.actual) if logs else g.actual),
        where=wide(fit.weights * there > 0, d.columns, False),
    )
    coefficients, squares = _coefficients(g, own, fit, z, prefix, shown)
    t = d.define(
        f"{prefix}t",
        phrase("period number"),
        given(g.numbers(own.method), g.first_number),
        where=there,
        shown=False,
    )
    # Before the fit begins there is no logarithm of the period's number.
    line = hidden(
        f"{prefix}line",
        phrase("curve") if not logs else phrase("curve of ln"),
        own.curve(g, dict(zip(fit.names, coefficients, strict=True)), t),
        values=fit.curve,
        where=g.numbers(own.method) > 0,
    )
    residual = hidden(f"{prefix}residual", phrase("residual"), z - line)
    missed = _missed(g, own, fit, (counts, z, residual), prefix, shown)
    leverage = hidden(
        f"{prefix}leverage",
        phrase("leverage"),
        ByKernel(lambda: fit.leverage, phrase("x (X'X)⁻¹ x' of its terms")),
    )
    whole = raised(line) if logs else line
    raise_by = raised(missed.s**2 / 2) if logs and g.ask.mean else None
    if raise_by is not None:
        whole = whole * raise_by
    kept: Formula = 1 - leverage
    if own.weighted:
        why = phrase("1 - 2 h + c, h how much a period pulls its own fitted figure and c its leverage")
        kept = ByKernel(lambda: wide(fit.kept, d.columns, np.nan), why)
    return AppliedMethod(
        own.method,
        whole,
        whole,
        partial(_why_none, g, fit),
        partial(_equation, g, own, fit),
        tuple(prefix + short for short in fit.names),
        Regressed(
            z,
            residual,
            counts,
            coefficients,
            squares,
            leverage,
            partial(_joint, g, own, fit),
            missed.freedom,
            given(0.0, phrase("no indices")),
            kept,
            missed.s,
            missed.n,
            missed.sse,
            missed.sst,
            logs,
        ),
        line,
        raise_by=raise_by,
        through_time=True,
    )


def _joint(g: Ground, own: Linear, fit: Regression, gain: Term) -> Formula:
    design_of = own.terms.design(g.d.columns, g.how)
    return ByKernel(
        lambda: joint(fit, design_of, gain.values)[:, None],
        phrase("w (X'X)⁻¹ w', w the sum of the terms of the periods ahead"),
        True,
    )


def _coefficients(
    g: Ground, own: Linear, fit: Regression, z: Term, prefix: str, shown: bool
) -> tuple[tuple[Term, ...], tuple[Formula, ...]]:
    """Each coefficient, a sum of figures times what they pull; the squares of these are how unsure it is."""
    d, last, there = g.d, max(g.past - 1, 0), ~np.isnan(fit.coefficients[:, :1])
    pulled = functools.cache(lambda: pulls(fit, own.terms.design(d.columns, g.how)))
    coefficients, squares = [], []
    for place, (short, label) in enumerate(zip(fit.names, _labels(g, own, fit), strict=True)):
        row = ByKernel(
            partial(_of_term, pulled, place, d.columns), phrase("its row of (X'WX)⁻¹ X'W; 0 out of the fit")
        )
        pull = d.define(
            f"{prefix}pull_{short}", phrase("pull on the {label}", label=label), row, where=there, shown=False
        )
        every = pull.between(0, last)
        coefficients.append(
            d.define(
                prefix + short,
                label,
                sum_of_products(every, z.between(0, last)),
                values=fit.coefficients[:, place : place + 1],
                where=there,
                signed=True,
                shown=shown,
            )
        )
        squares.append(total(every**2))
    return tuple(coefficients), tuple(squares)


@dataclass(frozen=True, eq=False, slots=True)
class _Missed:
    """How many periods are fitted, sums of squares, the residual standard error, and what is free."""

    n: Term
    sse: Term
    sst: Term
    s: Term
    freedom: Formula


def _missed(
    g: Ground, own: Linear, fit: Regression, rows: tuple[Term, Term, Term], prefix: str, shown: bool
) -> _Missed:
    """Define how many periods are fitted and how much is missed."""
    counts, z, residual = rows
    d, last, there = g.d, max(g.past - 1, 0), ~np.isnan(fit.coefficients[:, :1])
    hidden, every = partial(d.define, shown=False), counts.between(0, last)
    many = given(fit.n[:, None], phrase("periods of a weight above 0")) if own.weighted else total(every)
    n = hidden(f"{prefix}n", phrase("periods in the fit"), many, where=there)
    squared = sum_of_products(every, residual.between(0, last) ** 2)
    sse = hidden(
        f"{prefix}sse", phrase("sum of squared residuals"), squared, values=fit.sse[:, None], where=there
    )
    middle = sum_of_products(every, z.between(0, last)) / total(every)
    z_mean = hidden(f"{prefix}z_mean", phrase("mean of {scale}", scale=own.scale), middle, where=there)
    around = sum_of_products(every, (z.between(0, last) - z_mean) ** 2)
    sst = hidden(
        f"{prefix}sst", phrase("sum of squared deviations"), around, values=fit.sst[:, None], where=there
    )
    left: Formula = n - float(fit.terms)
    freedom: Formula = left
    if own.weighted:
        left = given(fit.left[:, None], phrase("the sum of weights, less the trace of (X'WX)⁻¹ X'W²X"))
        # Rounded down, as tables of t, and sheets, have whole degrees of freedom.
        many_alike = total(every) ** 2 / total(counts.between(0, last) ** 2)
        freedom = rounded_to(many_alike - (fit.terms + 0.5), 0)
    said = phrase("residual standard error") + (phrase(" of ln") if own.terms.logs else "")
    s = d.define(f"{prefix}s", said, sqrt(sse / left), values=fit.s[:, None], shown=shown)
    return _Missed(n, sse, sst, s, freedom)


def _of_term(pulled: Callable[[], Values], place: int, columns: int) -> Values:
    return wide(pulled()[:, place], columns, 0.0)


def _labels(g: Ground, own: Linear, fit: Regression) -> tuple[str, ...]:
    """The coefficients for people."""
    named = {
        "intercept": phrase("intercept"),
        "slope": phrase("slope {per_period}", per_period=g.grid.per_period),
    } | own.labels(g)
    return tuple(named[each] for each in fit.names)


def level_of(by_name: dict[str, Term], stem: str, place: Days, many: int) -> Formula:
    """The level of the season, or weekday, that each column stands at."""
    level: Formula = by_name[f"{stem}{many - 1}"]
    for each in range(many - 1):
        level = either((place == each)[None], by_name[f"{stem}{each}"], level)
    return level


def more(value: float, of: str) -> str:
    """A further term of an equation."""
    return f"{MINUS if value < 0 else '+'} {significant(abs(value), 4)} × {of}"


def _equation(g: Ground, own: Linear, fit: Regression, series: int) -> str:
    """The fit with its numbers."""
    if np.isnan(fit.sse[series]):
        return phrase("no fit")
    found = dict(zip(fit.names, fit.coefficients[series].tolist(), strict=True))
    return f"{g.unit} = {own.equation(g, found)}"


def _why_none(g: Ground, fit: Regression, series: int) -> str:
    """Why a series has no fit, where that is not told by its periods alone."""
    if not np.isnan(fit.sse[series]):
        return ""
    n = int((g.span.used[series] > 0).sum())
    if n > fit.terms:
        return phrase(
            "{terms} coefficients cannot be separated by these {n} {kinds}: some are alike.",
            terms=fit.terms,
            n=n,
            kinds=nouns(g.grid.kind),
        )
    lie = phrase("lies") if n == 1 else phrase("lie")
    return phrase(
        "{terms} coefficients take {least} {kinds}, and {n} {lie} in the fit span. Take a "
        "method with fewer, or widen the fit span.",
        terms=fit.terms,
        least=fit.terms + 1,
        kinds=nouns(g.grid.kind),
        n=n,
        lie=lie,
    )
