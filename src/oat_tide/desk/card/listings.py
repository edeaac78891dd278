"""Lists as tables: rows fetched as they come in sight, sorted by their headings, cells to be written anew."""

from __future__ import annotations

import heapq
from collections.abc import Sequence
from dataclasses import replace

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QPainter, QPen, QPolygonF, QResizeEvent, QShowEvent
from PyQt6.QtWidgets import QAbstractItemView, QStyledItemDelegate, QStyleOptionViewItem, QTableView

from oat_tide.core.exact import known
from oat_tide.core.language import phrase
from oat_tide.desk.card.role_boxes import RoleBoxes
from oat_tide.desk.look.palette import palette
from oat_tide.stages.deck import Listing, ListQuery
from oat_tide.stages.deck.listing import Row

_PAGE = 200
_LEFT = int(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
_RIGHT = int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
_CHART, _ARROW = 110, 12
_BESIDE, _AROUND = 7, 21
"""Pixels beside the text of a cell, and of a heading."""
_ROLE = 110, 28
"""Pixels across that a column with a role has at least, and of the row that they stand in."""
_MEASURED, _LEAST = 2_000, 8
"""Cells that columns are measured by, and rows at least."""
VALUE = Qt.ItemDataRole.UserRole
"""The role under which the model gives a cell's value rather than its text."""


class LinesModel(QAbstractTableModel):
    """A Listing for a table view. Where columns have roles, these stand in a first row of their own.

    Signals:
        edited: (Edit) a cell was written anew.
    """

    edited = pyqtSignal(object)

    def __init__(self, listing: Listing, wish: ListQuery = ListQuery()) -> None:  # noqa: B008
        super().__init__()
        self.listing, self.wish = listing, wish
        self.above = 1 if listing.roles else 0
        self._page = -1
        self._rows: Sequence[Row] = ()

    def retake(self, listing: Listing, wish: ListQuery) -> bool:
        """Hold another list in the place of this one; False where it has other columns or another length."""
        was = self.listing
        if (was.columns, was.count, bool(was.roles)) != (listing.columns, listing.count, bool(listing.roles)):
            return False
        self.listing, self.wish, self._page = listing, wish, -1
        if self.rowCount():
            self.dataChanged.emit(self.index(0, 0), self.index(self.rowCount() - 1, len(listing.columns) - 1))
        return True

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
        value = self._page_of(row)[row % _PAGE][index.column()]
        return value if role == VALUE else column.text(value)

    def _page_of(self, row: int) -> Sequence[Row]:
        start = row // _PAGE * _PAGE
        if self._page != start:
            self._page = start
            self._rows = self.listing.fetch(start, start + _PAGE)
        return self._rows

    def longest(self, column: int, rows: int) -> list[str]:
        """The longest texts of a column among its first rows, its role among them."""
        told = {self.listing.columns[column].text(row[column]) for row in self._page_of(0)[:rows]}
        told.update(role for role, _ in self.listing.roles[column : column + 1])
        return heapq.nlargest(3, told, key=len)

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
            return phrase("Click to sort by it (Ctrl+Up, Ctrl+Down)")
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
        self.wish = ListQuery()
        self._charts = ChartCell(self)
        self._texts = QStyledItemDelegate(self)
        self.roles = RoleBoxes(self)
        self.roles.chosen.connect(self._choose)
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
        header.setSectionsClickable(True)
        header.setHighlightSections(False)
        header.sectionClicked.connect(self._turn)

    def take(self, listing: Listing) -> None:
        """Show a list; one with the same columns in the order and choice that the last one was shown in."""
        if self.listing is None or self.listing.columns != listing.columns or listing.arrange is None:
            self.wish = ListQuery()
        self.listing = listing
        self._show()

    def want(self, wish: ListQuery) -> None:
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
        shown = listing if wish == ListQuery() or listing.arrange is None else listing.arrange(wish)
        old = self.model()
        if shown.roles and isinstance(old, LinesModel) and old.retake(shown, wish):
            # The boxes of its roles, and the place it was scrolled to, stay.
            self.roles.say(shown.roles)
            return
        widths = self._widths() if old is not None and not listing.roles else []
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
            self._fit(model)
        if shown.roles:
            self.setRowHeight(0, _ROLE[1])
        self.roles.offer([column.name for column in shown.columns], shown.roles)
        self.arranged.emit(shown)

    def _widths(self) -> list[int]:
        """What the columns were given, while the same ones are shown."""
        header, model = self.horizontalHeader(), self.model()
        now = model.listing.columns if isinstance(model, LinesModel) else None
        if header is None or self.listing is None or now != self.listing.columns:
            return []
        return [header.sectionSize(place) for place in range(header.count())]

    def _fit(self, model: LinesModel) -> None:
        """Give the columns the room that they need: asking the cells for it one by one takes far longer."""
        shown, header, metrics = model.listing, self.horizontalHeader(), self.fontMetrics()
        assert header is not None
        arrow = _ARROW if shown.arrange is not None else 0
        rows = max(_MEASURED // max(len(shown.columns), 1), _LEAST)
        for place, column in enumerate(shown.columns):
            heading = model.headerData(place, Qt.Orientation.Horizontal)
            told = (metrics.horizontalAdvance(text) + _BESIDE for text in model.longest(place, rows))
            room = max((metrics.horizontalAdvance(f"{heading}") + _AROUND, *told))
            least = _ROLE[0] if shown.roles else 0
            header.resizeSection(place, _CHART if column.kind == "chart" else max(room + arrow, least))

    def _choose(self, column: int, role: str) -> None:
        if self.listing is not None and self.listing.choose is not None:
            self.edited.emit(self.listing.choose(column, role))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.roles.look()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.roles.look()
