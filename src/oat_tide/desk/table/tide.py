"""The tide table: rows of figures whose columns stand exactly under the periods of the chart."""

from __future__ import annotations

import itertools
from typing import Any, cast

import numpy as np
from PyQt6.QtCore import QEvent, QPointF, QRect, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QFocusEvent,
    QGuiApplication,
    QImage,
    QKeyEvent,
    QKeySequence,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QWidget

from oat_tide.core.exact import known
from oat_tide.core.periods.calendar import Days
from oat_tide.core.series.panel import PART
from oat_tide.core.working.tree import Ref
from oat_tide.desk.chart.bands import paint_hover, wheel
from oat_tide.desk.chart.drawing import STYLES, in_steps
from oat_tide.desk.chart.scale import GUTTER, TimeScale
from oat_tide.desk.chart.steps import WIDER, Steps, steps_over
from oat_tide.desk.look.manner import Manner, manner, sizes, told, tops, unit_tops
from oat_tide.desk.look.measured import advance, elided, written
from oat_tide.desk.look.palette import palette
from oat_tide.desk.look.tints import STEPS, tint_table
from oat_tide.desk.table.cell_editor import CellEditor
from oat_tide.stages.deck import Deck, Figure

ROW = 22
_NARROWEST = 18
"""No figure of two digits has room in fewer pixels."""
_UNTOLD = object()
_LEAST_INK = 0.6
"""Figures are never fainter than this, however faint their curve."""


