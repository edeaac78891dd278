"""The room of the tide table: as high as it is, and of very many rows some are scrolled to."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject, QSize, Qt
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QFrame, QScrollArea, QScrollBar, QSizePolicy

from oat_tide.desk.look.style import BAR
from oat_tide.desk.table.cells import ROW
from oat_tide.desk.table.tide import TideTable

_LEAST = 3
"""Rows that are in sight at the least."""


class TideRows(QScrollArea):
    """The tide table, which gives way to the chart only where the chart would have no room."""

    def __init__(self, tide: TideTable) -> None:
        super().__init__()
        self._tide = tide
        self._most = 10_000
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        # A bar that took room would move the columns from under the chart: this one lies over the totals.
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._bar = QScrollBar(Qt.Orientation.Vertical, self)
        own = self.verticalScrollBar()
        assert own is not None
        own.rangeChanged.connect(self._take_range)
        own.valueChanged.connect(self._bar.setValue)
        self._bar.valueChanged.connect(own.setValue)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setWidgetResizable(True)
        self.setWidget(tide)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Maximum)
        tide.stood.connect(self._follow)
        tide.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if watched is self._tide and event is not None and event.type() == QEvent.Type.Resize:
            # More or fewer rows: the chart takes or gives the room.
            self._limit()
            self._take_range()
        return super().eventFilter(watched, event)

    def give(self, most: int) -> bool:
        """Be so high at the most; what has no room is scrolled to. Returns whether that is another height."""
        before, self._most = self.maximumHeight(), max(most, _LEAST * ROW)
        self._limit()
        return self.maximumHeight() != before

    def _limit(self) -> None:
        """Grow no higher than the rows are, and than was given."""
        self.setMaximumHeight(self.sizeHint().height())
        self.updateGeometry()

    def sizeHint(self) -> QSize:
        return QSize(200, min(self._tide.height(), self._most))

    def minimumSizeHint(self) -> QSize:
        return QSize(200, min(self._tide.height(), _LEAST * ROW + 4))

    def _take_range(self) -> None:
        own = self.verticalScrollBar()
        assert own is not None
        low, high = own.minimum(), own.maximum()
        self._bar.setRange(low, high)
        self._bar.setPageStep(own.pageStep())
        self._bar.setVisible(high > low)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._bar.setGeometry(self.width() - BAR, 0, BAR, self.height())
        self._bar.raise_()
        self._take_range()

    def _follow(self, row: int) -> None:
        """Bring the row of the cursor in sight."""
        self.ensureVisible(0, round(self._tide.cell_rect(row, 0).center().y()), 0, ROW)
