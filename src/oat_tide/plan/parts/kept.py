"""The heads of large data that belong to a plan, such as projections that were kept."""

from __future__ import annotations

import datetime as dt
from typing import Annotated

from msgspec import Meta

from oat_tide.plan.parts.part import Name, Pairs, Part


class Kept(Part, frozen=True):
    """What is known of data that lie in a member of the plan file of their own.

    Attributes:
        id: tells it from the others; names the member.
        name: for people.
        made: when, in UTC.
        fingerprint: of the data, so that a change of them shows.
        as_of: the day it was made as of; None for the data-to date.
        method: how, in the words of its stage.
        where: the series, as in `Plan.where`; those within it are meant as well.
    """

    id: Annotated[str, Meta(pattern="^[a-z0-9-]{1,60}$")]
    name: Name
    made: dt.datetime
    fingerprint: Annotated[str, Meta(pattern="^[0-9a-f]{32}$")]
    as_of: dt.date | None = None
    method: Name = ""
    where: Pairs = ()
