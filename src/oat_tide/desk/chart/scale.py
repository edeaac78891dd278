"""The one time axis: where each column stands, for charts, axis and tide table alike."""

from __future__ import annotations

import math

from PyQt6.QtCore import QObject, pyqtSignal

GUTTER = 172
"""Pixels left of the first column: row labels and read-out, or the value axis."""
_NAMES, _LEAST_NAMES, _MOST_NAMES = 0.15, 120, 200
"""The share of the width right of the last column, for the names of curves and for totals; its pixels."""
FEWEST = 4.0
USUAL, _USUAL_WIDTH = 18, 854
"""Columns that a view opens on, in a middle of so many pixels."""


class TimeScale(QObject):
    """Column c fills the stretch from c to c + 1; its point stands in the middle.

    Attributes:
        columns: how many there are.
        start: the left end of what is in sight, in columns; may be a fraction.
        count: how many columns are in sight.
        width: of the widgets that share the scale, in pixels.
        hovered: the column under the pointer or the cursor, -1 for none.
        selection: stretches of columns, both ends included; two at most.
        settled: whether the user has chosen what is in sight, so that no other size of window changes it.

    Signals:
        moved: another stretch is in sight.
        pointed: another column is hovered.
        selected: other columns are selected.
    """

    moved = pyqtSignal()
    selected = pyqtSignal()
    pointed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.columns, self.start, self.count = 0, 0.0, float(USUAL)
        self.width, self.hovered, self.settled = 800, -1, False
        self.selection: tuple[tuple[int, int], ...] = ()

    @property
    def names(self) -> int:
        """Pixels right of the last column."""
        return min(max(round(self.width * _NAMES), _LEAST_NAMES), _MOST_NAMES)

    @property
    def end(self) -> int:
        """The pixel where the columns end, and the names of curves begin."""
        return max(self.width - self.names, GUTTER + 1)

    @property
    def across(self) -> int:
        """Pixels of all columns in sight."""
        return self.end - GUTTER

    @property
    def usual(self) -> int:
        """Columns that a view opens on where they have room."""
        return max(USUAL, round(USUAL * self.width / _USUAL_WIDTH))

    @property
    def step(self) -> float:
        """Pixels a column."""
        return self.across / self.count

    def under(self, x: float) -> int:
        """The column in sight under a pixel; -1 beside the columns."""
        return self.column(x) if GUTTER <= x < self.end else -1

    def x(self, column: float) -> float:
        """The pixel of the middle of a column."""
        return GUTTER + (column + 0.5 - self.start) * self.step

    def edge(self, column: float) -> float:
        """The pixel of the left edge of a column."""
        return GUTTER + (column - self.start) * self.step

    def column(self, x: float) -> int:
        """The column at a pixel; may lie outside the columns there are."""
        return math.floor(self.place(x))

    def place(self, x: float) -> float:
        """The place of a pixel in columns, with a fraction."""
        return (x - GUTTER) / self.step + self.start

    def in_sight(self, x: float) -> bool:
        """Whether a line at an x stands over columns in sight, or at their edge."""
        return GUTTER - 1 <= x <= self.end + 1

    def visible(self) -> tuple[int, int]:
        """The first column in sight and the one after the last."""
        first = max(int(self.start), 0)
        return first, min(int(self.start + self.count + 0.999), self.columns)

    def resize(self, width: int) -> None:
        """Fit the same columns into another width."""
        if width != self.width:
            self.width = width
            self.moved.emit()

    def fit(self, columns: int, follow: bool = True) -> None:
        """Take another number of columns.

        Args:
            follow: a view that reached the end goes on reaching it, and one that was chosen to show all goes
                on showing all; else what is in sight stays, even beyond the last column, so that nothing
                moves under a drag.
        """
        at_end = self.start + self.count >= self.columns - 0.01
        shows_all = self.settled and at_end and self.start <= 0
        self.columns = columns
        if self.hovered >= columns:
            self.point(-1)
        if follow:
            count = float(columns) if shows_all else self.count
            self.look(columns - count if at_end else self.start, count)

    def look(self, start: float, count: float) -> None:
        """Bring a stretch in sight, as near as there are columns for it."""
        count = min(max(count, FEWEST), max(self.columns, FEWEST))
        start = min(max(start, 0.0), max(self.columns - count, 0.0))
        if (start, count) != (self.start, self.count):
            self.start, self.count = start, count
            self.moved.emit()

    def zoom(self, factor: float, around: float) -> None:
        """Show `factor` times as many columns; the one at the pixel `around` keeps its place."""
        self.settled = True
        place = self.place(around)
        share = (around - GUTTER) / self.across
        count = min(max(self.count * factor, FEWEST), max(self.columns, FEWEST))
        self.look(place - share * count, count)

    def pan(self, by: float) -> None:
        """Move on by columns."""
        self.settled = True
        self.look(self.start + by, self.count)

    def all(self) -> None:
        """Bring every column in sight."""
        self.settled = True
        self.look(0.0, float(self.columns))

    def reveal(self, column: int) -> None:
        """Move just far enough to show a column."""
        if column < self.start:
            self.look(float(column), self.count)
        elif column + 1 > self.start + self.count:
            self.look(column + 1 - self.count, self.count)

    def select(self, selection: tuple[tuple[int, int], ...]) -> None:
        """Select stretches of columns; none takes the selection away."""
        if selection != self.selection:
            self.selection = selection
            self.selected.emit()

    def stretch(self, start: int, end: int, second: bool) -> None:
        """Select from one column to another, as the second stretch beside the one there is or alone."""
        last = max(self.columns - 1, 0)
        low, high = sorted((min(max(start, 0), last), min(max(end, 0), last)))
        kept = self.selection[:1] if second else ()
        self.select((*kept, (low, high)))

    def point(self, column: int) -> None:
        """Hover a column; outside the columns there are it is none."""
        column = column if 0 <= column < self.columns else -1
        if column != self.hovered:
            self.hovered = column
            self.pointed.emit()
