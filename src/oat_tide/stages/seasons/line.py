"""A line or growth curve through the deseasonalised series, carried on and put back in season."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache, partial

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import nouns, phrase
from oat_tide.core.regression import fit_line
from oat_tide.core.working.formula import Formula, exp, only, sum_of_products, total
from oat_tide.core.working.terms import Term, known, wide
from oat_tide.stages.cycle import year_of
from oat_tide.stages.fitted import Through, line_of, spent_by
from oat_tide.stages.seasons.ground import Ground
from oat_tide.stages.seasons.taken import Taken


@dataclass(frozen=True, eq=False, slots=True)
class CarriedOn:
    """The line through the deseasonalised series.

    Attributes:
        slope, intercept: of the series, or of its logarithm for a growth curve.
        growth: in % per period; None of a straight line.
    """

    slope: Term
    intercept: Term
    growth: Term | None


def through_it(ground: Ground, taken: Taken) -> CarriedOn:
    """The line through the deseasonalised series, next year's figures, and R² three ways."""
    d, growth = ground.d, ground.ask.through == "growth"
    without = taken.deseasonalised
    got = _through(ground, without, growth)
    fit = line_of(d, got, without)
    raised = exp(fit.curve) if growth else fit.curve
    row = partial(d.define, unit=ground.unit)
    year = year_of(d.grid, ground.cycle.length)
    place = np.arange(d.columns)[None]
    past = row(
        "through",
        phrase("Growth curve") if growth else phrase("Line"),
        raised,
        where=(place >= _starts(without.values[:, : ground.past])) & (place < ground.past + year),
        blank=phrase(
            "The line goes from the first deseasonalised period to {year} {kinds} after the as-of.",
            year=year,
            kinds=nouns(d.grid.kind),
        ),
    )
    back = ground.by_kind(past * taken.season, past + taken.season, d.columns)
    projected = row(
        "back",
        phrase("Back in season"),
        back if ground.selling is None else ground.selling.put_back(back),
        adds_up=ground.actuals.adds_up,
        blank=phrase("The line or the season is not known."),
    )
    d.define(
        "next_year",
        phrase("the next {year} {kinds} together", year=year, kinds=nouns(d.grid.kind)),
        total(known(projected.between(ground.past, ground.past + year - 1))),
        unit=ground.unit,
        blank=phrase("The line or the season is not known."),
    )
    rate = None
    if growth:
        said = phrase("growth {per_period}", per_period=d.grid.per_period)
        rate = d.define("growth", said, 100 * (exp(fit.slope) - 1), unit="%", signed=True)
    _three_ways(ground, without, fit.used, past, projected)
    return CarriedOn(fit.slope, fit.intercept, rate)


def _starts(values: Values) -> Values:
    """(series, 1) the first column known; beyond all where none is."""
    there = ~np.isnan(values)
    first = there.argmax(1) if values.shape[1] else np.zeros(len(values), np.int64)
    return np.where(there.any(1), first, 1 << 30)[:, None]


def _through(
    ground: Ground, row: Term, growth: bool, prefix: str = "", said: str = phrase("deseasonalised")
) -> Through:
    """A fit of all that is known of a row."""
    d, columns = ground.d, ground.d.columns
    values = wide(row.values, columns, np.nan)
    inside = (np.arange(columns) < ground.past)[None] & ~np.isnan(values)
    # No growth curve goes through what is not above zero.
    bad = inside & ~(values > 0)
    fits = ~bad.any(1, keepdims=True) if growth else np.ones((len(values), 1), np.bool_)
    used = (inside & fits).astype(float)
    start = _starts(np.where(used[:, : ground.past] > 0, values[:, : ground.past], np.nan))
    start = np.where(start < columns, start, 0)
    t = np.arange(columns, dtype=float)[None] - start + 1
    with np.errstate(invalid="ignore", divide="ignore"):
        z = np.where(used > 0, np.log(values) if growth else values, np.nan)

    def first(series: int) -> str:
        return phrase("counted from {first} = 1", first=d.grid.named(d.first + int(start[series, 0])))

    spent = np.zeros(len(z)) if prefix else spent_by(ground.ask, ground.cycle.length, ground.values)
    fit = fit_line(t, z, used)
    return Through(growth, used, t, z, fit, first, said, prefix, not prefix, spent)


