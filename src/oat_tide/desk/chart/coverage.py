"""The coverage band: a row a series, a cell a period, tinted by the lines held, holes left plain."""

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
    QPixmap,
    QWheelEvent,
)
from PyQt6.QtWidgets import QWidget

from oat_tide.core.language import counted, noun, phrase
from oat_tide.core.series.panel import INCOMPLETE, LEFT_OUT, PROVISIONAL, REPLACED, TOUCHED
from oat_tide.desk.chart.overlay import paint_hover, wheel
from oat_tide.desk.chart.scale import GUTTER, TimeScale
from oat_tide.desk.look.measured import advance, elided
from oat_tide.desk.look.palette import SMALL, font, palette
from oat_tide.desk.look.tints import mixed
from oat_tide.stages.deck import Coverage, Deck

ROW = 17
_FEWEST, _MOST = 4, 20
_STEPS = 6
_SPECIAL = INCOMPLETE | PROVISIONAL | LEFT_OUT | REPLACED | TOUCHED
_ROOM_FOR_MARKS, _MOST_MARKS = 7, 700
"""Pixels a column, and cells in sight, up to which special cells are marked by shape."""


class CoverageView(QWidget):
    """The coverage of all series, a row a series and a cell a period.

    Attributes:
        standing: the row and column of the cursor.
        top: the first series in sight.

    Signals:
        chosen: (row, column) a cell is asked for.
        hovered: (str) what the cell under the pointer holds; empty for none.
    """

    chosen = pyqtSignal(int, int)
    hovered = pyqtSignal(str)

    def __init__(self, scale: TimeScale) -> None:
        super().__init__()
        self.scale = scale
        self.deck: Deck | None = None
        self.held: Coverage | None = None
        self.top = 0
        self.standing = (0, 0)
        self._tints: np.ndarray[tuple[int, int], np.dtype[np.uint32]] | None = None
        self._dressed: object = None
        self._kept: QPixmap | None = None
        self._kept_for: object = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        scale.moved.connect(self.update)
        scale.pointed.connect(self.update)

    def show_deck(self, deck: Deck) -> None:
        """Show the coverage of a deck; without one the band is not there."""
        held = None if deck.coverage is None else deck.coverage()
        fresh = self.held is not held
        if fresh and (self.held is None or held is None or self.held.names != held.names):
            self.standing, self.top = (0, 0), 0
        self.deck, self.held = deck, held
        self.setVisible(self.held is not None)
        if self.held is None:
            return
        if fresh:
            self._tints = None
            self.top = min(self.top, self._last_top)
        self.setAccessibleName(
            phrase(
                "Coverage: {names:,} series by {kind}", names=len(self.held.names), kind=noun(deck.grid.kind)
            )
        )
        self.setMinimumHeight(ROW * min(_FEWEST, len(self.held.names)) + 4)
        self.setMaximumHeight(ROW * min(_MOST, len(self.held.names)) + 4)
        self._tell()
        self.update()

    @property
    def shown(self) -> int:
        """Rows that there is room for; the last says how many more there are."""
        return max((self.height() - 4) // ROW, 1)

    @property
    def _last_top(self) -> int:
        return max(len(self.held.names) - self.shown, 0) if self.held else 0

    def _rows(self) -> range:
        assert self.held is not None
        count = len(self.held.names)
        more = count - self.top > self.shown
        return range(self.top, min(self.top + self.shown - more, count))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.held is None or self.deck is None:
            return
        painter = QPainter(self)
        painter.drawPixmap(0, 0, self._picture())
        painter.setClipRect(QRectF(GUTTER - 1, 0, self.scale.across + 2, self.height()))
        paint_hover(painter, self.scale, self.height())
        if self.hasFocus() and self.standing[0] in self._rows():
            painter.setPen(QPen(palette().color("ink"), 1.4, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.cell_rect(*self.standing))

    def _picture(self) -> QPixmap:
        """The band without what is pointed at; painted anew only when what it shows has changed."""
        scale, ratio = self.scale, self.devicePixelRatioF()
        showing = (self.held, scale.start, scale.count, self.size(), ratio, palette(), self.top)
        if self._kept is None or self._kept_for != showing:
            self._kept_for = showing
            self._kept = QPixmap(round(self.width() * ratio), round(self.height() * ratio))
            self._kept.setDevicePixelRatio(ratio)
            self._kept.fill(palette().color("paper"))
            painter = QPainter(self._kept)
            painter.setFont(font(SMALL))
            self._paint_band(painter)
            painter.end()
        return self._kept

    def _paint_band(self, painter: QPainter) -> None:
        held = self.held
        assert held is not None
        rows = self._rows()
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.setPen(palette().color("ink"))
        for at, row in enumerate(rows):
            name = elided(held.names[row], GUTTER - 20, middle=True)
            painter.drawText(QRectF(8, 2 + at * ROW, GUTTER - 18, ROW), right, name)
        left = len(held.names) - rows.stop
        if left > 0:
            painter.setPen(palette().color("quiet"))
            painter.drawText(
                QRectF(8, 2 + len(rows) * ROW, GUTTER - 18, ROW), right, phrase("… {left:,} more", left=left)
            )
        painter.setClipRect(QRectF(GUTTER - 1, 0, self.scale.across + 2, self.height()))
        first, stop = self.scale.visible()
        stop = min(stop, held.lines.shape[1])
        if stop > first:
            self._cells(painter, rows, first, stop)
            self._said(painter, rows, first, stop)

    def cell_rect(self, row: int, column: int) -> QRectF:
        """Return the rectangle of a cell."""
        y = 2 + (row - self.top) * ROW
        gap = 1.0 if self.scale.step >= 4 else 0.0
        return QRectF(self.scale.edge(column) + gap / 2, y + 1, self.scale.step - gap, ROW - 2)

    def _table(self) -> np.ndarray[tuple[int, int], np.dtype[np.uint32]]:
        """The colour of every cell: by lines against the most that any cell holds, on a root scale."""
        assert self.held is not None
        if self._tints is None or self._dressed is not palette():
            self._dressed = palette()
            held = self.held
            most = max(float(np.quantile(held.lines[held.lines > 0], 0.98)) if held.lines.any() else 1, 1)
            tint = np.ceil(np.sqrt(np.minimum(held.lines / most, 1.0)) * _STEPS).astype(np.int64)
            paper, kelp = palette().color("paper"), palette().color("kelp")
            colors = [palette().color("mist").rgb()] + [
                mixed(paper, kelp, 0.12 + 0.78 * step / _STEPS).rgb() for step in range(1, _STEPS + 1)
            ]
            tints = np.array(colors, np.uint32)[tint]
            tints[held.flags & INCOMPLETE > 0] = paper.rgb()
            tints[(held.lines == 0) & ~held.unknown] = mixed(paper, palette().color("rust"), 0.16).rgb()
            tints[held.unknown] = paper.rgb()
            self._tints = tints
        return self._tints

    def _cells(self, painter: QPainter, rows: range, first: int, stop: int) -> None:
        """Draw all cells as one image; special ones are marked one by one while they are few."""
        tints, held = self._table(), self.held
        assert held is not None
        # One pixel of the image is one of the window: the column that stands there.
        left, right = self.scale.edge(first), self.scale.edge(stop)
        pixels = np.arange(max(round(right - left), 1)) + 0.5
        columns = np.minimum((pixels / self.scale.step).astype(np.int64) + first, stop - 1)
        block = np.repeat(tints[rows.start : rows.stop, columns], ROW, axis=0)
        paper = palette().color("paper").rgb()
        block[ROW - 1 :: ROW] = paper
        if self.scale.step >= 4:
            block[:, np.flatnonzero(np.diff(columns, prepend=-1))] = paper
        tall, wide = block.shape
        image = QImage(block.tobytes(), wide, tall, 4 * wide, QImage.Format.Format_RGB32)
        painter.drawImage(QPointF(left, 2), image)
        if self.scale.step < _ROOM_FOR_MARKS:
            return
        flags = held.flags[rows.start : rows.stop, first:stop]
        lines = held.lines[rows.start : rows.stop, first:stop]
        special = (flags & _SPECIAL > 0) | (lines == 0)
        special &= ~held.unknown[rows.start : rows.stop, first:stop]
        places = np.argwhere(special)
        if len(places) > _MOST_MARKS:
            return
        for at, column in places.tolist():
            rect = self.cell_rect(rows.start + at, first + column)
            self._marked(painter, rect, int(flags[at, column]), int(lines[at, column]))

    def _marked(self, painter: QPainter, rect: QRectF, flags: int, lines: int) -> None:
        """Holes, part, provisional and ruled cells are told by shape and not by colour alone."""
        inner = rect.adjusted(0.5, 0.5, -0.5, -0.5)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if flags & INCOMPLETE:
            painter.fillRect(rect, palette().color("paper"))
            painter.setPen(QPen(palette().color("ink"), 1, Qt.PenStyle.DotLine))
            painter.drawRect(inner)
        elif not lines:
            painter.fillRect(rect, palette().color("paper"))
            painter.setPen(QPen(palette().color("rust"), 1, Qt.PenStyle.DotLine))
            painter.drawRect(inner)
        if flags & PROVISIONAL and not flags & INCOMPLETE:
            painter.setPen(QPen(palette().color("ink"), 1.2))
            painter.drawEllipse(rect.center(), 2.5, 2.5)
        if flags & (LEFT_OUT | REPLACED):
            painter.setPen(QPen(palette().color("rust"), 1.4))
            painter.drawLine(inner.topLeft(), inner.bottomRight())
            painter.drawLine(inner.bottomLeft(), inner.topRight())
        elif flags & TOUCHED:
            painter.setPen(QPen(palette().color("ink"), 1.4))
            painter.drawLine(inner.bottomLeft(), inner.bottomRight())

    def _said(self, painter: QPainter, rows: range, first: int, stop: int) -> None:
        """Words at late starts and early ends, in the empty stretch beside them."""
        assert self.held is not None
        painter.setPen(palette().color("quiet"))
        for at, row in enumerate(rows):
            for column, words in self.held.said[row]:
                wide = advance(words) + 6
                starts = words.startswith("since")
                x = self.scale.edge(column) - wide if starts else self.scale.edge(column + 1) + 6
                room = x >= GUTTER if starts else True
                if room and first <= column < stop:
                    ground = QRectF(x - 3, 3 + at * ROW, wide, ROW - 3)
                    painter.fillRect(ground, palette().color("paper"))
                    painter.drawText(QPointF(x, 2 + at * ROW + 13), words)

    def _at(self, x: float, y: float) -> tuple[int, int] | None:
        if self.held is None or x < GUTTER:
            return None
        row, column = self.top + int((y - 2) // ROW), self.scale.column(x)
        return (row, column) if row in self._rows() and 0 <= column < self.held.lines.shape[1] else None

    def words(self, row: int, column: int) -> str:
        """What a cell holds."""
        assert self.held is not None and self.deck is not None
        lines, flags = int(self.held.lines[row, column]), int(self.held.flags[row, column])
        if self.held.unknown[row, column]:
            holds = phrase("not known")
        else:
            holds = counted(lines, "line") if lines else phrase("no lines, taken as nothing sold")
        marks = (
            (INCOMPLETE, phrase("part")),
            (PROVISIONAL, "provisional"),
            (LEFT_OUT, "left out"),
            (REPLACED, "replaced"),
        )
        states = [words for flag, words in marks if flags & flag]
        return " · ".join((self.held.names[row], self.deck.label(column), holds, *states))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = self._at(event.position().x(), event.position().y())
        self.scale.point(at[1] if at else -1)
        self.hovered.emit(self.words(*at) if at else "")

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        place = event.position()
        at = self._at(place.x(), place.y())
        if at:
            self._go(*at)
            self.chosen.emit(*at)
        elif self.held and self.top + int((place.y() - 2) // ROW) >= self._rows().stop:
            self._scroll(self.shown - 1)

    def leaveEvent(self, event: QEvent | None) -> None:
        self.scale.point(-1)
        self.hovered.emit("")

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """Over the names the wheel goes from series to series, over the cells it zooms on time."""
        assert event is not None
        if event.position().x() < GUTTER:
            self._scroll(-1 if event.angleDelta().y() > 0 else 1)
        else:
            wheel(self.scale, event)

    def _scroll(self, by: int) -> None:
        self.top = min(max(self.top + by, 0), self._last_top)
        self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        moves = {
            Qt.Key.Key_Left: (0, -1),
            Qt.Key.Key_Right: (0, 1),
            Qt.Key.Key_Up: (-1, 0),
            Qt.Key.Key_Down: (1, 0),
            Qt.Key.Key_PageUp: (-self.shown, 0),
            Qt.Key.Key_PageDown: (self.shown, 0),
        }
        key = Qt.Key(event.key())
        if key in moves and self.held and not event.modifiers():
            down, right = moves[key]
            rows, columns = self.held.lines.shape
            row = min(max(self.standing[0] + down, 0), rows - 1)
            self._go(row, min(max(self.standing[1] + right, 0), columns - 1))
            self.hovered.emit(self.words(*self.standing))
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space) and self.held:
            self.chosen.emit(*self.standing)
        else:
            super().keyPressEvent(event)

    def _go(self, row: int, column: int) -> None:
        self.standing = (row, column)
        if row not in self._rows():
            self.top = min(row, self._last_top) if row < self.top else max(row - self.shown + 2, 0)
        self.scale.reveal(column)
        self.scale.point(column)
        self._tell()
        self.update()

    def _tell(self) -> None:
        """What a screen reader says of the cursor's cell."""
        if self.held and self.standing[0] < len(self.held.names):
            column = min(self.standing[1], self.held.lines.shape[1] - 1)
            self.setAccessibleDescription(self.words(self.standing[0], column))

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        self.update()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        self.update()
