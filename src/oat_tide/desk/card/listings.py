"""Lists as tables: rows fetched as they come in sight, sorted by their headings, cells to be written anew."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
)

from oat_tide.core.exact import known
from oat_tide.desk.look.palette import palette
from oat_tide.desk.look.plain import still, stops
from oat_tide.stages.deck import Listing, Wish
from oat_tide.stages.deck.listing import Row

_PAGE = 200
_LEFT = int(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
_RIGHT = int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
_CHART, _ARROW = 110, 12
VALUE = Qt.ItemDataRole.UserRole
"""The role under which the model gives a cell's value rather than its text."""


class LinesModel(QAbstractTableModel):
    """A Listing for a table view. Where columns have roles, these stand in a first row of their own.

    Signals:
        edited: (Edit) a cell was written anew.
    """

    edited = pyqtSignal(object)

    def __init__(self, listing: Listing, wish: Wish = Wish()) -> None:  # noqa: B008
        super().__init__()
        self.listing, self.wish = listing, wish
        self.above = 1 if listing.roles else 0
        self._page = -1
        self._rows: Sequence[Row] = ()

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else self.listing.count + self.above

    def columnCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self.listing.columns)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        column = self.listing.columns[index.column()]
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return _RIGHT if column.to_the_right else _LEFT
        if role not in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole, VALUE):
            return None
        row = index.row() - self.above
        if row < 0:
            return self.listing.roles[index.column()][0]
        start = row // _PAGE * _PAGE
        if self._page != start:
            self._page = start
            self._rows = self.listing.fetch(start, start + _PAGE)
        value = self._rows[row - start][index.column()]
        return value if role == VALUE else column.text(value)

    def flags(self, index: QModelIndex) -> Qt.ItemFlag:
        base = super().flags(index)
        if index.isValid() and self.listing.columns[index.column()].mended:
            return base | Qt.ItemFlag.ItemIsEditable
        return base

    def setData(self, index: QModelIndex, value: object, role: int = Qt.ItemDataRole.EditRole) -> bool:
        text = str(value)
        if not self.listing.mend or text == self.data(index):
            return False
        self.edited.emit(self.listing.mend(index.row() - self.above, text))
        return True

    def headerData(
        self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> object:
        column = self.listing.columns[section] if section < len(self.listing.columns) else None
        if column is None or orientation != Qt.Orientation.Horizontal:
            return None
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return _RIGHT if column.to_the_right else _LEFT
        if role == Qt.ItemDataRole.ToolTipRole and self.listing.arrange is not None:
            return "Click to sort by it (Ctrl+Up, Ctrl+Down)"
        if role == Qt.ItemDataRole.DisplayRole:
            name = f"{column.name}, {column.unit}" if column.unit else column.name
            return f"{name} {'▾' if self.wish.falling else '▴'}" if section == self.wish.by else name
        return None


class ChartCell(QStyledItemDelegate):
    """Draws the figures of a cell as a small line, its last one as a dot."""

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        super().paint(painter, option, index)
        values = index.data(VALUE)
        there = [(at, each) for at, each in enumerate(values or ()) if known(each)]
        if painter is None or not there:
            return
        place = QRectF(option.rect).adjusted(5, 4, -5, -4)
        low, high = min(each for _, each in there), max(each for _, each in there)
        wide, tall = place.width() / max(len(values) - 1, 1), place.height() / ((high - low) or 1.0)
        points = [
            QPointF(place.left() + at * wide, place.bottom() - (each - low) * tall) for at, each in there
        ]
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(palette().color("quiet"), 1.2))
        painter.drawPolyline(QPolygonF(points))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(palette().color("ink"))
        painter.drawEllipse(points[-1], 2.2, 2.2)
        painter.restore()


