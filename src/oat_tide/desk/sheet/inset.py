"""A small chart of the side sheet, with an axis of its own; a column of it can be picked."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from oat_tide.core.exact import Values, known
from oat_tide.core.working.numerals import significant
from oat_tide.desk.chart.drawing import STYLES
from oat_tide.desk.look.measured import advance, elided, written
from oat_tide.desk.look.palette import palette
from oat_tide.stages.deck import Curve, Deck, Figure, Inset

_HEAD, _FOOT, _TALL = 18, 16, 116


class InsetView(QWidget):
    """The title, the curves over the names of the columns, and what is pointed at.

    Attributes:
        inset: what is shown.
        hovered: the column pointed at, by the pointer or the keys; below 0 for none.

    Signals:
        edited: (Edit) a column was picked.
        pointed: (Figure, column) or (None, -1): whose working is to be shown.
    """

    edited = pyqtSignal(object)
    pointed = pyqtSignal(object, int)

    def __init__(self) -> None:
        super().__init__()
        self.inset: Inset | None = None
        self.hovered = -1
        self._names: tuple[str, ...] = ()
        self._full: tuple[str, ...] = ()
        self._figures: list[tuple[Curve, Figure]] = []
        self._series = 0
        self.setFixedHeight(_HEAD + _TALL + _FOOT)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def fill(self, inset: Inset, deck: Deck, series: int) -> None:
        """Show an inset of a deck."""
        axis = deck.axes[inset.axis]
        self.inset, self._series = inset, series
        self._names, self._full = axis.brief, axis.full
        self._figures = [(curve, deck.figures[curve.figure]) for curve in inset.curves]
        self.hovered = min(self.hovered, len(self._full) - 1)
        self._tell()
        self.update()

    def middle(self, column: int) -> float:
        """The middle of a column, in pixels."""
        return (column + 0.5) * self.width() / max(len(self._full), 1)

    def said(self, column: int) -> str:
        """A column in words: its name and the figures that stand there."""
        values = (float(figure.values[self._series, column]) for _, figure in self._figures)
        return f"{self._full[column]}: " + ", ".join(
            significant(value, 4) if known(value) else "–" for value in values
        )

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.inset is None:
            return
        painter = QPainter(self)
        painter.setPen(palette().color("ink"))
        told = self.said(self.hovered) if self.hovered >= 0 else ""
        written(painter, QRectF(0, 0, self.width(), _HEAD), 1, told)
        room = self.width() - advance(told) - 8
        written(painter, QRectF(0, 0, self.width(), _HEAD), 0, elided(self.inset.title, room))
        self._shade(painter, self.inset.at, 60)
        self._shade(painter, self.hovered, 30)
        low, high = self._range()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for curve, figure in self._figures:
            self._draw(painter, curve, figure.values[self._series], low, high)
        painter.setPen(palette().color("quiet"))
        self._foot(painter)
        if self.hasFocus():
            painter.setPen(QPen(palette().color("kelp"), 1, Qt.PenStyle.DashLine))
            painter.drawRect(QRectF(0.5, _HEAD, self.width() - 1, _TALL))

    def _shade(self, painter: QPainter, column: int, strength: int) -> None:
        if column >= 0:
            wide = self.width() / max(len(self._full), 1)
            painter.fillRect(QRectF(column * wide, _HEAD, wide, _TALL), palette().color("kelp", strength))

    def _range(self) -> tuple[float, float]:
        """From the least to the greatest figure drawn; what stands stands from zero."""
        found = [figure.values[self._series] for _, figure in self._figures]
        if any(STYLES[curve.role].stands for curve, _ in self._figures):
            found.append(np.zeros(1))
        low = float(np.fmin.reduce(np.concatenate(found), initial=np.nan)) if found else np.nan
        high = float(np.fmax.reduce(np.concatenate(found), initial=np.nan)) if found else np.nan
        return (low, high) if high > low else (low - 1, low + 1)

    def _y(self, value: float, low: float, high: float) -> float:
        return _HEAD + 6 + (high - value) / (high - low) * (_TALL - 12)

    def _draw(self, painter: QPainter, curve: Curve, values: Values, low: float, high: float) -> None:
        style, there = STYLES[curve.role], np.flatnonzero(known(values))
        color = palette().color(style.color, round(255 * curve.shade))
        if style.stands:
            wide, foot = max(self.width() / len(values) * 0.7, 1.0), self._y(0.0, low, high)
            for column in there.tolist():
                top = self._y(float(values[column]), low, high)
                bar = QRectF(self.middle(column) - wide / 2, min(top, foot), wide, abs(foot - top))
                painter.fillRect(bar, palette().color(style.color, 200))
            return
        points = [QPointF(self.middle(at), self._y(float(values[at]), low, high)) for at in there.tolist()]
        painter.setPen(QPen(color, style.width, style.line))
        painter.drawPolyline(QPolygonF(points))
        if style.dots:
            painter.setBrush(color)
            for point in points:
                painter.drawEllipse(point, 2.2, 2.2)
            painter.setBrush(Qt.BrushStyle.NoBrush)

    def _foot(self, painter: QPainter) -> None:
        """The names of the columns, as many as have room."""
        taken = -4.0
        for column, name in enumerate(self._names):
            wide = advance(name)
            left = min(max(self.middle(column) - wide / 2, 0.0), self.width() - wide)
            if name and left >= taken + 4:
                written(painter, QRectF(left, _HEAD + _TALL, wide, _FOOT), 0, name)
                taken = left + wide

    def _point(self, column: int) -> None:
        if column != self.hovered:
            self.hovered = column
            figure = self._figures[-1][1] if self._figures and column >= 0 else None
            self.pointed.emit(figure, column)
            self._tell()
            self.update()

    def _tell(self) -> None:
        """What a screen reader says of it."""
        title = self.inset.title if self.inset else ""
        self.setAccessibleName(f"{title}, {self.said(self.hovered)}" if self.hovered >= 0 else title)

    def _pick(self) -> None:
        if self.inset is None or self.inset.pick is None or self.hovered < 0:
            return
        edit = self.inset.pick(self.hovered)
        if edit is not None:
            self.edited.emit(edit)

    def _column(self, event: QMouseEvent) -> int:
        place = int(event.position().x() / self.width() * len(self._full))
        return min(max(place, 0), len(self._full) - 1)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self._point(self._column(event))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self._point(self._column(event))
        if event.button() == Qt.MouseButton.LeftButton:
            self._pick()

    def leaveEvent(self, event: object) -> None:
        self._point(-1)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        key = event.key()
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            step = 1 if key == Qt.Key.Key_Right else -1
            self._point(min(max(self.hovered + step, 0), len(self._full) - 1))
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self._pick()
        else:
            super().keyPressEvent(event)
