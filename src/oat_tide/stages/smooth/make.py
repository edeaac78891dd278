"""Smooth: what is under the noise? A rolling and a weighted average over one trailing window."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

import numpy as np

from oat_tide.core.series.panel import Sight
from oat_tide.core.smoothing import windows
from oat_tide.core.smoothing.windows import less_change, rising_weights
from oat_tide.core.working.formula import mean, only, size
from oat_tide.core.working.numerals import compact, fixed
from oat_tide.core.working.terms import Term, known, weighted_mean
from oat_tide.plan.parts.smooth import LONGEST_WINDOW, Smooth
from oat_tide.plan.paths import P, steps
from oat_tide.stages.common import as_known_now, as_of_handle, named
from oat_tide.stages.deck import Band, Curve, Deck, Fact, Handle, Item, Late, Note, knob
from oat_tide.stages.deck.draft import Draft, of
from oat_tide.stages.lines import base, borrow_actual
from oat_tide.stages.needs import need
from oat_tide.stages.scenarios import against_scenarios, borrow_scenarios, scenarios

NAME = "smooth"


def weights_of(ask: Smooth) -> tuple[float, ...]:
    """One weight a period of the window, the newest first; the user's own are cut or carried on to fit."""
    own = ask.weights
    if not own:
        return rising_weights(ask.window)
    fitted = (own + (own[-1],) * ask.window)[: ask.window]
    return fitted if sum(fitted) > 0 else rising_weights(ask.window)


@dataclass(frozen=True, eq=False, slots=True)
class Needs:
    """What the stage stands on."""

    lines: Deck = need("lines")


def make(sight: Sight, ask: Smooth, needs: Needs, late: Late) -> Deck:
    """The deck of Smooth."""
    lines = needs.lines
    d = Draft(NAME, sight)
    borrow_actual(d, lines)
    window, weights = ask.window, weights_of(ask)
    unit, kind = lines.figures["actual"].unit, d.grid.kind
    budgets = borrow_scenarios(d, lines)
    against_scenarios(d, lines, of(lines, "actual", seen=sight.whole))
    _averages(d, sight, lines, weights)
    rolled = _rolled_scenarios(d, lines, sight, window)
    curves = (
        *budgets,
        *rolled,
        Curve("actual", "actual", label=d.figures["actual"].label.lower()),
        Curve("rolling", "smoothed", label="average"),
        Curve("weighted", "weighted", label="weighted"),
    )
    return d.deck(
        bands=(Band(unit, curves),),
        sheet=lambda: _sheet(d, ask, weights),
        handles=(as_of_handle(sight), _window_handle(d, window, weights)),
        marks=lines.marks,
        title=lambda series: f"{named(d.keys[series])}, smoothed over {window} {kind}s",
        subtitle=lambda series: (
            f"{unit} {d.grid.a_period} · trailing windows, no value where one is not full"
            + as_known_now(sight)
        ),
        finding=lambda series: _finding(d, series, window),
    )


def _averages(d: Draft, sight: Sight, lines: Deck, weights: tuple[float, ...]) -> None:
    """The rolling and the weighted average over one window, and how much calmer each is."""
    past, window, kind = sight.past, len(weights), d.grid.kind
    actual = of(lines, base(lines), seen=past.whole)
    blank = partial(_why_blank, actual, past.columns, window)
    row = partial(d.define, unit=d.figures["actual"].unit, blank=blank)
    rolling = row(
        "rolling",
        f"{window}-{kind} average",
        mean(actual.over(1 - window, 0)),
        values=lambda: windows.rolling_mean(actual.values[:, : past.columns], window, past.scale),
    )
    weighted = row(
        "weighted",
        f"{window}-{kind} weighted",
        weighted_mean(actual, weights),
        values=lambda: windows.weighted_mean(actual.values[:, : past.columns], weights),
    )
    for smoothed in (rolling, weighted):
        _less_change(d, actual, smoothed)


def _rolled_scenarios(d: Draft, lines: Deck, sight: Sight, window: int) -> tuple[Curve, ...]:
    """The rolling average of each scenario over the same window, beside that of the history."""
    curves = []
    for name in scenarios(lines):
        scenario, label = of(lines, name), lines.figures[name].label
        d.define(
            f"rolling_{name}",
            f"{window}-{d.grid.kind} average of {label}",
            mean(scenario.over(1 - window, 0)),
            values=partial(windows.rolling_mean, scenario.values, window, sight.past.scale),
            unit=d.figures["actual"].unit,
            sees_later=True,
            blank=f"The window is not full, or holds a period without {label}.",
        )
        curves.append(Curve(f"rolling_{name}", "average", label=f"average of {label}"))
    return tuple(curves)


def _sheet(d: Draft, ask: Smooth, weights: tuple[float, ...]) -> tuple[Item, ...]:
    most = max(d.past, ask.window, 12)
    return (
        knob(P.smooth.window, ask, unit=f"{d.grid.kind}s", slides_to=most),
        knob(P.smooth.weights, ask, kind="weights", now=weights, choices=(ask.drawn,)),
        knob(P.smooth.drawn, ask),
        Note("Less period-to-period change", "head"),
        Fact("rolling_calm"),
        Fact("weighted_calm"),
        Note(
            "How much smaller the changes from one period to the next become, on the same periods.", "small"
        ),
    )


def _window_handle(d: Draft, window: int, weights: tuple[float, ...]) -> Handle:
    """The window over the newest periods, to be dragged at its far edge."""
    last = d.past - 1
    return Handle(
        steps(P.smooth.window),
        "window",
        last - window + 1,
        last - LONGEST_WINDOW + 1,
        last - 1,
        lambda column: last - column + 1,
        upto=last,
        weights=weights,
        says=f"window, {window} {d.grid.kind}s",
    )


def _why_blank(actual: Term, past: int, window: int, series: int, column: int) -> str:
    if column >= past:
        return "It lies after the as-of."
    if column < window - 1:
        return f"The window of {window} is not full yet."
    gone = np.isnan(actual.values[series, column - window + 1 : column + 1]).any()
    return "The window holds a part period, or one not known." if gone else ""


def _less_change(d: Draft, actual: Term, smoothed: Term) -> None:
    """The fact "less period-to-period change", with the steps that it is made of as hidden figures."""
    name, label, last = smoothed.source.figure.name, smoothed.source.figure.label, d.past - 1
    hidden = partial(d.define, shown=False)
    steps = hidden(f"{name}_steps", f"change of {label}", size(smoothed - smoothed.shift(-1)))
    own = size(actual - actual.shift(-1))
    raw = hidden(f"{name}_raw_steps", "change of actual", own, where=steps)
    smooth, rough = (mean(known(each.between(0, last))) for each in (steps, raw))
    d.define(
        f"{name}_calm",
        label,
        only(rough > 0, 100 * (1 - smooth / rough)),
        values=lambda: 100 * less_change(*(each.values[:, : last + 1] for each in (actual, smoothed))),
        unit="%",
    )


def _finding(d: Draft, series: int, window: int) -> str:
    calm = float(d.figures["rolling_calm"].values[series, 0])
    latest = d.figures["rolling"].values[series, max(d.past - 1, 0)] if d.columns else np.nan
    if np.isnan(latest):
        return f"{window}-{d.grid.kind} window\nis not full"
    less = "" if np.isnan(calm) else f", change {fixed(-calm, 0, plus=True)} %"
    return f"{window}-{d.grid.kind} average\n{compact(float(latest))}{less}"
