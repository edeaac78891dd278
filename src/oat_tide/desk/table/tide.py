"""The tide table: rows of figures whose columns stand exactly under the periods of the chart."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QEvent, QRect, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QFocusEvent,
    QGuiApplication,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QWidget

from oat_tide.core.language import phrase
from oat_tide.core.working.tree import Ref
from oat_tide.desk.chart.overlay import wheel
from oat_tide.desk.chart.scale import TimeScale
from oat_tide.desk.chart.steps import WiderSteps
from oat_tide.desk.look.palette import palette
from oat_tide.desk.table import keys
from oat_tide.desk.table.cell_editor import CellEditor
from oat_tide.desk.table.cells import ROW, TOP, Cells
from oat_tide.desk.table.model import Head, TableRows, rows_of
from oat_tide.desk.table.painting import TablePainter, paint_marks, tint_ends
from oat_tide.desk.table.reader import TableReader
from oat_tide.plan.parts.layout import Layout
from oat_tide.stages.deck import Deck, Figure


class TideTable(QWidget):
    """Rows of figures under the periods of the chart.

    Attributes:
        standing: the row and the column that the keys stand on.
        kept_layout: which rows are hidden, and which groups of them stand folded.
        pinned: the cell whose working is kept.

    Signals:
        hovered: (row figure, column) or (None, -1): what is pointed at.
        chosen: (row figure, column): a cell is clicked, or Enter pressed on it.
        picked: (row figure): columns are being selected in it.
        copied: (row figure, column): the selection, or this cell, is to be copied.
        typed: (rows) figures were written: of each row its figure, the column it begins at, and its texts.
        refused: (str) why nothing was.
        stood: (row): the keys stand on another row.
        folded: (name): a group of rows is to be folded, or opened.
    """

    hovered = pyqtSignal(object, int)
    chosen = pyqtSignal(object, int)
    picked = pyqtSignal(object)
    copied = pyqtSignal(object, int)
    typed = pyqtSignal(object)
    refused = pyqtSignal(str)
    stood = pyqtSignal(int)
    folded = pyqtSignal(str)

    def __init__(self, scale: TimeScale) -> None:
        super().__init__()
        self.scale = scale
        self.kept_layout = Layout()
        self.standing = (0, 0)
        self.pinned: Ref | None = None
        self._cells: Cells | None = None
        self._painter = TablePainter()
        self._from: tuple[int, int] | None = None
        self._second = False
        self._anchor: tuple[int, bool] | None = None
        self._looked: tuple[object, list[object]] = (None, [])
        self.setMouseTracking(True)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.editor = CellEditor(self)
        self.reader = TableReader(self)
        self.editor.done.connect(self._take_in)
        scale.moved.connect(self._forget_steps)
        scale.selected.connect(self.update)
        scale.pointed.connect(self.update)

    @property
    def model(self) -> TableRows | None:
        """The rows in sight."""
        return self._cells.rows if self._cells is not None else None

    @property
    def deck(self) -> Deck | None:
        """Whose rows they are."""
        return self._cells.rows.deck if self._cells is not None else None

    @property
    def rows(self) -> Sequence[Figure]:
        """The figures that have a row."""
        return self._cells.rows.figures if self._cells is not None else ()

    @property
    def sizes(self) -> dict[str, float]:
        """What the rows of each unit are told in."""
        return self._cells.rows.sizes if self._cells is not None else {}

    @property
    def room(self) -> int:
        """Pixels that the widest figure needs."""
        return self._cells.room if self._cells is not None else 0

    def show_deck(self, deck: Deck, series: int) -> None:
        """Show the rows of a deck."""
        before = self._cells.rows if self._cells is not None else None
        rows = rows_of(deck, series, self.kept_layout)
        self._cells = Cells(rows, self.scale)
        fresh = before is None or before.deck.stage != deck.stage
        if fresh or before is None or _names(rows) != _names(before):
            # What was pressed on, or written in, is not there any more.
            self._from = None
            self.editor.hide()
        self.setFixedHeight(self._cells.height)
        row, column = (0, max(deck.past - 1, 0)) if fresh else self.standing
        self.standing = min(row, max(len(rows) - 1, 0)), min(column, max(deck.columns - 1, 0))
        self.setAccessibleName(phrase("Tide table: {title}", title=deck.title(series)))
        self._tell_cursor()
        self._repaint(self._cells)

    def _repaint(self, cells: Cells) -> None:
        """Have those rows painted that look another way than before, or all where more than rows changed."""
        deck, seen = cells.rows.deck, cells.seen()
        moves = deck.handle("as_of") is not None and deck.past
        frame = (
            deck.stage,
            deck.columns,
            moves,
            cells.rows.tinted,
            tint_ends(cells),
            palette(),
            cells.rows.heads,
        )
        many = len(cells.rows) if cells.readable else 0
        rows = [cells.rows.look(row, seen.start, seen.stop) for row in range(many)]
        before, self._looked = self._looked, (frame, rows)
        if not many or before[0] != frame or len(before[1]) != many:
            self.update()
            return
        for row, (old, new) in enumerate(zip(before[1], rows, strict=True)):
            if old != new:
                self.update(0, cells.tops[row] - 1, self.width(), ROW + TOP)

    def read_out(self) -> None:
        """Have what is read aloud follow what is shown; it may wait until after the paint."""
        if self._cells is not None:
            self.reader.rows.take(self._cells.rows)
            self.reader.setAccessibleName(self.accessibleName())
            self.reader.stand(*self.standing)

    def cell_rect(self, row: int, column: int) -> QRectF:
        """Return the rectangle of a cell."""
        assert self._cells is not None
        return self._cells.rect(row, column)

    def text(self, row: int, column: int) -> str:
        """What a cell says; empty where there is no figure."""
        return self._cells.rows.text(row, column) if self._cells is not None else ""

    def full_text(self, row: int, column: int) -> str:
        """A figure in full, whatever its row is told in."""
        return self._cells.rows.full_text(row, column) if self._cells is not None else ""

    def steps(self) -> WiderSteps | None:
        """The wider steps that rows are added up by, where their columns are too narrow for figures."""
        return self._cells.steps if self._cells is not None else None

    def totalled(self) -> tuple[int, int] | None:
        """The columns that totals stand for; None where there are none."""
        return self._cells.totalled if self._cells is not None else None

    def _forget_steps(self) -> None:
        if self._cells is not None:
            self._cells.forget_steps()
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self._cells is None or event is None:
            return
        painter, width, height = QPainter(self), self.width(), self.height()
        painter.fillRect(self.rect(), palette().color("paper"))
        rows = [
            row
            for row in range(len(self._cells.rows))
            if event.region().intersects(QRect(0, self._cells.tops[row], width, ROW))
        ]
        self._painter.paint(painter, self._cells, rows, width, height)
        standing = self.standing if self.hasFocus() and self.rows else None
        paint_marks(painter, self._cells, self.pinned, standing, height)

    def _cell_at(self, event: QMouseEvent) -> tuple[int, int] | None:
        return self._cells.at(event.position().x(), event.position().y()) if self._cells is not None else None

    def _head_at(self, event: QMouseEvent) -> Head | None:
        return self._cells.head_at(event.position().y()) if self._cells is not None else None

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = self._cell_at(event)
        head = self._head_at(event)
        self.setCursor(Qt.CursorShape.PointingHandCursor if head is not None else Qt.CursorShape.ArrowCursor)
        self.scale.point(at[1] if at else -1)
        self.hovered.emit(self.rows[at[0]] if at else None, at[1] if at else -1)
        if self._from and event.buttons() & Qt.MouseButton.LeftButton:
            column = self.scale.column(event.position().x())
            if column != self._from[1] or self.scale.selection:
                self.picked.emit(self.rows[self._from[0]])
                self.scale.stretch(self._from[1], column, self._second)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        head = self._head_at(event)
        if head is not None:
            self.folded.emit(head.name)
            return
        at = self._cell_at(event)
        self._from, self._anchor = at, None
        self._second = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        if at:
            self._go(*at)
            self.choose()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._from = None

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self.mousePressEvent(event)
        if self._cell_at(event) and self.writable:
            self.begin(None)

    def leaveEvent(self, event: QEvent | None) -> None:
        self.scale.point(-1)
        self.hovered.emit(None, -1)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        room, turn = self.parentWidget(), event.angleDelta()
        scrolls = room is not None and self.height() > room.height() and not turn.x()
        if scrolls and not event.modifiers():
            # The rows that have no room are scrolled to; with Ctrl, or Shift, it is the periods that move.
            event.ignore()
        else:
            wheel(self.scale, event)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self.scale.resize(self.width())

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        self.update()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if not self.rows or not keys.pressed(self, event):
            super().keyPressEvent(event)

    @property
    def columns(self) -> int:
        """How many there are."""
        return self.scale.columns

    @property
    def in_sight(self) -> int:
        """How many of them are in sight."""
        return int(self.scale.count)

    @property
    def writable(self) -> bool:
        """Whether the cell that the keys stand on can be written in."""
        return self._cells is not None and self._cells.rows.writable(*self.standing)

    def walk(self, down: int, right: int) -> None:
        """Go so many rows and columns on, as far as there are any."""
        row, column = self.standing
        self._go(self._inside(row + down, len(self.rows)), self._inside(column + right, self._last))
        self._anchor = None
        self.hovered.emit(self.rows[self.standing[0]], self.standing[1])

    @property
    def _last(self) -> int:
        return self.deck.columns if self.deck is not None else 0

    @staticmethod
    def _inside(place: int, many: int) -> int:
        return min(max(place, 0), max(many - 1, 0))

    def choose(self) -> None:
        """Choose the cell that the keys stand on."""
        self.chosen.emit(self.rows[self.standing[0]], self.standing[1])

    def copy(self) -> None:
        """Have the selection, or this cell, copied."""
        self.copied.emit(self.rows[self.standing[0]], self.standing[1])

    def extend(self, by: int, second: bool) -> None:
        """Select from where the cursor began to where it goes, as the first or the second stretch."""
        if self._anchor is None or self._anchor[1] != second:
            self._anchor = self.standing[1], second
        start = self._anchor[0]
        column = self._inside(self.standing[1] + by, self._last)
        self._go(self.standing[0], column)
        self.picked.emit(self.rows[self.standing[0]])
        self.scale.stretch(start, column, second)

    def zoom(self, factor: float) -> None:
        """Show fewer or more columns around this cell."""
        self.scale.zoom(factor, self.scale.x(self.standing[1]))

    def begin(self, text: str | None) -> None:
        """Open the cell that the keys stand on for writing, with a text or what stands there."""
        assert self._cells is not None
        row, column = self.standing
        self.scale.reveal(column)
        rows = self._cells.rows
        said = rows.full_text(row, column) if text is None else text
        self.editor.begin(self._cells.rect(row, column), said, rows.cell_name(row, column))

    def _take_in(self, text: str) -> None:
        if self.writable and text.strip() != self.full_text(*self.standing):
            self.write([text])

    def paste(self) -> None:
        """Write figures as sheets copy them, from this cell on: rows of a table stay rows."""
        clipboard = QGuiApplication.clipboard()
        lines = keys.pasted(clipboard.text() if clipboard else "")
        if lines:
            self.write(*lines)

    def write(self, *lines: list[str]) -> None:
        """Write lines of texts into the row that the keys stand on and those below it."""
        row, column = self.standing
        below = self.rows[row : row + len(lines)]
        if len(below) < len(lines):
            self.refused.emit(
                phrase(
                    "{lines} rows are pasted, and only {below} are left from here on. Nothing was "
                    "written. Start further up, or copy fewer.",
                    lines=len(lines),
                    below=len(below),
                )
            )
            return
        self.typed.emit([(figure, column, texts) for figure, texts in zip(below, lines, strict=True)])

    def _go(self, row: int, column: int) -> None:
        self.standing = (row, column)
        self.stood.emit(row)
        self.scale.reveal(column)
        self.scale.point(column)
        self._tell_cursor()
        self.update()

    def _tell_cursor(self) -> None:
        """What a screen reader says of the cursor's cell."""
        if self._cells is not None and self.rows and self._last:
            self.setAccessibleDescription(self._cells.rows.spoken(*self.standing))
            self.reader.stand(*self.standing)


def _names(rows: TableRows) -> list[str]:
    return [row.name for row in rows.figures]
