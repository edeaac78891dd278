"""What Project says in words: titles, the equation, the finding and its cautions."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from oat_tide.core.series.panel import Sight
from oat_tide.core.working.numerals import MINUS, compact, fixed, row_decimals, significant
from oat_tide.core.working.tree import Ref
from oat_tide.plan.edits import edit
from oat_tide.plan.parts.project import Project
from oat_tide.plan.paths import P
from oat_tide.stages.common import counted
from oat_tide.stages.deck import Caution
from oat_tide.stages.deck.draft import Draft
from oat_tide.stages.project.fit import Fit


def title(d: Draft, past: int, horizon: int) -> str:
    """What is projected from when."""
    if not past:
        return "nothing to project from"
    return f"{counted(horizon, d.grid.kind)} projected from {d.grid.label(d.first + past - 1)}"


def subtitle(d: Draft, got: Fit, series: int, unit: str, probabilities: Sequence[float]) -> str:
    """What was fitted on which span, and what the shade means."""
    if np.isnan(got.line.slope[series, 0]):
        return f"{unit} {d.grid.a_period} · no fit"
    curve = "growth curve" if got.growth else "straight line"
    shade = " and ".join(f"{probability:g} %" for probability in probabilities)
    fitted = f"{curve} fitted {_span(d, got, series)}"
    return f"{unit} {d.grid.a_period} · {fitted} · shaded: {shade} prediction interval"


def _span(d: Draft, got: Fit, series: int) -> str:
    start = d.first + int(got.start[series, 0])
    return f"{d.grid.label(start)} – {d.grid.label(d.first + got.end)}"


def equation(d: Draft, got: Fit, series: int, unit: str) -> str:
    """The fit as an equation in t."""
    line = got.line
    slope, intercept = float(line.slope[series, 0]), float(line.intercept[series, 0])
    if np.isnan(slope):
        return "no fit"
    if got.growth:
        return (
            f"{unit} = {significant(float(np.exp(intercept)), 5)} × {significant(float(np.exp(slope)), 6)}^t"
        )
    sign = MINUS if slope < 0 else "+"
    return f"{unit} = {significant(intercept, 5)} {sign} {significant(abs(slope), 4)} × t"


def first_period(d: Draft, got: Fit, series: int) -> str:
    """The period of t = 1 and what the fit rests on."""
    if np.isnan(got.line.slope[series, 0]):
        return ""
    start = d.grid.label(d.first + int(got.start[series, 0]))
    n = counted(int(got.line.n[series, 0]), d.grid.kind)
    extra = " A straight line's % growth shrinks along the way." if not got.growth else ""
    return f"t = 1 in {start}; {n} in the fit.{extra}"


def finding(d: Draft, got: Fit, series: int, last: int) -> str:
    """The method, and the last projected period with half its 80 % interval."""
    if np.isnan(got.line.slope[series, 0]):
        return "no fit:\nsee the cautions"
    value = float(d.figures["projected"].values[series, last])
    name = "curve" if got.growth else "line"
    period = d.grid.brief(d.first + last)
    lower = next((each for each in d.figures.values() if each.name.startswith("lower_")), None)
    if lower is None:
        return f"{name}: {period} {compact(value)}"
    probability = lower.name.removeprefix("lower_")
    upper = d.figures[f"upper_{probability}"]
    edges = [float(each.values[series, last]) for each in (lower, upper)]
    large = max(map(abs, edges)) >= 1e6
    places = row_decimals(np.array(edges))
    low, high = (compact(edge) if large else fixed(edge, places) for edge in edges)
    if low.partition(" ")[2] == high.partition(" ")[2]:
        # The mark of millions is said once.
        low = low.partition(" ")[0]
    return f"{name}: {period} {compact(value)}\n{probability} %: {low} to {high}"


def cautions(
    d: Draft, sight: Sight, ask: Project, got: Fit, series: int, horizon: int
) -> tuple[Caution, ...]:
    """What to know before trusting the projection."""
    if np.isnan(got.line.slope[series, 0]):
        return (_no_fit(d, got, series),)
    found = [_no_growth(d, got, series), _jump(d, sight, got, series), _long(d, ask, got, series, horizon)]
    return tuple(each for each in found if each)


def _no_fit(d: Draft, got: Fit, series: int) -> Caution:
    refused = np.flatnonzero(got.not_above_zero[series])
    if refused.size:
        named = ", ".join(d.grid.label(d.first + int(column)) for column in refused[:4])
        more = f" and {refused.size - 4} more" if refused.size > 4 else ""
        return Caution(
            f"A growth curve needs values above zero. Not above zero: {named}{more}. "
            "Fit a straight line, or begin the fit after them.",
            way_out=edit(P.project.method, "line"),
            way_out_text="Fit a straight line",
        )
    n = int(got.used[series].sum())
    return Caution(
        f"A fit needs three whole periods and {counted(n, d.grid.kind)} lie in the fit span. "
        "Widen the fit span, or move the as-of on."
    )


def _no_growth(d: Draft, got: Fit, series: int) -> Caution | None:
    low, high = (float(d.figures[name].values[series, 0]) for name in ("slope_from", "slope_to"))
    if not low <= 0 <= high:
        return None
    return Caution(
        f"Growth cannot be told from none: the slope lies between {significant(low, 3)} and "
        f"{significant(high, 3)} {'' if not got.growth else 'of ln '}{d.grid.a_period} (95 %).",
        (Ref(d.stage, "slope_from", series), Ref(d.stage, "slope_to", series)),
    )


def _jump(d: Draft, sight: Sight, got: Fit, series: int) -> Caution | None:
    """The projection starts more than two residual standard errors away from the last actual of the fit."""
    known = np.flatnonzero(got.used[series])
    last = int(known[-1])
    start = float((got.line.at(got.t))[series, d.past])
    gap = start - float(got.z[series, last])
    if abs(gap) <= 2 * float(got.line.s[series, 0]):
        return None
    slope = float(got.line.slope[series, 0])
    side = "up" if gap > 0 else "down"
    runs = "rises" if slope > 0 else "falls"
    return Caution(
        f"The projection jumps {side} from {d.grid.label(d.first + last)}: its start lies more than two "
        f"residual standard errors from the last actual, while the curve itself {runs}.",
        (Ref(d.stage, "projected", series, d.past),),
    )


def _long(d: Draft, ask: Project, got: Fit, series: int, horizon: int) -> Caution | None:
    n = int(got.line.n[series, 0])
    if 2 * horizon <= n or ask.reach != "periods":
        return None
    return Caution(
        f"{counted(horizon, d.grid.kind).capitalize()} ahead is long for a fit on {n}.",
        way_out=edit(P.project.horizon, max(1, n // 4)),
        way_out_text=f"Project {counted(max(1, n // 4), d.grid.kind)}",
    )
