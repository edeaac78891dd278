"""The roles of the columns of a list, each chosen in a box on the column itself."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QComboBox, QTableView

from oat_tide.core.language import phrase
from oat_tide.desk.look.plain import still, stops
from oat_tide.desk.look.turns import Turn

Roles = Sequence[tuple[str, tuple[str, ...]]]
"""Of each column its role, and what it can be."""


class RoleBoxes(QObject):
    """Boxes in the first row of a table: made for the columns in sight, one a turn, for each takes its time.

    Until its box is there, a column has its role written in that place.

    Attributes:
        boxes: by column, those made so far.

    Signals:
        chosen: (column, role).
    """

    chosen = pyqtSignal(int, str)

    def __init__(self, view: QTableView) -> None:
        super().__init__(view)
        self.boxes: dict[int, QComboBox] = {}
        self._view = view
        self._names: Sequence[str] = ()
        self._roles: Roles = ()
        self._making = Turn(self, self._make_one, again=True)
        header, bar = view.horizontalHeader(), view.horizontalScrollBar()
        assert header is not None and bar is not None
        header.sectionResized.connect(self.look)
        bar.valueChanged.connect(self.look)

    @property
    def makes_more(self) -> bool:
        """Whether a column in sight is still without its box."""
        return self._making.isActive()

    def offer(self, names: Sequence[str], roles: Roles) -> None:
        """Offer the roles of the columns of a model that the view has just taken; its old boxes are gone."""
        self.boxes = {}
        self._names, self._roles = names, roles
        self.look()

    def say(self, roles: Roles) -> None:
        """Say other roles of the same columns."""
        self._roles = roles
        for column, box in self.boxes.items():
            box.setCurrentText(roles[column][0])

    def look(self) -> None:
        """See to it that the columns in sight have their boxes."""
        if self._roles:
            self._making.start(0)

    def _make_one(self) -> None:
        column = next((each for each in self._in_sight() if each not in self.boxes), None)
        if column is None:
            self._making.stop()
            return
        self.boxes[column] = self._box(column)
        stops(self._view, (self.boxes[each] for each in sorted(self.boxes)))

    def _in_sight(self) -> range:
        """The columns in sight, by their places."""
        view, viewport = self._view, self._view.viewport()
        if viewport is None or not view.isVisible():
            return range(0)
        first, last = view.columnAt(0), view.columnAt(viewport.width() - 1)
        count = len(self._roles)
        return range(max(first, 0), min(last + 1, count) if last >= 0 else count)

    def _box(self, column: int) -> QComboBox:
        role, choices = self._roles[column]
        box = QComboBox()
        still(box)
        box.addItems(choices)
        box.setCurrentText(role)
        box.setAccessibleName(phrase("Role of {names}", names=self._names[column]))
        box.textActivated.connect(partial(self.chosen.emit, column))
        model = self._view.model()
        assert model is not None
        self._view.setIndexWidget(model.index(0, column), box)
        return box
