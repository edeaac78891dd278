"""A picture of the deck alone, at the size asked for: title, units, chart, table and source line."""

from __future__ import annotations

import re
from dataclasses import dataclass
from pathlib import Path

from PyQt6.QtCore import QPoint, QRect, QSize, Qt
from PyQt6.QtGui import QColor, QImage, QPaintDevice, QPainter, QPicture
from PyQt6.QtSvg import QSvgGenerator
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from oat_tide.core.language import phrase
from oat_tide.core.user_error import UserError
from oat_tide.desk.deck.deck_view import DeckView
from oat_tide.desk.look.palette import palette
from oat_tide.desk.look.plain import Text
from oat_tide.session import Session

USUAL = phrase("1280 x 800")
_SMALLEST, _LARGEST = 320, 6000
_LEAST_CHART = 300
"""Pixels that title, chart, periods and source line need."""


def size_of(text: str) -> QSize:
    """A size as it is written, such as 1280 x 800.

    Raises:
        UserError: it is none, too small to read or too large to paint.
    """
    found = re.fullmatch(r"\s*(\d{2,5})\s*[x×*, ]\s*(\d{2,5})\s*", text)
    if not found:
        raise UserError(
            "“{text}” is no size. Write width and height in pixels, as in {usual}.",
            text=text,
            usual=USUAL,
        )
    size = QSize(int(found[1]), int(found[2]))
    if min(size.width(), size.height()) < _SMALLEST or max(size.width(), size.height()) > _LARGEST:
        limits = phrase("{smallest} to {largest} pixels wide and tall", smallest=_SMALLEST, largest=_LARGEST)
        raise UserError(
            "A picture of {text} cannot be made. Write {limits}.", text=text.strip(), limits=limits
        )
    return size


class Picture(QWidget):
    """The deck of a stage as it stands in a view, laid out anew at another size, and then filled."""

    def __init__(self, session: Session, stage: str, view: DeckView, size: QSize) -> None:
        super().__init__()
        self.setObjectName("centre")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAttribute(Qt.WidgetAttribute.WA_DontShowOnScreen)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        # What is done before it is filled is not in it.
        self._session, self._stage = session.as_it_stands(), stage
        self._sight = view.scale.start, view.scale.count
        self._deck = DeckView()
        self._deck.plain()
        source = phrase(
            "{source} · as of {as_of} · {title}",
            source=session.reading.source,
            as_of=session.grid.label(session.as_of),
            title=session.plan.title,
        )
        line = Text(source)
        line.setObjectName("quiet")
        line.setContentsMargins(18, 0, 18, 10)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.addWidget(self._deck, 1)
        box.addWidget(line)
        # Exactly the size asked for, whatever the parts would like.
        box.setSizeConstraint(QVBoxLayout.SizeConstraint.SetNoConstraint)
        self.resize(size)

    def fill(self) -> None:
        """Show what the view showed."""
        deck = self._deck
        self.show()
        deck.show_session(self._session, self._stage)
        # The table gives way where both would be too low to read.
        if self.height() - deck.tide.height() < _LEAST_CHART:
            deck.rows.hide()
            deck.axis.steps = lambda: None
        deck.scale.settled = True
        deck.scale.look(*self._sight)
        layout = self.layout()
        if layout:
            layout.activate()
        deck.bands.keep_nothing()
        deck.bands.paint()

    def drawn(self) -> Drawing:
        """The picture stroke by stroke."""
        strokes = QPicture()
        painter = QPainter(strokes)
        self.render(painter)
        painter.end()
        return Drawing(strokes, self.size(), palette().color("paper"))


@dataclass(frozen=True, eq=False, slots=True)
class Drawing:
    """A picture as strokes, which take longer to become points than to draw: that is done off the window.

    Attributes:
        size: in pixels.
        ground: the colour that it is drawn on.
    """

    strokes: QPicture
    size: QSize
    ground: QColor

    def image(self) -> QImage:
        """The picture as points: one for each pixel asked for, on any screen."""
        made = QImage(self.size, QImage.Format.Format_RGB32)
        made.fill(self.ground)
        self._draw_on(made)
        return made

    def write_as(self, path: Path, suffix: str) -> None:
        """Write the picture, as SVG where the suffix says so, else as PNG.

        Raises:
            OSError: the file cannot be written.
        """
        if suffix.lower() != ".svg":
            if not self.image().save(str(path), "PNG"):
                raise OSError("the picture could not be written")
            return
        made = QSvgGenerator()
        made.setFileName(str(path))
        # Strokes are scaled where they are drawn on another number of points an inch.
        made.setResolution(self.strokes.logicalDpiX())
        made.setSize(self.size)
        made.setViewBox(QRect(QPoint(0, 0), self.size))
        self._draw_on(made)

    def _draw_on(self, device: QPaintDevice) -> None:
        painter = QPainter()
        if not painter.begin(device):
            raise OSError("the picture could not be written")
        painter.drawPicture(0, 0, self.strokes)
        painter.end()
