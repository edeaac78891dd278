"""The side sheet of Project."""

from __future__ import annotations

from oat_tide.core.series.panel import Sight
from oat_tide.plan.parts.project import Project
from oat_tide.plan.paths import P
from oat_tide.stages.deck import Fact, Item, Note, knob
from oat_tide.stages.deck.draft import Draft
from oat_tide.stages.project import words
from oat_tide.stages.project.fit import MOST_YEARS, Fit


def sheet(d: Draft, sight: Sight, ask: Project, got: Fit, horizon: int, unit: str) -> tuple[Item, ...]:
    """The controls of Project, and the fit as an equation with its facts."""
    kind = d.grid.kind
    to_year_end = "the end of the fiscal year sets it" if ask.reach != "periods" else ""
    begin, end = d.grid.first_day(d.first), d.grid.last_day(d.first + sight.columns - 1)
    median = "" if got.growth else "only a growth curve has a median apart from its mean"
    return (
        knob(P.project.method, ask, names=("straight line", "growth curve")),
        knob(P.project.reach, ask, names=("so many periods", "fiscal year end")),
        knob(
            P.project.horizon,
            ask,
            now=horizon,
            hi=MOST_YEARS * d.grid.cycle,
            slides_to=max(2 * d.grid.cycle, horizon),
            unit=f"{kind}s",
            why_not=to_year_end,
        ),
        knob(P.project.since, ask, lo=begin, hi=end),
        knob(P.project.until, ask, lo=begin, hi=end),
        knob(P.project.mean, ask, why_not=median),
        Note("The fitted curve" if got.growth else "The fitted line", "head"),
        Note(lambda series: words.equation(d, got, series, unit)),
        Note(lambda series: words.first_period(d, got, series), "small"),
        *(
            Fact(name)
            for name in ("growth", "r2", "r2_original", "slope", "slope_from", "slope_to", "s")
            if name in d.figures
        ),
    )
