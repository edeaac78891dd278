"""The bands: charts over the tide table, on the same time axis."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QRectF, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from oat_tide.core.language import phrase
from oat_tide.desk.chart.drawing import in_steps
from oat_tide.desk.chart.handles import TOP
from oat_tide.desk.chart.overlay import Overlay
from oat_tide.desk.chart.plot import Plot
from oat_tide.desk.chart.scale import GUTTER, TimeScale
from oat_tide.stages.deck import Band, Deck

_USUAL = 3
"""Bands that a deck has at the most, usually."""
_GRID = 4
"""Pixels that the scales of bands of one size move by."""


class BandView(QWidget):
    """Paints all the bands of a deck.

    Attributes:
        sizes: what the figures of each unit are told in.
        columns: whether the actual stands as columns where it is drawn over time.

    Signals:
        edited: (Edit) a handle is being dragged.
        rested: a drag has ended.
    """

    edited = pyqtSignal(object)
    rested = pyqtSignal()

    def __init__(self, scale: TimeScale) -> None:
        super().__init__()
        self.scale, self.deck, self.series = scale, None, 0
        self.plots: list[Plot] = []
        self.sizes: dict[str, float] = {}
        self.columns = False
        self.box = QVBoxLayout(self)
        self.box.setContentsMargins(0, 0, 0, 0)
        self.box.setSpacing(0)
        self.over = Overlay(self, self)
        scale.moved.connect(self.paint)
        scale.pointed.connect(self.over.update)
        self.setMinimumHeight(150)

    deck: Deck | None

    def dress(self) -> None:
        """Take the colours of the palette."""
        for plot in self.plots:
            plot.dress()
        self.paint()

    def keep_nothing(self) -> None:
        """Have all that is on the plots now painted anew each time: what is kept is points, and no lines."""
        for plot in self.plots:
            plot.setCacheMode(plot.CacheModeFlag(0))
            for item in plot.scene().items():
                item.setCacheMode(item.CacheMode.NoCache)
            for drawn in plot.drawn:
                drawn.keep_nothing()

    def rest(self) -> None:
        """Paint nothing more until there is another deck."""
        self.deck = None

    def show_deck(self, deck: Deck, series: int) -> None:
        """Paint a deck."""
        # Nothing is painted until every plot has its new band.
        self.rest()
        while len(self.plots) < len(deck.bands):
            self._add_plot()
        for place, plot in enumerate(self.plots):
            plot.setVisible(place < len(deck.bands))
        for place, (plot, band) in enumerate(zip(self.plots, deck.bands, strict=False)):
            plot.take(_in_columns(band) if self.columns and deck.axis is None else band)
            plot.values.tell_in(self.size_of(deck, band))
            self.box.setStretch(place, round(100 * band.height))
        self.deck, self.series = deck, series
        self.box.activate()
        self.over.raise_()
        self.setAccessibleName(phrase("Chart: {title}", title=deck.title(series)))
        self.paint()

    def _add_plot(self) -> None:
        plot = Plot()
        plot.leave(self.scale.names)
        plot.hide()
        plot.dress()
        self.plots.append(plot)
        self.box.addWidget(plot)

    def prepare(self) -> bool:
        """Make one plot more of those that decks usually have; False where there are as many."""
        if len(self.plots) >= _USUAL:
            return False
        self._add_plot()
        return True

    def describe(self) -> None:
        """Say what the chart comes to; it follows the paint, for it may take the whole deck to say."""
        if self.deck is not None:
            self.setAccessibleDescription(self.deck.finding(self.series))

    def size_of(self, deck: Deck, band: Band) -> float:
        """What the figures of a band are told in, as their rows are."""
        units = [deck.figures[curve.figure].unit for curve in band.curves]
        return self.sizes.get(units[0], 1.0) if units else 1.0

    def paint(self) -> None:
        """Paint what is in sight."""
        if self.deck is None:
            return
        first, stop = self.scale.visible()
        stop = min(stop, self.deck.columns)
        pixels = self.scale.across
        ranges = self._ranges(first, stop)
        across = self.scale.start - 0.5, self.scale.start + self.scale.count - 0.5
        for plot, band in zip(self.plots, self.deck.bands, strict=False):
            low, high = ranges[band.scale]
            plot.look(across, (low, high))
            frame = QRectF(across[0], low, across[1] - across[0], high - low)
            for drawn in plot.drawn:
                drawn.show(self.deck, self.series, first, stop, frame, pixels)
        # What lies over the plots has them painted with it.
        self.over.update()

    def _ranges(self, first: int, stop: int) -> dict[str, tuple[float, float]]:
        """The range of values of every scale: bands that share one are drawn alike."""
        assert self.deck is not None
        found: dict[str, tuple[float, float]] = {}
        for plot, band in zip(self.plots, self.deck.bands, strict=False):
            extents = [drawn.extent(self.deck, self.series, first, stop) for drawn in plot.drawn]
            known = found.get(band.scale, (np.nan, np.nan))
            if band.zero_line:
                extents.append((band.zero, band.zero))
            lows, highs = zip(known, *extents, strict=True)
            found[band.scale] = (float(np.fmin.reduce(lows)), float(np.fmax.reduce(highs)))
        return self._of_one_size({name: _roomy(*extent) for name, extent in found.items()})

    def _of_one_size(self, ranges: dict[str, tuple[float, float]]) -> dict[str, tuple[float, float]]:
        """Bands of one size widened about their middles, so that a unit takes as many pixels in each."""
        assert self.deck is not None
        tall = {
            band.scale: (band.size, max(plot.height() - TOP, 1))
            for plot, band in zip(self.plots, self.deck.bands, strict=False)
            if band.size
        }
        for size in {each for each, _ in tall.values()}:
            alike = {scale: pixels for scale, (of, pixels) in tall.items() if of == size}
            widest = max((ranges[scale][1] - ranges[scale][0]) / pixels for scale, pixels in alike.items())
            # In steps of a twentieth, so that a drag does not move every scale in every frame.
            by_pixel = 1.05 ** math.ceil(math.log(widest, 1.05))
            for scale, pixels in alike.items():
                low, high = ranges[scale]
                more, grid = by_pixel * pixels - (high - low), by_pixel * _GRID
                start = math.floor((low - more / 2) / grid) * grid
                # What it is moved by for that stays within the room that a range has at either end.
                ranges[scale] = start, start + by_pixel * pixels
        return ranges

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self.over.setGeometry(self.rect())
        self.scale.resize(self.width())
        for plot in self.plots:
            plot.leave(self.scale.names)
        self.paint()

    def frame_of(self, plot: Plot) -> QRectF:
        """The inner rectangle of a plot, in this widget."""
        return QRectF(GUTTER, plot.y() + TOP, self.scale.across, plot.height() - TOP)


def _roomy(low: float, high: float) -> tuple[float, float]:
    if math.isnan(low):
        return 0.0, 1.0
    if low == high:
        return low - max(abs(low), 1.0) * 0.1, high + max(abs(high), 1.0) * 0.1
    # More below than above: the as-of pill stands there.
    room = high - low
    bottom, top = (low if low == 0 else low - room * 0.13), high + room * 0.07
    return in_steps(bottom, top)


def _in_columns(band: Band) -> Band:
    """The band with the actual as columns; they stand behind, so that no line is hidden by them."""
    actual = tuple(replace(curve, role="columns") for curve in band.curves if curve.role == "actual")
    return replace(band, curves=(*actual, *(curve for curve in band.curves if curve.role != "actual")))
