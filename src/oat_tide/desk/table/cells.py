"""Where the cells of the tide table stand, and what their width has room for."""

from __future__ import annotations

import bisect
import itertools

import numpy as np
from PyQt6.QtCore import QRectF

from oat_tide.desk.chart.scale import TimeScale
from oat_tide.desk.chart.steps import WIDER, WiderSteps, steps_over
from oat_tide.desk.look.measured import advance
from oat_tide.desk.look.palette import LEAST, SMALL
from oat_tide.desk.table.model import Head, Sums, TableRows

ROW = 22
"""Pixels that a row is high."""
TOP = 2
"""Pixels above the first."""
_APART = 4
"""Pixels from one figure to the next, at the least."""
_NARROWEST = 18
"""No figure of two digits has room in fewer pixels."""


class Cells:
    """The cells of some rows under a time scale.

    Attributes:
        room: pixels that the widest figure needs.
        least_room: the same in the smallest figures.
        tops: where each row begins.
        head_tops: where the head of each group begins.
        height: of all of it.
    """

    def __init__(self, rows: TableRows, scale: TimeScale) -> None:
        self.rows, self.scale = rows, scale
        ends = [text for row in range(len(rows)) for text in rows.extremes(row)]
        self.room = max((advance(text) + _APART for text in ends), default=4)
        self.least_room = max((advance(text, LEAST) + _APART - 1 for text in ends), default=4)
        before = np.array([head.before for head in rows.heads], np.int64)
        at = np.arange(len(rows))
        self.tops: list[int] = (TOP + ROW * (at + np.searchsorted(before, at, "right"))).tolist()
        self.head_tops: list[int] = (TOP + ROW * (before + np.arange(before.size))).tolist()
        self.height = ROW * max(len(rows) + before.size, 1) + 2 * TOP
        self._steps: WiderSteps | None = None
        self._summed: dict[int, Sums] = {}
        self._is_told = False

    @property
    def readable(self) -> bool:
        """Whether every column has room for its figures."""
        return self.scale.step >= max(_NARROWEST, self.least_room)

    @property
    def size(self) -> int:
        """Pixels that figures are high: smaller ones where only those have room."""
        return SMALL if self.scale.step >= self.room else LEAST

    def rect(self, row: int, column: int) -> QRectF:
        """Return the rectangle of a cell."""
        return QRectF(self.scale.edge(column), self.tops[row], self.scale.step, ROW)

    @property
    def runs(self) -> list[tuple[int, int]]:
        """Rows with no head between them: the first of each run, and the one after the last."""
        edges = sorted({0, len(self.rows), *(head.before for head in self.rows.heads)})
        return [(first, stop) for first, stop in itertools.pairwise(edges) if first < stop]

    def head_at(self, y: float) -> Head | None:
        """The head of a group at a height; None where there is none."""
        found = (
            head for top, head in zip(self.head_tops, self.rows.heads, strict=True) if top <= y < top + ROW
        )
        return next(found, None)

    @property
    def totalled(self) -> tuple[int, int] | None:
        """The columns that totals stand for: those projected, else those in sight up to the as-of."""
        deck = self.rows.deck
        if deck.axis is not None:
            return None
        horizon = deck.handle("horizon")
        if horizon is not None and deck.past <= horizon.at:
            return deck.past, horizon.at + 1
        first, stop = self.seen().start, min(self.seen().stop, deck.past, deck.closes)
        return (first, stop) if first < stop else None

    def at(self, x: float, y: float) -> tuple[int, int] | None:
        """The row and the column at a place; None where there is no cell."""
        row, column = bisect.bisect_right(self.tops, y) - 1, self.scale.under(x)
        inside = row >= 0 and y < self.tops[row] + ROW and 0 <= column < self.rows.deck.columns
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
