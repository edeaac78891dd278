"""What stands beside a list: finding in it, picking by a value, and what can be done with the row in hand."""

from __future__ import annotations

import functools
from dataclasses import replace

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QPushButton, QWidget

from oat_tide.core.language import phrase
from oat_tide.desk.card.listings import LinesModel, LinesView
from oat_tide.desk.look.plain import bare, still
from oat_tide.desk.look.text_line import TextLine
from oat_tide.stages.deck import Listing, RowAct

_ALL = "all"


class ListBar(QWidget):
    """Finding, picking and acting, for one list.

    Attributes:
        search: words that rows have to hold.
        picks: by column, the value that rows have to have.
        acts: what can be done with the row in hand.

    Args:
        what: is found in, in words.

    Signals:
        edited: (Edit).
    """

    edited = pyqtSignal(object)

    def __init__(self, view: LinesView, what: str = phrase("this list")) -> None:
        super().__init__()
        self.view = view
        self.search = TextLine()
        self.search.setPlaceholderText(phrase("find in {what}", what=what))
        self.search.setAccessibleName(phrase("Find in {what}", what=what))
        self.search.setFixedWidth(170)
        self.search.textChanged.connect(self._find)
        self.picks: dict[int, QComboBox] = {}
        self.acts: list[QPushButton] = []
        self._of: tuple[object, object] = (None, None)
        self._box = QHBoxLayout(self)
        self._box.setContentsMargins(0, 0, 0, 0)
        self._box.setSpacing(6)
        self._box.addStretch(1)
        self._box.addWidget(self.search)
        view.arranged.connect(self._follow)

    def _find(self, text: str) -> None:
        self.view.want(replace(self.view.wish, text=text.strip()))

    def _pick(self, column: int, text: str) -> None:
        others = tuple(each for each in self.view.wish.only if each[0] != column)
        self.view.want(replace(self.view.wish, only=others if text == _ALL else (*others, (column, text))))

    def _follow(self, listing: Listing) -> None:
        """Offer what a list can do."""
        of = listing.columns, tuple(act.title for act in listing.acts)
        if of != self._of:
            self._of = of
            self._offer(listing)
        self.search.setVisible(listing.arrange is not None)
        if self.search.text().strip() != self.view.wish.text:
            self.search.setText(self.view.wish.text)
        chosen = dict(self.view.wish.only)
        for column, pick in self.picks.items():
            pick.setCurrentText(chosen.get(column, _ALL))
        selection = self.view.selectionModel()
        if selection is not None:
            selection.currentRowChanged.connect(self._weigh)
        self._weigh()

    def _offer(self, listing: Listing) -> None:
        for old in (*self.picks.values(), *self.acts):
            old.hide()
            old.deleteLater()
        self.picks, self.acts = {}, []
        for place, column in enumerate(listing.columns):
            if column.choices:
                pick = QComboBox()
                still(pick)
                pick.addItems((_ALL, *column.choices))
                pick.setAccessibleName(phrase("Only rows of one {name}", name=column.name))
                pick.textActivated.connect(functools.partial(self._pick, place))
                self.picks[place] = pick
                self._box.insertWidget(self._box.count() - 1, pick)
        for at, act in enumerate(listing.acts):
            button = QPushButton(bare(act.title))
            button.setObjectName("choice")
            button.clicked.connect(functools.partial(self._act, at))
            self.acts.append(button)
            self._box.addWidget(button)

    def _edit_of(self, act: RowAct) -> object:
        """The edit of an act on the row in hand; None where it cannot be done."""
        model, row = self.view.model(), self.view.currentIndex().row()
        if not isinstance(model, LinesModel) or not model.above <= row < model.rowCount():
            return None
        return act.edit(row - model.above)

    def _weigh(self) -> None:
        """What cannot be done with the row in hand cannot be pressed."""
        for button, act in zip(self.acts, self._acts, strict=True):
            button.setEnabled(self._edit_of(act) is not None)

    def _act(self, at: int) -> None:
        edit = self._edit_of(self._acts[at])
        if edit is not None:
            self.edited.emit(edit)

    @property
    def _acts(self) -> tuple[RowAct, ...]:
        model = self.view.model()
        return model.listing.acts if isinstance(model, LinesModel) else ()
