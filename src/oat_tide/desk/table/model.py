"""The rows of the tide table as they are read: their figures, and what each cell says. It paints nothing."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from oat_tide.core.exact import known
from oat_tide.core.language import phrase
from oat_tide.core.periods.calendar import Days
from oat_tide.core.series.panel import INCOMPLETE
from oat_tide.desk.chart.drawing import STYLES
from oat_tide.desk.chart.steps import WiderSteps
from oat_tide.desk.look.number_style import NumberStyle, largest_by_row, largest_by_unit, number_style, sizes
from oat_tide.plan.parts.layout import Layout
from oat_tide.stages.deck import Deck, Figure, State

Ink = tuple[str, float]
"""A colour by its name in the palette, and how strong it is."""


@dataclass(frozen=True, slots=True)
class Head:
    """The head of a group of rows.

    Attributes:
        name: of the group, with its stage.
        title: its name for people.
        said: what it says of its rows.
        opened: whether they are shown.
        before: the row that it stands before; one after the last where none follows.
    """

    name: str
    title: str
    said: str
    opened: bool
    before: int


@dataclass(frozen=True, eq=False, slots=True)
class TableRows:
    """The rows that are shown of one series of a deck.

    Attributes:
        figures: one a row.
        sizes: what the rows of each unit are told in, those that are not shown too.
        number_styles, inks: how each row is written, and in which colour.
        tinted: the rows that are years of one measure, and so are tinted over all alike.
        heads: those of groups of rows, in their order.
    """

    deck: Deck
    series: int
    figures: tuple[Figure, ...]
    sizes: dict[str, float]
    number_styles: tuple[NumberStyle, ...]
    inks: tuple[Ink, ...]
    tinted: tuple[int, ...]
    heads: tuple[Head, ...] = ()

    def __len__(self) -> int:
        return len(self.figures)

    def value(self, row: int, column: int) -> float:
        """A figure; NaN where there is none."""
        return float(self.figures[row].values[self.series, column])

    def text(self, row: int, column: int) -> str:
        """What a cell says; empty where there is no figure."""
        return self.number_styles[row].text(self.value(row, column))

    def full_text(self, row: int, column: int) -> str:
        """A figure in full, whatever its row is told in."""
        return self.number_styles[row].full(self.value(row, column))

    def total(self, row: int, first: int, stop: int) -> str:
        """What a row that adds up comes to in complete columns; it says of how many where not all are."""
        figure = self.figures[row]
        values = figure.values[self.series, first:stop]
        if "actual" in (figure.name, figure.unlike):
            values = np.where(self.deck.flags[self.series, first:stop] & INCOMPLETE > 0, np.nan, values)
        held = int(known(values).sum())
        if not figure.adds_up or not held:
            return ""
        return of_some(self.number_styles[row].text(float(values[known(values)].sum())), held, values.size)

    def heading(self, row: int) -> str:
        """What stands before a row."""
        return self.figures[row].brief or self.figures[row].label

    def cell_name(self, row: int, column: int) -> str:
        """A cell by its row and period."""
        return f"{self.figures[row].label}, {self.deck.label(column)}"

    def spoken(self, row: int, column: int) -> str:
        """What a screen reader says of a cell."""
        figure = self.full_text(row, column) or phrase("no figure")
        return f"{self.cell_name(row, column)}: {figure}"

    def is_part(self, row: int, column: int) -> bool:
        """Whether a cell is said to be of a part period; the first row says it for all."""
        return row == 0 and bool(self.deck.flags[self.series, column] & INCOMPLETE)

    def state(self, row: int, column: int) -> State:
        """How a cell that can be written in stands."""
        return self.figures[row].state(self.series, column)

    def remark(self, row: int, column: int) -> str:
        """What must be known beside a figure."""
        return self.figures[row].remark(self.series, column)

    def writable(self, row: int, column: int) -> bool:
        """Whether a cell can be written in."""
        inside = row < len(self) and column < self.deck.columns
        return inside and self.figures[row].mend is not None and self.state(row, column) != "locked"

    def extremes(self, row: int) -> tuple[str, str]:
        """The lowest and the highest figure of a row, as cells say them."""
        values = self.figures[row].values[self.series]
        ends = np.fmin.reduce(values, initial=np.nan), np.fmax.reduce(values, initial=np.nan)
        low, high = (self.number_styles[row].text(float(each)) for each in ends)
        return low, high

    def look(self, row: int, first: int, stop: int) -> object:
        """Return everything that decides how the cells of a row from `first` up to `stop` are painted."""
        figure, columns = self.figures[row], range(first, min(stop, self.deck.columns))
        return (
            figure.name,
            self.heading(row),
            self.number_styles[row],
            self.inks[row],
            figure.values[self.series, first:stop].tobytes(),
            self.deck.flags[self.series, first:stop].tobytes() if row == 0 else b"",
            [self.state(row, column) for column in columns],
            [known(self.value(row, column)) and self.remark(row, column) != "" for column in columns],
        )

    def sums(self, row: int, steps: WiderSteps) -> Sums:
        """What a row that adds up comes to at wider steps."""
        figure = self.figures[row]
        values, held, spans = steps.sums(figure.values[self.series])
        written_as = number_style(figure, values, self.sizes[figure.unit])
        there = values[known(values)]
        ends = [written_as.text(float(each)) for each in (there.min(), there.max())] if there.size else []
        return Sums([written_as.text(value) for value in values.tolist()], held, spans, ends)


@dataclass(frozen=True, eq=False, slots=True)
class Sums:
    """A row at wider steps.

    Attributes:
        texts: the sum of each step.
        held: how many columns each holds.
        spans: (steps, 2) the first of them, and the one after the last.
        ends: the lowest and the highest.
    """

    texts: list[str]
    held: Days
    spans: Days
    ends: list[str]


def of_some(text: str, some: int, columns: int) -> str:
    """A sum as it is written; where only some of its columns are in it, it says of how many."""
    if not text or some >= columns:
        return text
    return phrase("{text} ({some} of {all})", text=text, some=some, all=columns)


def rows_of(deck: Deck, series: int, layout: Layout) -> TableRows:
    """The rows of a deck but for those hidden, and the heads of its groups."""
    figures, heads = _grouped(deck, series, layout)
    # Hidden ones count: a row is not told in another size when one beside it is hidden.
    top = largest_by_row(deck.rows, series)
    largest = largest_by_unit(deck.rows, top)
    told_in = sizes(largest)
    number_styles = tuple(
        number_style(row, row.values[series], told_in[row.unit], top[row.name], largest[row.unit])
        for row in figures
    )
    inks = tuple(_ink(row, deck) for row in figures)
    return TableRows(deck, series, figures, told_in, number_styles, inks, _tinted(deck, figures), heads)


def _grouped(deck: Deck, series: int, layout: Layout) -> tuple[tuple[Figure, ...], tuple[Head, ...]]:
    """The rows that are shown, those under heads below all others, and the heads."""
    there = {row.name: row for row in deck.rows if _is_shown(deck, row, series, layout)}
    under = {name for group in deck.groups for name in group.rows}
    figures = [row for name, row in there.items() if name not in under]
    heads = []
    for group in deck.groups:
        own = [there[name] for name in group.rows if name in there]
        if not own:
            continue
        name = f"{deck.stage}.{group.name}"
        opened = group.opens != (name in layout.turned)
        heads.append(Head(name, group.title, group.said(series), opened, len(figures)))
        figures += own if opened else []
    return tuple(figures), tuple(heads)


def _is_shown(deck: Deck, row: Figure, series: int, layout: Layout) -> bool:
    """Whether a row is neither hidden, nor without a figure, nor the same as another one."""
    if f"{deck.stage}.{row.name}" in layout.hidden:
        return False
    values = row.values[series]
    if row.unlike in deck.figures and np.array_equal(values, deck.figures[row.unlike].values[series], True):
        return False
    return row.mend is not None or bool(known(values).any())


def _tinted(deck: Deck, figures: tuple[Figure, ...]) -> tuple[int, ...]:
    """The rows that are years of one measure: those drawn, of an index the years within its seasons."""
    if not deck.tinted:
        return ()
    curves = [curve for band in deck.bands for curve in band.curves]
    within = {name for curve in curves for name in curve.among}
    drawn = within or {curve.figure for curve in curves}
    return tuple(row for row, figure in enumerate(figures) if figure.name in drawn)


def _ink(figure: Figure, deck: Deck) -> Ink:
    """The colour of the curve that shows a figure."""
    for band in deck.bands:
        for curve in band.curves:
            if figure.name in (curve.figure, curve.upto):
                return STYLES[curve.role].color, curve.shade
    return "ink", 1.0
