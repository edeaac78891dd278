"""Text of the data is shown as it stands: never as markup, never as a key to press."""

from __future__ import annotations

from collections.abc import Iterable
from html import escape

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtWidgets import QLabel, QWidget


class Text(QLabel):
    """A label whose text is plain, whatever stands in it."""

    def __init__(self, text: str = "") -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(text)


def tip(widget: QWidget, text: str) -> None:
    """Say something where a widget is pointed at."""
    told = f"<span>{escape(text)}</span>" if "<" in text or "&" in text else text
    if widget.toolTip() != told:
        widget.setToolTip(told)


def bare(text: str) -> str:
    """Text for a button, box or menu, in which & would underline a letter."""
    return text.replace("&", "&&")


def stops(after: QWidget | None, widgets: Iterable[QWidget]) -> None:
    """Have the Tab key come to widgets after another, though they were made later than what follows it."""
    for widget in widgets:
        if after is not None:
            QWidget.setTabOrder(after, widget)
        after = widget


class _Still(QObject):
    """Lets the wheel pass by a control."""

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.Wheel:
            event.ignore()
            return True
        return super().eventFilter(watched, event)


_STILL = _Still()


def still(control: QWidget) -> None:
    """The wheel over a control scrolls what it stands in, and never changes it."""
    control.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
    control.installEventFilter(_STILL)
