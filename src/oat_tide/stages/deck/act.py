"""Items of the side sheet that act, that hold others, or that are small charts."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from oat_tide.plan.edits import Edit
from oat_tide.stages.deck.band import Curve
from oat_tide.stages.deck.choice import Choice
from oat_tide.stages.deck.control import Control
from oat_tide.stages.deck.said import Fact, Note


@dataclass(frozen=True, slots=True)
class Button:
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
        said: what is said of it in few words, with its name.
        items: what it holds; in sight while it is open.
        acts: what can be done to it as a whole, such as to take it out, by few letters each.
        line: the curve that it stands for, a piece of which is drawn beside its name.
        preview: what the chart shows while it is pointed at, as an edit that is not made; None for nothing.
    """

    title: str
    said: str
    items: tuple[Item, ...]
    acts: tuple[tuple[str, Button], ...] = ()
    line: Curve | None = None
    preview: Edit | None = None


@dataclass(frozen=True, slots=True)
class Cards:
    """A group of cards, of which one is open.

    Attributes:
        name: tells the group from others.
        cards: the cards.
        open: the one that is open; where the plan does not keep it, the first until another one is opened.
        opens: the edit that opens another one; None where the plan does not keep it.
        folds: whether each opens and closes by itself, all closed at first.
    """

    name: str
    cards: tuple[Card, ...]
    open: int = 0
    opens: Callable[[int], Edit] | None = None
    folds: bool = False


@dataclass(frozen=True, slots=True)
class InsetMark:
    """A column of a small chart that is pointed out.

    Attributes:
        column: which.
        curve: the place of the curve that the mark stands on.
        text: what it is.
        kind: "now" for what is in use, "least" for the best.
    """

    column: int
    curve: int
    text: str
    kind: str


@dataclass(frozen=True, slots=True)
class Inset:
    """A small chart with an axis of its own.

    Attributes:
        title: what is drawn.
        axis: of the deck, by name; the figures drawn are of it.
        curves: what is drawn; those of the role "columns" and "bars" stand from zero.
        pick: the edit of a column that is clicked; None where nothing comes of it.
        at: the column that is picked now; below 0 for none.
        marks: gives the columns that are pointed out.
    """

    title: str
    axis: str
    curves: tuple[Curve, ...]
    pick: Callable[[int], Edit | None] | None = None
    at: int = -1
    marks: Callable[[], tuple[InsetMark, ...]] = lambda: ()


Item = Control | Fact | Note | Choice | Button | Cards | Inset
"""What the side sheet holds."""
