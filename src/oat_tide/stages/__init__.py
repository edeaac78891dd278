"""The stages, in the order of work. A new one is its file, its part of the plan and one line here."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from oat_tide.core.panel import Sight
from oat_tide.stages import history, intake, project, smooth
from oat_tide.stages.deck import Deck

READING = "reading"
"""Named among the needs of a stage: the plain Reading of the source."""


@dataclass(frozen=True, slots=True)
class Stage:
    """Attributes:
    name: also the name of its part of the plan, where it has one.
    title: its name for people.
    make: (sight, ask, needs, late) -> deck.
    needs: the stages whose decks it is given, in order.
    """

    name: str
    title: str
    make: Callable[[Sight, Any, tuple[Any, ...], Any], Deck]
    needs: tuple[str, ...] = ()


STAGES: dict[str, Stage] = {
    stage.name: stage
    for stage in (
        Stage("intake", "Intake", intake.make, (READING,)),
        Stage("history", "History", history.make, ("intake",)),
        Stage("smooth", "Smooth", smooth.make, ("intake",)),
        Stage("project", "Project", project.make, ("intake",)),
    )
}
