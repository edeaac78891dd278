"""What keys do in the tide table: walk, choose, select, copy, paste, write and zoom."""

from __future__ import annotations

from typing import Protocol

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent, QKeySequence

_ENTERED = Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space
_TAKEN_OUT = Qt.Key.Key_Delete, Qt.Key.Key_Backspace
_BEGINS_FIGURE = "0123456789.,-−"


class Walked(Protocol):
    """What keys need of a table."""

    @property
    def columns(self) -> int:
        """How many there are."""

    @property
    def in_sight(self) -> int:
        """How many of them are in sight."""

    @property
    def writable(self) -> bool:
        """Whether the cell that the keys stand on can be written in."""

    def walk(self, down: int, right: int) -> None:
        """Go so many rows and columns on."""

    def choose(self) -> None:
        """Choose the cell that the keys stand on."""

    def extend(self, by: int, second: bool) -> None:
        """Select on from where the keys began."""

    def copy(self) -> None:
        """Copy the selection, or this cell."""

    def paste(self) -> None:
        """Write what is copied, from this cell on."""

    def write(self, *lines: list[str]) -> None:
        """Write texts, from this cell on."""

    def begin(self, text: str | None) -> None:
        """Open this cell for writing, with a text or what stands there."""

    def zoom(self, factor: float) -> None:
        """Show fewer or more columns around this cell."""


def pressed(table: Walked, event: QKeyEvent) -> bool:
    """Do what a key is for; whether it is for anything."""
    key, text = Qt.Key(event.key()), event.text()
    steps = _moves(table).get(key)
    if steps is not None and not event.modifiers():
        table.walk(*steps)
    elif key in _ENTERED:
        table.choose()
    elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right) and _shifted(event):
        second = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        table.extend(-1 if key == Qt.Key.Key_Left else 1, second)
    elif event.matches(QKeySequence.StandardKey.Copy):
        table.copy()
    elif table.writable and _wrote(table, event, key, text):
        pass
    elif text in ("+", "=", "-"):
        table.zoom(0.8 if text != "-" else 1.25)
    else:
        return False
    return True


def _moves(table: Walked) -> dict[Qt.Key, tuple[int, int]]:
    page = table.in_sight
    return {
        Qt.Key.Key_Left: (0, -1),
        Qt.Key.Key_Right: (0, 1),
        Qt.Key.Key_Up: (-1, 0),
        Qt.Key.Key_Down: (1, 0),
        Qt.Key.Key_PageUp: (0, -page),
        Qt.Key.Key_PageDown: (0, page),
        Qt.Key.Key_Home: (0, -table.columns),
        Qt.Key.Key_End: (0, table.columns),
    }


def _wrote(table: Walked, event: QKeyEvent, key: Qt.Key, text: str) -> bool:
    """Keys that write in a cell."""
    if event.matches(QKeySequence.StandardKey.Paste):
        table.paste()
    elif key in _TAKEN_OUT:
        table.write([""])
    elif key == Qt.Key.Key_F2:
        table.begin(None)
    elif text and text in _BEGINS_FIGURE:
        table.begin(text)
    else:
        return False
    return True


def _shifted(event: QKeyEvent) -> bool:
    shift, control = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier
    return event.modifiers() in (shift, shift | control)


def pasted(held: str) -> list[list[str]]:
    """The lines of texts that sheets copy; a single column goes along the row, for periods run there."""
    lines = [line.split("\t") for line in held.strip("\r\n").replace("\r\n", "\n").split("\n")]
    if max(map(len, lines)) == 1:
        lines = [[line[0] for line in lines]]
    return lines if any(text.strip() for line in lines for text in line) else []
