"""What a method is to a stage: how it is laid on a history, what it takes, and when it can not be."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from oat_tide.core.language import noun, phrase
from oat_tide.core.methods.shape import Method
from oat_tide.plan.plan import Plan
from oat_tide.stages.deck import Caution
from oat_tide.stages.methods.applied import AppliedMethod
from oat_tide.stages.methods.ground import Ground


def no_cautions(g: Ground, laid: AppliedMethod, series: int) -> tuple[Caution, ...]:
    """None beside those that are looked for whatever the method is."""
    return ()


def no_seasons(g: Ground) -> str:
    """Why the periods have no seasons; empty where they have."""
    if g.cycle.length:
        return ""
    return phrase("A {kind} has no seasons.", kind=noun(g.grid.kind)) + (
        phrase(" Set a cycle in Seasons.") if g.how.back else ""
    )


@dataclass(frozen=True, eq=False, slots=True)
class Room:
    """A method on a deck.

    Attributes:
        method: what it is, and its kernel.
        lay: (ground, prefix of the names of its figures, whether its facts are shown) -> the method laid.
        why_not: why it can not be laid on these periods at all; empty where it can.
        stands_on: the stages whose decks it takes figures from, as a plan has it.
        settings: the fields of Project that are its own.
        refusal: what needs figures above zero, in words; empty for what does not.
        cautions: those of its own, of a series that has a fit.
        short: what the finding calls it, which then has its interval; empty for its title without.
        beside: a sentence beside where its periods begin to count.
        straight: whether it is a line on the scale of the values, which a bend refutes.
        with_season, without_season: the methods of its kind with a season and without.
    """

    method: Method
    lay: Callable[[Ground, str, bool], AppliedMethod]
    why_not: Callable[[Ground], str] = lambda g: ""
    stands_on: Callable[[Plan], frozenset[str]] = lambda plan: frozenset()
    settings: tuple[str, ...] = ()
    refusal: str = ""
    cautions: Callable[[Ground, AppliedMethod, int], tuple[Caution, ...]] = no_cautions
    short: str = ""
    beside: str = ""
    straight: bool = False
    with_season: str = "line-season"
    without_season: str = "line"
