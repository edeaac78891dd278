"""The stages, in the order of work. A new one is its file, its part of the plan and one line here."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from oat_tide.core.language import phrase
from oat_tide.core.periods.calendar import Grid
from oat_tide.core.series.panel import Panel, Sight
from oat_tide.core.series.reading import Reading
from oat_tide.plan.plan import Plan
from oat_tide.stages import lines
from oat_tide.stages.deck import Deck, LateWork
from oat_tide.stages.history import make as history
from oat_tide.stages.intake import make as intake
from oat_tide.stages.project import make as project
from oat_tide.stages.record import Record
from oat_tide.stages.seasons import command as seasonal
from oat_tide.stages.seasons import make as seasons
from oat_tide.stages.smooth import command as smoothing
from oat_tide.stages.smooth import make as smooth
from oat_tide.stages.spread import command as spreading
from oat_tide.stages.spread import make as spread


@dataclass(frozen=True, slots=True)
class Stage:
    """One stage of the work.

    Attributes:
        name: also the name of its part of the plan, where it has one.
        title: its name for people; a stage without one is only there for the others.
        make: (sight, ask, needs, late) -> deck; what is asked and needed differs from stage to stage.
        needs: what it stands on, as a dataclass of `need` attributes.
        parts: of the plan, where it is given several; then `ask` is a tuple.
        within: the stage on the rail whose arrangement of this name it is; empty for none.
        record: its figures that are written, where it is a command.
        others: further records of it, by the command that writes them.
        misfit: what of its part no deck can be made of with these periods: the field, and why.
        alone: (plan, the fields given) -> the part that a command sets them in.
        prepared: (plan, periods, the last complete one) -> the plan with what a command needs of other parts.
        together: whether its command takes all series together, and keys of children alone.
        ahead: (reading, every series) -> what looks at all of them, kept before it is asked for.
    """

    name: str
    title: str
    make: Callable[[Sight, Any, Any, LateWork], Deck]
    needs: type | None = None
    parts: tuple[str, ...] = ()
    within: str = ""
    record: Record | None = None
    others: dict[str, Record] = field(default_factory=dict)
    misfit: Callable[[Any, Grid], tuple[str, str] | None] | None = None
    alone: Callable[[Plan, frozenset[str]], Any] | None = None
    prepared: Callable[[Plan, Grid, int], Plan] = lambda plan, grid, home: plan
    together: bool = False
    ahead: Callable[[Reading, Panel], object] | None = None


STAGES: dict[str, Stage] = {
    stage.name: stage
    for stage in (
        Stage(
            "intake",
            phrase("Intake"),
            intake.make,
            intake.Needs,
            ("sources", "intake", "evened", "periods"),
            ahead=intake.coverage,
        ),
        Stage("history", phrase("History"), history.make, history.Needs),
        Stage(
            "smooth",
            phrase("Smooth"),
            smooth.make,
            smooth.Needs,
            ("smooth", "seasons"),
            record=smoothing.RECORD,
            misfit=smoothing.misfit,
            alone=smoothing.alone,
        ),
        Stage(
            "seasons",
            phrase("Seasons"),
            seasons.make,
            seasons.Needs,
            ("seasons", "evened"),
            record=seasonal.RECORD,
            alone=seasonal.alone,
        ),
        Stage(
            "project",
            phrase("Project"),
            project.make,
            project.Needs,
            ("project", "seasons", "evened"),
            record=project.RECORD,
            others={"fit": project.FIT},
            misfit=project.misfit,
        ),
        Stage(
            "spread",
            "",
            spread.make,
            spread.Needs,
            ("spread", "seasons"),
            within="seasons",
            record=spreading.RECORD,
            misfit=spreading.misfit,
            alone=spreading.alone,
            prepared=spreading.prepared,
            together=True,
        ),
        Stage("lines", "", lines.make, lines.Needs, ("evened",)),
    )
}
ON_RAIL: dict[str, Stage] = {name: stage for name, stage in STAGES.items() if stage.title}