class LinesView(QTableView):
    """A list as a table that can be scrolled, sorted, copied from and, where it says so, written in.

    Attributes:
        listing: the list as it came; what is shown of it is what is wished for.
        wish: how its rows are wanted.

    Signals:
        edited: (Edit).
        arranged: (Listing) rows are shown in another order or choice.
    """

    edited = pyqtSignal(object)
    arranged = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.listing: Listing | None = None
        self.wish = Wish()
        self._charts = ChartCell(self)
        self._texts = QStyledItemDelegate(self)
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
        header.setStretchLastSection(True)
        header.setResizeContentsPrecision(40)
        header.setSectionsClickable(True)
        header.setHighlightSections(False)
        header.sectionClicked.connect(self._turn)

    def take(self, listing: Listing) -> None:
        """Show a list; one with the same columns in the order and choice that the last one was shown in."""
        if self.listing is None or self.listing.columns != listing.columns or listing.arrange is None:
            self.wish = Wish()
        self.listing = listing
        self._show()

    def want(self, wish: Wish) -> None:
        """Show the rows as they are wished for."""
        if self.listing is not None and self.listing.arrange is not None and wish != self.wish:
            self.wish = wish
            self._show()

    def _turn(self, section: int) -> None:
        """Sort by a column: the least first, then the largest, then as the rows come."""
        wish = self.wish
        if wish.by != section:
            self.want(replace(wish, by=section, falling=False))
        elif not wish.falling:
            self.want(replace(wish, falling=True))
        else:
            self.want(replace(wish, by=-1, falling=False))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        up, down = Qt.Key.Key_Up, Qt.Key.Key_Down
        if event.modifiers() == Qt.KeyboardModifier.ControlModifier and event.key() in (up, down):
            column = max(self.currentIndex().column(), 0)
            self.want(replace(self.wish, by=column, falling=event.key() == down))
        else:
            super().keyPressEvent(event)

    def _show(self) -> None:
        listing, wish = self.listing, self.wish
        assert listing is not None
        shown = listing if wish == Wish() or listing.arrange is None else listing.arrange(wish)
        widths = self._widths() if self.model() is not None and not listing.roles else []
        model = LinesModel(shown, wish)
        model.edited.connect(self.edited)
        self.setModel(model)
        self.setAccessibleName(shown.title)
        header = self.horizontalHeader()
        assert header is not None
        for place, column in enumerate(shown.columns):
            self.setItemDelegateForColumn(place, self._charts if column.kind == "chart" else self._texts)
        if len(widths) == len(shown.columns):
            # The last one takes what room there is.
            for place, wide in enumerate(widths[:-1]):
                header.resizeSection(place, wide)
        else:
            self._fit(shown)
        roles = [self._offer(model, place, *role) for place, role in enumerate(shown.roles)]
        stops(self, roles)
        self.arranged.emit(shown)

    def _widths(self) -> list[int]:
        """What the columns were given, while the same ones are shown."""
        header, model = self.horizontalHeader(), self.model()
        now = model.listing.columns if isinstance(model, LinesModel) else None
        if header is None or self.listing is None or now != self.listing.columns:
            return []
        return [header.sectionSize(place) for place in range(header.count())]

    def _fit(self, shown: Listing) -> None:
        self.resizeColumnsToContents()
        for place, column in enumerate(shown.columns):
            if column.kind == "chart":
                self.setColumnWidth(place, _CHART)
            elif shown.arrange is not None and place < len(shown.columns) - 1:
                self.setColumnWidth(place, self.columnWidth(place) + _ARROW)

    def _offer(self, model: LinesModel, column: int, role: str, choices: tuple[str, ...]) -> QComboBox:
        """The role of a column, to be chosen on the column itself."""
        combo = QComboBox()
        still(combo)
        combo.addItems(choices)
        combo.setCurrentText(role)
        combo.setAccessibleName(f"Role of {model.listing.columns[column].name}")
        choose = model.listing.choose
        assert choose is not None
        combo.textActivated.connect(lambda text: self.edited.emit(choose(column, text)))
        self.setIndexWidget(model.index(0, column), combo)
        self.setRowHeight(0, 28)
        header = self.horizontalHeader()
        if header and header.sectionSize(column) < 110:
            header.resizeSection(column, 110)
        return combo
