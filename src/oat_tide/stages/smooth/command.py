"""Smooth as a command: one smoother, and what is written of it."""

from __future__ import annotations

from collections import Counter

from msgspec.structs import replace

from oat_tide.core.language import phrase
from oat_tide.core.periods.calendar import Grid
from oat_tide.plan.parts.smooth import Smooth, Smoother
from oat_tide.plan.plan import Plan
from oat_tide.stages.deck import Deck
from oat_tide.stages.reach import label_of, size_of, spans, weights_of, why_no_span
from oat_tide.stages.record import Record

_ONE = "smoothers.0."
_CONSTANTS = {_ONE + name for name in ("alpha", "beta", "phi")}
_ENDS = {_ONE + name for name in ("back", "ahead")}
_SPOKEN = 24
"""Weights that are echoed one by one."""


def alone(plan: Plan, given: frozenset[str]) -> Smooth:
    """The selected smoother alone, of the kind that what is given speaks of."""
    ask = plan.smooth
    one = ask.smoothers[ask.hand] if ask.hand < len(ask.smoothers) else Smoother()
    if _ONE + "weights" in given:
        one = replace(one, kind="weighted")
    if given & _CONSTANTS:
        kind = "damped" if _ONE + "phi" in given else "trend" if _ONE + "beta" in given else "level"
        one = replace(one, kind=kind, constants="set")
    if given & _ENDS:
        one = replace(one, place="from-to")
    return replace(ask, smoothers=(one,), hand=0)


def misfit(ask: Smooth, grid: Grid) -> tuple[str, str] | None:
    """What of the smoother cannot be told in these periods, or not at all."""
    (one,) = ask.smoothers[:1]
    why = why_no_span(one.told_in, grid)
    if why:
        return _ONE + "told_in", why
    if one.told_in not in ("period", grid.kind) and not spans(one, grid):
        return _ONE + "told_in", phrase("only a plain trailing window can have another unit.")
    if one.window < 2 and not spans(one, grid):
        return _ONE + "window", phrase("a window of one is the series itself; give 2 or more.")
    if one.kind == "trimmed" and size_of(one) < 2 * one.trim + 1:
        return _ONE + "trim", phrase("nothing is left of a window of {size_of}.", size_of=size_of(one))
    return None


def echo(ask: Smooth, deck: Deck, counts: Counter[str]) -> str:
    """The weights with their periods, as they were understood."""
    (one,) = ask.smoothers[:1]
    if one.kind != "weighted":
        return ""
    weights, newest = weights_of(one), max(deck.past - 1, 0)
    said = [
        f"{weight:g} × {deck.grid.label(deck.first + newest - age)}"
        for age, weight in enumerate(weights[:_SPOKEN])
    ]
    more = phrase(" and {weights} more", weights=len(weights) - _SPOKEN) if len(weights) > _SPOKEN else ""
    return phrase(
        "weights, newest first: {said}{more}; together {weights:g}",
        said=", ".join(said),
        more=more,
        weights=sum(weights),
    )


RECORD = Record(
    beside=lambda ask: {"smoothed": "smoothed_0", "forecast": "forecast_0", "error": "error_0"},
    said=lambda ask, grid: {"smoother": label_of(ask.smoothers[0], grid)},
    echo=echo,
)
