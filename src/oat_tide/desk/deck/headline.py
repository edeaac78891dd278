"""Title and subtitle of a deck, painted: they change with every frame of a drag and must cost no layout."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from oat_tide.desk.look.measured import elided, written
from oat_tide.desk.look.palette import palette
from oat_tide.desk.look.plain import tip


class Headline(QWidget):
    """Title and subtitle, painted.

    Attributes:
        title: what is shown.
        subtitle: what is needed to read it.
    """

    def __init__(self) -> None:
        super().__init__()
        self.title, self.subtitle = "", ""
        self.setFixedHeight(42)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)

    def say(self, title: str, subtitle: str) -> None:
        """Write a title and a subtitle."""
        if (title, subtitle) != (self.title, self.subtitle):
            self.title, self.subtitle = title, subtitle
            self.setAccessibleName(title)
            self.setAccessibleDescription(subtitle)
            tip(self, subtitle)
            self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), palette().color("paper"))
        for text, size, bold, color, top in (
            (self.title, 18, True, "ink", 0), (self.subtitle, 14, False, "quiet", 22),
        ):  # fmt: skip
            painter.setPen(palette().color(color))
            shown = elided(text, self.width() - 8, size, bold, middle=bold)
            written(painter, QRectF(0, top, self.width(), 20), 0, shown, size, bold)