def _three_ways(ground: Ground, without: Term, used: Term, line: Term, projected: Term) -> None:
    """R² of the line on the deseasonalised series, of a raw line on the raw series, and back in season."""
    d, growth, actual = ground.d, ground.ask.through == "growth", ground.sold
    curve = phrase("growth curve") if growth else phrase("line")
    define = partial(d.define_by, blank=phrase("Too little is known, or it does not vary."))
    for name, said, own, fitted in (
        ("r2_without", phrase("R² of the {curve}, deseasonalised", curve=curve), without, line),
        ("r2_back", phrase("R² put back in season, raw series"), actual, projected),
    ):
        define(
            name,
            said,
            partial(_explained, own, fitted, used),
            partial(_r2, ground, name, used, own, fitted),
        )
    raw = cache(partial(_through, ground, actual, growth, "raw_", phrase("actual")))
    define(
        "r2_raw",
        phrase("R² of a raw {curve} on the raw series", curve=curve),
        lambda: explained(actual.values, raw().curve, raw().used),
        lambda: _raw(ground, raw(), curve),
    )


def _raw(ground: Ground, got: Through, curve: str) -> Formula:
    """R² of a line or growth curve through the series as it is."""
    d, actual = ground.d, ground.sold
    fit = line_of(d, got, actual)
    raw_line = d.define(
        "raw_line",
        phrase("raw {curve}", curve=curve),
        exp(fit.curve) if got.growth else fit.curve,
        where=actual,
        unit=ground.unit,
        shown=False,
    )
    return _r2(ground, "r2_raw", fit.used, actual, raw_line)


def _r2(ground: Ground, name: str, used: Term, actual: Term, line: Term) -> Formula:
    """1 - SSE / SST on the original scale, over the periods of the fit."""
    last, hidden = max(ground.past - 1, 0), partial(ground.d.define, shown=False)
    u = used.between(0, last)
    y = hidden(f"{name}_y", phrase("figure compared"), actual, where=_in_the_fit(used))
    middle = hidden(
        f"{name}_mean",
        phrase("its mean"),
        sum_of_products(u, y.between(0, last)) / total(u),
        where=total(u) > 0,
    )
    miss = hidden(f"{name}_miss", phrase("figure less the line"), y - line)
    off = hidden(f"{name}_off", phrase("figure off its mean"), y - middle)
    sse, sst = (sum_of_products(u, each.between(0, last) ** 2) for each in (miss, off))
    return only(sst > 0, 1 - sse / sst)


def _explained(actual: Term, line: Term, used: Term) -> Values:
    return explained(actual.values, line.values, used.values)


def explained(actual: Values, line: Values, used: Values) -> Values:
    """(series, 1) 1 - SSE / SST over the periods of weight 1; NaN where the actual does not vary.

    Args:
        actual, line, used: (series, columns), the first perhaps fewer.
    """
    columns = min(actual.shape[1], line.shape[1], used.shape[1])
    inside = used[:, :columns] > 0
    n = np.maximum(inside.sum(1, keepdims=True), 1)
    y = np.where(inside, actual[:, :columns], 0.0)
    miss = np.where(inside, actual[:, :columns] - line[:, :columns], 0.0)
    off = np.where(inside, y - y.sum(1, keepdims=True) / n, 0.0)
    sse, sst = ((each**2).sum(1, keepdims=True) for each in (miss, off))
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.where(sst > 0, 1 - sse / sst, np.nan)


def _in_the_fit(used: Term) -> Formula:
    return used > 0
