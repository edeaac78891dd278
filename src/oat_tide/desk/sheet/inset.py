"""A small chart of the side sheet, with an axis of its own; a column of it can be picked."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from oat_tide.core.exact import Values, known
from oat_tide.core.working.number_format import significant
from oat_tide.desk.chart.drawing import STYLES
from oat_tide.desk.look.measured import advance, elided, written
from oat_tide.desk.look.palette import palette
from oat_tide.stages.deck import Curve, Deck, Figure, Inset, InsetMark

_HEAD, _FOOT, _TALL = 18, 16, 116
_SCALE = 40
"""Pixels at the right for the highest and lowest figure."""


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
        self._names: Sequence[str] = ()
        self._full: Sequence[str] = ()
        self._figures: list[tuple[Curve, Figure]] = []
        self._series = 0
        self._marks: tuple[InsetMark, ...] = ()
        self.setFixedHeight(_HEAD + _TALL + _FOOT)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def fill(self, inset: Inset, deck: Deck, series: int) -> None:
        """Show an inset of a deck."""
        axis = deck.axes[inset.axis]
        self.inset, self._series, self._marks = inset, series, inset.marks()
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
        self._scale(painter, low, high)
        for mark in self._marks:
            self._mark(painter, mark, low, high)
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

    def _scale(self, painter: QPainter, low: float, high: float) -> None:
        """The highest and the lowest figure, where they stand, and what a level line is."""
        painter.setPen(palette().color("quiet"))
        ends = ((high, 0.0), (low, float(_TALL - 15)))
        if any(known(figure.values[self._series]).any() for _, figure in self._figures):
            for value, down in ends:
                text = significant(value, 3)
                place = QRectF(self.width() - advance(text), _HEAD + down, advance(text), 15)
                painter.fillRect(place.adjusted(-2, 0, 0, 0), palette().color("sheet", 200))
                written(painter, place, 0, text)
        for curve, figure in self._figures:
            there = np.flatnonzero(known(figure.values[self._series]))
            if curve.label and there.size:
                y = self._y(float(figure.values[self._series, there[0]]), low, high)
                painter.setPen(palette().color(STYLES[curve.role].color))
                wide = advance(curve.label)
                place = QRectF(self.width() - wide - _SCALE, max(y - 16, _HEAD), wide, 15)
                painter.fillRect(place, palette().color("sheet", 200))
                written(painter, place, 0, curve.label)

    def _mark(self, painter: QPainter, mark: InsetMark, low: float, high: float) -> None:
        """A column that is pointed out: a full dot for what is in use, a ring for the best."""
        value = float(self._figures[mark.curve][1].values[self._series, mark.column])
        if not known(value):
            return
        at = QPointF(self.middle(mark.column), self._y(value, low, high))
        color = palette().color("kelp" if mark.kind == "now" else "ochre")
        painter.setPen(QPen(color, 2))
        painter.setBrush(color if mark.kind == "now" else palette().color("sheet"))
        painter.drawEllipse(at, 4.5, 4.5)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        wide = advance(mark.text, bold=True)
        left = min(max(at.x() - wide / 2, 0.0), self.width() - wide)
        # Above the curve where there is room, else below it.
        top = at.y() - 22 if at.y() - 22 > _HEAD else at.y() + 6
        place = QRectF(left, top, wide, 15)
        painter.fillRect(place, palette().color("sheet", 210))
        written(painter, place, 0, mark.text, bold=True)

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
