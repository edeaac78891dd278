"""A curve of a chart. Wide steep ones are drawn piece by piece: an outline takes thirty times as long."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import pyqtgraph as pg
from PyQt6.QtCore import QLineF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from oat_tide.core.exact import Values
from oat_tide.desk.look.palette import palette

_MOST_DASHES = 20_000
_STEEP = 600
"""Pixels up and down in all from which on an outline takes long; in a gentle curve joints would be seen."""


class CurveItem(pg.PlotCurveItem):  # type: ignore[misc]  # pyqtgraph has no types
    """A curve that takes up the plot: to look for its ends at every step takes longer than to paint there.

    Attributes:
        whole: whether it is drawn in one stroke all the same, for a picture that keeps its lines.
    """

    def __init__(self) -> None:
        super().__init__()
        self.whole = False
        self._frame = QRectF()

    def fill(self, frame: QRectF) -> None:
        """Take up what is in sight, in columns and values."""
        if frame != self._frame:
            self.prepareGeometryChange()
            self._frame = frame

    def boundingRect(self) -> QRectF:
        return self._frame

    def paint(self, painter: QPainter, *rest: object) -> None:
        pen, look = self.opts["pen"], self.opts
        wide = pen.widthF() > 1 and pen.style() != Qt.PenStyle.NoPen
        square = pen.capStyle() == Qt.PenCapStyle.SquareCap
        outlined = look["fillLevel"] is not None or look["connect"] not in ("all", "finite")
        if self.whole or outlined or not wide or not square or not self._is_steep(painter):
            super().paint(painter, *rest)
        else:
            self._draw(painter, pen)

    def _is_steep(self, painter: QPainter) -> bool:
        if self.yData is None:
            return False
        return bool(np.nansum(np.abs(np.diff(self.yData))) * abs(painter.worldTransform().m22()) > _STEEP)

    def _draw(self, painter: QPainter, pen: QPen) -> None:
        to_pixels = painter.worldTransform()
        x = self.xData * to_pixels.m11() + to_pixels.dx()
        y = self.yData * to_pixels.m22() + to_pixels.dy()
        device = painter.device()
        assert device is not None
        width = pen.widthF() / device.devicePixelRatioF()
        dashes = np.array(pen.dashPattern()) * width
        if dashes.size and np.nansum(np.hypot(np.diff(x), np.diff(y))) > _MOST_DASHES * dashes.sum():
            dashes = dashes[:0]
        solid = QPen(_on_paper(pen.color()), pen.widthF())
        solid.setCosmetic(True)
        painter.save()
        painter.resetTransform()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(solid)
        if lines := [QLineF(*each) for each in segments(x, y, dashes)]:
            painter.drawLines(*lines)
        painter.restore()


def _on_paper(color: QColor) -> QColor:
    """A colour as it looks on the paper: where pieces meet, what shines through would be drawn twice."""
    paper, share = palette().color("paper"), color.alphaF()
    mixed = (
        share * one + (1 - share) * other for one, other in zip(_parts(color), _parts(paper), strict=True)
    )
    return QColor.fromRgbF(*mixed)


def _parts(color: QColor) -> tuple[float, float, float]:
    return color.redF(), color.greenF(), color.blueF()


def segments(x: Values, y: Values, dashes: Values) -> Iterator[list[float]]:
    """A broken line as straight pieces; where a point is not known, it is interrupted.

    Args:
        x, y: (points,) in pixels.
        dashes: lengths that are drawn and left out in turn; none for a solid line.

    Yields:
        x and y of the beginning and the end of each piece.
    """
    known = ~(np.isnan(x) | np.isnan(y))
    edges = np.flatnonzero(np.diff(np.concatenate(([False], known, [False]))))
    for start, stop in zip(edges[::2], edges[1::2], strict=True):
        ends = x[start:stop], y[start:stop]
        if dashes.size:
            yield from _dashed(*ends, dashes)
        else:
            yield from np.column_stack((ends[0][:-1], ends[1][:-1], ends[0][1:], ends[1][1:])).tolist()


def _dashed(x: Values, y: Values, dashes: Values) -> list[list[float]]:
    """The pieces of one unbroken run that lie in dashes: it is cut where dashes end and where it bends."""
    along = np.concatenate(([0.0], np.cumsum(np.hypot(np.diff(x), np.diff(y)))))
    ends = np.cumsum(dashes)
    turns = np.arange(int(along[-1] // ends[-1]) + 1) * ends[-1]
    cuts = np.unique(np.concatenate((along, (turns[:, None] + ends).ravel())))
    cuts = cuts[cuts <= along[-1]]
    middle = (cuts[1:] + cuts[:-1]) / 2 % ends[-1]
    drawn = np.searchsorted(ends, middle, side="right") % 2 == 0
    at_x, at_y = np.interp(cuts, along, x), np.interp(cuts, along, y)
    pieces: list[list[float]] = np.column_stack((at_x[:-1], at_y[:-1], at_x[1:], at_y[1:]))[drawn].tolist()
    return pieces
