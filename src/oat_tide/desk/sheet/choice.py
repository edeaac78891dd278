"""Something found, with what can become of it: a line of text, links that act at once, lines to write in."""

from __future__ import annotations

import functools
from collections.abc import Callable

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from oat_tide.core.language import phrase
from oat_tide.core.user_error import UserError
from oat_tide.desk.look.palette import palette
from oat_tide.desk.look.plain import Text, bare
from oat_tide.desk.look.text_line import TextLine
from oat_tide.stages.deck import Choice

_LEFT = 16
_MARKS = {"part": "quiet", "odd": "rust", "provisional": "ink", "ruled": "kelp", "aside": "rust"}
"""Part and provisional stand as rings, odd and set aside as dots, ruled as a ring with a dot in it."""
_A_LINE = 30
"""Letters of links that stand in one row."""


class ChoiceView(QWidget):
    """A choice as text, links and lines to write in.

    Signals:
        edited: (Edit).
        troubled: (str) what was written cannot be used.
        followed: (Ref) the working is asked for.
    """

    edited = pyqtSignal(object)
    troubled = pyqtSignal(str)
    followed = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.choice: Choice | None = None
        self.asked_again = False
        self.text = Text()
        self.text.setWordWrap(True)
        self.links: list[QPushButton] = []
        self.entries: list[TextLine] = []
        self.box = QVBoxLayout(self)
        self.box.setContentsMargins(_LEFT, 0, 0, 3)
        self.box.setSpacing(1)
        self.box.addWidget(self.text)

    def fill(self, choice: Choice) -> None:
        """Show a choice; the parts are made once, for choices of one shape share them."""
        first = self.choice is None
        self.choice, self.asked_again = choice, False
        if self.text.text() != choice.text:
            self.text.setText(choice.text)
        if first:
            self._build(choice)
        for link, (words, edit) in zip(self.links, choice.outcomes, strict=False):
            link.setText(bare(f"{words} ›"))
            link.setEnabled(edit is not None)
        for line, entry in zip(self.entries, choice.entries, strict=True):
            if line.text() != entry.now and not line.hasFocus():
                line.setText(entry.now)
        self.update()

    def _build(self, choice: Choice) -> None:
        row, room = self._row(), _A_LINE
        for place, (words, _) in enumerate(choice.outcomes):
            if len(words) > room:
                row.addStretch()
                row, room = self._row(), _A_LINE
            row.addWidget(self._link(f"{words} ›", functools.partial(self._take, place)))
            room -= len(words) + 3
        if choice.evidence is not None:
            if room < 10:
                row.addStretch()
                row = self._row()
            row.addWidget(self._link(phrase("Working ›"), self._follow))
        row.addStretch()
        for place, entry in enumerate(choice.entries):
            line = TextLine()
            line.setPlaceholderText(entry.title)
            line.setAccessibleName(entry.title)
            line.editingFinished.connect(functools.partial(self._written, place))
            self.entries.append(line)
            self.box.addWidget(line)

    def _row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(8)
        self.box.addLayout(row)
        return row

    def _link(self, text: str, act: Callable[[], None]) -> QPushButton:
        link = QPushButton(bare(text))
        link.setObjectName("link")
        link.setCursor(Qt.CursorShape.PointingHandCursor)
        link.clicked.connect(lambda checked: act())
        self.links.append(link)
        return link

    def _take(self, place: int) -> None:
        assert self.choice is not None
        edit = self.choice.outcomes[place][1]
        if place == 0 and self.choice.again and not self.asked_again:
            self.asked_again = True
            self.links[0].setText(bare(f"{self.choice.again} ›"))
            return
        if edit is not None:
            self.edited.emit(edit)

    def _follow(self) -> None:
        assert self.choice is not None
        self.followed.emit(self.choice.evidence)

    def _written(self, place: int) -> None:
        assert self.choice is not None
        entry, line = self.choice.entries[place], self.entries[place]
        if line.text() == entry.now:
            return
        try:
            self.edited.emit(entry.edit(line.text()))
        except UserError as error:
            self.troubled.emit(str(error))
            line.setText(entry.now)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.choice is None or self.choice.mark not in _MARKS:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        color = palette().color(_MARKS[self.choice.mark])
        filled = self.choice.mark in ("odd", "aside")
        painter.setPen(
            QPen(color, 1.3, Qt.PenStyle.DotLine if self.choice.mark == "part" else Qt.PenStyle.SolidLine)
        )
        painter.setBrush(color if filled else Qt.BrushStyle.NoBrush)
        painter.drawEllipse(2, 5, 8, 8)
        if self.choice.mark == "ruled":
            painter.setBrush(color)
            painter.drawEllipse(5, 8, 2, 2)
