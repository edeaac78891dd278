"""A line through a row, straight or of logarithms, as a regression of two terms."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.regression import fit_line
from oat_tide.core.working.formula import Formula, given, sum_of_products, total
from oat_tide.core.working.number_format import MINUS, significant
from oat_tide.core.working.terms import Term, wide
from oat_tide.stages.fitted import Through, TrendLine, line_of
from oat_tide.stages.methods.applied import Regressed, raised
from oat_tide.stages.methods.ground import Ground


def through(
    g: Ground, base: Term, growth: bool, prefix: str, shown: bool, missing: str, spent: Values | None
) -> Through:
    """Fit a line through a row.

    Args:
        missing: why there is no row to fit; empty where there is.
        spent: (series,) parameters that seasonal indices took from it; None for what has none.
    """
    d = g.d
    values = wide(base.values[:, : g.past], d.columns, np.nan)
    used = np.where(np.isnan(values) | bool(missing), 0.0, g.span.used)
    if growth:
        refused = (used > 0) & ~(values > 0)
        used = np.where(refused.any(1, keepdims=True), 0.0, used)
    with np.errstate(invalid="ignore", divide="ignore"):
        z = np.where(used > 0, np.log(values) if growth else values, np.nan)
    row = phrase("actual") if spent is None else phrase("deseasonalised")
    spent = np.zeros(len(z)) if spent is None else spent
    fit = fit_line(g.span.t, z, used)
    return Through(growth, used, g.span.t, z, fit, g.first_number, row, prefix, shown, spent)


def regressed_of(g: Ground, got: Through, line: TrendLine, prefix: str) -> Regressed:
    """The line as a regression of two terms."""
    d, t, t_mean, n, sxx, s = g.d, line.t, line.t_mean, line.n, line.sxx, line.s
    leverage = d.define(
        f"{prefix}leverage", phrase("leverage"), 1 / n + (t - t_mean) ** 2 / sxx, where=sxx, shown=False
    )
    squares = (1 / n + t_mean**2 / sxx, 1 / sxx)

    def joint(gain: Term) -> Formula:
        every, ts = (each.between(g.past, g.past + g.horizon - 1) for each in (gain, t))
        return total(every) ** 2 / n + sum_of_products(every, ts - t_mean) ** 2 / sxx

    return Regressed(
        line.z,
        line.residual,
        line.used,
        (line.intercept, line.slope),
        squares,
        leverage,
        joint,
        line.free,
        given(got.spent[:, None], phrase("of the indices")),
        1 - leverage,
        s,
        n,
        line.sse,
        line.sst,
        got.growth,
    )


@dataclass(frozen=True, eq=False, slots=True)
class Drawn:
    """A line or growth curve through a row.

    Attributes:
        got: what was fitted.
        line: its figures.
        regressed: the line as a regression.
        curve: on the scale of the row.
        raise_by: what its median is multiplied by where the mean is projected.
    """

    got: Through
    line: TrendLine
    regressed: Regressed
    curve: Formula
    raise_by: Formula | None


def drawn(g: Ground, base: Term, got: Through, prefix: str) -> Drawn:
    """Define the figures of a line or growth curve through a row."""
    line = line_of(g.d, got, base)
    regressed = regressed_of(g, got, line, prefix)
    if not got.growth:
        return Drawn(got, line, regressed, line.curve, None)
    curve = raised(line.curve)
    raise_by = raised(regressed.s**2 / 2) if g.ask.mean else None
    return Drawn(got, line, regressed, curve if raise_by is None else curve * raise_by, raise_by)


def equation(got: Through, unit: str, series: int) -> str:
    """The fit of a series with its numbers."""
    slope, intercept = float(got.line.slope[series, 0]), float(got.line.intercept[series, 0])
    if np.isnan(slope):
        return phrase("no fit")
    if got.growth:
        return (
            f"{unit} = {significant(float(np.exp(intercept)), 5)} × {significant(float(np.exp(slope)), 6)}^t"
        )
    sign = MINUS if slope < 0 else "+"
    return phrase(
        "{unit} = {intercept} {sign} {slope} × t",
        unit=unit,
        intercept=significant(intercept, 5),
        sign=sign,
        slope=significant(abs(slope), 4),
    )


def why_none(got: Through, missing: str, series: int) -> str:
    """Why a series has no fit."""
    if not np.isnan(got.line.slope[series, 0]):
        return ""
    return missing
