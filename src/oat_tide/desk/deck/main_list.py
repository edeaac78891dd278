"""A list that is the main view of a deck, in the place of its chart and table."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from oat_tide.core.language import phrase
from oat_tide.desk.card.list_bar import ListBar
from oat_tide.desk.card.listings import LinesView
from oat_tide.desk.look.plain import Text
from oat_tide.stages.deck import Deck, Listing


class MainList(QWidget):
    """The list, how many rows of it are shown, and what can be done with it.

    Signals:
        edited: (Edit).
    """

    edited = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.view, self.said = LinesView(), Text()
        self.bar = ListBar(self.view)
        self.said.setObjectName("quiet")
        self.view.edited.connect(self.edited)
        self.bar.edited.connect(self.edited)
        self.view.arranged.connect(self._say)
        head = QHBoxLayout()
        head.addWidget(self.said, 1)
        head.addWidget(self.bar)
        box = QVBoxLayout(self)
        box.setContentsMargins(18, 0, 18, 0)
        box.addLayout(head)
        box.addWidget(self.view, 1)
        self.hide()

    def show_deck(self, deck: Deck) -> None:
        """Show the main list of a deck, if it has one."""
        self.setVisible(deck.main is not None)
        if deck.main is not None and self.view.listing is not deck.main:
            self.view.take(deck.main)

    def _say(self, shown: Listing) -> None:
        whole = self.view.listing.count if self.view.listing else 0
        some = (
            phrase("{count:,} of {whole:,} rows", count=shown.count, whole=whole)
            if shown.count < whole
            else phrase("{whole:,} rows", whole=whole)
        )
        self.said.setText(" · ".join(each for each in (some, shown.note) if each))
