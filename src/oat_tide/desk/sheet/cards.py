"""A group of cards of which one is open."""

from __future__ import annotations

import functools
from collections.abc import Callable, Iterator

from PyQt6.QtCore import QEvent, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QEnterEvent, QFocusEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from oat_tide.desk.chart.drawing import STYLES, line_of
from oat_tide.desk.look.measured import advance, elided, written
from oat_tide.desk.look.palette import SMALL, TEXT, palette
from oat_tide.desk.look.plain import bare, tip
from oat_tide.stages.deck import Button, Card, Cards, Deck, Item

_LINE = 30
"""Pixels that the piece of a card's curve takes, with what is left free beside it."""
_ROW, _FOLD = 18, 27
_ACT = 17
"""Pixels that the button of an act takes."""


class CardHead(QPushButton):
    """The head of a card: a piece of its curve, its name, and what is said of it below.

    Attributes:
        card: what it is of.

    Signals:
        pointed: (whether) the pointer, or the keys, stand on it.
    """

    pointed = pyqtSignal(bool)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("card")
        self.setCheckable(True)
        self.card = Card("", "", ())

    def fill(self, card: Card) -> None:
        """Show a card."""
        if card.title == self.card.title and card.said == self.card.said and card.line == self.card.line:
            return
        tall = (card.line is not None) != (self.card.line is not None)
        self.card = card
        said = f"{card.title} · {card.said}" if card.said else card.title
        self.setAccessibleName(said)
        tip(self, said if card.line else "")
        self.setText("" if card.line else bare(said))
        if tall:
            self.updateGeometry()
        self.update()

    def enterEvent(self, event: QEnterEvent | None) -> None:
        super().enterEvent(event)
        self.pointed.emit(True)

    def leaveEvent(self, event: QEvent | None) -> None:
        super().leaveEvent(event)
        self.pointed.emit(False)

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        super().focusInEvent(event)
        self.pointed.emit(True)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        self.pointed.emit(False)

    def sizeHint(self) -> QSize:
        hint = super().sizeHint()
        return hint if self.card.line is None else QSize(40, 2 * _ROW + 8)

    def minimumSizeHint(self) -> QSize:
        return QSize(40, self.sizeHint().height())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        curve = self.card.line
        if curve is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        style = STYLES[curve.role]
        painter.setPen(line_of(style, curve, palette().color(style.color, round(255 * curve.shade))))
        painter.drawLine(8, _ROW - 3, _LINE - 4, _ROW - 3)
        room = self.width() - _LINE - 6
        beside = room - _ACT * len(self.card.acts)
        painter.setPen(palette().color("ink"))
        place = QRectF(_LINE, 4, room, _ROW)
        written(painter, place, 0, elided(self.card.title, beside, TEXT, bold=True), TEXT, bold=True)
        painter.setPen(palette().color("quiet"))
        place = QRectF(_LINE, 4 + _ROW, room, _ROW)
        written(painter, place, 0, elided(self.card.said, room, SMALL), SMALL)


