"""Decks made of what a plan stands on; each again only when what it rests on has changed."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any, cast

from oat_tide.core.series.panel import Panel, Reach, Sight
from oat_tide.core.series.reading import Reading
from oat_tide.core.series.tie_out import TieOut
from oat_tide.plan.kept import KeptData
from oat_tide.plan.parts.part import Part
from oat_tide.plan_state import PlanState
from oat_tide.stages import STAGES, Stage
from oat_tide.stages.answers import Asking
from oat_tide.stages.deck import Deck, LateAnswers
from oat_tide.stages.needs import KEPT, LEAVES, READING, TIE, Need, needs_of

Given = Deck | Reading | TieOut | Panel | Part | tuple[KeptData, ...] | None
"""What a stage can be given of what it needs."""


@dataclass(frozen=True, eq=False, slots=True)
class _Made:
    """A deck that was made.

    Attributes:
        rests_on: what it was made of.
        deck: the deck.
        arrivals: how many late answers there were then.
    """

    rests_on: tuple[Sight, Any, tuple[Given, ...]]
    deck: Deck
    results_received: int


class Decks:
    """The decks of one plan after another.

    Attributes:
        late: how work that takes long is done.
    """

    def __init__(self, late: LateAnswers) -> None:
        self.late = late
        self._made: dict[tuple[str, Reach], _Made] = {}
        self._of: PlanState | None = None
        self._whole: dict[tuple[str, Reach], Deck] = {}

    def deck(self, stands: PlanState, name: str, reach: Reach = "") -> Deck:
        """The deck of a stage.

        Args:
            reach: the series that it holds; empty for those in sight.
        """
        if self._of is not stands:
            self._of, self._whole = stands, {}
        which = name, reach
        if which in self._whole:
            return self._whole[which]
        stage = STAGES[name]
        given = tuple(self._given(stands, need, reach) for need in needs_of(stage.needs))
        parts = tuple(getattr(stands.plan, part) for part in stage.parts)
        rests_on = (stands.sight_of(reach), parts or getattr(stands.plan, name, None), given)
        kept = self._made.get(which)
        if (
            kept is None
            or kept.rests_on != rests_on
            or (kept.deck.waits and kept.results_received != self.late.results_received)
        ):
            kept = self._made[which] = self._make(stage, rests_on)
        if not kept.deck.waits:
            self._whole[which] = kept.deck
        return kept.deck

    def shown(self, stands: PlanState, name: str) -> Deck:
        """What a stage on the rail shows: its own deck, or that of the stage which is its arrangement."""
        chosen = getattr(getattr(stands.plan, name, None), "arrangement", "")
        within = STAGES[chosen].within == name if chosen in STAGES else False
        return self.deck(stands, chosen if within else name)

    def another(self) -> Decks:
        """Others that begin with the same."""
        found = Decks(self.late)
        found._made = dict(self._made)
        return found

    def _make(self, stage: Stage, rests_on: tuple[Sight, Any, tuple[Given, ...]]) -> _Made:
        """The deck of a stage made, with what it asked for."""
        asking, results_received = Asking(self.late), self.late.results_received
        sight, ask, given = rests_on
        needs = stage.needs(*given) if stage.needs else None
        deck = stage.make(sight, ask, needs, asking)
        self.late.want(f"{stage.name} {sight.reach}", asking.questions)
        if asking.waits:
            deck = replace(deck, waits=True)
        return _Made(rests_on, deck, results_received)

    def _given(self, stands: PlanState, need: Need, own: Reach) -> Given:
        """What a stage needs, for the series that it is itself made for or a wider reach."""
        if not need.when(stands.plan):
            return None
        if need.part:
            return cast(Part, getattr(stands.plan, need.of))
        if need.of == READING:
            return stands.reading
        if need.of == TIE:
            return stands.tie
        if need.of == LEAVES:
            return stands.leaves
        if need.of == KEPT:
            return stands.kept
        return self.deck(stands, need.of, need.reach or own)
