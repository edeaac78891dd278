"""The room of the tide table: as high as it is, and of very many rows some are scrolled to."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject, QSize, Qt
from PyQt6.QtWidgets import QFrame, QScrollArea, QSizePolicy

from oat_tide.desk.table.cells import ROW
from oat_tide.desk.table.tide import TideTable

_LEAST = 8
"""Rows that are in sight at the least."""


class TideRows(QScrollArea):
    """The tide table, which gives way to the chart only where the chart would have no room."""

    def __init__(self, tide: TideTable) -> None:
        super().__init__()
        self._tide = tide
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setWidgetResizable(True)
        self.setWidget(tide)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Maximum)
        tide.stood.connect(self._follow)
        tide.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if watched is self._tide and event is not None and event.type() == QEvent.Type.Resize:
            # More or fewer rows: the chart takes or gives the room.
            self.setMaximumHeight(self._tide.height())
            self.updateGeometry()
        return super().eventFilter(watched, event)

    def sizeHint(self) -> QSize:
        return QSize(200, self._tide.height())

    def minimumSizeHint(self) -> QSize:
        return QSize(200, min(self._tide.height(), _LEAST * ROW + 4))

    def _follow(self, row: int) -> None:
        """Bring the row of the cursor in sight."""
        self.ensureVisible(0, row * ROW + ROW // 2, 0, ROW)
