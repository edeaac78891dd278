"""One chart of a band, laid out to the pixel of the time scale."""

from __future__ import annotations

import pyqtgraph as pg
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGraphicsGridLayout, QGraphicsWidget, QSizePolicy

from oat_tide.desk.chart.drawing import Drawn
from oat_tide.desk.chart.handles import TOP
from oat_tide.desk.chart.value_axis import ValueAxis
from oat_tide.desk.look.palette import palette
from oat_tide.stages.deck import Band

_MOST_KEPT = 24


class Plot(pg.GraphicsView):  # type: ignore[misc]  # pyqtgraph has no types
    """One band's plot, laid out to the pixel of the time scale; the overlay takes the mouse.

    It is put together from parts: what pyqtgraph offers as a plot brings menus and axes that are never
    shown, and takes ten times as long to make.
    """

    def __init__(self) -> None:
        super().__init__()
        self.values, self.view = ValueAxis(), pg.ViewBox(enableMenu=False, enableMouse=False)
        self.view.disableAutoRange()
        self._ground = QGraphicsWidget()
        self._layout = layout = QGraphicsGridLayout(self._ground)
        layout.setContentsMargins(0, TOP, 0, 0)
        layout.setSpacing(0)
        layout.setColumnStretchFactor(1, 1)
        layout.addItem(self.values, 0, 0)
        layout.addItem(self.view, 0, 1)
        self.values.linkToView(self.view)
        self.setCentralItem(self._ground)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setFrameShape(self.Shape.NoFrame)
        # The bands say when they are to be painted: each by itself would have all above it painted again.
        self.setViewportUpdateMode(self.ViewportUpdateMode.NoViewportUpdate)
        # The keys stand in the table below; the chart is no stop of its own.
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.viewport().setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.drawn: list[Drawn] = []
        self._kept: dict[object, list[Drawn]] = {}
        self.zero = pg.InfiniteLine(0.0, 0.0)
        self.view.addItem(self.zero, ignoreBounds=True)
        self.band: Band | None = None
        self.sees = ((0.0, 1.0), (0.0, 1.0))

    def dress(self) -> None:
        """Take the colours of the palette."""
        self.setBackground(palette().color("paper"))
        self.zero.setPen(pg.mkPen(palette().color("quiet"), width=1))
        self.values.dress()

    def leave(self, names: int) -> None:
        """Leave room for names at the right."""
        self._layout.setContentsMargins(0, TOP, names, 0)

    def look(self, across: tuple[float, float], up: tuple[float, float]) -> None:
        """Bring a rectangle of columns and values in sight."""
        if self.sees != (across, up):
            self.sees = across, up
            self.view.setRange(xRange=across, yRange=up, padding=0, disableAutoRange=False)

    def take(self, band: Band) -> None:
        """Paint another band; the items are kept when only its figures have changed."""
        if self.band is None or _painted(self.band) != _painted(band):
            for each in self.drawn:
                each.show_items(False)
            self.drawn = self._drawn_for(band)
            for each in self.drawn:
                each.show_items(True)
        if self.band is None or (self.band.zero_line, self.band.zero) != (band.zero_line, band.zero):
            self.zero.setVisible(band.zero_line)
            self.zero.setValue(band.zero)
        self.band = band

    def _drawn_for(self, band: Band) -> list[Drawn]:
        """The items of these curves: making them takes longer than a frame, so those made are kept."""
        look = _painted(band)
        if look not in self._kept:
            if len(self._kept) >= _MOST_KEPT:
                for each in self._kept.pop(next(iter(self._kept))):
                    each.remove()
            in_columns = band.kind == "columns"
            self._kept[look] = [Drawn(self.view, curve, in_columns) for curve in band.curves]
        return self._kept[look]


def _painted(band: Band) -> object:
    """What decides how a band is painted: a window that slides changes the names of its curves alone."""
    return tuple(curve.painted for curve in band.curves), band.kind
