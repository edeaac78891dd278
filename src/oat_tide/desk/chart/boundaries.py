"""Lines through all bands at the end of a column: an entry a role."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from oat_tide.desk.chart.handles import TOP
from oat_tide.desk.chart.scale import GUTTER, TimeScale
from oat_tide.desk.look.measured import advance, written
from oat_tide.desk.look.palette import palette
from oat_tide.stages.deck import Boundary

BOUNDARIES: dict[str, tuple[str, Qt.PenStyle]] = {
    "projected as of": ("heather", Qt.PenStyle.DashLine),
    "actuals to": ("ink", Qt.PenStyle.DotLine),
}
"""The colour and line of each role."""


def paint_boundaries(
    painter: QPainter, scale: TimeScale, height: float, boundaries: Sequence[Boundary]
) -> None:
    """Each with its words at its left, one below the other so that none stands on another."""
    for place, boundary in enumerate(boundaries):
        color, line = BOUNDARIES[boundary.role]
        x = scale.edge(boundary.column + 1)
        painter.setPen(QPen(palette().color(color), 1.4, line))
        painter.drawLine(QPointF(x, TOP), QPointF(x, height))
        wide = advance(boundary.says)
        at = QRectF(max(x - wide - 6, float(GUTTER)), TOP + 2 + 15 * place, wide, 14)
        painter.fillRect(at.adjusted(-2, 0, 2, 0), palette().color("paper", 200))
        written(painter, at, 0, boundary.says)
