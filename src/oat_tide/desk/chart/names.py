"""Where the names of curves stand: at their ends, in the order of the ends, and none on another."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF

TALL = 16.0
"""Pixels that a name is high."""


@dataclass(frozen=True, slots=True)
class Name:
    """The name of a curve.

    Attributes:
        text: what it is.
        color: of the palette, by name.
        end: where the curve ends.
        left: where the name begins.
        wide: how much room it takes.
        wish: the height that it would have if it stood alone.
    """

    text: str
    color: str
    end: QPointF
    left: float
    wide: float
    wish: float


def placed(names: Sequence[Name], frame: QRectF) -> list[QRectF]:
    """The place of each name; those side by side keep the order of their ends.

    Args:
        frame: that they stay in.
    """
    places = [QRectF()] * len(names)
    for column in _columns(names):
        order = sorted(column, key=lambda at: names[at].end.y())
        middles = stacked([names[at].wish for at in order], TALL, frame.top(), frame.bottom())
        for at, middle in zip(order, middles, strict=True):
            places[at] = QRectF(names[at].left, middle - TALL / 2, names[at].wide, TALL)
    return places


def _columns(names: Sequence[Name]) -> list[list[int]]:
    """Names that stand over each other: those that share a stretch of the width."""
    columns: list[list[int]] = []
    right = float("-inf")
    for at in sorted(range(len(names)), key=lambda at: names[at].left):
        if names[at].left >= right:
            columns.append([])
        columns[-1].append(at)
        right = max(right, names[at].left + names[at].wide)
    return columns


def stacked(wishes: Sequence[float], tall: float, low: float, high: float) -> list[float]:
    """Middles in the order given, as near to their wishes as they go without overlap.

    Those that would overlap stand close together around the mean of what they wish for (pooling of adjacent
    violators: Ayer and others, 1955).

    Args:
        tall: of each.
        low, high: the edges that none goes beyond, as far as there is room for all.
    """
    pools: list[tuple[float, int]] = []
    for place, wish in enumerate(wishes):
        mean, count = wish - place * tall, 1
        while pools and pools[-1][0] > mean:
            before, many = pools.pop()
            mean, count = (before * many + mean * count) / (many + count), many + count
        pools.append((mean, count))
    start, end = low + tall / 2, high - tall / 2 - (len(wishes) - 1) * tall
    found = [min(max(mean, start), max(end, start)) for mean, count in pools for _ in range(count)]
    return [mean + place * tall for place, mean in enumerate(found)]
