"""Project: what comes next? A straight line or a growth curve on the fit span, carried over the horizon."""

from __future__ import annotations

import functools
from dataclasses import dataclass
from functools import partial

import numpy as np

from oat_tide.core.periods.calendar import Grid
from oat_tide.core.series.panel import Sight
from oat_tide.core.working.formula import (
    Formula,
    exp,
    given,
    only,
    percent,
    sqrt,
    sum_of_products,
    t_quantile,
)
from oat_tide.core.working.terms import Term
from oat_tide.plan.parts.project import Project
from oat_tide.stages.common import as_known_now, named
from oat_tide.stages.deck import Band, Curve, Deck, Late
from oat_tide.stages.deck.draft import Draft, of
from oat_tide.stages.fitted import Through, line_of
from oat_tide.stages.lines import base, borrow_actual
from oat_tide.stages.needs import need
from oat_tide.stages.project import words
from oat_tide.stages.project.fit import MOST_YEARS, Fit, fit, horizon_of
from oat_tide.stages.project.handles import handles
from oat_tide.stages.project.sheet import sheet
from oat_tide.stages.record import Record
from oat_tide.stages.scenarios import against_scenarios, borrow_scenarios

NAME = "project"


RECORD = Record(
    kinds=("fitted", "projected"),
    beside=lambda ask: {
        name: name for each in ask.intervals for name in (f"lower_{each:g}", f"upper_{each:g}")
    },
    said=lambda ask, grid: {"method": ask.method},
)


def misfit(ask: Project, grid: Grid) -> tuple[str, str] | None:
    """A horizon that no projection reaches."""
    most = MOST_YEARS * grid.cycle
    if 1 <= ask.horizon <= most:
        return None
    return "horizon", f"choose 1 to {most:,} {grid.kind}s, ten years' worth."


@dataclass(frozen=True, eq=False, slots=True)
class Needs:
    """What the stage stands on."""

    lines: Deck = need("lines")


def make(sight: Sight, ask: Project, needs: Needs, late: Late) -> Deck:
    """The deck of Project."""
    lines = needs.lines
    probabilities = ask.intervals
    horizon, past = horizon_of(ask, sight), sight.past.columns
    d = Draft(NAME, sight, past + horizon)
    borrow_actual(d, lines)
    got = fit(sight, ask, d.columns)
    actual = of(lines, base(lines))
    line = _fit(d, got, actual)
    projected = _curve(d, got, ask.mean, line, past + horizon)
    for probability in probabilities:
        _interval(d, got.growth, probability, line, projected)
    budgets = borrow_scenarios(d, lines)
    against_scenarios(d, lines, projected)
    _differences(d, lines, sight, projected)
    _slope_interval(d)
    if got.growth:
        _growth_facts(d, got, actual)
    unit = lines.figures["actual"].unit
    return d.deck(
        bands=(Band(unit, _curves(probabilities, budgets, lines.figures["actual"].label.lower())),),
        sheet=lambda: sheet(d, sight, ask, got, horizon, unit),
        handles=handles(d, sight, got, horizon),
        marks=lines.marks,
        title=lambda series: f"{named(d.keys[series])}: {words.title(d, past, horizon)}",
        subtitle=lambda series: words.subtitle(d, got, series, unit, probabilities) + as_known_now(sight),
        finding=lambda series: words.finding(d, got, series, past + horizon - 1),
        cautions=lambda series: words.cautions(d, sight, ask, got, series, horizon),
    )


@functools.lru_cache(64)
def _curves(probabilities: tuple[float, ...], budgets: tuple[Curve, ...], own: str) -> tuple[Curve, ...]:
    """What is drawn, the widest interval lowest."""
    intervals = (
        Curve(f"lower_{probability:g}", "interval", f"upper_{probability:g}")
        for probability in reversed(probabilities)
    )
    return (
        *intervals,
        *budgets,
        Curve("fitted", "fitted", label="fitted"),
        Curve("projected", "projected", label="projected"),
        Curve("actual", "actual", label=own),
    )


def _fit(d: Draft, got: Fit, actual: Term) -> Formula:
    """The line fitted by least squares, and what it explains of what was fitted."""
    grid, begins = d.grid, d.first + got.start

    def first(series: int) -> str:
        return f"counted from {grid.label(int(begins[series, 0]))} = 1"

    line = line_of(d, Through(got.growth, got.used, got.t, got.z, got.line, first), actual)
    sse, sst = d.term("sse"), d.term("sst")
    r2 = "R² on the log scale" if got.growth else "R²"
    d.define("r2", r2, 1 - sse / sst, values=got.line.r2, where=sst > 0)
    return line


