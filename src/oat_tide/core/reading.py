"""What was made of a source, as plain facts: all that the stages know of files."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from oat_tide.core.calendar import Days, Grid, Kind

COPY = "an exact copy of another line"
"""The reason that exact copies are listed and ruled under."""


@dataclass(frozen=True, slots=True)
class Column:
    """One column of the source.

    Attributes:
        name: as it stands in the header.
        role: "date", "measure", "times", "beside", "series", "scenario" or "left out".
        why: what in the content speaks for it.
        dates, numbers: the share of filled cells that can be read so, 0 to 1, in a sample.
        members: some of what stands in it.
    """

    name: str
    role: str
    why: str
    dates: float
    numbers: float
    members: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Pattern:
    """One way that dates are written. Attributes: shown, by an example; count of lines; text of the first."""

    shown: str
    count: int
    text: str


@dataclass(frozen=True, slots=True)
class Alike:
    """Two members of a dimension that may be one: of, the dimension; old has fewer lines than new."""

    of: str
    old: str
    new: str
    lines: int


@dataclass(frozen=True, slots=True)
class Aside:
    """Lines set aside for one reason.

    Attributes:
        reason: why they could not be used.
        count: how many.
        file, row, text: the first of them.
        ways: what else could become of them.
    """

    reason: str
    count: int
    file: str
    row: int
    text: str
    ways: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Offers:
    """What else a source holds. Attributes: sheets, of them hidden; tables of a database."""

    sheets: tuple[str, ...] = ()
    hidden: tuple[str, ...] = ()
    tables: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class FileTie:
    """What one file holds. Attributes: lines read, used, kept beside and set aside; units used, whole."""

    name: str
    form: str
    read: int
    used: int
    beside: int
    aside: int
    units: int


@dataclass(frozen=True, eq=False)
class Reading:
    """Sources read with the roles that were chosen. Equal to itself only.

    Attributes:
        source: the name of the file, or of them together.
        files: what each holds and how it is written.
        columns: every column with its role.
        preview: some lines as they stand, cell by cell in the order of the columns.
        dimensions: the columns that tell the series apart, in order.
        members: the values of each dimension, sorted.
        alike: members that may be one.
        unit: the name of the measure.
        scale: minor units in one unit of the measure.
        kind: the shortest period that the source tells apart.
        grid: the periods that the source suggests.
        since, upto: the first day covered and the data-to date, as day numbers.
        selling: sorted days that hold a line.
        patterns: the ways that dates are written.
        unsettled: how many dates can be read with day or month first and are not settled.
        read, used, beside: lines read, used, and kept beside as another scenario.
        copies: lines that repeat another one exactly.
        asides: the lines set aside, by reason.
        list_aside: the lines set aside from one place to before another: file, row, reason, text.
        years: units of the lines used by calendar year, whole minor units.
        scenarios: the members of the scenario column.
        beside_names: what is kept beside the history.
        asks_year: whether nothing tells the first year.
        may_run_on: whether the figures look like running totals.
        offers: what else the source holds: sheets, hidden sheets and tables.
        notes: what the user should know of how the source was understood.
    """

    source: str
    files: tuple[FileTie, ...]
    columns: tuple[Column, ...]
    preview: tuple[tuple[str, ...], ...]
    dimensions: tuple[str, ...]
    members: tuple[tuple[str, ...], ...]
    alike: tuple[Alike, ...]
    unit: str
    scale: float
    kind: Kind
    grid: Grid
    since: int
    upto: int
    selling: Days
    patterns: tuple[Pattern, ...]
    unsettled: int
    read: int
    used: int
    beside: int
    copies: int
    asides: tuple[Aside, ...]
    list_aside: Callable[[int, int], list[tuple[str, ...]]]
    years: tuple[tuple[int, int], ...]
    scenarios: tuple[str, ...]
    beside_names: tuple[str, ...]
    asks_year: bool
    may_run_on: bool
    offers: Offers
    notes: tuple[str, ...]

    @property
    def aside(self) -> int:
        """Lines set aside."""
        return self.read - self.used - self.beside

    @property
    def total_in_source(self) -> float:
        """The sum of the measure over the lines used, as it stands in the source."""
        return sum(file.units for file in self.files) / self.scale
