"""What Project says in words: titles, the finding, and where its periods begin to count."""

from __future__ import annotations

import math

import numpy as np

from oat_tide.core.methods import METHODS
from oat_tide.core.working.formula import exp
from oat_tide.core.working.numerals import compact, fixed, row_decimals
from oat_tide.core.working.terms import Term
from oat_tide.stages.common import counted
from oat_tide.stages.deck.draft import Draft
from oat_tide.stages.deck.figure import BEYOND, Figure
from oat_tide.stages.project.ground import Ground
from oat_tide.stages.project.laid import Laid


def growth_fact(d: Draft, slope: Term) -> None:
    """The growth of a growth curve, in percent."""
    d.define("growth", f"growth {d.grid.a_period}", 100 * (exp(slope) - 1), unit="%", signed=True)


def has_fit(g: Ground, series: int) -> bool:
    """Whether anything is projected of a series."""
    return bool((~np.isnan(g.d.figures["projected"].values[series])).any())


def title(g: Ground) -> str:
    """What is projected from when."""
    if not g.past:
        return "nothing to project from"
    return f"{counted(g.horizon, g.grid.kind)} projected from {g.grid.label(g.d.first + g.past - 1)}"


def subtitle(g: Ground, laid: Laid, series: int) -> str:
    """What was fitted on which span, and what the shade means."""
    unit = f"{g.unit} {g.grid.a_period}"
    if not has_fit(g, series):
        return f"{unit} · no fit"
    shade = " and ".join(f"{probability:g} %" for probability in g.ask.intervals)
    below = "" if g.ask.positive else " · below zero, too"
    how_fitted = f"{laid.label} run on," if laid.label else f"{METHODS[laid.name].title.lower()} fitted"
    fitted = f"{how_fitted} {_span(g, series)}"
    return f"{unit} · {fitted} · shaded: {shade} prediction interval from past starts{below}"


def _span(g: Ground, series: int) -> str:
    start = g.d.first + int(g.span.start[series, 0])
    return f"{g.grid.label(start)} – {g.grid.label(g.d.first + g.span.end)}"


def if_true(g: Ground, series: int) -> str:
    """The limits of the last period ahead by the curve's own error."""
    column = g.past + g.horizon - 1
    parts = []
    for level in g.ask.intervals:
        low, high = (
            in_short(g.d.figures[f"curve_{side}_{level:g}"], series, column) for side in ("lower", "upper")
        )
        if low and high:
            parts.append(f"{level:g} % {low} to {high}")
    return f"{g.grid.label(g.d.first + column)}: {', '.join(parts)}." if parts else "It has no fit."


def mean_said(g: Ground, laid: Laid, series: int) -> str:
    """By how much the mean lies above the median, and by how much that overshoots of so short a fit.

    Of errors normal in logarithms e^(s²/2) and e to the fitted line are taken of what is only estimated: with
    v degrees of freedom and the leverage h of the first period ahead their expectation is e^(h s²/2) times
    (1 - s²/v)^(-v/2) instead of e^(s²/2) (Finney, 1941; Bradu and Mundlak, 1970).
    """
    told = laid.regressed
    if not g.ask.mean or told is None or not told.logs or not has_fit(g, series):
        return ""
    s2 = float(told.s.source.values[series, 0]) ** 2
    v = float(np.broadcast_to(told.freedom.reckon(slice(0, 1)), (len(g.d.keys), 1))[series, 0])
    h = float(told.leverage.source.values[series, g.past])
    if not s2 < v:
        return ""
    over = math.exp(h * s2 / 2 - s2 / 2) * (1 - s2 / v) ** (-v / 2) - 1
    return (
        f"The mean is the median times e^(s²/2), {fixed(math.exp(s2 / 2), 4)}. Of a fit on so few periods "
        f"that overshoots by about {fixed(100 * over, 2)} %."
    )


def first_period(g: Ground, laid: Laid, series: int) -> str:
    """The period of t = 1 and what the fit rests on."""
    if not has_fit(g, series):
        return ""
    n = counted(int((g.span.used[series] > 0).sum()), g.grid.kind)
    start = g.grid.label(g.d.first + int(g.span.start[series, 0]))
    extra = " A straight line's % growth shrinks along the way." if laid.name == "line" else ""
    counts = f"t = 1 in {start}; " if "t" in g.d.figures else ""
    if g.by_year:
        counts = "t is the calendar year; "
    return f"{counts}{n} in the fit.{extra}"


def in_short(figure: Figure, series: int, column: int) -> str:
    """A figure where room is short, or that it lies beyond any; empty where there is none."""
    if figure.is_beyond(series, column):
        return BEYOND
    return compact(float(figure.values[series, column]))


def finding(g: Ground, laid: Laid, series: int) -> str:
    """The method, and the last projected period with half its 80 % interval."""
    if not has_fit(g, series):
        return "no fit:\nsee the cautions"
    d, last = g.d, g.past + g.horizon - 1
    value = in_short(d.figures["projected"], series, last)
    title = laid.label or METHODS[laid.name].title.lower()
    name = {"line": "line", "growth": "curve"}.get(laid.name, title)
    period = g.grid.label(d.first + last)
    lower = next((each for each in d.figures.values() if each.name.startswith("lower_")), None)
    probability = lower.name.removeprefix("lower_") if lower is not None else ""
    edges = [
        float(d.figures[f"{side}_{probability}"].values[series, last])
        for side in ("lower", "upper")
        if lower is not None
    ]
    if laid.name not in ("line", "growth"):
        return f"{name}\n{period} {value}"
    if not edges or np.isnan(edges).any():
        return f"{name}: {period} {value}"
    large = max(map(abs, edges)) >= 1e6
    places = row_decimals(np.array(edges))
    low, high = (compact(edge) if large else fixed(edge, places) for edge in edges)
    if low.partition(" ")[2] == high.partition(" ")[2]:
        # The mark of millions is said once.
        low = low.partition(" ")[0]
    return f"{name}: {period} {value}\n{probability} %: {low} to {high}"
