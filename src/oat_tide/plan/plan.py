"""The plan: all the choices of the user, as one immutable value.

A field says all there is to know of it: its type and bounds check a file and an edit, its title names
the control and the step that undo takes back.
"""

from __future__ import annotations

import datetime as dt
from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from oat_tide.core.calendar import Grid, Kind, day_number
from oat_tide.core.panel import Key, Totalled


class Part(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True, cache_hash=True):
    """Any piece of a plan."""


def unit(words: str) -> dict[str, str]:
    """The unit of a field, for the control that shows it."""
    return {"unit": words}


class Sources(Part, frozen=True):
    """Where the lines come from, and how they are got out of it.

    Attributes:
        places: files or folders, or one address of a database without its password; those beside the plan
            file are told by their names alone.
        sheets, block: of a workbook; none stands for the first that holds lines, and 0 for its largest block.
        table, query: of a database.
        typed: figures typed or pasted, as text, when there is no place.
        taken: how often the places have been read anew.
    """

    places: Annotated[tuple[str, ...], Meta(title="Sources")] = ()
    encoding: Annotated[Literal["by content", "UTF-8", "UTF-16", "Windows-1252"], Meta(title="Encoding")] = (
        "by content"
    )
    delimiter: Annotated[
        Literal["by content", "commas", "semicolons", "tabs", "bars"], Meta(title="Separated by")
    ] = "by content"
    quotes: Annotated[Literal["by content", "no quoting"], Meta(title="Quotes")] = "by content"
    sheets: Annotated[tuple[str, ...], Meta(title="Sheets")] = ()
    block: Annotated[int, Meta(ge=0, le=20, title="Block of the sheet")] = 0
    table: Annotated[str, Meta(title="Table")] = ""
    query: Annotated[str, Meta(max_length=20_000, title="Query")] = ""
    typed: Annotated[str, Meta(max_length=2_000_000, title="Typed figures")] = ""
    taken: Annotated[int, Meta(ge=0, title="What the sources hold now")] = 0


Name = Annotated[str, Meta(max_length=4096)]
Pairs = tuple[tuple[str, str], ...]


class Rename(Part, frozen=True):
    """One spelling or code of a dimension's members that stands for another."""

    of: Name
    old: Name
    new: Name


class Level(Part, frozen=True):
    """A dimension told by another one, such as the family of a product.

    Attributes:
        name: of the level; of: the dimension it is told by; pairs: (member, its member of the level).
    """

    name: Name
    of: Name
    pairs: Pairs


class Mend(Part, frozen=True):
    """A cell written anew, for this plan only.

    Attributes:
        file, row: the line; column: its cell, empty for a torn line, which is written anew as a whole.
    """

    file: Name
    row: int
    column: Name
    text: Name


WayOut = Literal["leave out", "use", "date of the line above", "count as 0", "leave copies out"]


class Verdict(Part, frozen=True):
    """What becomes of all lines that are set aside, or pointed out, for one reason."""

    reason: Name
    way: WayOut


Shape = Literal["by content", "as it stands", "a column a series"]


class Intake(Part, frozen=True):
    """Which columns hold what, and how they are read.

    Attributes:
        times: a second measure that the first is multiplied by.
        also: further measures, kept beside the first.
        scenario, actual: the column that tells actuals from budgets, and its member that makes the history.
        totalled: how lines make the figure of a period; of last values, series add up.
        running: whether figures run on from the start of each year, and are taken apart.
        upto: the data-to date.
    """

    shape: Annotated[Shape, Meta(title="Shape")] = "by content"
    first_year: Annotated[int, Meta(ge=0, le=2200, title="First year")] = 0
    date: Annotated[str, Meta(title="Date")] = ""
    value: Annotated[str, Meta(title="Measure")] = ""
    times: Annotated[str, Meta(title="Times")] = ""
    also: Annotated[tuple[str, ...], Meta(title="Kept beside")] = ()
    by: Annotated[tuple[str, ...], Meta(title="Series by")] = ()
    scenario: Annotated[str, Meta(title="Scenario")] = ""
    actual: Annotated[str, Meta(title="Actuals are")] = ""
    order: Annotated[
        Literal["by evidence", "day first", "month first"], Meta(title="Dates like 05/03/2024")
    ] = "by evidence"
    decimal: Annotated[Literal["by content", "point", "comma"], Meta(title="Decimal mark")] = "by content"
    totalled: Annotated[Totalled, Meta(title="Totalled by")] = "sum"
    running: Annotated[bool, Meta(title="Figures run from the start of each year")] = False
    upto: Annotated[dt.date | None, Meta(title="Data to", extra_json_schema=unit("last day"))] = None
    renames: Annotated[tuple[Rename, ...], Meta(title="Names taken for others")] = ()
    levels: Annotated[tuple[Level, ...], Meta(title="Levels")] = ()
    mends: Annotated[tuple[Mend, ...], Meta(title="Mended cells")] = ()
    verdicts: Annotated[tuple[Verdict, ...], Meta(title="What becomes of lines set aside")] = ()


