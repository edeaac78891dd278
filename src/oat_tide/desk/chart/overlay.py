"""What lies over the charts: hover, as-of line, spans, windows and names; it takes the mouse."""

from __future__ import annotations

from typing import Any, Protocol

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF, QWheelEvent
from PyQt6.QtWidgets import QWidget

from oat_tide.core.exact import known
from oat_tide.core.language import phrase
from oat_tide.core.series.panel import INCOMPLETE
from oat_tide.desk.chart.boundaries import paint_boundaries
from oat_tide.desk.chart.drawing import STYLES, line_of, strength_of
from oat_tide.desk.chart.handles import RAIL, Surface, column_of, edge, handle_at, paint_handles
from oat_tide.desk.chart.names import LINE, SAMPLE, Name, named, placed, room_of
from oat_tide.desk.chart.plot import Plot
from oat_tide.desk.chart.scale import GUTTER, TimeScale
from oat_tide.desk.look.measured import advance, elided, written
from oat_tide.desk.look.number_style import in_size
from oat_tide.desk.look.palette import palette, text_color
from oat_tide.desk.look.plain import tip
from oat_tide.stages.deck import Curve, Deck, Handle, Mark

_NEAR = 1.2
"""Columns from the end of the chart within which a hair line leads from a curve to its name."""
_STRONG, _LIFTED = 2.0, 4.0
"""Pixels of a curve whose name is bold, and of one whose name is pointed at."""
_LEAST_SHADE = 0.7
"""How faint the piece of a curve beside its name may be, however faint the curve."""


class Charts(Protocol):
    """What it lies over.

    Attributes:
        edited, rested: signals of a handle that is dragged, and of one let go.
    """

    scale: TimeScale
    deck: Deck | None
    series: int
    plots: list[Plot]
    edited: Any
    rested: Any

    def frame_of(self, plot: Plot) -> QRectF:
        """The inner rectangle of a plot."""


