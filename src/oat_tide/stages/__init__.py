"""The stages, in the order of work. A new one is its file, its part of the plan and one line here."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from oat_tide.core.series.panel import Sight
from oat_tide.stages.deck import Deck, Late
from oat_tide.stages.history.make import make as make_history
from oat_tide.stages.intake.make import make as make_intake
from oat_tide.stages.lines import make as make_lines
from oat_tide.stages.project.make import make as make_project
from oat_tide.stages.smooth.make import make as make_smooth

READING, TIE, LEAVES = "reading", "tie-out", "leaves"
"""Named among the needs of a stage: what is known of the source, how it ties, and every series by period."""


@dataclass(frozen=True, slots=True)
class Stage:
    """One stage of the work.

    Attributes:
        name: also the name of its part of the plan, where it has one.
        title: its name for people; a stage without one is only there for the others.
        make: (sight, ask, needs, late) -> deck; what is asked and needed differs from stage to stage.
        needs: the stages whose decks it is given, in order.
        parts: of the plan, where it is given several; then `ask` is a tuple.
    """

    name: str
    title: str
    make: Callable[[Sight, Any, tuple[Any, ...], Late], Deck]
    needs: tuple[str, ...] = ()
    parts: tuple[str, ...] = ()


STAGES: dict[str, Stage] = {
    stage.name: stage
    for stage in (
        Stage(
            "intake",
            "Intake",
            make_intake,
            ("lines", READING, TIE, LEAVES),
            ("sources", "intake", "evened", "periods"),
        ),
        Stage("history", "History", make_history, ("lines", LEAVES, READING)),
        Stage("smooth", "Smooth", make_smooth, ("lines",)),
        Stage("project", "Project", make_project, ("lines",)),
        Stage("lines", "", make_lines, (READING,), ("evened",)),
    )
}
ON_RAIL: dict[str, Stage] = {name: stage for name, stage in STAGES.items() if stage.title}
