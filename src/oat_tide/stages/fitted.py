"""A straight line or a growth curve through a row, each figure of the fit reckoned from its inputs."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import partial

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.regression import LineFit
from oat_tide.core.seasons import loess
from oat_tide.core.working.formula import Formula, given, ln, only, sqrt, sum_of_products, total
from oat_tide.core.working.terms import Term
from oat_tide.plan.parts.seasons import Seasons
from oat_tide.stages.deck.draft import Draft


@dataclass(frozen=True, eq=False, slots=True)
class Through:
    """A line fitted, and to what.

    Attributes:
        growth: whether logarithms were fitted.
        used: (series, columns) 1 for a period in the fit.
        t: (series, columns) period numbers.
        z: (series, columns) what was fitted: the row or its logarithm, NaN outside the fit.
        line: the fit.
        first: of a series, which period is number 1, in words.
        row: what the row is called.
        prefix: of the names of its figures, where a deck has several.
        shown: whether its facts are to be seen.
        spent: (series,) parameters that seasonal indices took from the row before; (1,) for all alike.
    """

    growth: bool
    used: Values
    t: Values
    z: Values
    line: LineFit
    first: Callable[[int], str]
    row: str = phrase("actual")
    prefix: str = ""
    shown: bool = True
    spent: Values = field(default_factory=lambda: np.zeros(1))

    @property
    def curve(self) -> Values:
        """(series, columns) the line, or e to it, on the scale of the row."""
        line = self.line.at(self.t)
        return np.exp(line) if self.growth else line


@dataclass(frozen=True, eq=False, slots=True)
class TrendLine:
    """The figures of a line through a row.

    Attributes:
        t, used, z, residual: of every column its number, 1 in the fit, what is fitted and what is missed.
        n, t_mean, sxx: how many periods are in the fit, the mean of their numbers and their squared spread.
        slope, intercept, s: the line, and the residual standard error.
        sse, sst: sums of squares, of what is missed and of deviations from the mean.
        free: degrees of freedom.
        curve: the line in every column, on the scale that is fitted.
    """

    t: Term
    used: Term
    z: Term
    residual: Term
    n: Term
    t_mean: Term
    sxx: Term
    slope: Term
    intercept: Term
    s: Term
    sse: Term
    sst: Term
    free: Term
    curve: Formula


def line_of(d: Draft, got: Through, fitted: Term) -> TrendLine:
    """Define slope, intercept and residual standard error by least squares, each from its inputs."""
    fit, last, of_ln, row = got.line, d.past - 1, phrase(" of ln") if got.growth else "", got.row
    taken, enough = got.used > 0, ~np.isnan(fit.slope)

    def named(name: str) -> str:
        return got.prefix + name

    hidden, fact = partial(d.define, shown=False), partial(d.define, shown=got.shown)
    t = hidden(named("t"), phrase("period number"), given(got.t, got.first), where=enough)
    used = hidden(named("used"), phrase("in the fit"), given(got.used, phrase("1 in the fit, 0 not")))
    scale = (
        phrase("logarithm of {row}, in the fit", row=row)
        if got.growth
        else phrase("{row} in the fit", row=row)
    )
    z = hidden(named("z"), scale, only(taken, ln(fitted) if got.growth else fitted), values=got.z)
    u, ts, zs = (each.between(0, last) for each in (used, t, z))

    n = hidden(named("n"), phrase("periods in the fit"), total(u), values=fit.n)
    t_mean = hidden(
        named("t_mean"), phrase("mean period number"), sum_of_products(u, ts) / n, values=fit.t_mean
    )
    z_mean = hidden(
        named("z_mean"),
        phrase("mean of {scale}", scale=scale),
        sum_of_products(u, zs) / n,
        values=fit.z_mean,
        where=enough,
    )
    dt, dz = ts - t_mean, zs - z_mean
    spread = phrase("squared spread of period numbers")
    sxx = hidden(named("sxx"), spread, sum_of_products(u, dt**2), values=fit.sxx, where=enough)
    said = (
        phrase("slope{of_ln}", of_ln=of_ln)
        if got.growth
        else phrase("slope {per_period}", per_period=d.grid.per_period)
    )
    slope = fact(named("slope"), said, sum_of_products(u, dt * dz) / sxx, values=fit.slope, signed=True)
    intercept = fact(
        named("intercept"),
        phrase("intercept{of_ln}", of_ln=of_ln),
        z_mean - slope * t_mean,
        values=fit.intercept,
    )
    line = intercept + slope * t
    residual = hidden(named("residual"), phrase("residual{of_ln}", of_ln=of_ln), z - line)
    squares = sum_of_products(u, residual.between(0, last) ** 2)
    sse = hidden(named("sse"), phrase("sum of squared residuals"), squares, values=fit.sse, where=enough)
    around = sum_of_products(u, dz**2)
    sst = hidden(named("sst"), phrase("sum of squared deviations"), around, values=fit.sst, where=enough)
    took = given(got.spent[:, None], phrase("parameters that the seasonal indices took"))
    left = only(n - 2 - took > 0, n - 2 - took) if got.spent.any() else only(n - 2 > 0, n - 2)
    free = hidden(named("free"), phrase("degrees of freedom"), left, where=enough)
    s = fact(named("s"), phrase("residual standard error{of_ln}", of_ln=of_ln), sqrt(sse / free))
    return TrendLine(t, used, z, residual, n, t_mean, sxx, slope, intercept, s, sse, sst, free, line)


def spent_by(how: Seasons, cycle: int, values: Values) -> Values:
    """(series,) how many parameters the seasonal indices of a history take; NaN is not known.

    All but one of them are free. Of local regression it is their equivalent number (Hastie and Tibshirani,
    1990, chapter 3).
    """
    if how.method != "loess":
        return np.full(len(values), float(cycle - 1))
    cycles = (~np.isnan(values)).sum(1) // max(cycle, 1)
    return np.array([(cycle - 1) * loess.equivalent(int(each), how.seasonal) for each in cycles])
