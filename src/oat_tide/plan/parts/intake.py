"""Which columns hold what, and how they are read."""

from __future__ import annotations

import datetime as dt
from typing import Annotated, Literal

from msgspec import Meta

from oat_tide.core.periods.calendar import FIRST_DAY, LAST_DAY, day_number
from oat_tide.core.series.panel import Totalled
from oat_tide.plan.parts.part import Name, Pairs, Part, unit


class Rename(Part, frozen=True):
    """One spelling or code of a dimension's members that stands for another."""

    of: Name
    old: Name
    new: Name


class Level(Part, frozen=True):
    """A dimension told by another one, such as the family of a product.

    Attributes:
        name: of the level.
        of: the dimension it is told by.
        pairs: (member, its member of the level).
    """

    name: Name
    of: Name
    pairs: Pairs


class CellEdit(Part, frozen=True):
    """A cell written anew, for this plan only.

    Attributes:
        file: where the line stands.
        row: its row there.
        column: its cell; empty for a torn line, which is written anew as a whole.
        text: what is written.
    """

    file: Name
    row: int
    column: Name
    text: Name


class Heading(Part, frozen=True):
    """What the heading of a column among periods stands for.

    Attributes:
        column: its heading.
        means: a heading that names the period; empty where the column is none.
    """

    column: Name
    means: Annotated[str, Meta(max_length=500)] = ""


Outcome = Literal["leave out", "use", "date of the line above", "count as 0", "leave copies out"]


class Verdict(Part, frozen=True):
    """What becomes of all lines that are set aside, or pointed out, for one reason."""

    reason: Name
    outcome: Outcome


Shape = Literal["by content", "as it stands", "a column a series"]


class Intake(Part, frozen=True):
    """Which columns hold what, and how they are read.

    Attributes:
        headings: what headings stand for that were asked for.
        filled: columns whose blank cells stand for the one above.
        times: a second measure that the first is multiplied by.
        also: further measures, kept beside the first.
        scenario: the column that tells actuals from budgets.
        actual: its member that makes the history.
        totalled: how lines make the figure of a period; of last values, series add up.
        running: whether figures run on from the start of each year, and are taken apart.
        upto: the data-to date.
    """

    shape: Annotated[Shape, Meta(title="Shape")] = "by content"
    first_year: Annotated[int, Meta(ge=0, le=2200, title="First year")] = 0
    headings: Annotated[tuple[Heading, ...], Meta(title="Headings")] = ()
    filled: Annotated[tuple[str, ...], Meta(title="Filled down")] = ()
    date: Annotated[str, Meta(title="Date")] = ""
    value: Annotated[str, Meta(title="Measure")] = ""
    times: Annotated[str, Meta(title="Multiplied by")] = ""
    also: Annotated[tuple[str, ...], Meta(title="Further measures")] = ()
    by: Annotated[tuple[str, ...], Meta(title="Series by")] = ()
    scenario: Annotated[str, Meta(title="Scenario")] = ""
    actual: Annotated[str, Meta(title="Actuals are")] = ""
    order: Annotated[
        Literal["by evidence", "day first", "month first"], Meta(title="Dates like 05/03/2024")
    ] = "by evidence"
    decimal: Annotated[Literal["by content", "point", "comma"], Meta(title="Decimal mark")] = "by content"
    totalled: Annotated[Totalled, Meta(title="Totalled by")] = "sum"
    running: Annotated[bool, Meta(title="Figures run from the start of each year")] = False
    upto: Annotated[dt.date | None, Meta(title="Data end on", extra_json_schema=unit("last day"))] = None
    renames: Annotated[tuple[Rename, ...], Meta(title="Names taken for others")] = ()
    levels: Annotated[tuple[Level, ...], Meta(title="Levels")] = ()
    mends: Annotated[tuple[CellEdit, ...], Meta(title="Mended cells")] = ()
    verdicts: Annotated[tuple[Verdict, ...], Meta(title="What becomes of lines set aside")] = ()

    def __post_init__(self) -> None:
        if self.upto and not FIRST_DAY <= day_number(self.upto) <= LAST_DAY:
            raise ValueError("it must lie in the years 1900 to 2200")
