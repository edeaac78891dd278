"""Smooth: what is under the noise? A rolling and a weighted average over one trailing window."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.series.panel import PART, Sight
from oat_tide.core.smoothing.windows import rising_weights, rolling_mean, weighted_mean, wobble_removed
from oat_tide.core.working.numerals import compact, fixed
from oat_tide.core.working.tree import Given, Op, Working
from oat_tide.plan.edits import P, steps
from oat_tide.plan.parts.smooth import LONGEST_WINDOW, Smooth
from oat_tide.stages.common import as_known_now, as_of_handle, named
from oat_tide.stages.deck import Band, Curve, Deck, Explain, Fact, Handle, Note, knob
from oat_tide.stages.deck.draft import Draft, cell, run
from oat_tide.stages.lines import base

NAME = "smooth"


def weights_of(ask: Smooth) -> tuple[float, ...]:
    """One weight a period of the window, the newest first; the user's own are cut or carried on to fit."""
    own = ask.weights
    if not own:
        return rising_weights(ask.window)
    fitted = (own + (own[-1],) * ask.window)[: ask.window]
    return fitted if sum(fitted) > 0 else rising_weights(ask.window)


def make(sight: Sight, ask: Smooth, needs: tuple[Any, ...], late: Any) -> Deck:
    """The deck of Smooth."""
    (intake,) = needs
    d = Draft(NAME, sight)
    for name in {"actual", base(intake)}:
        d.borrow(intake, name)
    past, window, weights = sight.past, ask.window, weights_of(ask)
    own = base(intake)
    actual = np.where(past.flags & PART, np.nan, past.settled)
    unit, kind = intake.figures["actual"].unit, d.grid.kind

    def blank(series: int, column: int) -> str:
        if column >= past.columns:
            return "It lies after the as-of."
        inside = actual[series, max(column - window + 1, 0) : column + 1]
        if column < window - 1:
            return f"The window of {window} is not full yet."
        return "The window holds a part period, or one not known." if np.isnan(inside).any() else ""

    def plain(series: int, column: int) -> Working:
        return Op("mean", (run(intake, own, series, column - window + 1, column),))

    def weighted(series: int, column: int) -> Working:
        terms = tuple(
            Op("*", (Given(weight, "weight"), cell(intake, own, series, column - age)))
            for age, weight in enumerate(weights)
        )
        return Op("/", (Op("+", terms), Given(sum(weights), "sum of the weights")))

    rolling_values = rolling_mean(actual, window, past.scale)
    weighted_values = weighted_mean(actual, weights)
    d.add("rolling", f"{window}-{kind} average", rolling_values, plain, unit=unit, why_blank=blank)
    d.add("weighted", f"{window}-{kind} weighted", weighted_values, weighted, unit=unit, why_blank=blank)
    _wobble(d, intake, actual, "rolling", rolling_values)
    _wobble(d, intake, actual, "weighted", weighted_values)
    last = past.columns - 1
    return d.deck(
        bands=(
            Band(
                unit,
                (
                    Curve("actual", "actual", label="actual"),
                    Curve("rolling", "smoothed", label="average"),
                    Curve("weighted", "weighted", label="weighted"),
                ),
            ),
        ),
        sheet=lambda: (
            knob(P.smooth.window, ask, unit=f"{kind}s", slides_to=max(past.columns, window, 12)),
            knob(P.smooth.weights, ask, kind="weights", now=weights, choices=(ask.drawn,)),
            knob(P.smooth.drawn, ask),
            Note(lambda s: "Share of wobble removed", "head"),
            Fact("rolling_calm"),
            Fact("weighted_calm"),
            Note(
                lambda s: "How much smaller the changes from period to period become, on the same periods.",
                "small",
            ),
        ),
        handles=(
            as_of_handle(sight),
            Handle(
                steps(P.smooth.window),
                "window",
                last - window + 1,
                last - LONGEST_WINDOW + 1,
                last - 1,
                lambda column: last - column + 1,
                upto=last,
                weights=weights,
                says=f"window, {window} {kind}s",
            ),
        ),
        marks=intake.marks,
        title=lambda s: f"{named(d.keys[s])}, smoothed over {window} {kind}s",
        subtitle=lambda s: (
            f"{unit} {d.grid.a_period} · trailing windows, no value where one is not full"
            + as_known_now(sight)
        ),
        finding=lambda s: _finding(d, s, window),
    )


def _wobble(d: Draft, intake: Deck, actual: Values, name: str, smoothed: Values) -> None:
    """The fact "share of wobble removed", with the steps that it is made of as hidden figures."""
    steps_of = {"smooth": np.abs(np.diff(smoothed, prepend=np.nan))}
    steps_of["rough"] = np.where(
        np.isnan(steps_of["smooth"]), np.nan, np.abs(np.diff(actual, prepend=np.nan))
    )

    def size(term: Callable[[int, int], Any]) -> Explain:
        return lambda s, c: Op("size", (Op("-", (term(s, c), term(s, c - 1))),))

    label = d.figures[name].label
    d.add(
        f"{name}_steps",
        f"change of {label}",
        steps_of["smooth"],
        size(lambda s, c: d.cell(name, s, c)),
        shown=False,
    )
    d.add(
        f"{name}_raw_steps",
        "change of actual",
        steps_of["rough"],
        size(lambda s, c: cell(intake, base(intake), s, c)),
        shown=False,
    )

    def mean(figure: str, series: int) -> Working:
        return Op("mean", (d.run(figure, series, 0, d.past - 1),))

    def calm(series: int, column: int) -> Working:
        ratio = Op("/", (mean(f"{name}_steps", series), mean(f"{name}_raw_steps", series)))
        return Op("*", (Given(100.0), Op("-", (Given(1.0), ratio))))

    d.add(f"{name}_calm", label, 100 * wobble_removed(actual, smoothed), calm, fact=True, unit="%")


def _finding(d: Draft, series: int, window: int) -> str:
    calm = float(d.figures["rolling_calm"].values[series, 0])
    latest = d.figures["rolling"].values[series, max(d.past - 1, 0)] if d.columns else np.nan
    if np.isnan(latest):
        return f"{window}-{d.grid.kind} window\nis not full"
    less = "" if np.isnan(calm) else f", {fixed(calm, 0)} % calmer"
    return f"{window}-{d.grid.kind} average\n{compact(float(latest))}{less}"
