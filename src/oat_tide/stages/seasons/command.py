"""Seasons as a command: indices, or the parts of every period."""

from __future__ import annotations

from msgspec.structs import replace

from oat_tide.plan.parts.seasons import Seasons
from oat_tide.plan.plan import Plan
from oat_tide.stages.common import counted
from oat_tide.stages.deck import Deck
from oat_tide.stages.record import Record
from oat_tide.stages.seasons.ground import AXIS

_PARTS = "trend", "season", "remainder", "deseasonalised"


def alone(plan: Plan, given: frozenset[str]) -> Seasons:
    """Over time: the figures of the seasons are there as well."""
    return replace(plan.seasons, arrangement="parts")


def _beside(ask: Seasons) -> dict[str, str]:
    if ask.what == "indices":
        return {"index": "index", "ratios": "many"}
    adjusted = {"by_selling_day": "adjusted"} if ask.per == "selling day" else {}
    return adjusted | {name: name for name in _PARTS}


def _echo(ask: Seasons, deck: Deck) -> str:
    """How the seasons of so many series count; who asked for one kind knows."""
    if ask.season != "suggested" or "kind" not in deck.figures:
        return ""
    kinds = deck.figures["kind"].values[:, 0].tolist()
    said = [
        f"{counted(kinds.count(value), 'season')} taken as {word}"
        for value, word in ((1.0, "multiplicative"), (0.0, "additive"))
        if value in kinds
    ]
    return ", ".join(said)


RECORD = Record(
    beside=_beside, echo=_echo, axis=lambda ask: AXIS if ask.what == "indices" else "", column="season"
)
