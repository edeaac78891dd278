"""A fact of the side sheet: a figure of one value a series."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QEnterEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from oat_tide.core.exact import known
from oat_tide.core.working.number_format import fixed, full, scientific, significant
from oat_tide.desk.look.measured import advance, elided, written
from oat_tide.desk.look.palette import TEXT, palette
from oat_tide.stages.deck import Figure

_TINY = 1e-4
"""Below that a figure is told by its power of ten."""
_LINE, _APART = 20, 8
"""Pixels of a line, and those from the words of a fact to its figure."""


class FactRow(QWidget):
    """A fact with its figure; pointed at it shows its working, clicked or entered it keeps it.

    It is painted rather than laid out, for it changes with every frame of a drag.

    Attributes:
        text: the figure as it is written.

    Signals:
        pointed: (Figure) or (None).
        chosen: (Figure).
    """

    pointed = pyqtSignal(object)
    chosen = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.figure: Figure | None = None
        self.text = ""
        self.setFixedHeight(_LINE)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def fill(self, figure: Figure, series: int) -> None:
        """Show a fact."""
        text, before = fact_text(figure, series), self.figure
        self.figure = figure
        if before is None or before.label != figure.label:
            self.setFixedHeight(_LINE)
        if before is None or (figure.label, text) != (before.label, self.text):
            self.text = text
            self.setAccessibleName(f"{figure.label}: {text}")
            self._take_room()
            self.update()

    def _take_room(self) -> None:
        """Two lines where words and figure do not fit beside each other; they stay two while the words do."""
        if self.figure is not None:
            needed = advance(self.figure.label, TEXT) + _APART + advance(self.text, TEXT)
            if needed > self.width() and self.height() == _LINE:
                self.setFixedHeight(2 * _LINE - 2)

    def resizeEvent(self, event: object) -> None:
        self._take_room()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.figure is None:
            return
        painter = QPainter(self)
        painter.setPen(palette().color("ink"))
        place = QRectF(self.rect())
        first, last = place, place
        room = self.width() - advance(self.text, TEXT) - _APART
        if self.height() > _LINE:
            first, last = (
                place.adjusted(0, 0, 0, -place.height() / 2),
                place.adjusted(0, place.height() / 2, 0, 0),
            )
            room = self.width()
        written(painter, last, 1, self.text, TEXT)
        written(painter, first, 0, elided(self.figure.label, room, TEXT), TEXT)
        if self.hasFocus():
            painter.setPen(QPen(palette().color("kelp"), 1, Qt.PenStyle.DashLine))
            painter.drawRect(place.adjusted(0, 0, -1, -1))

    def enterEvent(self, event: QEnterEvent | None) -> None:
        self.pointed.emit(self.figure)

    def leaveEvent(self, event: object) -> None:
        self.pointed.emit(None)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.chosen.emit(self.figure)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.chosen.emit(self.figure)
        else:
            super().keyPressEvent(event)


def fact_text(figure: Figure, series: int) -> str:
    """A fact as it is written: whole where it is or asks for it, else to four significant figures."""
    value = float(figure.values[series, 0])
    if not known(value):
        return "–"
    if figure.unit == "%":
        return f"{fixed(value, 1, plus=figure.signed)} %"
    if figure.exact:
        return full(value)
    if value == round(value):
        return fixed(value, 0, plus=figure.signed)
    if abs(value) < _TINY:
        return scientific(value)
    return significant(value, 4, plus=figure.signed)
