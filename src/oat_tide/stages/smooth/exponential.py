"""The rows of exponential smoothing: level, trend and constants."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.series.panel import Panel
from oat_tide.core.smoothing import exponential
from oat_tide.core.smoothing.exponential import BEGIN, FEWEST, Begins, Constants, Start, States
from oat_tide.core.user_error import Progress
from oat_tide.core.working.formula import Formula, either, given
from oat_tide.core.working.terms import Term, wide
from oat_tide.plan.parts.smooth import Smoother
from oat_tide.stages.common import titled
from oat_tide.stages.deck.called import WhyBlank
from oat_tide.stages.reach import is_window
from oat_tide.stages.smooth.ground import Ground

_SOON = 7_000
"""Cells of searches for one constant that end within a frame; measured: 1.7 µs a cell."""
_BEGINS = 3_000
"""What a search takes however few the cells are, in cells."""


@dataclass(frozen=True, eq=False, slots=True)
class Fitted:
    """Exponential smoothing of every series.

    Attributes:
        constants: those used; None while they are still looked for.
    """

    constants: Constants | None
    start: Start
    states: States | None


def constants_of(
    panel: Panel, kind: exponential.Kind, begins: Begins, progress: Progress
) -> tuple[Values, Values, Values]:
    """The fitted constants of every series; takes its time."""
    found = exponential.fitted(panel.judged, kind, begins)
    return found.alpha, found.beta, found.phi


def fit(ground: Ground, ask: Smoother) -> Fitted:
    """Smooth every series with constants set or fitted; long searches answer later."""
    values, kind = ground.values, _kind(ask)
    constants: Constants | None
    if ask.constants == "set":
        constants = exponential.of_kind(kind, ask.alpha, ask.beta, ask.phi, len(values))
    elif _soon(ground) and not np.isnan(values).all():
        constants = exponential.fitted(values, kind, ask.begins)
    else:
        found = ground.late(constants_of, ground.panel, kind, ask.begins)
        constants = None if found is None else Constants(*found)
    if constants is None:
        return Fitted(None, exponential.begin(values, kind), None)
    start = exponential.start_of(values, kind, ask.begins, constants)
    return Fitted(constants, start, exponential.smooth(values, constants, start))


def _soon(ground: Ground) -> bool:
    """Whether all searches of the deck end within a frame."""
    searched = (each for each in ground.ask.smoothers if each.shown and each.constants != "set")
    turns = sum(_turns(each) for each in searched if not is_window(each))
    return turns * (_BEGINS + ground.values.size) <= _SOON


def _turns(ask: Smoother) -> int:
    """How many times a search takes what the search for one constant takes."""
    return {"level": 1, "trend": 4, "damped": 8}[_kind(ask)] * (1 if ask.begins == "by rule" else 3)


def _kind(ask: Smoother) -> exponential.Kind:
    return ask.kind  # type: ignore[return-value]


@dataclass(frozen=True, eq=False, slots=True)
class Rows:
    """The level, the trend where there is one, and the constant of the level."""

    level: Term
    trend: Term | None
    alpha: Term


def rows(ground: Ground, place: int, fitted: Fitted) -> Rows:
    """The level, and the trend where there is one: figures that go on from each other's period before."""
    d, ask, label = ground.d, ground.smoother(place), ground.labels[place]
    columns = d.columns
    states = fitted.states
    blank = phrase("It still looks for the constants.") if states is None else _why_blank(ask, d.past)
    said = titled(label)
    name = f"smoothed_{place}"
    level = d.declare(name, phrase("{said}, smoothed", said=said), brief=said, unit=ground.unit, blank=blank)
    ruled = ask.begins == "by rule"
    at = fitted.start.at[:, None] + (not ruled)
    nothing = np.full(ground.values.shape, np.nan)
    level_values, trend_values = (
        nothing if each is None else np.where(np.arange(each.shape[1]) < at, np.nan, each)
        for each in ((None, None) if states is None else (states.level, states.trend))
    )
    has = ~np.isnan(wide(level_values, columns, np.nan))
    begins = np.arange(columns) == at
    known = ~np.isnan(wide(ground.values, columns, np.nan))
    alpha = _constant(ground, place, "alpha", fitted)
    actual, before = ground.actual, level.shift(-1)
    begun = None if ruled else _begun(ground, place, "level", fitted)
    if ask.kind == "level":
        first: Formula = actual if begun is None else alpha * actual + (1 - alpha) * begun
        body = either(begins, first, either(known, alpha * actual + (1 - alpha) * before, before))
        return Rows(d.complete(name, body, level_values, has), None, alpha)
    first_slope: Formula
    beta, phi = _constant(ground, place, "beta", fitted), _phi(ground, place, fitted)
    trend = d.declare(
        f"trend_{place}", phrase("Trend of {label}", label=label), unit=ground.unit, shown=False
    )
    ahead = before + phi * trend.shift(-1)
    slope = beta * (level - before) + (1 - beta) * (phi * trend.shift(-1))
    if begun is None:
        first, first_slope = actual, _first_trend(ground, fitted.start)
    else:
        rises = phi * _begun(ground, place, "trend", fitted)
        first = alpha * actual + (1 - alpha) * (begun + rises)
        first_slope = beta * (level - begun) + (1 - beta) * rises
    body = either(begins, first, either(known, alpha * actual + (1 - alpha) * ahead, ahead))
    smoothed = d.complete(name, body, level_values, has)
    rising = d.complete(f"trend_{place}", either(begins, first_slope, slope), trend_values, has)
    return Rows(smoothed, rising, alpha)