class FoldHead(CardHead):
    """The head of a card that opens and closes by itself: its name, and what it holds in few words."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("fold")

    def sizeHint(self) -> QSize:
        return QSize(40, _FOLD)

    def fill(self, card: Card) -> None:
        """Show a card."""
        super().fill(card)
        self.setText("")

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(QRectF(0, 0, self.width(), 1), palette().color("faint"))
        if self.hasFocus():
            painter.fillRect(self.rect(), palette().color("kelp", 30))
        title = f"{'▾' if self.isChecked() else '▸'} {self.card.title}"
        painter.setPen(palette().color("ink"))
        written(painter, QRectF(0, 1, self.width(), _FOLD), 0, title, TEXT, bold=True)
        painter.setPen(palette().color("quiet"))
        room = self.width() - advance(title, TEXT, bold=True) - 12
        written(painter, QRectF(0, 1, self.width(), _FOLD), 1, elided(self.card.said, max(room, 0)))


class CardActs(QWidget):
    """What can be done to a card as a whole, as small buttons beside its head."""

    edited = pyqtSignal(object)

    def __init__(self, acts: tuple[tuple[str, Button], ...]) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 2, 3, 0)
        row.setSpacing(0)
        self.buttons: list[QPushButton] = []
        for place, (letters, _) in enumerate(acts):
            button = QPushButton(letters)
            button.setObjectName("small")
            button.setFixedSize(_ACT, _ROW + 4)
            button.clicked.connect(functools.partial(self._press, place))
            self.buttons.append(button)
            row.addWidget(button)
        self._acts = acts
        self._name(acts)

    def fill(self, acts: tuple[tuple[str, Button], ...], title: str) -> None:
        """Take what they do now."""
        self._acts = acts
        self._name(acts, title)

    def _name(self, acts: tuple[tuple[str, Button], ...], title: str = "") -> None:
        for button, (letters, act) in zip(self.buttons, acts, strict=True):
            button.setText(letters)
            button.setEnabled(act.edit is not None)
            button.setAccessibleName(f"{act.title}: {title}")
            tip(button, act.why_not or act.title)

    def _press(self, place: int) -> None:
        self.edited.emit(self._acts[place][1].edit)


class CardsView(QWidget):
    """The heads of the cards, and below the open one what it holds; made part by part, by `grow`.

    Attributes:
        heads: the head of each card.
        acts: the buttons beside each.
        open: the place of the one that is open.

    Signals:
        edited: (Edit) another card is to be opened, or something done to one.
        previewed: (Edit) a card is pointed at, or (None) no more.
    """

    edited = pyqtSignal(object)
    previewed = pyqtSignal(object)

    def __init__(
        self,
        cards: Cards,
        make: Callable[[Item], QWidget],
        fill: Callable[[QWidget, Item, Deck, int], None],
    ) -> None:
        super().__init__()
        self._fill_item = fill
        self.heads: list[CardHead] = []
        self.acts: list[CardActs] = []
        self._bodies: list[QWidget] = []
        self._parts: list[list[QWidget]] = []
        self._cards = cards
        self.open = 0
        self._box = QVBoxLayout(self)
        self._box.setContentsMargins(0, 0, 0, 0)
        self._box.setSpacing(3)
        self._growth = self._parts_made(cards, make)

    def grow(self) -> bool:
        """Make the next part; False when none is missing."""
        part = next(self._growth, None)
        if part is not None:
            # Styled now, and not with all the others when they are shown.
            for each in (part, *part.findChildren(QWidget)):
                each.ensurePolished()
        return part is not None

    def _parts_made(self, cards: Cards, make: Callable[[Item], QWidget]) -> Iterator[QWidget]:
        """Every part as it is made and has its place; what they hold is made after they are asked for."""
        for place, card in enumerate(cards.cards):
            head, acts, body = FoldHead() if cards.folds else CardHead(), CardActs(card.acts), QWidget()
            head.clicked.connect(functools.partial(self._pressed, place))
            head.pointed.connect(functools.partial(self._pointed, place))
            acts.edited.connect(self.edited)
            inside = QVBoxLayout(body)
            inside.setContentsMargins(0 if cards.folds else 10, 2, 0, 6)
            inside.setSpacing(5)
            over = QGridLayout()
            over.addWidget(head, 0, 0)
            over.addWidget(acts, 0, 0, Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignRight)
            if not card.acts:
                acts.hide()
            self._box.addLayout(over)
            self._box.addWidget(body)
            self.heads.append(head)
            self.acts.append(acts)
            self._bodies.append(body)
            self._parts.append([])
            yield from (head, acts)
            for item in card.items:
                part = make(item)
                while isinstance(part, CardsView) and part.grow():
                    pass
                inside.addWidget(part)
                self._parts[place].append(part)
                yield part
        self.show_card(-1 if cards.folds else cards.open)

    def _pressed(self, place: int) -> None:
        if self._cards.folds:
            self._bodies[place].setVisible(self.heads[place].isChecked())
        elif self._cards.opens is None:
            self.show_card(place)
        else:
            # The plan says which one is open.
            self.show_card(self.open)
            self.edited.emit(self._cards.opens(place))

    def _pointed(self, place: int, there: bool) -> None:
        preview = self._cards.cards[place].preview if place < len(self._cards.cards) else None
        if preview is not None:
            self.previewed.emit(preview if there else None)

    def show_card(self, place: int) -> None:
        """Open a card; the one that was open closes."""
        self.open = place
        for at, (head, body) in enumerate(zip(self.heads, self._bodies, strict=True)):
            head.setChecked(at == place)
            body.setVisible(at == place and bool(self._parts[at]))

    def open_for(self, widget: QWidget) -> None:
        """Open the card that a widget lies in, if it is one of these."""
        for place, body in enumerate(self._bodies):
            if not body.isAncestorOf(widget):
                continue
            if self._cards.folds:
                self.heads[place].setChecked(True)
                body.show()
            else:
                self.show_card(place)

    def fill(self, cards: Cards, deck: Deck, series: int) -> None:
        """Show what the cards hold now."""
        self._cards = cards
        if cards.opens is not None:
            self.show_card(cards.open)
        for head, acts, parts, card in zip(self.heads, self.acts, self._parts, cards.cards, strict=True):
            head.fill(card)
            acts.fill(card.acts, card.title)
            for part, item in zip(parts, card.items, strict=True):
                self._fill_item(part, item, deck, series)
