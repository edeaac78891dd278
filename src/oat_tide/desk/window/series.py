"""Choosing the series: a list a dimension, opened from the header."""

from __future__ import annotations

from PyQt6.QtCore import (
    QItemSelectionModel,
    QModelIndex,
    QPoint,
    QRectF,
    QSize,
    Qt,
    pyqtSignal,
)
from PyQt6.QtGui import QPainter, QStandardItemModel
from PyQt6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QListView,
    QPushButton,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from oat_tide.core.language import noun, nouns, phrase
from oat_tide.core.series.coded import Key
from oat_tide.core.series.panel import Sizes, sizes
from oat_tide.core.working.number_format import compact
from oat_tide.desk.look.measured import advance, elided, written
from oat_tide.desk.look.palette import TEXT, palette
from oat_tide.desk.look.plain import Text
from oat_tide.desk.look.turns import Turn
from oat_tide.session import Session

_SEARCH_FROM = 12
_SIZE = Qt.ItemDataRole.UserRole
_WIDE = 260
NOWHERE = QModelIndex()
_ALL = phrase("All")
ORDERS = BY_NAME, BY_SIZE = (phrase("by name"), phrase("by size"))


class _Sized(QStyledItemDelegate):
    """A member with its size at the right."""

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(0, 24)

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        assert painter is not None
        # Of the row only its ground: an index of nothing has no text.
        super().paint(painter, option, QModelIndex())
        place = QRectF(option.rect).adjusted(8, 0, -8, 0)
        size = str(index.data(_SIZE) or "")
        painter.save()
        painter.setPen(palette().color("quiet"))
        written(painter, place, 1, size)
        painter.setPen(palette().color("ink"))
        room = int(place.width()) - advance(size) - 10
        written(painter, place, 0, elided(str(index.data()), room, TEXT, middle=True), TEXT)
        painter.restore()


class _Members(QStandardItemModel):
    """All, and the members that are looked for; names and sizes are told when they come in sight.

    Its rows are empty ones of Qt, which asks for each of them when it lays them out: of 100,000 rows that a
    model in Python counts, that takes over a second.
    """

    def __init__(self, members: tuple[str, ...]) -> None:
        super().__init__(0, 1)
        self._members, self._shown, self.held = members, members, Sizes()

    def order(self, order: str, text: str) -> None:
        """Show those that hold a text, in an order."""
        wanted = text.casefold()
        shown = self._members
        if wanted:
            shown = tuple(each for each in shown if wanted in each.casefold())
        if order == BY_SIZE:
            shown = tuple(sorted(shown, key=self.held.of, reverse=True))
        self._shown = shown
        self.setRowCount(1 + len(shown))
        self._told()

    def resize(self, held: Sizes) -> None:
        """Say other sizes; the members stay where they are."""
        self.held = held
        self._told()

    def _told(self) -> None:
        self.dataChanged.emit(self.index(0, 0), self.index(len(self._shown), 0))

    def place_of(self, member: str | None) -> QModelIndex:
        """Return the index of a value in the list; an invalid one where it is not shown."""
        if member is None:
            return self.index(0, 0)
        return self.index(self._shown.index(member) + 1, 0) if member in self._shown else NOWHERE

    def member(self, row: int) -> str | None:
        """The member of a row; None for all."""
        return self._shown[row - 1] if 0 < row <= len(self._shown) else None

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        member = self.member(index.row())
        if role == _SIZE:
            return self._said(member)
        if role == Qt.ItemDataRole.ToolTipRole:
            return member or phrase("All of them together")
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            return member or _ALL
        return None

    def _said(self, member: str | None) -> str:
        """The size of a member, or of all of them; empty where figures are not added up."""
        size = self.held.total if member is None else self.held.of(member)
        return compact(size) if self.held else ""


