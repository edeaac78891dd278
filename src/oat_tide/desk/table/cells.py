"""Where the cells of the tide table stand, and what their width has room for."""

from __future__ import annotations

from PyQt6.QtCore import QRectF

from oat_tide.desk.chart.scale import GUTTER, TimeScale
from oat_tide.desk.chart.steps import WIDER, WiderSteps, steps_over
from oat_tide.desk.look.measured import advance
from oat_tide.desk.table.model import Sums, TableRows

ROW = 22
"""Pixels that a row is high."""
TOP = 2
"""Pixels above the first."""
_NARROWEST = 18
"""No figure of two digits has room in fewer pixels."""


class Cells:
    """The cells of some rows under a time scale.

    Attributes:
        room: pixels that the widest figure needs.
    """

    def __init__(self, rows: TableRows, scale: TimeScale) -> None:
        self.rows, self.scale = rows, scale
        ends = (text for row in range(len(rows)) for text in rows.extremes(row))
        self.room = max((advance(text) + 7 for text in ends), default=4)
        self._steps: WiderSteps | None = None
        self._summed: dict[int, Sums] = {}
        self._is_told = False

    @property
    def readable(self) -> bool:
        """Whether every column has room for its figures."""
        return self.scale.step >= max(_NARROWEST, self.room)

    def rect(self, row: int, column: int) -> QRectF:
        """Return the rectangle of a cell."""
        return QRectF(self.scale.edge(column), row * ROW + TOP, self.scale.step, ROW)

    def at(self, x: float, y: float) -> tuple[int, int] | None:
        """The row and the column at a place; None where there is no cell."""
        row, column = int((y - TOP) // ROW), self.scale.column(x)
        inside = x >= GUTTER and 0 <= row < len(self.rows) and 0 <= column < self.rows.deck.columns
        return (row, column) if inside else None

    def seen(self) -> range:
        """The columns in sight."""
        first, stop = self.scale.visible()
        return range(first, min(stop, self.rows.deck.columns))

    def forget_steps(self) -> None:
        """The scale has moved: other steps may have room."""
        self._is_told = False

    @property
    def steps(self) -> WiderSteps | None:
        """The wider steps that rows are added up by, where their columns are too narrow for figures."""
        if not self._is_told:
            self._steps, self._is_told = self._found_steps(), True
        return self._steps

    @property
    def summed(self) -> dict[int, Sums]:
        """Return the sums of each row that adds up, by step."""
        return self._summed if self.steps is not None else {}

    def _found_steps(self) -> WiderSteps | None:
        """The shortest wider step that has room for every row that adds up."""
        deck = self.rows.deck
        if deck.axis is not None or self.readable:
            return None
        seen = self.seen()
        for kind in WIDER.get(deck.grid.kind, ()):
            steps = steps_over(deck.grid, deck.first, kind, seen.start, seen.stop, deck.columns)
            if steps is not None and self._fits(steps):
                return steps
        return None

    def _fits(self, steps: WiderSteps) -> bool:
        """Whether every row that adds up has room for its sums; these are kept for the painting."""
        room = self.scale.step * int(steps.full.min()) - 4
        adding = [row for row, figure in enumerate(self.rows.figures) if figure.adds_up]
        if room < _NARROWEST or not adding:
            return False
        self._summed = {}
        for row in adding:
            sums = self._summed[row] = self.rows.sums(row, steps)
            if any(advance(text) > room for text in sums.ends):
                return False
        return True