class Overlay(QWidget):
    """What lies over the plots: hover, as-of line, spans, windows and names; it takes the mouse."""

    def __init__(self, bands: Charts, parent: QWidget) -> None:
        super().__init__(parent)
        self.bands, self.scale = bands, bands.scale
        self.grasped: Handle | None = None
        self.handles_shown = True
        self._edge = QRectF()
        self._placed: list[tuple[QRectF, Name, Plot]] = []
        self._pointed = ""
        self.setMouseTracking(True)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        deck = self.bands.deck
        if deck is None or not deck.bands:
            return
        painter = QPainter(self)
        painter.setClipRect(QRectF(GUTTER - 1, 0, self.scale.across + 33, self.height()))
        paint_hover(painter, self.scale, self.height())
        paint_boundaries(painter, self.scale, self.height(), deck.boundaries)
        self._edge = QRectF()
        if not self.handles_shown:
            self._as_of(painter, deck)
        else:
            self._way_back(painter, deck)
            paint_handles(Surface(painter, self.scale, self.scale.end + 32, self.height()), deck.handles)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._said(painter, deck)
        painter.setClipping(False)
        self._names(painter, deck)
        painter.setPen(palette().color("quiet"))
        for plot, band in zip(self.bands.plots, deck.bands, strict=False):
            room = QRectF(8, plot.y() + 10, GUTTER - 20, 16)
            title = elided(in_size(band.title, plot.values.told_in), int(room.width()))
            written(painter, room, 1, title)

    def _as_of(self, painter: QPainter, deck: Deck) -> None:
        """In a picture for others: the as-of line with its date."""
        handle = deck.handle("as_of")
        if handle is None:
            return
        x, said = edge(self.scale, handle), self._dated(deck)
        painter.setPen(QPen(palette().color("kelp"), 1.4, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(x, RAIL), QPointF(x, self.height()))
        wide = advance(said, bold=True)
        left = min(max(x - wide / 2, float(GUTTER)), self.scale.end - wide)
        painter.setPen(palette().color("kelp"))
        written(painter, QRectF(left, 1, wide, 15), 0, said, bold=True)

    @staticmethod
    def _dated(deck: Deck) -> str:
        return phrase("as of {period}", period=deck.grid.label(deck.first + deck.past - 1))

    def _way_back(self, painter: QPainter, deck: Deck) -> None:
        """Where the as-of line is out of sight: a button at the edge that brings it back."""
        handle = deck.handle("as_of")
        if handle is None or self.scale.in_sight(edge(self.scale, handle)):
            return
        before = edge(self.scale, handle) < GUTTER
        said = f"◂ {self._dated(deck)}" if before else f"{self._dated(deck)} ▸"
        wide = advance(said) + 20
        left = GUTTER + 4 if before else self.scale.end - wide - 4
        self._edge = QRectF(left, self.height() - 22, wide, 18)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(palette().color("kelp"))
        painter.drawRoundedRect(self._edge, 9, 9)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(palette().color("paper"))
        written(painter, self._edge, 0.5, said)

    def _said(self, painter: QPainter, deck: Deck) -> None:
        """What is said of single periods: a word above the chart, and a thread down to the period."""
        first, stop = self.scale.visible()
        taken: list[QRectF] = []
        for mark in deck.marks(self.bands.series):
            if not first <= mark.column < stop:
                continue
            color = palette().color("rust" if mark.kind == "odd" else "quiet")
            x, wide = self.scale.x(mark.column), advance(mark.text) + 6
            left = min(max(x - wide / 2, GUTTER), self.scale.end - wide)
            place = QRectF(left, 2, wide, 14)
            if any(map(place.intersects, taken)):
                place = place.translated(0, 14)
            if any(map(place.intersects, taken)):
                continue
            taken.append(place)
            painter.setPen(QPen(color, 1))
            painter.drawLine(QPointF(x, place.bottom()), QPointF(x, self._top_of(deck, mark)))
            painter.fillRect(place, palette().color("paper", 220))
            written(painter, place, 0.5, mark.text)

    def _top_of(self, deck: Deck, mark: Mark) -> float:
        """Return the top of a period's column or dot, in pixels."""
        plot, band = self.bands.plots[0], deck.bands[0]
        name = mark.figure if mark.figure in deck.figures else band.curves[-1].figure
        value = float(deck.figures[name].values[self.bands.series, mark.column])
        frame, (low, high) = self.bands.frame_of(plot), plot.sees[1]
        if not known(value) or high <= low:
            return frame.bottom()
        return max(self._height(plot, value) - 2, frame.top())

    def _height(self, plot: Plot, value: float) -> float:
        """Return the y of a value."""
        frame, (low, high) = self.bands.frame_of(plot), plot.sees[1]
        return frame.bottom() - (value - low) / (high - low) * frame.height()

    def _names(self, painter: QPainter, deck: Deck) -> None:
        """Curves are named right of the columns, in the order of their ends, with a piece of each."""
        self._placed = []
        end, wide = self.scale.end, self.scale.names
        for plot, band in zip(self.bands.plots, deck.bands, strict=False):
            frame = self.bands.frame_of(plot)
            ends = ((curve, self._end(plot, deck, curve)) for curve in band.curves if curve.label)
            told = [(curve, at, STYLES[curve.role].width >= _STRONG) for curve, at in ends if at is not None]
            names = named(told, room_of(wide), frame.height())
            for name, place in zip(names, placed(names, frame, end, wide), strict=True):
                self._placed.append((place, name, plot))
                self._name(painter, name, place)
        lifted = next((each for each in self._placed if each[1].full == self._pointed), None)
        if lifted is not None and lifted[1].curve is not None:
            self._lift(painter, deck, lifted[1].curve, lifted[2])

    def _name(self, painter: QPainter, name: Name, place: QRectF) -> None:
        """A name, a piece of its curve before it, and a hair line from where that ends."""
        color = palette().color("quiet")
        if name.curve is not None:
            style = STYLES[name.curve.role]
            color = palette().color(style.color, round(255 * max(name.curve.shade, _LEAST_SHADE)))
            middle = place.top() + LINE / 2
            if self.scale.end - name.end.x() <= _NEAR * self.scale.step:
                painter.setPen(QPen(color, 0.7))
                painter.drawLine(name.end + QPointF(4, 0), QPointF(place.left() - 3, middle))
            _sample(painter, name.curve, QRectF(place.left(), middle - 4, SAMPLE - 5, 8))
            color = palette().color(text_color(style.color))
        painter.setPen(color)
        for at, line in enumerate(name.lines):
            row = QRectF(place.left() + SAMPLE, place.top() + at * LINE, place.width() - SAMPLE, LINE)
            written(painter, row, 0, line, bold=name.bold)

    def _lift(self, painter: QPainter, deck: Deck, curve: Curve, plot: Plot) -> None:
        """The curve whose name is pointed at, stronger than it is drawn."""
        first, stop = curve.columns(deck.past, *self.scale.visible())
        painter.save()
        painter.setClipRect(self.bands.frame_of(plot))
        painter.setPen(QPen(palette().color(STYLES[curve.role].color), _LIFTED))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for name in filter(None, (curve.figure, curve.upto)):
            values = deck.figures[name].values[self.bands.series, first : min(stop, deck.columns)]
            line = QPolygonF(
                QPointF(self.scale.x(first + at), self._height(plot, value))
                for at, value in enumerate(values.tolist())
                if known(value)
            )
            painter.drawPolyline(line)
        painter.restore()

    def _end(self, plot: Plot, deck: Deck, curve: Curve) -> QPointF | None:
        """Return the last visible point of a curve; an incomplete last period does not count."""
        first, stop = self.scale.visible()
        series, skips_part = self.bands.series, STYLES[curve.role].dots
        first, stop = curve.columns(deck.past, first, min(stop, deck.columns))
        column = -1
        # Most curves end near the end of what is in sight.
        for start in (max(first, stop - 32), first):
            there = known(deck.figures[curve.figure].values[series, start:stop])
            if skips_part:
                there &= deck.flags[series, start:stop] & INCOMPLETE == 0
            if there.any():
                column = stop - 1 - int(there[::-1].argmax())
                break
        if column < 0:
            return None
        value = float(deck.figures[curve.figure].values[series, column])
        if curve.role == "interval":
            value = float(deck.figures[curve.upto].values[series, column])
        if curve.role == "layer":
            value = (value + float(deck.figures[curve.upto].values[series, column])) / 2
        return QPointF(self.scale.x(column), self._height(plot, value))

    def _at(self, x: float, y: float) -> Handle | None:
        """The handle that would be taken here."""
        handles = self.bands.deck.handles if self.bands.deck else ()
        return handle_at(self.scale, handles, x, y, self.height())

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event and self._edge.contains(event.position()) and self.bands.deck is not None:
            self.scale.settled = True
            self.scale.look(self.bands.deck.past - self.scale.count / 2, self.scale.count)
        elif event and event.button() == Qt.MouseButton.LeftButton:
            self.grasped = self._at(event.position().x(), event.position().y())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        x, y = event.position().x(), event.position().y()
        if self.grasped is None:
            self.scale.point(self.scale.under(x))
            self.setCursor(Qt.CursorShape.SplitHCursor if self._at(x, y) else Qt.CursorShape.ArrowCursor)
            self._point_at_name(event)
            return
        self.bands.edited.emit(self.grasped.edit(column_of(self.scale, self.grasped, x)))

    def _point_at_name(self, event: QMouseEvent) -> None:
        """Lift the curve whose name is pointed at, and say the name in full."""
        full = next((name.full for place, name, _ in self._placed if place.contains(event.position())), "")
        if full != self._pointed:
            self._pointed = full
            tip(self, full)
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self.grasped is not None:
            self.grasped = None
            self.bands.rested.emit()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        self.scale.all()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        wheel(self.scale, event)

    def leaveEvent(self, event: object) -> None:
        self.scale.point(-1)


def wheel(scale: TimeScale, event: QWheelEvent) -> None:
    """Zoom around the pointer; with Shift, or sideways, pan."""
    turn = event.angleDelta()
    if turn.x() or event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
        scale.pan(-(turn.x() or turn.y()) / 120 * max(scale.count / 8, 1))
    else:
        scale.zoom(0.85 ** (turn.y() / 120), event.position().x())
    event.accept()


def paint_hover(painter: QPainter, scale: TimeScale, height: float) -> None:
    """Tint the hovered column, through chart, axis and table."""
    if scale.hovered >= 0:
        shade = palette().color("kelp", 34)
        painter.fillRect(QRectF(scale.edge(scale.hovered), 0, max(scale.step, 2), height), shade)


def _sample(painter: QPainter, curve: Curve, place: QRectF) -> None:
    """A piece of a curve: its line, its dot, or what it fills."""
    style = STYLES[curve.role]
    color = palette().color(style.color, round(255 * max(curve.shade, _LEAST_SHADE)))
    if curve.upto or style.stands or curve.role == "columns":
        painter.fillRect(place, palette().color(style.color, strength_of(curve) if curve.upto else 200))
        return
    painter.setPen(line_of(style, curve, color))
    middle = place.center().y()
    painter.drawLine(QPointF(place.left(), middle), QPointF(place.right(), middle))
    if style.dots:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(color)
        painter.drawEllipse(place.center(), 3, 3)
        painter.setBrush(Qt.BrushStyle.NoBrush)