class PlaceList(QWidget):
    """The members of one dimension, "All" first, with their sizes, and a search where they are many."""

    picked = pyqtSignal()

    def __init__(self, dimension: str, members: tuple[str, ...], now: str | None) -> None:
        super().__init__()
        self.dimension, self.now, self._order = dimension, now, ORDERS[0]
        self.model, self.members = _Members(members), QListView()
        self.members.setUniformItemSizes(True)
        self.members.setItemDelegate(_Sized(self.members))
        self.members.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.members.setAccessibleName(dimension)
        self.members.setModel(self.model)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        heading = Text(dimension)
        heading.setObjectName("head2")
        box.addWidget(heading)
        self.search = QLineEdit()
        if len(members) > _SEARCH_FROM:
            self.search.setPlaceholderText(phrase("find in {members:,}", members=len(members)))
            self.search.setAccessibleName(phrase("Find in {dimension}", dimension=dimension))
            self.search.textChanged.connect(lambda text: self.fill(self._order))
            box.addWidget(self.search)
        box.addWidget(self.members)
        self.fill(ORDERS[0])
        selection = self.members.selectionModel()
        if selection is not None:
            selection.currentChanged.connect(self._chosen)

    def fill(self, order: str) -> None:
        """Put the members that are looked for in an order; the one in use stays in use."""
        self._order = order
        self.members.blockSignals(True)
        self.model.order(order, self.search.text())
        selection, place = self.members.selectionModel(), self.model.place_of(self.now)
        if selection is not None:
            selection.blockSignals(True)
            how = QItemSelectionModel.SelectionFlag
            selection.setCurrentIndex(place, how.ClearAndSelect if place.isValid() else how.Clear)
            selection.blockSignals(False)
        self.members.scrollTo(place)
        self.members.blockSignals(False)

    def _chosen(self, place: QModelIndex) -> None:
        if not place.isValid():
            return
        self.now = self.model.member(place.row())
        self.picked.emit()


class Places(QFrame):
    """A list a dimension, to narrow the series by.

    Signals:
        chosen: (pairs) the series is narrowed to these members.
    """

    chosen = pyqtSignal(object)

    def __init__(self, parent: QWidget, session: Session, key: Key) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.setObjectName("places")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.lists: list[PlaceList] = []
        self._sizing = Turn(self, self._size_one)
        self.session, reading, grid = session, session.reading, session.grid
        box, row = QVBoxLayout(self), QHBoxLayout()
        for at, (dimension, members) in enumerate(zip(reading.dimensions, reading.members, strict=True)):
            each = PlaceList(dimension, members, key[at])
            each.picked.connect(self._picked)
            self.lists.append(each)
            row.addWidget(each)
        self._unsized = list(range(len(self.lists)))
        self._sizing.start(0)
        if not self.lists:
            row.addWidget(
                Text(phrase("The source holds one series. Tick columns under “Series by” in Intake."))
            )
        box.addLayout(row)
        self.orders: dict[str, QPushButton] = {}
        if self.lists:
            last = (
                phrase("last {cycle} {kinds}", cycle=grid.cycle, kinds=nouns(grid.kind))
                if grid.cycle > 1
                else phrase("last {kind}", kind=noun(grid.kind))
            )
            says = (
                phrase("{unit}, {last} up to the as-of", unit=reading.unit, last=last)
                if reading.totalled == "sum"
                else ""
            )
            box.addLayout(self._foot(says))

    def _sizes(self, key: Key, at: int) -> Sizes:
        """The last year of each member of a dimension; none of figures that are not added up."""
        panel, stop = self.session.panel, self.session.as_of - self.session.panel.first + 1
        if self.session.reading.totalled != "sum":
            return Sizes()
        return sizes(panel, key, at, stop - self.session.grid.cycle, stop)

    def _foot(self, says: str) -> QHBoxLayout:
        """What the sizes are, and the orders to choose from."""
        foot, said = QHBoxLayout(), Text(says)
        said.setObjectName("quiet")
        foot.addWidget(said, 1)
        for order in ORDERS:
            button = QPushButton(order)
            button.setObjectName("choice")
            button.setCheckable(True)
            button.setChecked(order == ORDERS[0])
            button.clicked.connect(lambda checked, order=order: self._order(order))
            self.orders[order] = button
            foot.addWidget(button)
        return foot

    def _order(self, order: str) -> None:
        for each, button in self.orders.items():
            button.setChecked(each == order)
        for each_list in self.lists:
            each_list.fill(order)

    def _picked(self) -> None:
        pairs = tuple((each.dimension, each.now) for each in self.lists if each.now is not None)
        self.chosen.emit(pairs)
        self._unsized = list(range(len(self.lists)))
        self._sizing.start(0)

    def _size_one(self) -> None:
        """Say the sizes in one list; of many members that takes a turn."""
        if not self._unsized or not self.session.ready:
            return
        at = self._unsized.pop(0)
        self.lists[at].model.resize(self._sizes(tuple(each.now for each in self.lists), at))
        if self._unsized:
            self._sizing.start(0)

    def open_below(self, widget: QWidget) -> None:
        """Open under a button, on the first list."""
        self.move(widget.mapToGlobal(QPoint(0, widget.height() + 2)))
        self.resize(max(_WIDE * len(self.lists), 320), 360 if self.lists else 60)
        self.show()
        if self.lists:
            self.lists[0].members.setFocus()
