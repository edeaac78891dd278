"""The weights of a window, drawn one bar a period; a bar is dragged to its weight."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from oat_tide.core.language import phrase
from oat_tide.desk.look.palette import SMALL, font, palette
from oat_tide.desk.look.plain import tip

_TALL, _FOOT = 46, 15


class WeightStrip(QWidget):
    """A bar a weight, to be dragged.

    Signals:
        turned: (weights, newest first) a bar has been dragged.
        rested: the drag has ended.
    """

    turned = pyqtSignal(object)
    rested = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.weights: tuple[float, ...] = (1.0,)
        self.newest_first = False
        self._top = 1.0
        self.setFixedHeight(_TALL + _FOOT)
        self.setAccessibleName(phrase("Weights as bars"))
        tip(self, phrase("Drag a bar to change its weight"))

    def fill(self, weights: tuple[float, ...], newest_first: bool) -> None:
        """Show weights, given newest first."""
        self.weights, self.newest_first = weights, newest_first
        self._top = max(*weights, 1.0) * 1.1
        self.update()

    def _age(self, place: int) -> int:
        return place if self.newest_first else len(self.weights) - 1 - place

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        each = self.width() / len(self.weights)
        painter.fillRect(QRectF(0, _TALL, self.width(), 1), palette().color("quiet"))
        for place in range(len(self.weights)):
            tall = (_TALL - 2) * self.weights[self._age(place)] / self._top
            gap = 1 if each > 4 else 0
            painter.fillRect(
                QRectF(place * each + gap, _TALL - tall, each - 2 * gap, tall), palette().color("kelp", 190)
            )
        painter.setFont(font(SMALL))
        painter.setPen(palette().color("quiet"))
        ends = ("newest", "oldest") if self.newest_first else ("oldest", "newest")
        foot = QRectF(0, _TALL + 1, self.width(), _FOOT)
        painter.drawText(foot, Qt.AlignmentFlag.AlignLeft, ends[0])
        painter.drawText(foot, Qt.AlignmentFlag.AlignRight, ends[1])

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self._drag(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        self._drag(event)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self.rested.emit()

    def _drag(self, event: QMouseEvent | None) -> None:
        assert event is not None
        place = min(
            max(int(event.position().x() / self.width() * len(self.weights)), 0), len(self.weights) - 1
        )
        share = (_TALL - event.position().y()) / (_TALL - 2)
        weight = min(max(round(share * self._top * 10) / 10, 0.0), 1000.0)
        age = self._age(place)
        weights = (*self.weights[:age], weight, *self.weights[age + 1 :])
        if sum(weights) > 0:
            self.turned.emit(weights)
