"""Listings as tables: rows fetched as they come in sight, roles over columns, cells to be mended."""

from __future__ import annotations

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt, pyqtSignal
from PyQt6.QtWidgets import QAbstractItemView, QComboBox, QTableView

from oat_tide.desk.look.plain import still
from oat_tide.stages.deck import Listing

_PAGE = 200
_RIGHT = int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)


class LinesModel(QAbstractTableModel):
    """A Listing for a table view. Where columns have roles, these stand in a first row of their own.

    Signals:
        edited: (Edit) a cell was written anew.
    """

    edited = pyqtSignal(object)

    def __init__(self, listing: Listing) -> None:
        super().__init__()
        self.listing = listing
        self.above = 1 if listing.roles else 0
        self._page = -1
        self._rows: list[tuple[str, ...]] = []

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else self.listing.count + self.above

    def columnCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self.listing.columns)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        last = index.column() == len(self.listing.columns) - 1
        if role == Qt.ItemDataRole.TextAlignmentRole and last and self.listing.total:
            return _RIGHT
        if role not in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            return None
        row = index.row() - self.above
        if row < 0:
            return self.listing.roles[index.column()][0]
        start = row // _PAGE * _PAGE
        if self._page != start:
            self._page = start
            self._rows = self.listing.fetch(start, start + _PAGE)
        return self._rows[row - start][index.column()]

    def flags(self, index: QModelIndex) -> Qt.ItemFlag:
        base = super().flags(index)
        mend = self.listing.mend
        if mend and index.isValid() and mend(index.row() - self.above, index.column(), "") is not None:
            return base | Qt.ItemFlag.ItemIsEditable
        return base

    def setData(self, index: QModelIndex, value: object, role: int = Qt.ItemDataRole.EditRole) -> bool:
        text = str(value)
        if not self.listing.mend or text == self.data(index):
            return False
        edit = self.listing.mend(index.row() - self.above, index.column(), text)
        if edit is not None:
            self.edited.emit(edit)
        return edit is not None

    def headerData(
        self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> object:
        adds_up = self.listing.total and section == len(self.listing.columns) - 1
        if role == Qt.ItemDataRole.TextAlignmentRole and adds_up:
            return _RIGHT
        if role == Qt.ItemDataRole.DisplayRole and orientation == Qt.Orientation.Horizontal:
            return self.listing.columns[section]
        return None


class LinesView(QTableView):
    """A listing as a table that can be scrolled, copied from and, where it says so, written in.

    Signals:
        edited: (Edit).
    """

    edited = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setEditTriggers(
            QAbstractItemView.EditTrigger.DoubleClicked | QAbstractItemView.EditTrigger.EditKeyPressed
        )
        self.setShowGrid(False)
        self.setTabKeyNavigation(False)
        self.verticalHeader().setVisible(False)  # type: ignore[union-attr]
        self.verticalHeader().setDefaultSectionSize(20)  # type: ignore[union-attr]
        header = self.horizontalHeader()
        assert header is not None
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
        header.setStretchLastSection(True)
        header.setResizeContentsPrecision(40)

    def take(self, listing: Listing) -> None:
        """Show a listing."""
        model = LinesModel(listing)
        model.edited.connect(self.edited)
        self.setModel(model)
        self.setAccessibleName(listing.title)
        self.resizeColumnsToContents()
        for column, (role, choices) in enumerate(listing.roles):
            self._offer(model, column, role, choices)

    def _offer(self, model: LinesModel, column: int, role: str, choices: tuple[str, ...]) -> None:
        """The role of a column, to be chosen on the column itself."""
        combo = QComboBox()
        still(combo)
        combo.addItems(choices)
        combo.setCurrentText(role)
        combo.setAccessibleName(f"Role of {model.listing.columns[column]}")
        choose = model.listing.choose
        assert choose is not None
        combo.textActivated.connect(lambda text: self.edited.emit(choose(column, text)))
        self.setIndexWidget(model.index(0, column), combo)
        self.setRowHeight(0, 28)
        header = self.horizontalHeader()
        if header and header.sectionSize(column) < 110:
            header.resizeSection(column, 110)
