"""How History arranges the past."""

from __future__ import annotations

import datetime as dt
from typing import Annotated, Literal

from msgspec import Meta

from oat_tide.plan.parts.part import LONGEST_WINDOW, Pairs, Part, unit


class History(Part, frozen=True):
    """How History arranges the past.

    Attributes:
        years: earlier years that the as-of year is held against.
        back: periods of a trailing window before its own.
        ahead: periods of it after its own.
        span: another kind of period that a trailing window is told in.
        length: how many of them.
        likes: like weekdays.
        weekday: the day they are alike with.
        by: the dimension whose members are the parts.
    """

    arrangement: Annotated[
        Literal["sequence", "overlaid", "running", "trailing", "earlier", "usual", "weekday", "shares"],
        Meta(title="Arrangement"),
    ] = "sequence"
    years: Annotated[int, Meta(ge=1, le=100, title="Years before", extra_json_schema=unit("years"))] = 4
    against: Annotated[Literal["mean", "median"], Meta(title="Compared with")] = "mean"
    to_date: Annotated[bool, Meta(title="As running totals")] = False
    reset: Annotated[Literal["never", "year", "quarter", "month"], Meta(title="Restarts each")] = "year"
    laid: Annotated[Literal["over time", "years overlaid", "carried on"], Meta(title="Layout")] = "over time"
    back: Annotated[
        int, Meta(ge=0, le=LONGEST_WINDOW, title="Window from", extra_json_schema=unit("back"))
    ] = 11
    ahead: Annotated[
        int, Meta(ge=0, le=LONGEST_WINDOW, title="Window to", extra_json_schema=unit("ahead"))
    ] = 0
    span: Annotated[Literal["periods", "day", "week", "month"], Meta(title="Window in")] = "periods"
    length: Annotated[int, Meta(ge=1, le=LONGEST_WINDOW, title="Window of the last")] = 12
    short: Annotated[bool, Meta(title="Show short windows")] = False
    likes: Annotated[
        int, Meta(ge=2, le=520, title="Weekdays to compare", extra_json_schema=unit("weeks"))
    ] = 8
    weekday: Annotated[dt.date | None, Meta(title="As on", extra_json_schema=unit("last day"))] = None
    by: Annotated[str, Meta(title="Split by")] = ""
    share: Annotated[Literal["stacked", "% of total"], Meta(title="Show as")] = "stacked"
    multiples: Annotated[Literal["one chart", "a chart each"], Meta(title="Pinned series in")] = "one chart"
    pinned: Annotated[tuple[Pairs, ...], Meta(max_length=6, title="Pinned series")] = ()