def _begun(ground: Ground, place: int, name: str, fitted: Fitted) -> Term:
    """The level or trend that a fitted start begins from, as a fact, which the rows cite."""
    lacks = fitted.start.at >= ground.values.shape[1]
    values = np.where(lacks | (fitted.constants is None), np.nan, getattr(fitted.start, name))[:, None]
    why = phrase("fitted to the whole history: the least sum of squared one-step errors")
    return ground.d.define(
        f"begun_{name}_{place}",
        phrase("{name} that it starts from", name=phrase(name)),
        given(values, why),
        unit=ground.unit,
        blank=phrase("There are too few known periods."),
        values=values,
    )


def _first_trend(ground: Ground, start: Start) -> Formula:
    """The mean change from the first known period to the fifth."""
    known = ~np.isnan(ground.values)
    first = np.where(known.any(1), known.argmax(1) if known.shape[1] else 0, -1)
    fifth = np.where(start.at < known.shape[1], start.at, -1)
    apart = np.maximum(fifth - first, 1).astype(float)[:, None]
    return (ground.actual.at(fifth) - ground.actual.at(first)) / given(
        apart, phrase("periods between the two")
    )


def _constant(ground: Ground, place: int, name: str, fitted: Fitted) -> Term:
    """A smoothing constant as a fact, which the rows cite."""
    ask = ground.smoother(place)
    why = "set" if ask.constants == "set" else phrase("fitted: the least sum of squared one-step errors")
    missing = np.full(len(ground.values), np.nan)
    values = missing if fitted.constants is None else getattr(fitted.constants, name)
    lacks = fitted.start.at >= ground.values.shape[1]
    shown = np.where(lacks, np.nan, values)[:, None]
    said = {
        "alpha": phrase("α, of the level"),
        "beta": phrase("β*, of the trend"),
        "phi": phrase("φ, of the damping"),
    }[name]
    return ground.d.define(
        f"{name}_{place}",
        said,
        given(shown, why),
        exact=True,
        blank=phrase("There are too few known periods."),
        values=shown,
    )


def damping(ground: Ground, ask: Smoother, fitted: Fitted | None) -> Values:
    """(series,) what is kept of the trend from period to period; NaN while that is looked for."""
    if ask.kind != "damped" or fitted is None:
        return np.ones(len(ground.values))
    return np.full(len(ground.values), np.nan) if fitted.constants is None else fitted.constants.phi


def _phi(ground: Ground, place: int, fitted: Fitted) -> Formula:
    """What is kept of the trend; all of it where it is not damped."""
    if ground.smoother(place).kind == "damped":
        return _constant(ground, place, "phi", fitted)
    return given(1.0, phrase("the trend is not damped"))


def _why_blank(ask: Smoother, past: int) -> WhyBlank:
    if ask.begins == "fitted":
        why = phrase(
            "A start is fitted to {fewest} known periods or more, from the first of them on.",
            fewest=FEWEST[_kind(ask)],
        )
    else:
        why = (
            phrase("It begins at the first known period.")
            if ask.kind == "level"
            else phrase("It begins at the {begin}th known period.", begin=BEGIN)
        )

    def reason(series: int, column: int) -> str:
        return phrase("After the as-of.") if column >= past else why

    return reason