Act = Literal[
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
        first, last: the days, both included.
        value: the expected figure.
        note: why, in the user's words.
    """

    where: Pairs
    first: dt.date
    last: dt.date
    act: Act
    value: float = 0.0
    note: Annotated[str, Meta(max_length=500)] = ""


class First(Part, frozen=True):
    """A first figure, kept when a later one took its place.

    Attributes:
        where: the series; first, last: the days of the period.
        value: the figure; known: the data-to date when it was first seen.
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
    final_to: Annotated[dt.date | None, Meta(title="Final to", extra_json_schema=unit("last day"))] = None
    rulings: Annotated[tuple[Ruled, ...], Meta(title="Rulings")] = ()
    firsts: Annotated[tuple[First, ...], Meta(title="First figures")] = ()


class Periods(Part, frozen=True):
    """How time is cut.

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


class History(Part, frozen=True):
    """How History arranges the past.

    Attributes:
        years: earlier years that the as-of year is held against.
        back, ahead: periods of a trailing window before and after its own.
        span, length: a trailing window in another kind of period.
        likes: like weekdays; weekday: the day they are alike with.
        by: the dimension whose members are the parts.
    """

    arrangement: Annotated[
        Literal["sequence", "overlaid", "running", "trailing", "earlier", "usual", "weekday", "shares"],
        Meta(title="Arrangement"),
    ] = "sequence"
    drawn: Annotated[Literal["line", "columns"], Meta(title="Drawn as")] = "line"
    years: Annotated[int, Meta(ge=1, le=100, title="Years before", extra_json_schema=unit("years"))] = 4
    against: Annotated[Literal["mean", "median"], Meta(title="Held against")] = "mean"
    to_date: Annotated[bool, Meta(title="As running totals")] = False
    reset: Annotated[Literal["never", "year", "quarter", "month"], Meta(title="Starts anew with each")] = (
        "year"
    )
    laid: Annotated[Literal["over time", "years overlaid", "carried on"], Meta(title="Laid out")] = (
        "over time"
    )
    back: Annotated[int, Meta(ge=0, le=3660, title="From", extra_json_schema=unit("back"))] = 11
    ahead: Annotated[int, Meta(ge=0, le=3660, title="To", extra_json_schema=unit("ahead"))] = 0
    span: Annotated[Literal["periods", "day", "week", "month"], Meta(title="Window in")] = "periods"
    length: Annotated[int, Meta(ge=1, le=3660, title="Last")] = 12
    short: Annotated[bool, Meta(title="Show short windows")] = False
    likes: Annotated[int, Meta(ge=2, le=520, title="Like weekdays", extra_json_schema=unit("weeks"))] = 8
    weekday: Annotated[dt.date | None, Meta(title="Like the day", extra_json_schema=unit("last day"))] = None
    by: Annotated[str, Meta(title="Parts by")] = ""
    share: Annotated[Literal["stacked", "% of total"], Meta(title="Shown")] = "stacked"
    multiples: Annotated[Literal["one chart", "a chart each"], Meta(title="Pinned series in")] = "one chart"
    pinned: Annotated[tuple[Pairs, ...], Meta(max_length=6, title="Pinned series")] = ()


Weight = Annotated[float, Meta(ge=0, le=1000)]
LONGEST_WINDOW = 730


class Smooth(Part, frozen=True):
    """Attributes: weights, of the weighted average, the newest first; empty means n, n - 1, ... 1."""

    window: Annotated[
        int, Meta(ge=2, le=LONGEST_WINDOW, title="Window", extra_json_schema=unit("periods"))
    ] = 6
    weights: Annotated[tuple[Weight, ...], Meta(max_length=LONGEST_WINDOW, title="Weights")] = ()
    drawn: Annotated[Literal["newest last", "newest first"], Meta(title="Weights drawn")] = "newest last"

    def __post_init__(self) -> None:
        if self.weights and sum(self.weights) <= 0:
            raise ValueError("one weight must be above zero")


class Project(Part, frozen=True):
    """Attributes: since and until bound the fit span; None is the first period, and the as-of."""

    method: Annotated[Literal["line", "growth"], Meta(title="Method")] = "line"
    reach: Annotated[Literal["periods", "end of fiscal year"], Meta(title="Project to")] = "periods"
    horizon: Annotated[int, Meta(ge=1, le=3660, title="Periods ahead", extra_json_schema=unit("periods"))] = 6
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
    sources: Sources = Sources()
    intake: Intake = Intake()
    evened: Evened = Evened()
    periods: Periods = Periods()
    history: History = History()
    smooth: Smooth = Smooth()
    project: Project = Project()

    def key(self, dimensions: tuple[str, ...]) -> Key:
        """The series that `where` stands for, an entry a dimension; the last word on one counts."""
        chosen = dict(self.where)
        return tuple(chosen.get(name) for name in dimensions)
