"""What was made of a source, as plain facts: all that the stages know of files."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from decimal import Decimal
from typing import Literal

from oat_tide.core.language import phrase
from oat_tide.core.periods.calendar import Days, Grid, Kind
from oat_tide.core.series.panel import Totalled

COPY = phrase("an exact copy of another line")
TOTAL = phrase("a total, not a sale")
ABOVE = phrase("above the header")
"""The reasons that exact copies, total rows and titles are listed and ruled under."""


@dataclass(frozen=True, slots=True)
class Column:
    """One column of the source.

    Attributes:
        name: as it stands in the header.
        role: "date", "measure", "times", "beside", "series", "scenario" or "left out".
        why: what in the content speaks for it.
        dates: the share of filled cells that can be read as dates, 0 to 1, in a sample.
        numbers: the share that can be read as numbers.
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
    """One way that dates are written.

    Attributes:
        shown: by an example.
        count: lines written so.
        text: the first of them.
        read: how that is read; empty where it is not.
    """

    shown: str
    count: int
    text: str
    read: str = ""


@dataclass(frozen=True, slots=True)
class DecimalMark:
    """How the figures of the measure are read.

    Attributes:
        comma: whether the mark of figures that can be read in two ways is taken for a comma.
        text: a figure as it stands.
        value: as it is read.
        other: as it would be read with the other mark, NaN where it cannot be.
        by: what settles it: "figure", "column", "other columns", "separator", "plan", or "" for nothing.
        against: lines whose figure can only be read with the other mark, and is read so.
    """

    comma: bool = False
    text: str = ""
    value: float = float("nan")
    other: float = float("nan")
    by: str = "figure"
    against: int = 0

    @property
    def asks(self) -> bool:
        """Whether nothing settles it."""
        return not self.by


@dataclass(frozen=True, slots=True)
class Alike:
    """Two members of a dimension that may be one.

    Attributes:
        of: the dimension.
        old: the member with fewer lines.
        new: the member that it may stand for.
        lines: of the first.
    """

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
        file: where the first of them stands.
        row: its row there.
        text: the line itself.
        outcomes: what else could become of them.
    """

    reason: str
    count: int
    file: str
    row: int
    text: str
    outcomes: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class LeftOut:
    """A column of text or of codes that tells no series apart.

    Attributes:
        name: of the column.
        values: how many it has.
        least: whether there are more of them in lines that a server kept.
    """

    name: str
    values: int
    least: bool = False


Use = Literal["used", "beside", "key", "no series", "asked"]


@dataclass(frozen=True, slots=True)
class Figures:
    """What the cells of a column that hold figures are, and come to.

    Attributes:
        name: of the column.
        use: what they are: used or set aside with their lines, kept beside, a key or a date, in no series,
            or asked for.
        why: in a few words.
        cells: how many hold a figure.
        amount: what they come to.
        meant: of one that is asked for, what its heading may have been meant for; the likeliest first.
    """

    name: str
    use: Use
    why: str
    cells: int
    amount: Decimal
    meant: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class OwnTotal:
    """A total that the source holds itself, against the same of the lines that are used.

    Attributes:
        name: of the column, or what stands in the row.
        cells: how many totals of that name there are.
        amount: what they come to.
        against: what the series hold in their place.
        row: of the first one that differs; 0 where none does, or it is a column.
    """

    name: str
    cells: int
    amount: Decimal
    against: Decimal
    row: int = 0

    @property
    def more(self) -> Decimal:
        """How much the source's own total is above what the series hold."""
        return self.amount - self.against


@dataclass(frozen=True, slots=True)
class Offers:
    """What else a source holds.

    Attributes:
        sheets: of a workbook.
        hidden: those of them that are hidden.
        tables: of a database.
        across: columns of numbers of one kind, that could be a series each.
        shapes: the shapes that its table can be brought to.
    """

    sheets: tuple[str, ...] = ()
    hidden: tuple[str, ...] = ()
    tables: tuple[str, ...] = ()
    across: tuple[str, ...] = ()
    shapes: tuple[str, ...] = ("by content", "as it stands")


@dataclass(frozen=True, slots=True)
class Held:
    """A count of lines of a source and what they add up to.

    Attributes:
        lines: how many.
        amount: the sum of their figures that can be read.
    """

    lines: int
    amount: Decimal


