"""What a handle on the time axis looks like and where it is grasped: an entry a role, any number of each."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from oat_tide.core.language import phrase
from oat_tide.desk.chart.scale import GUTTER, TimeScale
from oat_tide.desk.look.measured import advance, written
from oat_tide.desk.look.palette import palette
from oat_tide.stages.deck import Handle

TOP = 30
"""Pixels above the plot where spans and windows are drawn; below them only what reaches down is grasped."""
RAIL = 20
"""The line on which spans, windows and the head of the as-of line stand."""
_GRASP = 7
"""Pixels from which a handle can be taken."""
_LINE, _PILL_HALF = 5, 31
_PILL = QRectF(-31, -17, 62, 16)


@dataclass(frozen=True, slots=True)
class Surface:
    """What a handle is painted on.

    Attributes:
        painter: ready to paint.
        scale: the time axis.
        width: of the overlay.
        height: of the overlay.
    """

    painter: QPainter
    scale: TimeScale
    width: float
    height: float


@dataclass(frozen=True, slots=True)
class HandleKind:
    """One role.

    Attributes:
        paint: (surface, handle, all handles of the deck) paints it.
        near_edge: whether it stands at the near edge of its column, or else at the far one.
        reaches_down: whether it is grasped below the rail as well.
        smooth: whether slanted edges are smoothed.
    """

    paint: Callable[[Surface, Handle, Sequence[Handle]], None]
    near_edge: bool = False
    reaches_down: bool = False
    smooth: bool = True


def edge(scale: TimeScale, handle: Handle) -> float:
    """Return the x of a handle."""
    return scale.edge(handle.at + (not HANDLES[handle.role].near_edge))


def column_of(scale: TimeScale, handle: Handle, x: float) -> int:
    """The column that a handle is dragged to."""
    return round(scale.place(x)) - (not HANDLES[handle.role].near_edge)


def paint_handles(surface: Surface, handles: Sequence[Handle]) -> None:
    """Paint all of them, role by role."""
    for role, kind in HANDLES.items():
        own = [handle for handle in handles if handle.role == role]
        if own:
            surface.painter.setRenderHint(QPainter.RenderHint.Antialiasing, kind.smooth)
        for handle in own:
            kind.paint(surface, handle, handles)


def handle_at(
    scale: TimeScale, handles: Sequence[Handle], x: float, y: float, height: float
) -> Handle | None:
    """The handle that would be taken at a point; one that reaches down comes first, else the nearest."""
    near: list[tuple[float, Handle]] = []
    for handle in handles:
        off = abs(x - edge(scale, handle))
        if HANDLES[handle.role].reaches_down:
            if y > TOP and off <= (_PILL_HALF if y > height - 18 else _LINE):
                return handle
            if off <= _GRASP:
                near.append((off + 0.5, handle))
        elif y <= TOP and off <= _GRASP:
            near.append((off, handle))
    return min(near, key=lambda each: each[0])[1] if near else None


def _partner(handle: Handle, role: str, handles: Sequence[Handle]) -> Handle | None:
    """The handle of another role that belongs to the same part of the plan."""
    return next((each for each in handles if each.role == role and each.path[:-1] == handle.path[:-1]), None)


def _as_of(surface: Surface, handle: Handle, handles: Sequence[Handle]) -> None:
    painter, color = surface.painter, palette().color("kelp")
    x = edge(surface.scale, handle)
    if not surface.scale.in_sight(x):
        # Out of sight it is no line under another period.
        return
    painter.setPen(QPen(color, 2))
    painter.drawLine(QPointF(x, RAIL), QPointF(x, surface.height))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(color)
    painter.drawEllipse(QPointF(x, RAIL), 5, 5)
    pill = _PILL.translated(min(max(x, GUTTER + 32), surface.width - 33), surface.height)
    painter.drawRoundedRect(pill, 8, 8)
    painter.setPen(palette().color("paper"))
    written(painter, pill, 0.5, phrase("◂ as of ▸"))


def _span_end(surface: Surface, handle: Handle) -> None:
    """The mark of one end of a span."""
    surface.painter.setPen(Qt.PenStyle.NoPen)
    surface.painter.setBrush(palette().color("kelp"))
    surface.painter.drawRect(QRectF(edge(surface.scale, handle) - 2, RAIL - 5, 4, 10))


def _fit_from(surface: Surface, handle: Handle, handles: Sequence[Handle]) -> None:
    """The span from here to its other end, if there is one, and what it is."""
    painter, end = surface.painter, _partner(handle, "fit_to", handles)
    if end is not None:
        left, right = edge(surface.scale, handle), edge(surface.scale, end)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(palette().color("kelp_soft"))
        painter.drawRect(QRectF(left, RAIL - 2, right - left, 4))
        painter.setPen(palette().color("kelp"))
        shown = QRectF(max(left, GUTTER) + 6, 1, right - max(left, GUTTER) - 12, 15)
        # Where there is no room for all of it, how long it is says the most.
        for words in (handle.says, handle.says.rpartition(", ")[2]):
            if advance(words) <= shown.width():
                written(painter, shown, 0, words)
                break
    _span_end(surface, handle)


def _fit_to(surface: Surface, handle: Handle, handles: Sequence[Handle]) -> None:
    _span_end(surface, handle)


def _horizon(surface: Surface, handle: Handle, handles: Sequence[Handle]) -> None:
    """The stretch from the as-of to here."""
    painter, color = surface.painter, palette().color("heather")
    as_of = next((each for each in handles if each.role == "as_of"), None)
    right = edge(surface.scale, handle)
    left = right if as_of is None else edge(surface.scale, as_of)
    painter.setPen(QPen(color, 1.4))
    if right - left > 11:
        painter.drawLine(QPointF(left + 8, RAIL), QPointF(right - 3, RAIL))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(color)
    diamond = [QPointF(right - 5 + dx, RAIL + dy) for dx, dy in ((-5, 0), (0, -5), (5, 0), (0, 5))]
    painter.drawPolygon(QPolygonF(diamond))
    painter.setPen(color)
    if right - left > 90:
        room = QRectF(left + 8, 1, right - left - 14, 15)
        written(painter, room, 1, handle.says)


def _window(surface: Surface, handle: Handle, handles: Sequence[Handle]) -> None:
    """The window of the hovered period as a bracket over what it takes in, and the latest one."""
    painter, scale, reach = surface.painter, surface.scale, handle.reach
    assert reach is not None
    shown = handle.upto
    if 0 <= scale.hovered < handle.upto and reach(scale.hovered)[0] >= 0:
        _weights(surface, handle, reach(shown), 70)
        shown = scale.hovered
    first, last = reach(shown)
    _weights(surface, handle, (first, last), 255)
    left, right = scale.edge(first), scale.edge(last + 1)
    color = palette().color("kelp")
    painter.setPen(QPen(color, 2))
    painter.drawLine(QPointF(left, RAIL), QPointF(right, RAIL))
    painter.fillRect(QRectF(left - 2, RAIL - 5, 4, 10), color)
    wide = advance(handle.says)
    at = min(max(left, GUTTER) + 6, surface.width - wide - 4)
    written(painter, QRectF(at, 1, wide, 15), 0, handle.says)


def _weights(surface: Surface, handle: Handle, ends: tuple[int, int], strength: int) -> None:
    """What a window takes in, and its weights as columns; equal ones are said by the shade alone."""
    painter, scale = surface.painter, surface.scale
    start, newest = ends
    left, right = scale.edge(start), scale.edge(newest + 1)
    shade = palette().color("kelp", 26 * strength // 255)
    painter.fillRect(QRectF(left, RAIL, right - left, surface.height - RAIL), shade)
    if not handle.weights:
        return
    top = max(map(abs, handle.weights))
    width, foot = max(scale.step - 2, 1), surface.height - 18
    bars = [
        # A weight below zero hangs down.
        QRectF(scale.edge(newest - age) + 1, foot - 34 * max(weight, 0) / top, width, 34 * abs(weight) / top)
        for age, weight in enumerate(handle.weights)
    ]
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(palette().color("kelp", 110 * strength // 255))
    painter.drawRects(*bars)


HANDLES: dict[str, HandleKind] = {
    "window": HandleKind(_window, near_edge=True, smooth=False),
    "fit_from": HandleKind(_fit_from, near_edge=True),
    "fit_to": HandleKind(_fit_to),
    "horizon": HandleKind(_horizon),
    "as_of": HandleKind(_as_of, reaches_down=True),
}
"""In the order that they are painted in."""
