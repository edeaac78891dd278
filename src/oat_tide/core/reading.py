"""What was made of a source, as plain facts: all that the stages know of files."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from oat_tide.core.calendar import Days, Grid, Kind


@dataclass(frozen=True, slots=True)
class Column:
    """One column of the source.

    Attributes:
        name: as it stands in the header.
        role: "date", "value", "series" or "left out".
        why: what in the content speaks for it.
        dates, numbers: the share of filled cells that can be read so, 0 to 1, in a sample.
    """

    name: str
    role: str
    why: str
    dates: float
    numbers: float


@dataclass(frozen=True, slots=True)
class Aside:
    """Lines set aside for one reason.

    Attributes:
        reason: why they could not be used.
        count: how many.
        row, text: the first of them, by row number and by what it says.
    """

    reason: str
    count: int
    row: int
    text: str


@dataclass(frozen=True, eq=False)
class Reading:
    """A source read with the roles that were chosen. Equal to itself only.

    Attributes:
        source: the name of the file.
        form: encoding and delimiter in words.
        columns: every column with its role.
        dimensions: the columns that tell the series apart, in order.
        members: the values of each dimension, sorted.
        unit: the name of the measure.
        kind: the shortest period that the source tells apart.
        grid: the periods that the source suggests.
        since, upto: the first day covered and the data-to date, as day numbers.
        selling: sorted days that hold a line.
        read, used: lines read and lines used.
        asides: the lines set aside, by reason.
        list_aside: the lines set aside from one place to before another: row number, reason, text.
        total_in_source: the sum of the measure over the lines used, as it stands in the source.
        notes: what the user should know of how the source was understood.
    """

    source: str
    form: str
    columns: tuple[Column, ...]
    dimensions: tuple[str, ...]
    members: tuple[tuple[str, ...], ...]
    unit: str
    kind: Kind
    grid: Grid
    since: int
    upto: int
    selling: Days
    read: int
    used: int
    asides: tuple[Aside, ...]
    list_aside: Callable[[int, int], list[tuple[str, ...]]]
    total_in_source: float
    notes: tuple[str, ...]
