"""Seasons as a command: indices, or the parts of every period."""

from __future__ import annotations

from collections import Counter

from msgspec.structs import replace

from oat_tide.core.language import counted, phrase
from oat_tide.plan.parts.seasons import Seasons
from oat_tide.plan.plan import Plan
from oat_tide.stages.deck import Deck
from oat_tide.stages.published import season_of
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


_WORDS = {True: "multiplicative", False: "additive"}


def _counts(ask: Seasons, deck: Deck) -> Counter[str]:
    """How the seasons of so many series count; who asked for one kind knows."""
    taken = season_of(deck)
    if ask.season != "suggested" or taken is None:
        return Counter()
    told = zip(taken.multiplies.tolist(), taken.untold.tolist(), strict=True)
    return Counter(_WORDS[multiplies] for multiplies, untold in told if not untold)


def _echo(ask: Seasons, deck: Deck, counts: Counter[str]) -> str:
    words = (word for word in _WORDS.values() if counts[word])
    return ", ".join(
        phrase("{counts} taken as {word}", counts=counted(counts[word], "season"), word=word)
        for word in words
    )


RECORD = Record(
    beside=_beside,
    counts=_counts,
    echo=_echo,
    axis=lambda ask: AXIS if ask.what == "indices" else "",
    column="season",
)
