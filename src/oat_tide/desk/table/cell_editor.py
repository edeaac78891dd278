"""The line that a cell of the tide table is written in."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent
from PyQt6.QtWidgets import QLineEdit, QWidget

from oat_tide.desk.look.palette import SMALL, font

_LEAST = 58


class CellEditor(QLineEdit):
    """Stands over a cell while it is written in. Enter writes, Escape leaves it as it was.

    Signals:
        done: (text) what was written.
        left: nothing was.
    """

    done = pyqtSignal(str)
    left = pyqtSignal()

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setFont(font(SMALL))
        self.setAlignment(Qt.AlignmentFlag.AlignHCenter)
        self.hide()

    def begin(self, place: QRectF, text: str, name: str) -> None:
        """Open over a cell, with what was typed first or stands there."""
        wide = max(place.width(), _LEAST)
        self.setGeometry(round(place.center().x() - wide / 2), round(place.top()) - 1, round(wide), 24)
        self.setAccessibleName(name)
        self.setText(text)
        self.show()
        self.setFocus()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._close()
            self.done.emit(self.text())
        elif event.key() == Qt.Key.Key_Escape:
            self._close()
            self.left.emit()
        else:
            super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        if self.isVisible():
            # What was typed is not lost by pressing elsewhere.
            self._close()
            self.done.emit(self.text())

    def _close(self) -> None:
        self.hide()
        parent = self.parentWidget()
        if parent is not None:
            parent.setFocus()