@dataclass(frozen=True, slots=True)
class FileTie:
    """What one file holds.

    Attributes:
        name: of the file.
        form: how it is written, in words.
        read: all of it, its texts added up as decimals.
        used: what makes the history, added up as whole minor units.
        beside: what belongs to another scenario.
        aside: what is set aside.
        totals: total rows, which add nothing.
    """

    name: str
    form: str
    read: Held
    used: Held
    beside: Held
    aside: Held
    totals: Held

    @property
    def left_over(self) -> int:
        """Lines read that are in none of these."""
        return self.read.lines - sum(each.lines for each in (self.used, self.beside, self.aside, self.totals))


@dataclass(frozen=True, eq=False)
class Reading:
    """Sources read with the roles that were chosen. Equal to itself only.

    Attributes:
        source: the name of the file, or of them together.
        files: what each holds and how it is written.
        columns: every column with its role.
        preview: some lines as they stand, cell by cell in the order of the columns.
        date, value: the columns of the date and the measure.
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
        totalled: how lines make the figure of a period; suited, how the name of the measure speaks for.
        mark: how figures are read.
        exact: whether every figure is kept to its last decimal and all sums are exact.
        decimals: that the figures need.
        unread: lines of a known day without a figure that can be read, which nothing was ruled of.
        copies: lines that repeat another one exactly.
        asides: the lines set aside, by reason.
        list_aside: the lines set aside from one place to before another: file, row, reason, text.
        years: what the lines used come to, by calendar year.
        scenarios: the members of the scenario column.
        history: the one of them that makes the history; empty without such a column.
        asks_year: whether nothing tells the first year.
        may_run_on: whether the figures look like running totals.
        offers: what else the source holds: sheets, hidden sheets and tables.
        figures: every column that holds figures, with what they are.
        own_totals: the totals that the source holds itself.
        left_out: columns of text and of codes that tell no series apart.
        blank: (dimension, lines) of lines that name no member of it.
        filled: columns that were filled down; may_fill: others that could be.
        notes: what the user should know of how the source was understood.
    """

    source: str
    files: tuple[FileTie, ...]
    columns: tuple[Column, ...]
    preview: tuple[tuple[str, ...], ...]
    date: str
    value: str
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
    totalled: Totalled
    suited: Totalled
    mark: DecimalMark
    exact: bool
    decimals: int
    unread: int
    copies: int
    asides: tuple[Aside, ...]
    list_aside: Callable[[int, int], list[tuple[str, int, str, str]]]
    years: tuple[tuple[int, Decimal], ...]
    scenarios: tuple[str, ...]
    history: str
    asks_year: bool
    may_run_on: bool
    offers: Offers
    figures: tuple[Figures, ...]
    own_totals: tuple[OwnTotal, ...]
    left_out: tuple[LeftOut, ...]
    blank: tuple[tuple[str, int], ...]
    filled: tuple[str, ...]
    may_fill: tuple[str, ...]
    notes: tuple[str, ...]

    def _lines(self, what: str) -> int:
        return sum(getattr(file, what).lines for file in self.files)

    def added(self, what: str) -> Decimal:
        """What the lines "read", "used", kept "beside", set "aside" or of "totals" come to."""
        return sum((getattr(file, what).amount for file in self.files), Decimal(0))

    @property
    def read(self) -> int:
        """Lines read."""
        return self._lines("read")

    @property
    def used(self) -> int:
        """Lines that make the history."""
        return self._lines("used")

    @property
    def beside(self) -> int:
        """Lines kept beside as another scenario."""
        return self._lines("beside")

    @property
    def aside(self) -> int:
        """Lines set aside, total rows not counted."""
        return self._lines("aside")

    @property
    def totals(self) -> int:
        """Total rows, which are no sales."""
        return self._lines("totals")

    def figures_in(self, use: Use) -> tuple[Figures, ...]:
        """The columns of figures that are of one use."""
        return tuple(each for each in self.figures if each.use == use)

    @property
    def asks(self) -> bool:
        """Whether how the figures are read is not settled: the decimal mark, or what a column of them is."""
        return self.mark.asks or bool(self.figures_in("asked"))

    @property
    def total_used(self) -> float:
        """The sum of the measure over the lines used."""
        return float(self.added("used"))
