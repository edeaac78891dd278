"""The foot of the middle: the working card and, where a stage lists things, its lists, one at a time."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import (
    QButtonGroup,
    QHBoxLayout,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from oat_tide.core.language import phrase
from oat_tide.desk.card.card import WorkingCard
from oat_tide.desk.card.list_bar import ListBar
from oat_tide.desk.card.listings import LinesView
from oat_tide.desk.look.measured import elided
from oat_tide.desk.look.palette import SMALL
from oat_tide.desk.look.plain import Text, bare, stops, tip
from oat_tide.stages.deck import Listing

_LISTING, _GAP, _HEAD, _SIDE = 118, 5, 26, 14
WORKING = phrase("Working")


class Foot(QWidget):
    """The foot of the middle: the working card and the lists, one at a time.

    Attributes:
        card: the working card.
        listing: the list in sight.
        bar: what can be done with that list.
        title: of that list.
        note: more said of it.
        hint: what is pointed at elsewhere.
        after: the stop of the Tab key before it.

    Signals:
        edited: (Edit).
    """

    edited = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.card, self.listing = WorkingCard(), LinesView()
        self.bar = ListBar(self.listing)
        self.title, self.note, self.hint = Text(), Text(), Text()
        self.title.setObjectName("cardtitle")
        for label in (self.note, self.hint):
            label.setObjectName("quiet")
        for label in (self.title, self.note, self.hint):
            label.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.after: QWidget | None = None
        self.group = QButtonGroup(self)
        self.tabs: dict[str, QPushButton] = {}
        self._listings: tuple[Listing, ...] = ()
        self._chosen: dict[str, str] = {}
        self._stage = ""
        self._news: Listing | None = None
        self._news_stage = ""
        self._note = ""
        self._tab_row = QWidget()
        self._tab_box = QHBoxLayout(self._tab_row)
        self._tab_box.setContentsMargins(0, 0, 0, 0)
        self._tab_box.setSpacing(5)
        self._tab_box.addWidget(self.hint, 1)
        self.listing.edited.connect(self.edited)
        self.bar.edited.connect(self.edited)
        self._head = QWidget()
        # As high with what can be done with a list as without, so that nothing moves when they take turns.
        self._head.setFixedHeight(_HEAD)
        head = QHBoxLayout(self._head)
        head.setContentsMargins(0, 0, 0, 0)
        head.addWidget(self.title, 1)
        head.addWidget(self.bar)
        self.listing.setFixedHeight(_LISTING)
        box = QVBoxLayout(self)
        box.setContentsMargins(_SIDE, 0, _SIDE, 0)
        box.setSpacing(_GAP)
        for widget in (self._tab_row, self._head, self.note, self.listing, self.card):
            box.addWidget(widget)
        # What is not in sight yet would ask for room all the same.
        self.show_listings("", ())

    @property
    def tab(self) -> str:
        """What is in sight."""
        fallback = self._listings[0].tab if self._listings else WORKING
        chosen = self._chosen.get(self._stage, fallback)
        return chosen if chosen in self.tabs else fallback

    def set_news(self, news: Listing | None, stage: str = "") -> None:
        """Have a list before those of the deck of a stage, until it is taken away."""
        self._news, self._news_stage = news, stage
        if news is not None:
            self._chosen[stage] = news.tab

    def show_listings(self, stage: str, listings: tuple[Listing, ...]) -> None:
        """Offer the lists of a deck; without any the card stands alone."""
        self._stage = stage
        if self._news is not None and (listings or stage == self._news_stage):
            listings = (self._news, *listings)
        names = [*(each.tab for each in listings), *([WORKING] if listings else [])]
        if names != list(self.tabs):
            self._make_tabs(names)
        self._listings = listings
        above = _HEAD + self.note.sizeHint().height() + 2 * _GAP
        self.card.least = above + _LISTING if listings else 0
        self._tab_row.setVisible(bool(listings))
        self._show()

    def _say_note(self, note: str) -> None:
        """What has room of a note, and all of it where it is pointed at."""
        self._note = note
        self.note.setText(elided(note, self.width() - 2 * _SIDE, SMALL))
        tip(self.note, note)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._say_note(self._note)

    def choose(self, tab: str) -> None:
        """Bring a list, or the working, in sight."""
        self._chosen[self._stage] = tab
        self._show()

    def _make_tabs(self, names: list[str]) -> None:
        for button in self.tabs.values():
            self.group.removeButton(button)
            button.hide()
            button.deleteLater()
        self.tabs = {}
        for place, name in enumerate(names):
            button = QPushButton(bare(name))
            button.setObjectName("choice")
            button.setCheckable(True)
            button.clicked.connect(lambda checked, name=name: self.choose(name))
            self.group.addButton(button)
            self._tab_box.insertWidget(place, button)
            self.tabs[name] = button
        stops(self.after, self.tabs.values())

    def _show(self) -> None:
        tab = self.tab
        listing = next((each for each in self._listings if each.tab == tab), None)
        listed, worked = (self._head, self.note, self.listing), (self.card,)
        going, coming = (listed, worked) if listing is None else (worked, listed)
        # What goes, goes first: with both there, everything above would be laid out anew twice.
        for widget in going:
            widget.setVisible(False)
        for widget in coming:
            widget.setVisible(True)
        if tab in self.tabs:
            self.tabs[tab].setChecked(True)
        if listing is None:
            return
        self.title.setText(listing.title)
        self._say_note(listing.note)
        if self.listing.listing is not listing:
            self.listing.take(listing)
