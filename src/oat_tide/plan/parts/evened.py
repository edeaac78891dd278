"""How sums by day become even periods: gaps, rulings, first figures."""

from __future__ import annotations

import datetime as dt
from typing import Annotated, Literal

from msgspec import Meta

from oat_tide.plan.parts.part import Pairs, Part, unit

RulingKind = Literal[
    "keep",
    "leave out",
    "expected",
    "whole",
    "note",
    "closed",
    "no stock",
    "withdrawn",
    "nothing sold",
    "not known",
]


class Ruled(Part, frozen=True):
    """What was ruled of some days of a series.

    Attributes:
        where: the series, as in `Plan.where`; those within it are meant as well.
        first: the first of the days.
        last: the last of them.
        act: what was ruled.
        value: the expected figure.
        note: why, in the user's words.
    """

    where: Pairs
    first: dt.date
    last: dt.date
    act: RulingKind
    value: float = 0.0
    note: Annotated[str, Meta(max_length=500)] = ""


class FirstPublished(Part, frozen=True):
    """A first figure, kept when a later one took its place.

    Attributes:
        where: the series.
        first: the first day of the period.
        last: its last day.
        value: the figure.
        known: the data-to date when it was first seen.
    """

    where: Pairs
    first: dt.date
    last: dt.date
    value: float
    known: dt.date


class Evened(Part, frozen=True):
    """How sums by day become even periods.

    Attributes:
        final_to: the last day whose figures are final.
        firsts: first figures of periods that were not final then.
    """

    gaps: Annotated[
        Literal["by content", "nothing sold", "not known"], Meta(title="Periods without a line")
    ] = "by content"
    final_to: Annotated[dt.date | None, Meta(title="Final until", extra_json_schema=unit("last day"))] = None
    rulings: Annotated[tuple[Ruled, ...], Meta(title="Decisions", extra_json_schema={"one": "Decision"})] = ()
    firsts: Annotated[tuple[FirstPublished, ...], Meta(title="First-published figures")] = ()
