"""A group of cards of which one is open."""

from __future__ import annotations

import functools
from collections.abc import Callable

from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from oat_tide.desk.look.plain import bare
from oat_tide.stages.deck import Cards, Deck, Item


class CardsView(QWidget):
    """The heads of the cards, and below the open one what it holds.

    Attributes:
        heads: the head of each card.
        open: the place of the one that is open.
    """

    def __init__(
        self,
        cards: Cards,
        make: Callable[[Item], QWidget],
        fill: Callable[[QWidget, Item, Deck, int], None],
    ) -> None:
        super().__init__()
        self._fill_item = fill
        self.heads: list[QPushButton] = []
        self._bodies: list[QWidget] = []
        self._parts: list[list[QWidget]] = []
        self.open = 0
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(3)
        for place, card in enumerate(cards.cards):
            head, body = QPushButton(), QWidget()
            head.setObjectName("card")
            head.setCheckable(True)
            head.clicked.connect(functools.partial(self.show_card, place))
            inside = QVBoxLayout(body)
            inside.setContentsMargins(10, 2, 0, 6)
            inside.setSpacing(5)
            parts = [make(item) for item in card.items]
            for part in parts:
                inside.addWidget(part)
            self.heads.append(head)
            self._bodies.append(body)
            self._parts.append(parts)
            box.addWidget(head)
            box.addWidget(body)
        self.show_card(0)

    def show_card(self, place: int) -> None:
        """Open a card; the one that was open closes."""
        self.open = place
        for at, (head, body) in enumerate(zip(self.heads, self._bodies, strict=True)):
            head.setChecked(at == place)
            body.setVisible(at == place)

    def open_for(self, widget: QWidget) -> None:
        """Open the card that a widget lies in, if it is one of these."""
        for place, body in enumerate(self._bodies):
            if body.isAncestorOf(widget):
                self.show_card(place)

    def fill(self, cards: Cards, deck: Deck, series: int) -> None:
        """Show what the cards hold now."""
        for head, parts, card in zip(self.heads, self._parts, cards.cards, strict=True):
            said = f"{card.title} · {card.said}" if card.said else card.title
            head.setText(bare(said))
            head.setAccessibleName(said)
            for part, item in zip(parts, card.items, strict=True):
                self._fill_item(part, item, deck, series)