def _curve(d: Draft, got: Fit, as_mean: bool, line: Formula, stop: int) -> Term:
    """Fitted and projected: two rows, for a fit is not a record. The mean of a growth curve lies above it."""
    raised = exp(line) if got.growth else line
    if got.growth and as_mean:
        raised = raised * exp(d.term("s") ** 2 / 2)
    place = np.arange(d.columns)[None]
    inside, ahead = (place >= got.start) & (place <= got.end), (place >= d.past) & (place < stop)
    actual = d.figures["actual"]
    row = partial(d.define, formula=raised, adds_up=actual.adds_up, unit=actual.unit)
    row("fitted", "Fitted", where=inside, blank="It lies outside the fit span.")
    why = "Only periods after the as-of are projected."
    return row("projected", "Projected", where=ahead, blank=why)


def _interval(d: Draft, growth: bool, probability: float, line: Formula, projected: Term) -> None:
    """A prediction interval for single periods."""
    name, (t, t_mean, n, sxx, s) = f"{probability:g}", map(d.term, ("t", "t_mean", "n", "sxx", "s"))
    hidden = partial(d.define, shown=False)
    q = hidden(
        f"t_{name}", f"t for {name} %", t_quantile(given(probability / 100, "level"), n - 2), where=sxx
    )
    half = hidden(
        f"half_{name}",
        f"half of the {name} % interval" + (" of ln" if growth else ""),
        q * s * sqrt(1 + 1 / n + (t - t_mean) ** 2 / sxx),
        where=projected,
    )
    centre = line if growth else projected
    for side, to, edge in (("lower", "from", centre - half), ("upper", "to", centre + half)):
        d.define(
            f"{side}_{name}",
            f"{name} % {to}",
            exp(edge) if growth else edge,
            where=projected,
            unit=d.figures["projected"].unit,
            blank="Only projected periods have an interval.",
        )


def _differences(d: Draft, lines: Deck, sight: Sight, projected: Term) -> None:
    """Actual minus projected, where whole periods have sold since."""
    actual = of(lines, "actual", seen=sight.whole)

    past = d.past

    def not_sold(series: int, column: int) -> str:
        if column < past:
            return "Only periods after the as-of are projected."
        return "It has not sold as a whole period yet."

    def no_share(series: int, column: int) -> str:
        if np.isnan(difference.values[series, column]):
            return not_sold(series, column)
        return "The projected figure is not above zero: a share of it means nothing."

    row = partial(d.define, sees_later=True, signed=True)
    unit, adds_up = d.figures["actual"].unit, d.figures["actual"].adds_up
    difference = row(
        "difference", "Difference", actual - projected,
        where=projected, unit=unit, adds_up=adds_up, blank=not_sold,
    )  # fmt: skip
    row("difference_share", "% of projected", percent(difference, projected), unit="%", blank=no_share)


def _slope_interval(d: Draft) -> None:
    """The interval of the slope at 95 %."""
    slope, s, sxx, n = map(d.term, ("slope", "s", "sxx", "n"))
    margin = t_quantile(given(0.95, "level"), n - 2) * (s / sqrt(sxx))
    for name, bound in (("from", slope - margin), ("to", slope + margin)):
        d.define(f"slope_{name}", f"slope, 95 % {name}", bound, signed=True)


def _growth_facts(d: Draft, got: Fit, actual: Term) -> None:
    """Growth in percent, and R² on the original scale: of the actuals themselves, not of their logarithms."""
    slope, n, used, fitted = map(d.term, ("slope", "n", "used", "fitted"))
    d.define("growth", f"growth {d.grid.a_period}", 100 * (exp(slope) - 1), unit="%", signed=True)
    hidden, last = partial(d.define, shown=False), d.past - 1
    u = used.between(0, last)
    y = hidden("y", "actual in the fit", actual, where=got.used > 0)
    average = sum_of_products(u, y.between(0, last)) / n
    y_mean = hidden("y_mean", "mean of actual in the fit", average, where=slope)
    miss = hidden("miss", "actual minus fitted", y - fitted)
    off = hidden("off", "actual minus its mean", y - y_mean)
    sse, sst = (sum_of_products(u, each.between(0, last) ** 2) for each in (miss, off))
    d.define("r2_original", "R² on the original scale", only(sst > 0, 1 - sse / sst))
