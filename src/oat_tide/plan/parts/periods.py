"""Calendar."""

from __future__ import annotations

import datetime as dt
from typing import Annotated, Literal

from msgspec import Meta

from oat_tide.core.periods.calendar import Grid, Kind, day_number
from oat_tide.plan.parts.part import Part, unit


class Periods(Part, frozen=True):
    """Calendar.

    Attributes:
        weeks: months of the calendar, or years of whole weeks.
        anchor: a day on which such a year, or a block, begins.
        long_period: the period of such a year that week 53 goes to.
        block: the days of a block.
    """

    kind: Annotated[Kind, Meta(title="Period")] = "month"
    week_start: Annotated[int, Meta(ge=0, le=6, title="Weeks begin on")] = 0
    year_start: Annotated[int, Meta(ge=1, le=12, title="Fiscal year begins in")] = 1
    weeks: Annotated[Literal["calendar", "4-4-5", "4-5-4", "5-4-4"], Meta(title="Months")] = "calendar"
    anchor: Annotated[dt.date | None, Meta(title="Counted from", extra_json_schema=unit("first day"))] = None
    long_period: Annotated[int, Meta(ge=1, le=12, title="Week 53 goes to period")] = 12
    block: Annotated[int, Meta(ge=2, le=366, title="Block", extra_json_schema=unit("days"))] = 28

    def grid(self) -> Grid:
        """The periods themselves."""
        anchor = day_number(self.anchor or dt.date(2024, 1, 1))
        pattern = "" if self.weeks == "calendar" else self.weeks
        return Grid(
            self.kind, self.week_start, self.year_start, pattern, anchor, self.long_period, self.block
        )
