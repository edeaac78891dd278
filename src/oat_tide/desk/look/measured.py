"""How wide text is, and what of it has room; remembered, for a drag writes most of it again at every step."""

from __future__ import annotations

import functools

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFontMetrics, QPainter, QStaticText

from oat_tide.desk.look.palette import SMALL, font


@functools.lru_cache(8192)
def advance(text: str, size: int = SMALL, bold: bool = False) -> int:
    """The width of a text in pixels."""
    return QFontMetrics(font(size, bold)).horizontalAdvance(text)


@functools.lru_cache(1024)
def elided(text: str, room: int, size: int = SMALL, bold: bool = False, middle: bool = False) -> str:
    """What of a text has room in so many pixels, the rest cut at its end or in its middle."""
    cut = Qt.TextElideMode.ElideMiddle if middle else Qt.TextElideMode.ElideRight
    return QFontMetrics(font(size, bold)).elidedText(text, cut, room)


def wrapped(text: str, room: int, size: int = SMALL, bold: bool = False) -> int:
    """How high a text is that is broken into lines of so many pixels."""
    around = QFontMetrics(font(size, bold)).boundingRect(0, 0, room, 10_000, Qt.TextFlag.TextWordWrap, text)
    return around.height()


@functools.lru_cache(4096)
def _laid_out(text: str, size: int, bold: bool) -> QStaticText:
    laid = QStaticText(text)
    laid.setTextFormat(Qt.TextFormat.PlainText)
    laid.prepare(font=font(size, bold))
    return laid


def written(
    painter: QPainter, place: QRectF, across: float, text: str, size: int = SMALL, bold: bool = False
) -> None:
    """Write a text in the middle of a place's height; 0 across is at its left, 1 at its right."""
    laid = _laid_out(text, size, bold)
    room = laid.size()
    left = place.left() + across * (place.width() - room.width())
    painter.setFont(font(size, bold))
    painter.drawStaticText(QPointF(left, place.top() + (place.height() - room.height()) / 2), laid)
