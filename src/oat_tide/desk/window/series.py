"""Choosing the series: a list a dimension, opened from the header."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLineEdit, QListWidget, QVBoxLayout, QWidget

from oat_tide.core.series.panel import Key
from oat_tide.core.series.reading import Reading
from oat_tide.desk.look.plain import Text

_SEARCH_FROM = 12


class PlaceList(QWidget):
    """The members of one dimension, "All" first, with a search where they are many."""

    picked = pyqtSignal()

    def __init__(self, dimension: str, members: tuple[str, ...], now: str | None) -> None:
        super().__init__()
        self.dimension = dimension
        self.members = QListWidget()
        self.members.addItems(["All", *members])
        self.members.setCurrentRow(members.index(now) + 1 if now in members else 0)
        self.members.setAccessibleName(dimension)
        self.members.currentRowChanged.connect(lambda row: self.picked.emit())
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        heading = Text(dimension)
        heading.setObjectName("head2")
        box.addWidget(heading)
        if len(members) > _SEARCH_FROM:
            self.search = QLineEdit()
            self.search.setPlaceholderText("find")
            self.search.setAccessibleName(f"Find in {dimension}")
            self.search.textChanged.connect(self._find)
            box.addWidget(self.search)
        box.addWidget(self.members)

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

    def __init__(self, parent: QWidget, reading: Reading, key: Key) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.setObjectName("places")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.lists: list[PlaceList] = []
        row = QHBoxLayout(self)
        for dimension, members, now in zip(reading.dimensions, reading.members, key, strict=True):
            each = PlaceList(dimension, members, now)
            each.picked.connect(self._picked)
            self.lists.append(each)
            row.addWidget(each)
        if not self.lists:
            row.addWidget(Text("The source holds one series. Tick columns under “Series by” in Intake."))

    def _picked(self) -> None:
        pairs = tuple((each.dimension, each.now) for each in self.lists if each.now is not None)
        self.chosen.emit(pairs)

    def open_below(self, widget: QWidget) -> None:
        """Open under a button, on the first list."""
        self.move(widget.mapToGlobal(QPoint(0, widget.height() + 2)))
        self.resize(max(190 * len(self.lists), 220), 320 if self.lists else 60)
        self.show()
        if self.lists:
            self.lists[0].members.setFocus()
