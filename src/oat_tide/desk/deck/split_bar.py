"""The bar between chart and table: it moves what height each has."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from oat_tide.core.language import phrase
from oat_tide.desk.look.palette import palette
from oat_tide.desk.look.plain import tip

_TALL, _GRIP = 8, 40
_KEY = 22
"""Pixels that a key moves it by."""


class SplitBar(QWidget):
    """Dragged, or moved by the up and down keys; a double click gives the usual heights.

    Signals:
        moved: (pixels) down from where it stands.
        rested: a drag has ended, or a key was pressed.
        reset: the usual heights are wanted.
    """

    moved = pyqtSignal(int)
    rested = pyqtSignal()
    reset = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self._from: float | None = None
        self.setFixedHeight(_TALL)
        self.setCursor(Qt.CursorShape.SplitVCursor)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName(phrase("Height of the chart"))
        tip(self, phrase("Drag for a higher chart or table; double-click for the usual heights"))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(QRectF(8, 0, self.width() - 16, self.height()), palette().color("mist"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(
            palette().color("kelp" if self.hasFocus() else "quiet", 255 if self.hasFocus() else 140)
        )
        grip = QRectF((self.width() - _GRIP) / 2, _TALL / 2 - 2, _GRIP, 4)
        painter.drawRoundedRect(grip, 2, 2)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self._from = event.globalPosition().y()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._from is not None:
            by = round(event.globalPosition().y() - self._from)
            if by:
                self._from += by
                self.moved.emit(by)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._from is not None:
            self._from = None
            self.rested.emit()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        self._from = None
        self.reset.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        by = {Qt.Key.Key_Up: -_KEY, Qt.Key.Key_Down: _KEY}.get(Qt.Key(event.key()))
        if by is None:
            super().keyPressEvent(event)
            return
        self.moved.emit(by)
        self.rested.emit()