class TideTable(QWidget):
    """Rows of figures under the periods of the chart.

    Attributes:
        standing: the row and the column that the keys stand on.
        sizes: what the rows of each unit are told in.

    Signals:
        hovered: (row figure, column) or (None, -1): what is pointed at.
        chosen: (row figure, column): a cell is clicked, or Enter pressed on it.
        picked: (row figure): columns are being selected in it.
        copied: (row figure, column): the selection, or this cell, is to be copied.
        typed: (rows) figures were written: of each row its figure, the column it begins at, and its texts.
        refused: (str) why nothing was.
        stood: (row): the keys stand on another row.
    """

    hovered = pyqtSignal(object, int)
    chosen = pyqtSignal(object, int)
    picked = pyqtSignal(object)
    copied = pyqtSignal(object, int)
    typed = pyqtSignal(object)
    refused = pyqtSignal(str)
    stood = pyqtSignal(int)

    def __init__(self, scale: TimeScale) -> None:
        super().__init__()
        self._from: tuple[int, int] | None = None
        self._second = False
        self._anchor: tuple[int, bool] | None = None
        self.scale = scale
        self.deck: Deck | None = None
        self.series = 0
        self.rows: tuple[Figure, ...] = ()
        self.hidden_rows: set[str] = set()
        self.standing = (0, 0)
        self.pinned: Ref | None = None
        self.sizes: dict[str, float] = {}
        self._manners: list[Manner] = []
        self._inks: list[tuple[str, float]] = []
        self._room = 0
        self._tinted_rows: list[int] = []
        self._tinted = QImage()
        self._steps: Steps | object | None = _UNTOLD
        self._summed: dict[int, tuple[list[str], Days]] = {}
        self._looked: tuple[object, list[object]] = (None, [])
        self.setMouseTracking(True)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.editor = CellEditor(self)
        self.editor.done.connect(self._take_in)
        scale.moved.connect(self._forget_steps)
        scale.selected.connect(self.update)
        scale.pointed.connect(self.update)

    def show_deck(self, deck: Deck, series: int) -> None:
        """Show the rows of a deck."""
        fresh = self.deck is None or self.deck.stage != deck.stage
        before = [row.name for row in self.rows]
        self.deck, self.series = deck, series
        self.rows = tuple(row for row in deck.rows if f"{deck.stage}.{row.name}" not in self.hidden_rows)
        if fresh or [row.name for row in self.rows] != before:
            # What was pressed on, or written in, is not there any more.
            self._from = None
            self.editor.hide()
        top = tops(deck.rows, series)
        largest = unit_tops(deck.rows, top)
        self.sizes = sizes(largest)
        self._manners = [
            manner(row, row.values[series], self.sizes[row.unit], top[row.name], largest[row.unit])
            for row in self.rows
        ]
        self._inks = [_ink(row, deck) for row in self.rows]
        self._tinted_rows = self._find_tinted(deck)
        self._room = 0
        self.setFixedHeight(ROW * max(len(self.rows), 1) + 4)
        if fresh:
            self.standing = (0, max(deck.past - 1, 0))
        self.standing = (
            min(self.standing[0], max(len(self.rows) - 1, 0)),
            min(self.standing[1], max(deck.columns - 1, 0)),
        )
        self.setAccessibleName(f"Tide table: {deck.title(series)}")
        self._tell_cursor()
        self._steps = _UNTOLD
        self._repaint()

    def _repaint(self) -> None:
        """Have those rows painted that look another way than before, or all where more than rows changed."""
        frame, rows = self._look()
        before, self._looked = self._looked, (frame, rows)
        if not self._readable or before[0] != frame or len(before[1]) != len(rows):
            self.update()
            return
        for row, (old, new) in enumerate(zip(before[1], rows, strict=True)):
            if old != new:
                self.update(0, row * ROW + 1, self.width(), ROW + 2)

    def _look(self) -> tuple[object, list[object]]:
        """What decides how the table is painted but for its scale and cursor: for all rows, and for each."""
        deck, series = self.deck, self.series
        assert deck is not None
        first, stop = self.scale.visible()
        columns = range(first, min(stop, deck.columns))
        moves = any(handle.role == "as_of" for handle in deck.handles) and deck.past
        frame = deck.stage, deck.columns, moves, tuple(self._tinted_rows), self._tint_ends(), palette()
        flags = deck.flags[series, first:stop].tobytes()
        rows: list[object] = [
            (
                figure.name,
                figure.brief or figure.label,
                self._manners[row],
                self._inks[row],
                figure.values[series, first:stop].tobytes(),
                flags if row == 0 else b"",
                [figure.state(series, column) for column in columns],
                [
                    known(float(figure.values[series, column])) and figure.remark(series, column) != ""
                    for column in columns
                ],
            )
            for row, figure in enumerate(self.rows)
        ] if self._readable else []  # fmt: skip
        return frame, rows

    @property
    def room(self) -> int:
        """Pixels that the widest figure needs."""
        if not self._room:
            self._room = 4
            for row in range(len(self.rows)):
                values = self.rows[row].values[self.series]
                for value in (np.fmin.reduce(values, initial=np.nan), np.fmax.reduce(values, initial=np.nan)):
                    self._room = max(self._room, advance(self._written(row, float(value))) + 7)
        return self._room

    @property
    def _readable(self) -> bool:
        """Whether every column has room for its figures."""
        return self.scale.step >= max(_NARROWEST, self.room)

    def text(self, row: int, column: int) -> str:
        """What a cell says; empty where there is no figure."""
        return self._written(row, float(self.rows[row].values[self.series, column]))

    def full_text(self, row: int, column: int) -> str:
        """A figure in full, whatever its row is told in."""
        return self._manners[row].full(float(self.rows[row].values[self.series, column]))

    def cell_rect(self, row: int, column: int) -> QRectF:
        """Where a cell stands."""
        return QRectF(self.scale.edge(column), row * ROW + 2, self.scale.step, ROW)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.deck is None or event is None:
            return
        painter = QPainter(self)
        painter.fillRect(self.rect(), palette().color("paper"))
        rows = [
            row
            for row in range(len(self.rows))
            if event.region().intersects(QRect(0, row * ROW + 2, self.width(), ROW))
        ]
        for row in rows:
            if row % 2 == 0:
                painter.fillRect(
                    QRectF(8, row * ROW + 2, self.width() - 16, ROW), palette().color("mist", 120)
                )
            self._label(painter, row)
        painter.setClipRect(QRectF(GUTTER - 1, 0, self.width() - GUTTER, self.height()))
        wide = self._readable
        if wide and self.deck.tinted:
            self._tint_cells(painter, rows)
        if wide:
            for row in rows:
                self._figures(painter, row)
        elif self.rows:
            self._tints(painter)
            steps = self.steps()
            if steps is not None:
                self._sums(painter, steps)
        paint_hover(painter, self.scale, self.height())
        for start, end in self.scale.selection:
            left, right = self.scale.edge(start), self.scale.edge(end + 1)
            painter.fillRect(QRectF(left, 0, right - left, self.height()), palette().color("kelp", 30))
        self._marks(painter)

    def _label(self, painter: QPainter, row: int) -> None:
        figure, top = self.rows[row], row * ROW + 2
        painter.setPen(self._color(row))
        shown = self.scale.hovered
        has_read_out = 0 <= shown < self.deck.columns if self.deck else False
        read_out = self.full_text(row, shown) if has_read_out else ""
        wide = advance(read_out, bold=True) + 10 if has_read_out else 0
        # The read-out is in full, whatever the cells are told in.
        label = figure.brief or figure.label
        label = label if has_read_out else told(label, self._manners[row].size)
        label = elided(label, GUTTER - 18 - wide)
        written(painter, QRectF(8, top, GUTTER - 18 - wide, ROW), 1, label)
        if has_read_out:
            written(painter, QRectF(8, top, GUTTER - 16, ROW), 1, read_out, bold=True)

    def _color(self, row: int) -> QColor:
        """The colour that a row is written in."""
        name, strength = self._inks[row]
        return palette().color(name, round(255 * max(strength, _LEAST_INK)))

    def _figures(self, painter: QPainter, row: int) -> None:
        assert self.deck is not None
        figure, color = self.rows[row], self._color(row)
        first, stop = self.scale.visible()
        flags = self.deck.flags[self.series]
        for column in range(first, min(stop, self.deck.columns)):
            text = self.text(row, column)
            state = figure.state(self.series, column)
            if figure.mend is not None and state != "locked" and row not in self._tinted_rows:
                painter.fillRect(self.cell_rect(row, column).adjusted(2, 2, -2, -2), palette().color("card"))
            if not text:
                continue
            first_row = figure.name == self.rows[0].name
            part = bool(flags[column] & PART) and first_row
            faint = part or state in ("locked", "out")
            painter.setPen(palette().color("quiet") if faint else color)
            rect = self.cell_rect(row, column)
            if not self._whole_in_sight(rect, text):
                continue
            written(painter, rect, 0.5, text)
            if state == "out":
                # What is left out is struck through.
                painter.drawLine(
                    QPointF(rect.left() + 8, rect.center().y()), QPointF(rect.right() - 8, rect.center().y())
                )
            elif state:
                # What was written by hand has a line under it, what is locked a dotted one.
                line = Qt.PenStyle.SolidLine if state == "own" else Qt.PenStyle.DotLine
                painter.setPen(QPen(palette().color("kelp" if state == "own" else "quiet"), 1.4, line))
                painter.drawLine(rect.bottomLeft() + QPointF(8, -4), rect.bottomRight() + QPointF(-8, -4))
            if part:
                painter.setPen(QPen(palette().color("quiet"), 1, Qt.PenStyle.DotLine))
                painter.drawRect(rect.adjusted(1, 2, -2, -3))
            elif figure.remark(self.series, column):
                painter.setPen(QPen(palette().color("rust"), 1.4, Qt.PenStyle.DashLine))
                painter.drawLine(rect.bottomLeft() + QPointF(4, -2), rect.bottomRight() + QPointF(-4, -2))

    def _whole_in_sight(self, rect: QRectF, text: str) -> bool:
        """Whether all of a figure in the middle of a cell lies in sight: half a figure reads as another."""
        half = advance(text) / 2
        middle = rect.center().x()
        return middle - half >= GUTTER and middle + half <= self.width()

    def _find_tinted(self, deck: Deck) -> list[int]:
        """The rows that are years of one measure: those drawn, of an index the years within its seasons."""
        if not deck.tinted:
            return []
        curves = [curve for band in deck.bands for curve in band.curves]
        within = {name for curve in curves for name in curve.among}
        drawn = within or {curve.figure for curve in curves}
        return [row for row, figure in enumerate(self.rows) if figure.name in drawn]

    def _tint_ends(self) -> tuple[float, float, float | None] | None:
        """The lowest and the highest figure that is tinted, and the one in their middle that is not."""
        if self.deck is None or not self._tinted_rows:
            return None
        first, stop = self.scale.visible()
        values = [
            self.rows[row].values[self.series, first : min(stop, self.deck.closes)]
            for row in self._tinted_rows
        ]
        low = min(float(np.fmin.reduce(row, initial=np.inf)) for row in values)
        high = max(float(np.fmax.reduce(row, initial=-np.inf)) for row in values)
        middle = next((band.zero for band in self.deck.bands if band.zero_line), None)
        return (*in_steps(low, high), middle) if high > low else None

    def _tint_cells(self, painter: QPainter, rows: list[int]) -> None:
        """Figures that are years of one measure are tinted by size, over all rows and columns alike."""
        assert self.deck is not None
        ends = self._tint_ends()
        if ends is None:
            return
        first, stop = self.scale.visible()
        for row in set(rows).intersection(self._tinted_rows):
            values = self.rows[row].values[self.series]
            for column in range(first, min(stop, self.deck.closes)):
                value = float(values[column])
                if known(value):
                    painter.fillRect(self.cell_rect(row, column).adjusted(1, 1, -1, -1), _tint(value, *ends))

    def _tints(self, painter: QPainter) -> None:
        """Cells too narrow for figures are tinted by size, from the row's lowest in sight to its highest."""
        assert self.deck is not None
        first, stop = self.scale.visible()
        stop = min(stop, self.deck.columns)
        # One pixel of the image is one of the window: the column that stands there.
        left, right = self.scale.edge(first), self.scale.edge(stop)
        places = ((np.arange(max(round(right - left), 1)) + 0.5) / self.scale.step).astype(np.int64)
        columns = np.minimum(places + first, stop - 1)
        seen = np.stack([row.values[self.series, columns] for row in self.rows])
        # The total of a year and the mean of its periods are no periods: they have no say in the tints.
        periods = np.where(columns < self.deck.closes, seen, np.nan)
        low = np.fmin.reduce(periods, axis=1, keepdims=True)
        spread = np.fmax.reduce(periods, axis=1, keepdims=True) - low
        with np.errstate(invalid="ignore", divide="ignore"):
            step = 1 + (STEPS - 2) * np.where(spread > 0, np.clip((seen - low) / spread, 0, 1), 0.5)
        step = np.where(np.isnan(seen), 0, step).astype(np.uint8)
        inks = [name for name, _ in self._inks]
        table = tuple(dict.fromkeys((ink, row % 2) for row, ink in enumerate(inks)))
        starts = [table.index((ink, row % 2)) * STEPS for row, ink in enumerate(inks)]
        tints = tint_table(palette(), table)[step + np.array(starts)[:, None]]
        rows, wide = tints.shape
        if (self._tinted.width(), self._tinted.height()) != (wide, rows * ROW):
            # Kept, for memory of this size is slow to come by at every step of a drag.
            self._tinted = QImage(wide, rows * ROW, QImage.Format.Format_RGB32)
        pixels = cast(Any, self._tinted.bits())
        pixels.setsize(self._tinted.sizeInBytes())
        np.frombuffer(pixels, np.uint32).reshape(rows, ROW, wide)[:] = tints[:, None]
        painter.drawImage(QPointF(left, 2), self._tinted)

    def steps(self) -> Steps | None:
        """The wider steps that rows are added up by, where their columns are too narrow for figures."""
        if self._steps is _UNTOLD:
            self._steps = self._found_steps()
        return self._steps  # type: ignore[return-value]

    def _forget_steps(self) -> None:
        self._steps = _UNTOLD
        self.update()

    def _found_steps(self) -> Steps | None:
        """The shortest wider step that has room for every row that adds up."""
        deck = self.deck
        if deck is None or deck.axis is not None or self._readable:
            return None
        first, stop = self.scale.visible()
        for kind in WIDER.get(deck.grid.kind, ()):
            steps = steps_over(deck.grid, deck.first, kind, first, min(stop, deck.columns), deck.columns)
            if steps is not None and self._step_fits(steps):
                return steps
        return None

    def _step_fits(self, steps: Steps) -> bool:
        """Whether every row that adds up has room for its sums; these are kept for the painting."""
        room = self.scale.step * int(steps.full.min()) - 4
        adding = [row for row, figure in enumerate(self.rows) if figure.adds_up]
        if room < _NARROWEST or not adding:
            return False
        self._summed = {}
        for row in adding:
            figure = self.rows[row]
            sums, held = steps.sums(figure.values[self.series])
            written_as = manner(figure, sums, self.sizes[figure.unit])
            self._summed[row] = [written_as.text(value) for value in sums.tolist()], held
            there = sums[known(sums)]
            ends = (there.min(), there.max()) if there.size else ()
            if any(advance(written_as.text(float(value))) > room for value in ends):
                return False
        return True

    def _sums(self, painter: QPainter, steps: Steps) -> None:
        """What the rows that add up come to at the wider steps; a sum of some of a step's columns says so."""
        edges = [self.scale.edge(int(column)) for column in steps.edges]
        spans = [(max(a, GUTTER), min(b, self.width())) for a, b in itertools.pairwise(edges)]
        for row, (texts, held) in self._summed.items():
            painter.setPen(self._color(row))
            for (left, right), text, some, all_ in zip(spans, texts, held, steps.full, strict=True):
                said = f"{text} ({some} of {all_})" if text and some < all_ else text
                if said and advance(said) <= right - left:
                    written(painter, QRectF(left, row * ROW + 2, right - left, ROW), 0.5, said)

    def _written(self, row: int, value: float) -> str:
        return self._manners[row].text(value)

    def _marks(self, painter: QPainter) -> None:
        """The as-of line, the pinned cell and the cursor."""
        assert self.deck is not None
        painter.setPen(QPen(palette().color("kelp"), 2))
        if any(handle.role == "as_of" for handle in self.deck.handles):
            x = self.scale.edge(self.deck.past)
            painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))
        names = [row.name for row in self.rows]
        if self.pinned and self.pinned.column >= 0 and self.pinned.figure in names:
            rect = self.cell_rect(names.index(self.pinned.figure), self.pinned.column)
            painter.setBrush(palette().color("kelp", 40))
            painter.drawRoundedRect(rect.adjusted(1, 1, -1, -1), 4, 4)
            painter.setBrush(Qt.BrushStyle.NoBrush)
        if self.hasFocus() and self.rows:
            painter.setPen(QPen(palette().color("ink"), 1.4, Qt.PenStyle.DashLine))
            painter.drawRect(self.cell_rect(*self.standing).adjusted(1, 1, -1, -1))

    def _cell_at(self, x: float, y: float) -> tuple[int, int] | None:
        row, column = int((y - 2) // ROW), self.scale.column(x)
        inside = x >= GUTTER and 0 <= row < len(self.rows)
        return (row, column) if inside and self.deck and 0 <= column < self.deck.columns else None

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = self._cell_at(event.position().x(), event.position().y())
        self.scale.point(at[1] if at else -1)
        self.hovered.emit(self.rows[at[0]] if at else None, at[1] if at else -1)
        if self._from and event.buttons() & Qt.MouseButton.LeftButton:
            column = self.scale.column(event.position().x())
            if column != self._from[1] or self.scale.selection:
                self.picked.emit(self.rows[self._from[0]])
                self.scale.stretch(self._from[1], column, self._second)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = self._cell_at(event.position().x(), event.position().y())
        self._from, self._anchor = at, None
        self._second = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        if at:
            self._go(*at)
            self.chosen.emit(self.rows[at[0]], at[1])

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._from = None

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self.mousePressEvent(event)
        if self._cell_at(event.position().x(), event.position().y()) and self._writable:
            self._begin(self.full_text(*self.standing))

    def leaveEvent(self, event: QEvent | None) -> None:
        self.scale.point(-1)
        self.hovered.emit(None, -1)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        wheel(self.scale, event)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self.scale.resize(self.width())

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        page = int(self.scale.count)
        moves = {
            Qt.Key.Key_Left: (0, -1),
            Qt.Key.Key_Right: (0, 1),
            Qt.Key.Key_Up: (-1, 0),
            Qt.Key.Key_Down: (1, 0),
            Qt.Key.Key_PageUp: (0, -page),
            Qt.Key.Key_PageDown: (0, page),
            Qt.Key.Key_Home: (0, -self.scale.columns),
            Qt.Key.Key_End: (0, self.scale.columns),
        }
        key = Qt.Key(event.key())
        if key in moves and self.rows and self.deck and not event.modifiers():
            down, right = moves[key]
            self._go(
                min(max(self.standing[0] + down, 0), len(self.rows) - 1),
                min(max(self.standing[1] + right, 0), self.deck.columns - 1),
            )
            self._anchor = None
            self.hovered.emit(self.rows[self.standing[0]], self.standing[1])
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space) and self.rows:
            self.chosen.emit(self.rows[self.standing[0]], self.standing[1])
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right) and self._shifted(event):
            second = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
            self._extend(-1 if key == Qt.Key.Key_Left else 1, second)
        elif event.matches(QKeySequence.StandardKey.Copy) and self.rows:
            self.copied.emit(self.rows[self.standing[0]], self.standing[1])
        elif event.matches(QKeySequence.StandardKey.Paste) and self._writable:
            self._paste()
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and self._writable:
            self._write([""])
        elif key == Qt.Key.Key_F2 and self._writable:
            self._begin(self.full_text(*self.standing))
        elif self._writable and event.text() and event.text() in "0123456789.,-−":
            self._begin(event.text())
        elif event.text() in ("+", "=", "-"):
            self.scale.zoom(0.8 if event.text() != "-" else 1.25, self.scale.x(self.standing[1]))
        else:
            super().keyPressEvent(event)

    @property
    def _writable(self) -> bool:
        """Whether the cell that the keys stand on can be written in."""
        row, column = self.standing
        if not self.rows or self.deck is None or column >= self.deck.columns:
            return False
        figure = self.rows[row]
        return figure.mend is not None and figure.state(self.series, column) != "locked"

    def _begin(self, text: str) -> None:
        """Open the cell that the keys stand on for writing."""
        assert self.deck is not None
        row, column = self.standing
        self.scale.reveal(column)
        name = f"{self.rows[row].label}, {self.deck.label(column)}"
        self.editor.begin(self.cell_rect(row, column), text, name)

    def _take_in(self, text: str) -> None:
        if self._writable and text.strip() != self.full_text(*self.standing):
            self._write([text])

    def _paste(self) -> None:
        """Write figures as sheets copy them, from the cell that the keys stand on: rows of a table stay rows.

        A single column goes along the row, for periods run there.
        """
        clipboard = QGuiApplication.clipboard()
        held = clipboard.text() if clipboard else ""
        lines = [line.split("\t") for line in held.strip("\r\n").replace("\r\n", "\n").split("\n")]
        if max(map(len, lines)) == 1:
            lines = [[line[0] for line in lines]]
        if any(text.strip() for line in lines for text in line):
            self._write(*lines)

    def _write(self, *lines: list[str]) -> None:
        """Write lines of texts into the row that the keys stand on and those below it."""
        row, column = self.standing
        below = self.rows[row : row + len(lines)]
        if len(below) < len(lines):
            self.refused.emit(
                f"{len(lines)} rows are pasted, and only {len(below)} stand from here on. Nothing was "
                "written. Stand further up, or copy fewer."
            )
            return
        self.typed.emit([(figure, column, texts) for figure, texts in zip(below, lines, strict=True)])

    @staticmethod
    def _shifted(event: QKeyEvent) -> bool:
        shift, control = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier
        return event.modifiers() in (shift, shift | control)

    def _extend(self, by: int, second: bool) -> None:
        """Select from where the cursor began to where it goes, as the first or the second stretch."""
        if self._anchor is None or self._anchor[1] != second:
            self._anchor = self.standing[1], second
        start = self._anchor[0]
        column = min(max(self.standing[1] + by, 0), self.deck.columns - 1 if self.deck else 0)
        self._go(self.standing[0], column)
        if self.rows:
            self.picked.emit(self.rows[self.standing[0]])
        self.scale.stretch(start, column, second)

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        self.update()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        self.update()

    def _go(self, row: int, column: int) -> None:
        self.standing = (row, column)
        self.stood.emit(row)
        self.scale.reveal(column)
        self.scale.point(column)
        self._tell_cursor()
        self.update()

    def _tell_cursor(self) -> None:
        """What a screen reader says of the cursor's cell."""
        if self.rows and self.deck and self.deck.columns:
            row, column = self.standing
            said = self.full_text(row, column) or "no figure"
            self.setAccessibleDescription(f"{self.rows[row].label}, {self.deck.label(column)}: {said}")


def _tint(value: float, low: float, high: float, middle: float | None) -> QColor:
    """The tint of a figure by size; where there is a middle, by how far above or below it."""
    if middle is None:
        return palette().color("kelp", round(14 + 84 * (value - low) / (high - low)))
    farthest = max(high - middle, middle - low)
    return palette().color(
        "kelp" if value >= middle else "ochre", round(8 + 90 * abs(value - middle) / farthest)
    )


def _ink(figure: Figure, deck: Deck) -> tuple[str, float]:
    """The colour of the curve that shows a figure, by name, and how strong it is."""
    for band in deck.bands:
        for curve in band.curves:
            if figure.name in (curve.figure, curve.upto):
                return STYLES[curve.role].color, curve.shade
    return "ink", 1.0
