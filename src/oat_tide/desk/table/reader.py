"""What a screen reader reads of the tide table: a table of items behind the painted one."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt
from PyQt6.QtGui import QPaintEvent
from PyQt6.QtWidgets import QFrame, QTableView, QWidget

from oat_tide.core.language import phrase
from oat_tide.desk.table.model import TableRows

_SPOKEN = Qt.ItemDataRole.AccessibleTextRole, Qt.ItemDataRole.AccessibleDescriptionRole


class RowsModel(QAbstractTableModel):
    """The rows and columns of a tide table, with heads, values and marks."""

    def __init__(self) -> None:
        super().__init__()
        self._rows: TableRows | None = None

    def take(self, rows: TableRows) -> None:
        """Hold other rows."""
        self.beginResetModel()
        self._rows = rows
        self.endResetModel()

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return len(self._rows) if self._rows is not None else 0

    def columnCount(self, parent: QModelIndex | None = None) -> int:
        return self._rows.deck.columns if self._rows is not None else 0

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0) -> Any:
        if self._rows is None or role not in (Qt.ItemDataRole.DisplayRole, *_SPOKEN):
            return None
        across = orientation == Qt.Orientation.Horizontal
        return self._rows.deck.label(section) if across else self._rows.figures[section].label

    def data(self, index: QModelIndex, role: int = 0) -> Any:
        if self._rows is None or not index.isValid():
            return None
        row, column = index.row(), index.column()
        if role == Qt.ItemDataRole.DisplayRole:
            return self._rows.full_text(row, column)
        if role == _SPOKEN[0]:
            return self._rows.spoken(row, column)
        if role == _SPOKEN[1]:
            return self._marks(row, column)
        return None

    def _marks(self, row: int, column: int) -> str:
        """What is marked at a cell, in words."""
        assert self._rows is not None
        part = phrase("incomplete") if self._rows.is_part(row, column) else ""
        states = {"own": phrase("written by hand"), "locked": phrase("fixed"), "out": phrase("left out")}
        state = states.get(self._rows.state(row, column), "")
        return ", ".join(filter(None, (part, state, self._rows.remark(row, column))))


class TableReader(QTableView):
    """A table that is there to be read aloud: it lies behind the painted one, neither seen nor clicked."""

    def __init__(self, over: QWidget) -> None:
        super().__init__(over)
        self.rows = RowsModel()
        self.setModel(self.rows)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setAttribute(Qt.WidgetAttribute.WA_NoSystemBackground)
        for bar in (self.setHorizontalScrollBarPolicy, self.setVerticalScrollBarPolicy):
            bar(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        for header in (self.horizontalHeader(), self.verticalHeader()):
            if header is not None:
                header.hide()
        viewport = self.viewport()
        if viewport is not None:
            viewport.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
            viewport.setAutoFillBackground(False)
        self.setGeometry(0, 0, 1, 1)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """What is seen is painted by the tide table."""

    def stand(self, row: int, column: int) -> None:
        """Have the current cell where the keys stand."""
        index = self.rows.index(row, column)
        if index.isValid() and index != self.currentIndex():
            self.setCurrentIndex(index)
