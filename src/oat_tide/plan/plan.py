"""The plan: all the choices of the user, as one immutable value.

A field says all there is to know of it: its type and bounds check a file and an edit, its title names
the control and the step that undo takes back.
"""

from __future__ import annotations

import datetime as dt
from typing import Annotated, Literal

from msgspec import Meta

from oat_tide.core.series.coded import Key
from oat_tide.plan.parts.evened import Evened
from oat_tide.plan.parts.history import History
from oat_tide.plan.parts.intake import Intake
from oat_tide.plan.parts.kept import Kept
from oat_tide.plan.parts.layout import Layout
from oat_tide.plan.parts.part import Part
from oat_tide.plan.parts.periods import Periods
from oat_tide.plan.parts.project import Project
from oat_tide.plan.parts.seasons import Seasons
from oat_tide.plan.parts.smooth import Smooth
from oat_tide.plan.parts.sources import Sources
from oat_tide.plan.parts.spread import Spread


class Plan(Part, frozen=True):
    """The whole plan.

    Attributes:
        where: the members that the shown series is narrowed to, as (dimension, member).
        as_of: the day that everything is computed as of; None is the data-to date.
        drawn: how the actual stands in every chart over time.
        kept: the heads of large data that belong to it.
    """

    title: Annotated[str, Meta(max_length=200, title="Plan title")] = "Untitled plan"
    where: Annotated[tuple[tuple[str, str], ...], Meta(title="Series")] = ()
    as_of: Annotated[dt.date | None, Meta(title="As of")] = None
    drawn: Annotated[Literal["line", "columns"], Meta(title="Actual drawn as")] = "line"
    sources: Sources = Sources()
    intake: Intake = Intake()
    evened: Evened = Evened()
    periods: Periods = Periods()
    history: History = History()
    smooth: Annotated[Smooth, Meta(title="Smoothers")] = Smooth()
    seasons: Seasons = Seasons()
    project: Project = Project()
    spread: Spread = Spread()
    layout: Layout = Layout()
    kept: Annotated[
        tuple[Kept, ...], Meta(max_length=1000, title="Kept", extra_json_schema={"one": "Kept"})
    ] = ()

    def key(self, dimensions: tuple[str, ...]) -> Key:
        """The series that `where` stands for, an entry a dimension; the last word on one counts."""
        chosen = dict(self.where)
        return tuple(chosen.get(name) for name in dimensions)
