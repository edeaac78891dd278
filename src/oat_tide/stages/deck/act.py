"""Items of the side sheet that act, that hold others, or that are small charts."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from oat_tide.plan.edits import Edit
from oat_tide.stages.deck.band import Curve

if TYPE_CHECKING:
    from oat_tide.stages.deck.deck import Item


@dataclass(frozen=True, slots=True)
class Act:
    """A control that holds no value: pressed, it makes an edit.

    Attributes:
        title: what it is called.
        edit: what it does; None where it cannot be done.
        why_not: why not.
    """

    title: str
    edit: Edit | None
    why_not: str = ""


@dataclass(frozen=True, slots=True)
class Card:
    """One of a group of cards.

    Attributes:
        title: its name, always in sight.
        said: what is said of it in few words, beside its name.
        items: what it holds; in sight while it is open.
    """

    title: str
    said: str
    items: tuple[Item, ...]


@dataclass(frozen=True, slots=True)
class Cards:
    """A group of cards, of which one is open.

    Attributes:
        name: tells the group from others.
        cards: the cards; the first is open until another one is opened.
    """

    name: str
    cards: tuple[Card, ...]


@dataclass(frozen=True, slots=True)
class Inset:
    """A small chart with an axis of its own.

    Attributes:
        title: what is drawn.
        axis: of the deck, by name; the figures drawn are of it.
        curves: what is drawn; those of the role "columns" and "bars" stand from zero.
        pick: the edit of a column that is clicked; None where nothing comes of it.
        at: the column that is picked now; below 0 for none.
    """

    title: str
    axis: str
    curves: tuple[Curve, ...]
    pick: Callable[[int], Edit | None] | None = None
    at: int = -1
