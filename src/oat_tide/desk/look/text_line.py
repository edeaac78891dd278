"""A line to type in that leaves undo to the plan once it has nothing of its own to take back."""

from __future__ import annotations

from PyQt6.QtCore import QEvent
from PyQt6.QtGui import QKeyEvent, QKeySequence
from PyQt6.QtWidgets import QLineEdit


class TextLine(QLineEdit):
    """A plain line edit, but for Undo and Redo."""

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
