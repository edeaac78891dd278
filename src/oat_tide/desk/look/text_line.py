"""A line to type in that stays one line, and leaves undo to the plan once it has none of its own."""

from __future__ import annotations

from PyQt6.QtCore import QEvent
from PyQt6.QtGui import QKeyEvent, QKeySequence
from PyQt6.QtWidgets import QLineEdit

from oat_tide.core.user_error import on_one_line


class TextLine(QLineEdit):
    """A plain line edit, but for Undo and Redo, and for what is pasted with ends of lines in it."""

    def __init__(self, text: str = "") -> None:
        super().__init__(text)
        self.textChanged.connect(self._keep_to_one_line)

    def _keep_to_one_line(self, text: str) -> None:
        if not text.isprintable():
            at = self.cursorPosition()
            self.setText(on_one_line(text))
            self.setCursorPosition(at)

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride:
            undo, redo = QKeySequence.StandardKey.Undo, QKeySequence.StandardKey.Redo
            spent = (event.matches(undo) and not self.isUndoAvailable()) or (
                event.matches(redo) and not self.isRedoAvailable()
            )
            if spent:
                event.ignore()
                return False
        return super().event(event)
