"""The value axis of a chart."""

from __future__ import annotations

import math

import pyqtgraph as pg

from oat_tide.core.working.numerals import fixed
from oat_tide.desk.chart.scale import GUTTER
from oat_tide.desk.look.palette import SMALL, font, palette

_LEAST_APART = 20
"""Pixels from one figure to the next."""


class ValueAxis(pg.AxisItem):  # type: ignore[misc]  # pyqtgraph has no types
    """The value axis, in the marks of the locale.

    Attributes:
        told_in: what its figures are told in.
    """

    def __init__(self) -> None:
        super().__init__("left", maxTickLength=0)
        self.setStyle(tickTextOffset=8, autoExpandTextSpace=False, autoReduceTextSpace=False, maxTickLevel=0)
        self.setZValue(-10)
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

    def tell_in(self, size: float) -> None:
        """Have the figures told in thousands or millions."""
        if size != self.told_in:
            self.told_in = size
            self.picture = None
            self.update()

    def dress(self) -> None:
        """Take the colours of the palette."""
        self.setPen(pg.mkPen(palette().color("faint")))
        self.setTextPen(pg.mkPen(palette().color("quiet")))
        self.setTickFont(font(SMALL))
        self.setGrid(110)
