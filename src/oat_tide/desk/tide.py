"""The tide table: rows of figures whose columns stand exactly under the periods of the chart."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QEvent, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QFocusEvent,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QWidget

from oat_tide.core.calendar import KINDS, Grid
from oat_tide.core.numerals import fixed, row_decimals
from oat_tide.core.panel import PART
from oat_tide.core.working import Ref
from oat_tide.desk.bands import paint_hover, wheel
from oat_tide.desk.palette import font, palette
from oat_tide.desk.scale import GUTTER, TimeScale
from oat_tide.stages.deck import Deck, Figure

ROW = 22
_READ_OUT = 66
_ROLE_COLORS = {
    "fitted": "heather", "projected": "heather", "interval": "heather",
    "smoothed": "kelp", "weighted": "kelp", "actual": "ink", "columns": "ink",
}  # fmt: skip


class TideTable(QWidget):
    """Attributes:
    cursor: the row and the column that the keys stand on.

    Signals:
        hovered: (row figure, column) or (None, -1): what is pointed at.
        chosen: (row figure, column): a cell is clicked, or Enter pressed on it.
    """

    hovered = pyqtSignal(object, int)
    chosen = pyqtSignal(object, int)

    def __init__(self, scale: TimeScale) -> None:
        super().__init__()
        self.scale = scale
        self.deck: Deck | None = None
        self.series = 0
        self.rows: tuple[Figure, ...] = ()
        self.hidden_rows: set[str] = set()
        self.pointed_row = -1
        self.cursor = (0, 0)
        self.pinned: Ref | None = None
        self._decimals: list[int] = []
        self._room = 40
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        scale.moved.connect(self.update)
        scale.pointed.connect(self.update)

    def show_deck(self, deck: Deck, series: int) -> None:
        """Show the rows of a deck."""
        fresh = self.deck is None or self.deck.stage != deck.stage
        self.deck, self.series = deck, series
        self.rows = tuple(row for row in deck.rows if f"{deck.stage}.{row.name}" not in self.hidden_rows)
        self._decimals = [_decimals(row, series) for row in self.rows]
        self._room = self._widest()
        self.setFixedHeight(ROW * max(len(self.rows), 1) + 4)
        if fresh:
            self.cursor = (0, max(deck.past - 1, 0))
        self.cursor = (
            min(self.cursor[0], max(len(self.rows) - 1, 0)),
            min(self.cursor[1], max(deck.columns - 1, 0)),
        )
        self.setAccessibleName(f"Tide table: {deck.title(series)}")
        self._tell_cursor()
        self.update()

    @property
    def room(self) -> int:
        """Pixels that the widest figure needs."""
        return self._room

    def _widest(self) -> int:
        widest = 0
        metrics = self._metrics()
        for row, decimals in zip(self.rows, self._decimals, strict=True):
            values = row.values[self.series]
            known = values[~np.isnan(values)]
            for value in (known.max(), known.min()) if known.size else ():
                text = fixed(float(value), decimals, plus=row.signed)
                widest = max(widest, metrics.horizontalAdvance(text))
        return widest + 4

    def _metrics(self) -> object:
        from PyQt6.QtGui import QFontMetrics

        return QFontMetrics(font(11))

    def text(self, row: int, column: int) -> str:
        """What a cell says; empty where there is no figure."""
        value = float(self.rows[row].values[self.series, column])
        return fixed(value, self._decimals[row], plus=self.rows[row].signed)

    def cell_rect(self, row: int, column: int) -> QRectF:
        """Where a cell stands."""
        return QRectF(self.scale.edge(column), row * ROW + 2, self.scale.step, ROW)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.deck is None:
            return
        painter = QPainter(self)
        painter.setFont(font(11))
        for row in range(0, len(self.rows), 2):
            painter.fillRect(QRectF(8, row * ROW + 2, self.width() - 16, ROW), palette().color("mist", 120))
        for row in range(len(self.rows)):
            self._label(painter, row)
        painter.setClipRect(QRectF(GUTTER - 1, 0, self.width() - GUTTER, self.height()))
        wide = self.scale.step >= self._room
        for row in range(len(self.rows)):
            if wide:
                self._figures(painter, row)
            else:
                self._tints(painter, row)
        if not wide:
            self._steps(painter)
        paint_hover(painter, self.scale, self.height())
        self._marks(painter)

    def _label(self, painter: QPainter, row: int) -> None:
        figure, top = self.rows[row], row * ROW + 2
        painter.setPen(palette().color(self._color(figure)))
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        shown = self.scale.hovered
        has_read_out = 0 <= shown < self.deck.columns if self.deck else False
        room = GUTTER - 18 - (_READ_OUT if has_read_out else 0)
        label = painter.fontMetrics().elidedText(figure.label, Qt.TextElideMode.ElideRight, room)
        painter.drawText(QRectF(8, top, room, ROW), right, label)
        if has_read_out:
            painter.setFont(font(11, bold=True))
            painter.drawText(
                QRectF(GUTTER - _READ_OUT - 8, top, _READ_OUT, ROW), right, self.text(row, shown)
            )
            painter.setFont(font(11))

    def _color(self, figure: Figure) -> str:
        assert self.deck is not None
        for band in self.deck.bands:
            for curve in band.curves:
                if figure.name in (curve.figure, curve.upto):
                    return _ROLE_COLORS[curve.role]
        return "ink"

    def _figures(self, painter: QPainter, row: int) -> None:
        assert self.deck is not None
        figure, color = self.rows[row], palette().color(self._color(self.rows[row]))
        first, stop = self.scale.visible()
        flags = self.deck.flags[self.series]
        for column in range(first, min(stop, self.deck.columns)):
            text = self.text(row, column)
            if not text:
                continue
            part = bool(flags[column] & PART) and figure.name == self.rows[0].name
            painter.setPen(palette().color("quiet") if part else color)
            rect = self.cell_rect(row, column)
            painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, text)
            if part:
                painter.setPen(QPen(palette().color("quiet"), 1, Qt.PenStyle.DotLine))
                painter.drawRect(rect.adjusted(1, 2, -2, -3))

    def _tints(self, painter: QPainter, row: int) -> None:
        """Cells too narrow for figures are tinted by size, from the row's lowest to its highest."""
        assert self.deck is not None
        first, stop = self.scale.visible()
        stop = min(stop, self.deck.columns)
        values = self.rows[row].values[self.series, first:stop]
        known = ~np.isnan(values)
        if not known.any():
            return
        low, high = float(values[known].min()), float(values[known].max())
        share = (values - low) / (high - low) if high > low else np.full(values.shape, 0.5)
        color = palette().color(self._color(self.rows[row]))
        pixels = np.zeros((1, len(values), 4), np.uint8)
        pixels[0, :, 0], pixels[0, :, 1], pixels[0, :, 2] = color.blue(), color.green(), color.red()
        pixels[0, :, 3] = np.where(known, 18 + 92 * np.nan_to_num(share), 0)
        image = QImage(pixels.tobytes(), len(values), 1, 4 * len(values), QImage.Format.Format_ARGB32)
        span = QRectF(self.scale.edge(first), row * ROW + 3, (stop - first) * self.scale.step, ROW - 2)
        painter.drawImage(span, image)

    def _steps(self, painter: QPainter) -> None:
        """Figures at the next wider step that has room for them, for rows that add up."""
        for kind in KINDS[KINDS.index(self.deck.grid.kind) + 1 :] if self.deck else ():
            wider = Grid(kind, self.deck.grid.week_start, self.deck.grid.year_start)  # type: ignore[union-attr]
            if kind != "week" and self._step_figures(painter, wider):
                return

    def _step_figures(self, painter: QPainter, wider: Grid) -> bool:
        assert self.deck is not None
        grid, origin = self.deck.grid, self.deck.first
        first, stop = self.scale.visible()
        stop = min(stop, self.deck.columns)
        if grid.kind == "week" and wider.kind != "year":
            return False
        starts = self._step_starts(wider, first, stop)
        narrowest = self.scale.step * min(b - a for a, b in zip(starts, starts[1:], strict=False))
        metrics = painter.fontMetrics()
        texts: list[tuple[QRectF, str, str]] = []
        for row, figure in enumerate(self.rows):
            if not figure.adds_up:
                continue
            for a, b in zip(starts, starts[1:], strict=False):
                values = figure.values[self.series, max(a, 0) : b]
                if a < 0 or b > self.deck.columns or np.isnan(values).any():
                    continue
                text = fixed(float(values.sum()), self._decimals[row], plus=figure.signed)
                if metrics.horizontalAdvance(text) + 4 > narrowest:
                    return False
                place = QRectF(self.scale.edge(a), row * ROW + 2, (b - a) * self.scale.step, ROW)
                texts.append((place, text, self._color(figure)))
        for place, text, color in texts:
            painter.setPen(palette().color(color))
            painter.drawText(place, Qt.AlignmentFlag.AlignCenter, text)
        del origin
        return True

    def _step_starts(self, wider: Grid, first: int, stop: int) -> list[int]:
        """The columns that the wider periods in sight begin with, and the end of the last."""
        assert self.deck is not None
        grid, origin = self.deck.grid, self.deck.first
        if grid.kind == "week":
            years = range(
                int(grid.years([origin + first])[0]), int(grid.years([origin + max(stop - 1, first)])[0]) + 2
            )
            return [grid.year_first(year) - origin for year in years]
        low = wider.period(grid.first_day(origin + first))
        high = wider.period(grid.first_day(origin + max(stop - 1, first)))
        return [grid.period(wider.first_day(period)) - origin for period in range(low, high + 2)]

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
            painter.drawRect(self.cell_rect(*self.cursor).adjusted(1, 1, -1, -1))

    def _cell_at(self, x: float, y: float) -> tuple[int, int] | None:
        row, column = int((y - 2) // ROW), self.scale.column(x)
        inside = x >= GUTTER and 0 <= row < len(self.rows)
        return (row, column) if inside and self.deck and 0 <= column < self.deck.columns else None

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = self._cell_at(event.position().x(), event.position().y())
        self.scale.point(at[1] if at else -1)
        self.hovered.emit(self.rows[at[0]] if at else None, at[1] if at else -1)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = self._cell_at(event.position().x(), event.position().y())
        if at:
            self._go(*at)
            self.chosen.emit(self.rows[at[0]], at[1])

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        self.mousePressEvent(event)

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
        moves = {
            Qt.Key.Key_Left: (0, -1), Qt.Key.Key_Right: (0, 1), Qt.Key.Key_Up: (-1, 0), Qt.Key.Key_Down: (1, 0),
            Qt.Key.Key_PageUp: (0, -int(self.scale.count)), Qt.Key.Key_PageDown: (0, int(self.scale.count)),
        }  # fmt: skip
        key = Qt.Key(event.key())
        if key in moves and self.rows and self.deck and not event.modifiers():
            down, right = moves[key]
            self._go(
                min(max(self.cursor[0] + down, 0), len(self.rows) - 1),
                min(max(self.cursor[1] + right, 0), self.deck.columns - 1),
            )
            self.hovered.emit(self.rows[self.cursor[0]], self.cursor[1])
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space) and self.rows:
            self.chosen.emit(self.rows[self.cursor[0]], self.cursor[1])
        elif event.text() in ("+", "=", "-"):
            self.scale.zoom(0.8 if event.text() != "-" else 1.25, self.scale.x(self.cursor[1]))
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        self.update()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        self.update()

    def _go(self, row: int, column: int) -> None:
        self.cursor = (row, column)
        self.scale.reveal(column)
        self.scale.point(column)
        self._tell_cursor()
        self.update()

    def _tell_cursor(self) -> None:
        """What a screen reader says of the cursor's cell."""
        if self.rows and self.deck and self.deck.columns:
            row, column = self.cursor
            said = self.text(row, column) or "no figure"
            self.setAccessibleDescription(f"{self.rows[row].label}, {self.deck.label(column)}: {said}")


def _decimals(row: Figure, series: int) -> int:
    return min(row_decimals(row.values[series].tolist()), 1 if row.unit == "%" else 6)
