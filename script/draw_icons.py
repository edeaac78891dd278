"""Draw the icon at every size that desktops ask for: python draw_icons.py FOLDER."""

from __future__ import annotations

import sys
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QGuiApplication, QImage, QPainter
from PyQt6.QtSvg import QSvgRenderer

SIZES = 16, 22, 24, 32, 48, 64, 96, 128, 256, 512
DRAWING = Path(__file__).parent.parent / "src" / "oat_tide" / "desk" / "look" / "marks" / "oat-tide.svg"


def main(folder: Path) -> None:
    """Write a PNG a size, named by it."""
    application = QGuiApplication(sys.argv[:1])
    drawing = QSvgRenderer(str(DRAWING))
    for size in SIZES:
        image = QImage(size, size, QImage.Format.Format_ARGB32)
        image.fill(Qt.GlobalColor.transparent)
        painter = QPainter(image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        drawing.render(painter)
        painter.end()
        image.save(str(folder / f"{size}.png"))
    del application


if __name__ == "__main__":
    main(Path(sys.argv[1]))
