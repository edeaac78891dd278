"""How each role is drawn, and the thinning of long curves to what pixels can show."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
import pyqtgraph as pg
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QPen

from oat_tide.core.exact import Values
from oat_tide.core.series.panel import INCOMPLETE, LEFT_OUT, PROVISIONAL, REPLACED
from oat_tide.desk.chart.line import CurveItem
from oat_tide.desk.look.palette import palette
from oat_tide.stages.deck import Curve, Deck

MOST_DOTS = 130
"""Above so many columns in sight dots would run into one another and are left out."""
MOST_SEASONS = 31
"""Above so many seasons in sight the dots of their years would run into one another."""
_HALF = 0.36
"""Half the width of what stands within a column."""
_STRAIGHT = 1e-9
"""A line that bends by no more than this part of its rise is straight."""
_POINT, _CROSS = 6, 4
"""Pixels of a point within a column, and of half a cross."""
_EDGE = 0.02
"""How far from the edge of what is in sight a period beyond it is marked, as a part of the height."""
_END = 8
"""Pixels of the dot that a curve ends in."""
DENSE = 250
"""Above so many columns in sight curves are thin and plain, and areas and bars upright lines."""
_HOLLOW = {
    "part": (INCOMPLETE, Qt.PenStyle.DotLine, Qt.BrushStyle.NoBrush),
    "ruled": (LEFT_OUT | REPLACED, Qt.PenStyle.SolidLine, Qt.BrushStyle.DiagCrossPattern),
    "provisional": (PROVISIONAL, Qt.PenStyle.SolidLine, Qt.BrushStyle.NoBrush),
}
"""How columns of special periods stand: the flag, the outline and what fills it."""
_SPECIAL = {
    "columns": tuple(_HOLLOW),
    "bars": ("below",),
    "forecast": ("end",),
    "index": ("below", "across", "across below"),
    "within": ("points", "crosses"),
}
"""What has an item of its own, by the role of the curve."""


@dataclass(frozen=True, slots=True)
class Style:
    """How a role is drawn.

    Attributes:
        color: of the palette, by name.
        width: in pixels.
        line: solid, dashed or dotted.
        dots: whether periods have one.
        stands: whether it is columns that stand from zero.
        ends: whether its last period has a dot.
    """

    color: str
    width: float
    line: Qt.PenStyle = Qt.PenStyle.SolidLine
    dots: bool = False
    stands: bool = False
    ends: bool = False


STYLES: dict[str, Style] = {
    "actual": Style("ink", 1.0, dots=True),
    "columns": Style("ink", 1.0, stands=True),
    "smoothed": Style("kelp", 2.0),
    "weighted": Style("kelp", 2.0, Qt.PenStyle.DashLine),
    "fitted": Style("heather", 1.5, Qt.PenStyle.DotLine),
    "projected": Style("heather", 2.6),
    "laid": Style("heather", 1.2),
    "interval": Style("heather", 0.0),
    "year": Style("ink", 1.0),
    "average": Style("ochre", 1.8, Qt.PenStyle.DashLine),
    "range": Style("ink", 0.0),
    "bars": Style("kelp", 1.0, stands=True),
    "below": Style("ochre", 1.0, stands=True),
    "layer": Style("kelp", 0.0),
    "scenario": Style("ochre", 1.4, Qt.PenStyle.DashDotLine),
    "forecast": Style("heather", 1.6, Qt.PenStyle.DashLine, ends=True),
    "trend": Style("ochre", 2.0),
    "index": Style("kelp", 3.0),
    "within": Style("ink", 1.0),
}
_DASHES: tuple[list[float], ...] = (
    [],
    [4, 2],
    [1.5, 1.5],
    [6, 2, 1.5, 2],
    [6, 2, 1.5, 2, 1.5, 2],
    [9, 3],
)
"""How several curves of one role are broken, in widths of the line; the first is not."""


def line_of(style: Style, curve: Curve, color: QColor, ratio: float = 1.0) -> QPen:
    """The pen of a curve that is not dense: broken as its role is, or as it is told apart by.

    Args:
        ratio: device pixels in one pixel.
    """
    made = QPen(color, style.width * ratio, style.line)
    if curve.dash and not style.ends:
        made.setDashPattern(_DASHES[curve.dash % len(_DASHES)])
    return made


def strength_of(curve: Curve) -> int:
    """How strongly the area of an interval or layer is filled, of 255."""
    return round({"layer": 40 + 170 * curve.shade, "range": 18}.get(curve.role, 46))


def pen(style: Style, curve: Curve, dense: bool, ratio: float, veiled: bool = True) -> QPen:
    """The pen of a style; long curves get a plain thin one, which paints many times faster.

    Args:
        ratio: device pixels in one pixel.
        veiled: whether a long actual stands back behind what is made of it; among years it stands in front.
    """
    if dense:
        faded = 130 if curve.dash or style.line == Qt.PenStyle.DashLine else 255
        name = "veil" if style.dots and veiled else style.color
        made = QPen(palette().color(name, round(faded * curve.shade)), 1.0)
    else:
        made = line_of(style, curve, palette().color(style.color, round(255 * curve.shade)), ratio)
    made.setCosmetic(True)
    return made


def thin(values: Values, first: int, pixels: int) -> tuple[Values, Values]:
    """Points that paint like the whole curve: the lowest and highest of each pixel.

    Args:
        values: (columns,) of a stretch.
        first: the column of the first value.
        pixels: the width that the stretch is painted on.

    Returns:
        x and y; unchanged where there is hardly more than a value a pixel, both ends of a straight line.
    """
    group = round(len(values) / max(pixels, 1))
    if group < 2:
        return np.arange(first, first + len(values), dtype=float), values
    bent = np.abs(values[2:] - 2 * values[1:-1] + values[:-2]).max()
    if bent <= _STRAIGHT * abs(values[-1] - values[0]):
        return np.array([first, first + len(values) - 1.0]), values[[0, -1]]
    whole = len(values) // group * group
    # Many at once, one of each pixel, is many times quicker than one pixel after another.
    parts = np.ascontiguousarray(values[:whole].reshape(-1, group).T)
    y = np.column_stack((np.fmin.reduce(parts), np.fmax.reduce(parts))).ravel()
    x = np.repeat(np.arange(first, first + whole, group) + group / 2, 2)
    rest = np.arange(first + whole, first + len(values), dtype=float)
    return np.concatenate((x, rest)), np.concatenate((y, values[whole:]))


def in_steps(low: float, high: float) -> tuple[float, float]:
    """A range widened to whole steps, of which it has 16 to 32: a drag does not move it in every frame."""
    step = 2.0 ** (math.floor(math.log2(high - low)) - 4)
    return math.floor(low / step) * step, math.ceil(high / step) * step


def _known_stretch(values: Values, first: int) -> tuple[Values, int, bool]:
    """From the first known value to the last, the column it begins with, and whether none is missing."""
    gone = np.isnan(values)
    if not gone.any():
        return values, first, True
    known = np.flatnonzero(~gone)
    if not known.size:
        return values[:0], first, True
    start, end = int(known[0]), int(known[-1]) + 1
    return values[start:end], first + start, known.size == end - start


def _stand(item: pg.PlotCurveItem, x: Values, y: Values, look: dict[str, Any]) -> None:
    """Draw standing bars as one outline; very many as upright lines, for each would be filled by itself."""
    half = 0.38 if len(x) < 2 or x[1] - x[0] >= 1 else 0.5
    dense, known = len(x) > DENSE, ~np.isnan(y)
    x, y = x[known], y[known]
    if dense:
        _uprights(item, x, 0 * y, y, look["brush"].color())
        return
    edges = np.repeat(x, 4) + np.tile((-half, -half, half, half), len(x))
    heights = np.column_stack((0 * y, y, y, 0 * y)).ravel()
    item.setData(edges, heights, fillLevel=0, connect="all", **look)


def _uprights(item: pg.PlotCurveItem, x: Values, lower: Values, upper: Values, color: QColor) -> None:
    """Upright lines of a pixel, from one height to another."""
    line = pg.mkPen(color, width=1)
    line.setCosmetic(True)
    item.setData(
        np.repeat(x, 2),
        np.column_stack((lower, upper)).ravel(),
        pen=line,
        fillLevel=None,
        brush=None,
        connect="pairs",
        antialias=False,
    )


class Drawn:
    """One curve of a band: the items that paint it, kept from deck to deck."""

    def __init__(self, view: pg.ViewBox, curve: Curve, in_columns: bool = False) -> None:
        self.view, self.curve = view, curve
        self.style = STYLES[curve.role]
        self.stands = in_columns or self.style.stands
        self.line = CurveItem()
        self.items: list[pg.GraphicsObject] = [self.line]
        self._how: object = None
        self._values: Values = np.empty(0)
        self.special = {name: CurveItem() for name in _SPECIAL.get(curve.role, ())}
        self.dots: pg.ScatterPlotItem | None = None
        self.items += self.special.values()
        if self.style.dots and not self.stands:
            # The actual stays while the as-of line or a window moves: its picture is kept.
            self.line.setCacheMode(pg.GraphicsObject.CacheMode.DeviceCoordinateCache)
            self.dots = pg.ScatterPlotItem(pxMode=True, antialias=True)
            self.items.append(self.dots)
        for item in self.items:
            view.addItem(item, ignoreBounds=True)

    def show_items(self, shown: bool) -> None:
        """Show the items, or have them wait until they are needed again."""
        for item in self.items:
            item.setVisible(shown)

    def keep_nothing(self) -> None:
        """Have each dot drawn, in the place of a picture of one, and each line in one stroke."""
        for line in (self.line, *self.special.values()):
            line.whole = True
        if self.dots is not None:
            self.dots.opts["useCache"] = False

    def remove(self) -> None:
        """Take the items off the plot."""
        for item in self.items:
            self.view.removeItem(item)

    def show(self, deck: Deck, series: int, first: int, stop: int, frame: QRectF, pixels: int) -> None:
        """Paint a stretch of columns, from `first` to before `stop`; `frame` is what is in sight."""
        for line in (self.line, *self.special.values()):
            line.fill(frame)
        first, stop = self.curve.columns(deck.past, first, stop)
        if self.curve.upto:
            self._interval(deck, series, first, stop, frame, pixels)
            return
        if self.curve.role == "index":
            self._index(deck.figures[self.curve.figure].values[series, first:stop], first)
            return
        if self.curve.among:
            self._within(deck, series, first, max(stop, first), frame, pixels)
            return
        values = deck.figures[self.curve.figure].values[series, first:stop]
        part = deck.flags[series, first:stop] & INCOMPLETE > 0
        if self.curve.role == "columns":
            values = self._stand_apart(values, deck.flags[series, first:stop], first)
        if self.style.ends:
            self._end(values, first)
        if self.dots is not None:
            few = stop - first <= MOST_DOTS
            self._dots(values if few else values[:0], deck.flags[series, first:stop], first, frame)
            # A part period is a dot of its own: no line leads from whole periods to it.
            values = np.where(part, np.nan, values)
        dense = stop - first > DENSE
        values, first, full = _known_stretch(values, first)
        if self._same(values, first, pixels, dense):
            return
        x, y = thin(values, first, pixels)
        if self.stands and self.curve.role == "bars":
            self._stand_on_zero(x, y)
        elif self.stands:
            strength = round(200 * self.curve.shade)
            solid = {"pen": pg.mkPen(None), "brush": pg.mkBrush(palette().color(self.style.color, strength))}
            _stand(self.line, x, y, solid)
        else:
            self.line.setSegmentedLineMode("on" if dense else "off")
            connect, ratio = "all" if full else "finite", self.view.getViewWidget().devicePixelRatioF()
            self.line.setData(
                x,
                y,
                connect=connect,
                pen=pen(self.style, self.curve, dense, ratio, deck.axis is None),
                antialias=not dense,
            )

    def _stand_on_zero(self, x: Values, y: Values) -> None:
        """Bars above zero are full, those below hatched and of another colour."""
        above, below = np.where(y >= 0, y, np.nan), np.where(y < 0, y, np.nan)
        _stand(self.line, x, above, {"pen": pg.mkPen(None), "brush": pg.mkBrush(self._shade("bars", 200))})
        hatched, edge = pg.mkBrush(self._shade("below", 200)), pg.mkPen(self._shade("below", 255), width=1)
        hatched.setStyle(Qt.BrushStyle.BDiagPattern)
        _stand(self.special["below"], x, below, {"pen": edge, "brush": hatched})

    def _index(self, values: Values, first: int) -> None:
        """A bar across each season at its index, and a veil from what an index stands from to there."""
        base = self.curve.base
        x = first + np.flatnonzero(~np.isnan(values)).astype(float)
        y = values[~np.isnan(values)]
        for at, veil, bar, color in (
            (y >= base, self.line, self.special["across"], "bars"),
            (y < base, self.special["below"], self.special["across below"], "below"),
        ):
            left, right, top = x[at] - _HALF, x[at] + _HALF, y[at]
            edges = np.column_stack((left, left, right, right)).ravel()
            heights = np.column_stack((0 * top + base, top, top, 0 * top + base)).ravel()
            brush = pg.mkBrush(self._shade(color, 48))
            veil.setData(edges, heights, fillLevel=base, connect="all", pen=pg.mkPen(None), brush=brush)
            pen = pg.mkPen(self._shade(color, 255), width=self.style.width)
            pen.setCosmetic(True)
            across = np.column_stack((left - 0.05, right + 0.05)).ravel()
            bar.setData(across, np.repeat(top, 2), connect="pairs", pen=pen, antialias=True)

    def _within(self, deck: Deck, series: int, first: int, stop: int, frame: QRectF, pixels: int) -> None:
        """Draw a small line of several figures within each column; values left out are crossed."""
        figures = [deck.figures[name] for name in self.curve.among]
        values = np.stack([each.values[series, first:stop] for each in figures])
        out = np.array(
            [[each.state(series, column) == "out" for column in range(first, stop)] for each in figures],
            np.bool_,
        ).reshape(values.shape)
        if self._same(np.where(out, -values, values), first, pixels, bool(out.any())) and not out.any():
            return
        many = len(figures)
        offsets = (np.arange(many) - (many - 1) / 2) * (2 * _HALF / max(many, 2))
        x = np.arange(first, stop)[None] + offsets[:, None]
        # One season after another, with a gap between them, so that each is a line of its own.
        gap = np.full((1, stop - first), np.nan)
        kept = np.concatenate((np.where(out, np.nan, values), gap))
        ratio = self.view.getViewWidget().devicePixelRatioF()
        thin_pen = pen(self.style, self.curve, False, ratio, veiled=False)
        across = np.concatenate((x, x[-1:])).T.ravel()
        self.line.setData(across, kept.T.ravel(), connect="finite", antialias=True, pen=thin_pen)
        few = stop - first <= MOST_SEASONS
        there = ~np.isnan(values) & few
        # A point is a line of no length by a round pen: scatter takes ten times as long to set.
        dot = pg.mkPen(thin_pen.color(), width=_POINT * ratio, cap=Qt.PenCapStyle.RoundCap)
        dot.setCosmetic(True)
        at = (x[there & ~out][:, None] + np.array([0.0, 1e-3])).ravel()
        points = np.repeat(values[there & ~out], 2)
        self.special["points"].setData(at, points, pen=dot, connect="pairs", antialias=True)
        wide = _CROSS * frame.width() / max(pixels, 1)
        tall = _CROSS * frame.height() / max(self.view.height(), 1)
        one, other = x[out & there][:, None], values[out & there][:, None]
        self.special["crosses"].setData(
            (one + np.array([-wide, wide, -wide, wide])).ravel(),
            (other + np.array([-tall, tall, tall, -tall])).ravel(),
            pen=thin_pen, connect="pairs", antialias=True,
        )  # fmt: skip

    def _shade(self, style: str, strength: int) -> QColor:
        return palette().color(STYLES[style].color, strength)

    def _stand_apart(self, values: Values, flags: np.ndarray, first: int) -> Values:
        """Columns of special periods stand in ways of their own; returns the values of the others."""
        left = values
        for name, (flag, line, brush) in _HOLLOW.items():
            at = (flags & flag > 0) & ~np.isnan(left)
            outline = pg.mkPen(palette().color(self.style.color), width=1, style=line)
            fill = pg.mkBrush(palette().color(self.style.color, 90))
            fill.setStyle(brush)
            look = {"pen": outline, "brush": fill}
            _stand(self.special[name], first + np.flatnonzero(at).astype(float), values[at], look)
            left = np.where(at, np.nan, left)
        return left

    def _same(self, values: Values, first: int, pixels: int, dense: bool) -> bool:
        """Whether this is painted already: a drag changes few of the curves."""
        how = (first, pixels, dense, palette())
        if self._how == how and np.array_equal(self._values, values, equal_nan=True):
            return True
        self._how, self._values = how, values
        return False

    def _interval(self, deck: Deck, series: int, first: int, stop: int, frame: QRectF, pixels: int) -> None:
        lower, start, _ = _known_stretch(deck.figures[self.curve.figure].values[series, first:stop], first)
        upper = deck.figures[self.curve.upto].values[series, start : start + len(lower)]
        color = palette().color(self.style.color, strength_of(self.curve))
        x = np.arange(start, start + len(lower), dtype=float)
        if len(x) > DENSE:
            self._hatch(x, lower, upper, color, frame, pixels)
            return
        around = np.concatenate((lower, upper[::-1]))
        self.line.setData(
            np.concatenate((x, x[::-1])),
            around,
            pen=pg.mkPen(None),
            fillLevel="enclosed",
            brush=pg.mkBrush(color),
            connect="all",
        )

    def _hatch(
        self, x: Values, lower: Values, upper: Values, color: QColor, frame: QRectF, pixels: int
    ) -> None:
        """A long area as one upright line a pixel: to fill its jagged outline takes many times as long."""
        at = frame.left() + (np.arange(pixels) + 0.5) * frame.width() / max(pixels, 1)
        at = at[(at >= x[0] - 0.5) & (at <= x[-1] + 0.5)]
        low, high = np.interp(at, x, lower), np.interp(at, x, upper)
        known = ~(np.isnan(low) | np.isnan(high))
        _uprights(self.line, at[known], low[known], high[known], color)

    def _end(self, values: Values, first: int) -> None:
        """A dot where it ends: a point of a round pen, for scatter takes ten times as long to set."""
        there = np.flatnonzero(~np.isnan(values))[-1:]
        color = palette().color(self.style.color, round(255 * self.curve.shade))
        ratio = self.view.getViewWidget().devicePixelRatioF()
        dot = pg.mkPen(color, width=_END * ratio, cap=Qt.PenCapStyle.RoundCap)
        dot.setCosmetic(True)
        # A line of no length would not be drawn.
        at = (first + there[:, None] + np.array([0.0, 1e-3])).ravel()
        self.special["end"].setData(at, np.repeat(values[there], 2), pen=dot, antialias=True)

    def _dots(self, values: Values, flags: np.ndarray, first: int, frame: QRectF) -> None:
        assert self.dots is not None
        known = ~np.isnan(values)
        below, above = values < frame.top(), values > frame.bottom()
        edge = _EDGE * frame.height()
        values = np.clip(values, frame.top() + edge, frame.bottom() - edge)
        marked = flags[: len(values)][known]
        part, open_ = marked & INCOMPLETE > 0, marked & (INCOMPLETE | PROVISIONAL) > 0
        out = (flags[: len(values)][known] & (LEFT_OUT | REPLACED)) > 0
        color = palette().color(self.style.color, round(255 * self.curve.shade))
        paper = palette().color("paper")
        filled, hollow = pg.mkBrush(color), pg.mkBrush(paper)
        brushes = [hollow if each else filled for each in open_]
        x = np.arange(first, first + len(values))[known]
        shapes = [
            "x" if each else "t" if low else "t1" if high else "o"
            for each, low, high in zip(out, below[known], above[known], strict=True)
        ]
        # A part period stands as a dotted ring, a provisional one as a ring, as their columns do.
        line, dotted = pg.mkPen(color, width=1.2), pg.mkPen(color, width=1.6, style=Qt.PenStyle.DotLine)
        pens = [dotted if each else line for each in part]
        self.dots.setData(x=x, y=values[known], size=7, pen=pens, brush=brushes, symbol=shapes)

    def extent(self, deck: Deck, series: int, first: int, stop: int) -> tuple[float, float]:
        """The lowest and highest value in sight; NaN where there is none."""
        first, stop = self.curve.columns(deck.past, first, stop)
        names = [self.curve.figure, *([self.curve.upto] if self.curve.upto else []), *self.curve.among]
        stretches = [deck.figures[name].values[series, first:stop] for name in names]
        if self.style.dots and deck.projects:
            # A part period would flatten what is projected: it stands at the edge, as a mark.
            part = deck.flags[series, first:stop] & INCOMPLETE > 0
            stretches = [np.where(part, np.nan, values) for values in stretches]
        low = float(np.fmin.reduce([np.fmin.reduce(values, initial=np.nan) for values in stretches]))
        high = float(np.fmax.reduce([np.fmax.reduce(values, initial=np.nan) for values in stretches]))
        from_zero = self.stands or self.curve.role == "layer"
        return (min(low, 0.0), max(high, 0.0)) if from_zero else (low, high)
