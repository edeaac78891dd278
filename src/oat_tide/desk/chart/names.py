"""Where the names of curves stand: right of the chart, in the order of the ends, and none on another."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF

from oat_tide.core.language import phrase
from oat_tide.desk.look.measured import advance, elided
from oat_tide.stages.deck import Curve

LINE = 15.0
"""Pixels that a line of a name is high."""
SAMPLE = 20
"""Pixels left of a name, in which a piece of its curve is drawn."""
_GAP, _EDGE = 10, 4
"""Pixels between the columns and the names, and right of them."""


@dataclass(frozen=True, slots=True)
class Name:
    """The name of a curve.

    Attributes:
        curve: whose it is; None for what says how many more there are.
        lines: what is written, one line or two.
        full: all of it.
        end: where the curve ends.
        bold: whether it is that of a strong curve.
    """

    curve: Curve | None
    lines: tuple[str, ...]
    full: str
    end: QPointF
    bold: bool = False


def in_lines(text: str, room: int, most: int, bold: bool = False) -> tuple[str, ...]:
    """A text broken at its blanks into so many lines at the most, the last one cut where it is too long."""
    lines, words = [""], text.split(" ")
    while words:
        longer = f"{lines[-1]} {words[0]}".strip()
        if advance(longer, bold=bold) <= room or not lines[-1]:
            lines[-1] = longer
            words.pop(0)
        elif len(lines) < most:
            lines.append("")
        else:
            lines[-1] = f"{lines[-1]} {' '.join(words)}"
            break
    return tuple(elided(line, room, bold=bold) for line in lines)


def named(curves: Sequence[tuple[Curve, QPointF, bool]], room: int, tall: float) -> list[Name]:
    """The names of curves in the order of their ends, as many as have room.

    Args:
        curves: each with its end, and whether its name is bold.
        room: pixels that a name may be wide.
        tall: pixels that all of them may be high.
    """
    order = sorted(curves, key=lambda each: each[1].y())
    for most in (2, 1):
        found = [
            Name(curve, in_lines(curve.label, room - SAMPLE, most, bold), curve.label, end, bold)
            for curve, end, bold in order
        ]
        if sum(map(height, found)) <= tall:
            return found
    fits = max(int(tall // LINE) - 1, 0)
    rest = found[fits:]
    if not rest:
        return found
    more = phrase("and {more} more", more=len(rest))
    return [*found[:fits], Name(None, (more,), "\n".join(each.full for each in rest), rest[0].end)]


def height(name: Name) -> float:
    """Pixels that a name is high."""
    return LINE * len(name.lines)


def placed(names: Sequence[Name], frame: QRectF, left: float, wide: float) -> list[QRectF]:
    """The place of each name, in their order.

    Args:
        frame: whose height they stay in.
        left, wide: of the room right of it.
    """
    tall = [height(each) for each in names]
    middles = stacked([each.end.y() for each in names], tall, frame.top(), frame.bottom())
    return [
        QRectF(left + _GAP, middle - each / 2, wide - _GAP - _EDGE, each)
        for middle, each in zip(middles, tall, strict=True)
    ]


def room_of(wide: int) -> int:
    """Pixels that a name may be wide where so many are left right of the columns."""
    return wide - _GAP - _EDGE


def stacked(wishes: Sequence[float], tall: Sequence[float], low: float, high: float) -> list[float]:
    """Middles in the order given, as near to their wishes as they go without overlap.

    Those that would overlap stand close together around the mean of what they wish for (pooling of adjacent
    violators: Ayer and others, 1955).

    Args:
        tall: how high each is.
        low, high: the edges that none goes beyond, as far as there is room for all.
    """
    offsets = [0.0]
    for one, two in itertools.pairwise(tall):
        offsets.append(offsets[-1] + (one + two) / 2)
    pools: list[tuple[float, int]] = []
    for wish, offset in zip(wishes, offsets, strict=False):
        mean, count = wish - offset, 1
        while pools and pools[-1][0] > mean:
            before, many = pools.pop()
            mean, count = (before * many + mean * count) / (many + count), many + count
        pools.append((mean, count))
    if not pools:
        return []
    start, end = low + tall[0] / 2, high - tall[-1] / 2 - offsets[-1]
    found = [min(max(mean, start), max(end, start)) for mean, count in pools for _ in range(count)]
    return [mean + offset for mean, offset in zip(found, offsets, strict=False)]
