"""The plan: all the choices of the user, as one immutable value.

A field says all there is to know of it: its type and bounds check a file and an edit, its title names
the control and the step that undo takes back.
"""

from __future__ import annotations

import datetime as dt
from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from oat_tide.core.calendar import Grid, Kind
from oat_tide.core.panel import Key


class Part(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True, cache_hash=True):
    """Any piece of a plan."""


def unit(words: str) -> dict[str, str]:
    """The unit of a field, for the control that shows it."""
    return {"unit": words}


class Intake(Part, frozen=True):
    """Which columns hold what, and how dates are read."""

    date: Annotated[str, Meta(title="Date")] = ""
    value: Annotated[str, Meta(title="Measure")] = ""
    by: Annotated[tuple[str, ...], Meta(title="Series by")] = ()
    order: Annotated[
        Literal["by evidence", "day first", "month first"], Meta(title="Dates like 05/03/2024")
    ] = "by evidence"
    upto: Annotated[dt.date | None, Meta(title="Data to", extra_json_schema=unit("last day"))] = None


class Periods(Part, frozen=True):
    """How time is cut."""

    kind: Annotated[Kind, Meta(title="Period")] = "month"
    week_start: Annotated[int, Meta(ge=0, le=6, title="Weeks begin on")] = 0
    year_start: Annotated[int, Meta(ge=1, le=12, title="Fiscal year begins in")] = 1

    def grid(self) -> Grid:
        """The periods themselves."""
        return Grid(self.kind, self.week_start, self.year_start)


Weight = Annotated[float, Meta(ge=0, le=1000)]


class Smooth(Part, frozen=True):
    """Attributes: weights, of the weighted average, the newest first; empty means n, n - 1, ... 1."""

    window: Annotated[int, Meta(ge=2, le=60, title="Window", extra_json_schema=unit("periods"))] = 6
    weights: Annotated[tuple[Weight, ...], Meta(max_length=60, title="Weights")] = ()
    drawn: Annotated[Literal["newest last", "newest first"], Meta(title="Weights drawn")] = "newest last"

    def __post_init__(self) -> None:
        if self.weights and sum(self.weights) <= 0:
            raise ValueError("one weight must be above zero")


class Project(Part, frozen=True):
    """Attributes: since and until bound the fit span; None is the first period, and the as-of."""

    method: Annotated[Literal["line", "growth"], Meta(title="Method")] = "line"
    reach: Annotated[Literal["periods", "end of fiscal year"], Meta(title="Project to")] = "periods"
    horizon: Annotated[int, Meta(ge=1, le=730, title="Periods ahead", extra_json_schema=unit("periods"))] = 6
    since: Annotated[dt.date | None, Meta(title="Fit from", extra_json_schema=unit("first day"))] = None
    until: Annotated[dt.date | None, Meta(title="Fit to", extra_json_schema=unit("last day"))] = None
    mean: Annotated[bool, Meta(title="Project the mean, not the median")] = False


class Plan(Part, frozen=True):
    """The whole plan.

    Attributes:
        where: the members that the shown series is narrowed to, as (dimension, member).
        as_of: the day that everything is computed as of; None is the data-to date.
    """

    title: Annotated[str, Meta(max_length=200, title="Plan title")] = "Untitled plan"
    where: Annotated[tuple[tuple[str, str], ...], Meta(title="Series")] = ()
    as_of: Annotated[dt.date | None, Meta(title="As of")] = None
    intake: Intake = Intake()
    periods: Periods = Periods()
    smooth: Smooth = Smooth()
    project: Project = Project()

    def key(self, dimensions: tuple[str, ...]) -> Key:
        """The series that `where` stands for, an entry a dimension; the last word on one counts."""
        chosen = dict(self.where)
        return tuple(chosen.get(name) for name in dimensions)
