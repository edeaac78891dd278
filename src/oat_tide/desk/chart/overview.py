"""The overview: the whole history in a strip, with the stretch in sight as a window that can be dragged."""

from __future__ import annotations

from typing import TypeVar

import numpy as np
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QPolygonF
from PyQt6.QtWidgets import QWidget
from pyqtgraph.functions import arrayToQPolygonF

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.series.panel import INCOMPLETE
from oat_tide.desk.chart.drawing import DENSE, STYLES, thin
from oat_tide.desk.chart.scale import GUTTER, TimeScale
from oat_tide.desk.look.palette import palette
from oat_tide.desk.look.plain import tip
from oat_tide.stages.deck import Curve, Deck

_LOW, _TALL = 26, 56
"""Pixels; high enough to judge a fit where there is one."""
_SOLID = Qt.PenStyle.SolidLine
_JUDGED = ("fitted", "projected")
_IN_COLOUR = ("smoothed", "weighted", "fitted", "projected", "interval", "average", "scenario")


_Place = TypeVar("_Place", float, Values)


class Overview(QWidget):
    """What the chart shows, over all of the history. Hidden while all of it is in sight.

    Attributes:
        wanted: whether there may be one at all.
    """

    def __init__(self, scale: TimeScale) -> None:
        super().__init__()
        self.scale = scale
        self.deck: Deck | None = None
        self.series = 0
        self._grip: float | None = None
        self.wanted = True
        self._painted: QPixmap | None = None
        self._painted_for: object = None
        self._kept: dict[object, tuple[object, Values, QPolygonF]] = {}
        self.setFixedHeight(_LOW)
        self.setAccessibleName(phrase("Overview of the whole history"))
        tip(self, phrase("The whole history; drag the window over it"))
        scale.moved.connect(self._moved)

    def show_deck(self, deck: Deck, series: int) -> None:
        """Show the whole of a deck."""
        if self.deck is None or self.deck.stage != deck.stage:
            self._kept.clear()
        self.deck, self.series = deck, series
        fitted = any(curve.role in _JUDGED for band in deck.bands[:1] for curve in band.curves)
        self.setFixedHeight(_TALL if fitted else _LOW)
        self._moved()

    def _moved(self) -> None:
        narrowed = self.scale.count < self.scale.columns - 0.5
        in_time = self.deck is not None and self.deck.axis is None and self.deck.main is None
        self.setVisible(self.wanted and in_time and narrowed)
        self.update()

    def place(self, column: _Place) -> _Place:
        """The pixel of a column's left edge, or of many."""
        return GUTTER + column * self.scale.across / max(self.scale.columns, 1)

    def sight(self) -> QRectF:
        """Return the rectangle of the periods in sight."""
        left, right = self.place(self.scale.start), self.place(self.scale.start + self.scale.count)
        return QRectF(left, 2, right - left, self.height() - 4)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.deck is None or not self.deck.bands:
            return
        painter = QPainter(self)
        painter.drawPixmap(0, 0, self._picture())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(palette().color("kelp"), 1.2))
        painter.setBrush(palette().color("kelp", 36))
        painter.drawRoundedRect(self.sight(), 3, 3)

    def _picture(self) -> QPixmap:
        """The curves, painted anew only when one has changed: the window over them moves more often."""
        assert self.deck is not None
        curves, ratio = self.deck.bands[0].curves, self.devicePixelRatioF()
        low, high = self._extent(curves)
        outlines = tuple(self._outline(curve, low, high) for curve in curves)
        showing = (outlines, self.size(), ratio, palette())
        if self._painted is None or self._painted_for != showing:
            self._painted_for = showing
            self._painted = QPixmap(self.size() * ratio)
            self._painted.setDevicePixelRatio(ratio)
            self._painted.fill(Qt.GlobalColor.transparent)
            painter = QPainter(self._painted)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            for curve, outline in zip(curves, outlines, strict=True):
                self._paint(painter, curve, outline)
            painter.end()
        return self._painted

    def _paint(self, painter: QPainter, curve: Curve, outline: QPolygonF) -> None:
        style = STYLES[curve.role]
        if curve.upto and curve.role != "layer":
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(palette().color(style.color, 46))
            painter.drawPolygon(outline)
            return
        # A pen wider than a pixel takes many times as long on a curve of thousands of points.
        color = style.color if curve.role in _IN_COLOUR else "quiet"
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, len(outline) < DENSE)
        painter.setPen(QPen(palette().color(color), 1.0, style.line if len(outline) < DENSE else _SOLID))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(outline)

    def _values(self, name: str) -> Values:
        assert self.deck is not None
        values: Values = self.deck.figures[name].values[self.series]
        return values

    def _extent(self, curves: tuple[Curve, ...]) -> tuple[float, float]:
        """The lowest and the highest; bars and layers stand on zero."""
        names = {name for curve in curves for name in (curve.figure, curve.upto) if name}
        rows = [self._values(name) for name in names]
        low = min((float(np.fmin.reduce(row, initial=np.nan)) for row in rows), default=np.nan)
        high = max((float(np.fmax.reduce(row, initial=np.nan)) for row in rows), default=np.nan)
        if any(STYLES[curve.role].stands or curve.role == "layer" for curve in curves):
            return float(np.fmin(low, 0.0)), float(np.fmax(high, 0.0))
        return low, high

    def _outline(self, curve: Curve, low: float, high: float) -> QPolygonF:
        """A whole curve; made anew only when it, or the room for it, has changed."""
        lower, upper = self._values(curve.figure), self._values(curve.upto or curve.figure)
        if STYLES[curve.role].dots and self.deck is not None:
            # No line leads from whole periods to a part one.
            lower = np.where(self.deck.flags[self.series, : len(lower)] & INCOMPLETE > 0, np.nan, lower)
        if curve.ahead and self.deck is not None:
            lower = np.where(np.arange(len(lower)) < self.deck.past, np.nan, lower)
        shape = (self.width(), self.height(), low, high)
        kept = self._kept.get(curve.painted)
        if kept and kept[0] == shape and np.array_equal(kept[1], lower, equal_nan=True):
            return kept[2]
        x, y = self._line(lower, low, high)
        if curve.upto and curve.role != "layer":
            right, top = self._line(upper, low, high)
            x, y = np.concatenate((x, right[::-1])), np.concatenate((y, top[::-1]))
        self._kept[curve.painted] = shape, lower, arrayToQPolygonF(x, y)
        return self._kept[curve.painted][2]

    def _line(self, values: Values, low: float, high: float) -> tuple[Values, Values]:
        """The pixels that a row leads through."""
        x, y = thin(values, 0, self.scale.across)
        known = ~np.isnan(y)
        tall, room = self.height() - 8, max(high - low, 1e-9)
        return self.place(x[known] + 0.5), 4 + tall * (1 - (y[known] - low) / room)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        x = event.position().x()
        inside = self.sight().left() <= x <= self.sight().right()
        self._grip = x - self.sight().left() if inside else self.sight().width() / 2
        self._look(x)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._grip is not None and event.buttons() & Qt.MouseButton.LeftButton:
            self._look(event.position().x())

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._grip = None

    def _look(self, x: float) -> None:
        assert self._grip is not None
        step = self.scale.across / max(self.scale.columns, 1)
        self.scale.settled = True
        self.scale.look((x - self._grip - GUTTER) / step, self.scale.count)
