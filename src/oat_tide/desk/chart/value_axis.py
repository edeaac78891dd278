"""The value axis of a chart."""

from __future__ import annotations

import math

import pyqtgraph as pg
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter

from oat_tide.core.working.number_format import fixed
from oat_tide.desk.chart.scale import GUTTER
from oat_tide.desk.look.palette import SMALL, font, palette

_LEAST_APART = 20
"""Pixels from one figure to the next."""
_GRID = 110
"""How strong the lines across the chart are, of 255."""
_OFF, _TALL, _SPARE = 8, 20, 3
"""Pixels from a figure to the chart, those that it stands within, and those below it among them."""


class ValueAxis(pg.AxisItem):  # type: ignore[misc]  # pyqtgraph has no types
    """The value axis, in the marks of the locale.

    Attributes:
        told_in: what its figures are told in.
    """

    def __init__(self) -> None:
        super().__init__("left", maxTickLength=0)
        self.setStyle(autoExpandTextSpace=False, autoReduceTextSpace=False, maxTickLevel=0)
        # Its lines lie behind what is drawn.
        self.setZValue(-1000)
        self.setCacheMode(self.CacheMode.DeviceCoordinateCache)
        self.setWidth(GUTTER)
        self.told_in = 1.0

    def tickSpacing(self, low: float, high: float, pixels: float) -> list[tuple[float, float]]:
        """Steps so far apart that no figure stands on another, in a low chart too."""
        spacing, offset = super().tickSpacing(low, high, pixels)[0]
        apart = pixels * spacing / (high - low) if high > low else _LEAST_APART
        wider = next((by for by in (1, 2, 5, 10) if apart * by >= _LEAST_APART), 20)
        return [(spacing * wider, offset)]

    def tickStrings(self, values: list[float], scale: float, spacing: float) -> list[str]:
        spacing /= self.told_in
        decimals = max(0, -math.floor(math.log10(spacing))) if spacing > 0 else 0
        return [fixed(value / self.told_in, decimals) for value in values]

    def paint(self, painter: QPainter, *_: object) -> None:
        """Figures and lines across the chart: in a twentieth of the time that it takes in general."""
        low, high = self.range
        room = self.mapRectFromParent(self.geometry())
        view = self.linkedView()
        right = view.mapRectToItem(self, view.boundingRect()).right()
        painter.setPen(palette().color("faint"))
        painter.drawLine(QPointF(room.right(), room.top()), QPointF(room.right(), room.bottom()))
        tall = room.height()
        if not high > low or tall <= 0:
            return
        ((spacing, values),) = self.tickValues(low, high, tall)
        places = [room.bottom() - tall * (value - low) / (high - low) for value in values]
        painter.setPen(palette().color("faint", _GRID))
        for y in places:
            painter.drawLine(QPointF(room.right(), y), QPointF(right, y))
        painter.setPen(palette().color("quiet"))
        painter.setFont(font(SMALL))
        for y, said in zip(places, self.tickStrings(values, 1.0, spacing), strict=True):
            # As wide as it may be, and no lower than the chart: what is written is cut by nothing.
            top = max(min(y - _TALL / 2, room.bottom() - _TALL + _SPARE), room.top() - _SPARE)
            place = QRectF(room.left(), top, room.width() - _OFF, _TALL)
            painter.drawText(place, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, said)

    def tell_in(self, size: float) -> None:
        """Have the figures told in thousands or millions."""
        if size != self.told_in:
            self.told_in = size
            self.update()

    def dress(self) -> None:
        """Take the colours of the palette."""
        self.setGrid(_GRID)
        self.update()
