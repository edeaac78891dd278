"""The overview: the whole history in a strip, with the stretch in sight as a window that can be dragged."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from oat_tide.core.exact import Values
from oat_tide.desk.chart.drawing import thin
from oat_tide.desk.chart.scale import GUTTER, MARGIN, TimeScale
from oat_tide.desk.look.palette import palette
from oat_tide.desk.look.plain import tip
from oat_tide.stages.deck import Deck


class Overview(QWidget):
    """Hidden while all of the history is in sight."""

    def __init__(self, scale: TimeScale) -> None:
        super().__init__()
        self.scale = scale
        self.deck: Deck | None = None
        self.series = 0
        self._grip: float | None = None
        self._size, self._values, self._line = QSize(), np.empty(0), QPolygonF()
        self.setFixedHeight(22)
        self.setAccessibleName("Overview of the whole history")
        tip(self, "The whole history; drag the window over it")
        scale.moved.connect(self._moved)

    def show_deck(self, deck: Deck, series: int) -> None:
        """Show the whole of a deck."""
        self.deck, self.series = deck, series
        self._moved()

    def _moved(self) -> None:
        narrowed = self.scale.count < self.scale.columns - 0.5
        in_time = self.deck is not None and self.deck.axis is None and self.deck.main is None
        self.setVisible(in_time and narrowed)
        self.update()

    def place(self, column: float) -> float:
        """The pixel of a column's left edge."""
        return GUTTER + column * (self.width() - GUTTER - MARGIN) / max(self.scale.columns, 1)

    def sight(self) -> QRectF:
        """Where the stretch in sight stands."""
        left, right = self.place(self.scale.start), self.place(self.scale.start + self.scale.count)
        return QRectF(left, 2, right - left, self.height() - 4)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.deck is None or "actual" not in self.deck.figures:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(palette().color("quiet"), 1))
        painter.drawPolyline(self._outline(self.deck.figures["actual"].values[self.series]))
        painter.setPen(QPen(palette().color("kelp"), 1.2))
        painter.setBrush(palette().color("kelp", 36))
        painter.drawRoundedRect(self.sight(), 3, 3)

    def _outline(self, values: Values) -> QPolygonF:
        """The whole history as a line; made anew only when it, or the room for it, has changed."""
        if self._size == self.size() and np.array_equal(self._values, values, equal_nan=True):
            return self._line
        self._size, self._values = self.size(), values
        x, y = thin(values, 0, self.width() - GUTTER - MARGIN)
        known = ~np.isnan(y)
        low, high = min(float(y[known].min(initial=0.0)), 0.0), float(y[known].max(initial=0.0))
        tall, room = self.height() - 6, max(high - low, 1e-9)
        at = zip(x[known].tolist(), y[known].tolist(), strict=True)
        points = [QPointF(self.place(a + 0.5), 3 + tall * (1 - (b - low) / room)) for a, b in at]
        self._line = QPolygonF(points)
        return self._line

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        x = event.position().x()
        inside = self.sight().left() <= x <= self.sight().right()
        self._grip = x - self.sight().left() if inside else self.sight().width() / 2
        self._look(x)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._grip is not None and event.buttons() & Qt.MouseButton.LeftButton:
            self._look(event.position().x())

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._grip = None

    def _look(self, x: float) -> None:
        assert self._grip is not None
        step = (self.width() - GUTTER - MARGIN) / max(self.scale.columns, 1)
        self.scale.settled = True
        self.scale.look((x - self._grip - GUTTER) / step, self.scale.count)
