"""Choosing the series: a list a dimension, opened from the header."""

from __future__ import annotations

from PyQt6.QtCore import QModelIndex, QPoint, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from oat_tide.core.series.panel import Key, sizes
from oat_tide.core.working.numerals import compact
from oat_tide.desk.look.measured import advance, elided, written
from oat_tide.desk.look.palette import TEXT, palette
from oat_tide.desk.look.plain import Text
from oat_tide.session import Session

_SEARCH_FROM = 12
_SIZE = Qt.ItemDataRole.UserRole
_WIDE = 260
ORDERS = ("by name", "by size")


class _Sized(QStyledItemDelegate):
    """A member with its size at the right."""

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(0, 24)

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        assert painter is not None
        # Of the item only its ground: an index of nothing has no text.
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


class PlaceList(QWidget):
    """The members of one dimension, "All" first, with their sizes, and a search where they are many."""

    picked = pyqtSignal()

    def __init__(
        self, dimension: str, members: tuple[str, ...], now: str | None, held: dict[str, float]
    ) -> None:
        super().__init__()
        self.dimension, self._members, self._held = dimension, members, held
        self.members = QListWidget()
        self.members.setItemDelegate(_Sized(self.members))
        self.members.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.members.setAccessibleName(dimension)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        heading = Text(dimension)
        heading.setObjectName("head2")
        box.addWidget(heading)
        if len(members) > _SEARCH_FROM:
            self.search = QLineEdit()
            self.search.setPlaceholderText(f"find in {len(members):,}")
            self.search.setAccessibleName(f"Find in {dimension}")
            self.search.textChanged.connect(self._find)
            box.addWidget(self.search)
        box.addWidget(self.members)
        self.fill(ORDERS[0], now)
        self.members.currentRowChanged.connect(lambda row: self.picked.emit())

    def fill(self, order: str, now: str | None) -> None:
        """Put the members in an order, with one of them in use."""
        members = self._members
        if order == "by size":
            members = tuple(sorted(members, key=lambda member: -self._held.get(member, 0.0)))
        self.members.blockSignals(True)
        self.members.clear()
        for member in (None, *members):
            item = QListWidgetItem(member or "All")
            item.setData(_SIZE, self._said(member))
            item.setToolTip(member or "All of them together")
            self.members.addItem(item)
        self.members.setCurrentRow(members.index(now) + 1 if now in members else 0)
        self.members.blockSignals(False)
        if len(members) > _SEARCH_FROM:
            self._find(self.search.text())

    def resize_members(self, held: dict[str, float]) -> None:
        """Say other sizes; the members stay where they are."""
        self._held = held
        for row in range(self.members.count()):
            item = self.members.item(row)
            if item:
                item.setData(_SIZE, self._said(item.text() if row else None))

    def _said(self, member: str | None) -> str:
        """The size of a member, or of all of them; empty where figures are not added up."""
        size = sum(self._held.values()) if member is None else self._held.get(member, 0.0)
        return compact(size) if self._held else ""

    def _find(self, text: str) -> None:
        for row in range(1, self.members.count()):
            item = self.members.item(row)
            if item:
                item.setHidden(text.casefold() not in item.text().casefold())

    @property
    def now(self) -> str | None:
        """The member chosen; None for all."""
        item = self.members.currentItem()
        return item.text() if item and self.members.currentRow() > 0 else None


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
        self.session, reading, grid = session, session.reading, session.grid
        box, row = QVBoxLayout(self), QHBoxLayout()
        for at, (dimension, members) in enumerate(zip(reading.dimensions, reading.members, strict=True)):
            each = PlaceList(dimension, members, key[at], self._sizes(key, at))
            each.picked.connect(self._picked)
            self.lists.append(each)
            row.addWidget(each)
        if not self.lists:
            row.addWidget(Text("The source holds one series. Tick columns under “Series by” in Intake."))
        box.addLayout(row)
        self.orders: dict[str, QPushButton] = {}
        if self.lists:
            last = f"last {grid.cycle} {grid.kind}s" if grid.cycle > 1 else f"last {grid.kind}"
            says = f"{reading.unit}, {last} up to the as-of" if reading.totalled == "sum" else ""
            box.addLayout(self._foot(says))

    def _sizes(self, key: Key, at: int) -> dict[str, float]:
        """The last year of each member of a dimension; none of figures that are not added up."""
        panel, stop = self.session.panel, self.session.as_of - self.session.panel.first + 1
        if self.session.reading.totalled != "sum":
            return {}
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
            each_list.fill(order, each_list.now)

    def _picked(self) -> None:
        pairs = tuple((each.dimension, each.now) for each in self.lists if each.now is not None)
        self.chosen.emit(pairs)
        if self.session.ready:
            key = tuple(each.now for each in self.lists)
            for at, each in enumerate(self.lists):
                each.resize_members(self._sizes(key, at))

    def open_below(self, widget: QWidget) -> None:
        """Open under a button, on the first list."""
        self.move(widget.mapToGlobal(QPoint(0, widget.height() + 2)))
        self.resize(max(_WIDE * len(self.lists), 320), 360 if self.lists else 60)
        self.show()
        if self.lists:
            self.lists[0].members.setFocus()
