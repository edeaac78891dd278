"""What each kind of item of the side sheet is shown by: an entry a kind."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Protocol

from PyQt6.QtWidgets import QPushButton, QWidget

from oat_tide.core.working.tree import FACT, Ref
from oat_tide.desk.look.plain import Text, bare, tip
from oat_tide.desk.sheet.cards import CardsView
from oat_tide.desk.sheet.choice import ChoiceView
from oat_tide.desk.sheet.controls import widget_for
from oat_tide.desk.sheet.fact import FactRow
from oat_tide.desk.sheet.inset import InsetView
from oat_tide.stages.deck import Button, Cards, Choice, Control, Deck, Fact, Figure, Inset, Item, Note


class Board(Protocol):
    """What items are shown on: the side sheet.

    Attributes:
        edited, rested, troubled, pointed, chosen, previewed: its signals.
    """

    edited: Any
    rested: Any
    troubled: Any
    pointed: Any
    chosen: Any
    previewed: Any

    def ref_of(self, figure: Figure, column: int = FACT) -> Ref:
        """The address of a figure of the deck in sight."""


def _always(item: Any) -> object:
    return type(item)


@dataclass(frozen=True, slots=True)
class ItemKind:
    """One kind of item.

    Attributes:
        make: its widget, on a board.
        fill: (widget, item, deck, series) shows an item.
        shape: of an item, what decides which widget it needs; items of one shape share it in turn.
    """

    make: Callable[[Any, Board], QWidget]
    fill: Callable[[Any, Any, Deck, int], None]
    shape: Callable[[Any], object] = _always


def shape_of(item: Item) -> object:
    """What decides which widget an item needs."""
    return ITEMS[type(item)].shape(item)


def _control(item: Control, board: Board) -> QWidget:
    control = widget_for(item)
    control.edited.connect(board.edited)
    control.rested.connect(board.rested)
    control.troubled.connect(board.troubled)
    return control


def _control_shape(item: Control) -> object:
    return item.path, item.kind, item.title, item.names


def _choice(item: Choice, board: Board) -> QWidget:
    choice = ChoiceView()
    choice.edited.connect(board.edited)
    choice.troubled.connect(board.troubled)
    choice.followed.connect(board.chosen)
    return choice


def _choice_shape(item: Choice) -> object:
    titles = tuple(entry.title for entry in item.entries)
    return Choice, len(item.outcomes), titles, item.evidence is not None


def _fact(item: Fact, board: Board) -> QWidget:
    row = FactRow()
    row.pointed.connect(lambda figure: board.pointed.emit(None if figure is None else board.ref_of(figure)))
    row.chosen.connect(lambda figure: board.chosen.emit(board.ref_of(figure)))
    return row


def _note(item: Note, board: Board) -> QWidget:
    label = Text()
    label.setObjectName({"head": "head2", "small": "quiet"}.get(item.kind, ""))
    label.setWordWrap(True)
    return label


class ActButton(QPushButton):
    """A control that holds no value.

    Attributes:
        act: what it does now.
    """

    def __init__(self, act: Button) -> None:
        super().__init__()
        self.setObjectName("choice")
        self.act = act

    def fill(self, act: Button) -> None:
        """Take what it is to do."""
        self.act = act
        self.setText(bare(act.title))
        self.setAccessibleName(act.title)
        self.setEnabled(act.edit is not None)
        tip(self, act.why_not)


def _act(item: Button, board: Board) -> QWidget:
    button = ActButton(item)
    button.clicked.connect(lambda: board.edited.emit(button.act.edit))
    return button


def _inset(item: Inset, board: Board) -> QWidget:
    view = InsetView()
    view.edited.connect(board.edited)
    view.pointed.connect(
        lambda figure, column: board.pointed.emit(None if figure is None else board.ref_of(figure, column))
    )
    return view


def _cards(item: Cards, board: Board) -> QWidget:
    view = CardsView(item, lambda each: ITEMS[type(each)].make(each, board), _fill)
    view.edited.connect(board.edited)
    view.previewed.connect(board.previewed)
    return view


def _fill(widget: QWidget, item: Item, deck: Deck, series: int) -> None:
    ITEMS[type(item)].fill(widget, item, deck, series)


def _cards_shape(item: Cards) -> object:
    parts = tuple((len(card.acts), tuple(map(shape_of, card.items))) for card in item.cards)
    return item.name, item.folds, parts


def _simply(widget: Any, item: Any, deck: Deck, series: int) -> None:
    widget.fill(item)


def _of_deck(widget: Any, item: Any, deck: Deck, series: int) -> None:
    widget.fill(item, deck, series)


def _of_fact(widget: FactRow, item: Fact, deck: Deck, series: int) -> None:
    widget.fill(deck.figures[item.figure], series)


def _of_note(widget: Text, item: Note, deck: Deck, series: int) -> None:
    widget.setText(item.text(series))


ITEMS: dict[type, ItemKind] = {
    Control: ItemKind(_control, _simply, _control_shape),
    Fact: ItemKind(_fact, _of_fact),
    Note: ItemKind(_note, _of_note, lambda item: (item.kind,)),
    Choice: ItemKind(_choice, _simply, _choice_shape),
    Button: ItemKind(_act, _simply, lambda item: (Button, item.title)),
    Cards: ItemKind(_cards, _of_deck, _cards_shape),
    Inset: ItemKind(_inset, _of_deck, lambda item: (Inset, item.title)),
}
