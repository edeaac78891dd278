"""The working card: how a figure came about, and the way down to the sales lines."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from html import escape
from typing import NamedTuple

import numpy as np
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
)

from oat_tide.core.exact import known
from oat_tide.core.language import counted, phrase
from oat_tide.core.working.number_format import full, row_decimals, trimmed
from oat_tide.core.working.rendering import as_text, with_numbers
from oat_tide.core.working.tree import FACT, Cell, Given, Leaf, Op, Ref, Run, SalesLines, Working, leaves
from oat_tide.desk.card.list_bar import ListBar
from oat_tide.desk.card.listings import LinesView
from oat_tide.desk.look.measured import wrapped
from oat_tide.desk.look.palette import SMALL, TEXT, palette
from oat_tide.desk.look.plain import Text
from oat_tide.latest import Latest
from oat_tide.session import Session
from oat_tide.stages.common import named
from oat_tide.stages.deck import Deck, Figure, Listing

_LOW, _HIGH, _TALL = 58, 176, 232
_SIDE, _EDGE, _BETWEEN = 12, 6, 3
_MOST_LINKS, _MOST_WORDS, _MOST_NUMBERS = 8, 210, 190
_MOST_ROOMS = 32
Target = Ref | Run | SalesLines


class _Told(NamedTuple):
    """What the card says.

    Attributes:
        links: what can be followed from it.
        names: of the first of them, as they were when it was said: a plan that has gone on may lack them.
    """

    title: str
    words: str
    numbers: str
    links: tuple[Target, ...] = ()
    names: tuple[str, ...] = ()


class WorkingCard(QFrame):
    """Shows a working while a figure is pointed at, keeps it when it is clicked, and follows its terms.

    Attributes:
        at_rest: gives the figure that is shown while none is pointed at.
        trail: what was followed to get here, the figure first.
        least: its height where it takes turns with lists, so that nothing moves when they do.
        room: its height for what the rows of the deck in sight say.

    Signals:
        kept: a figure is kept because one of its terms is followed.
    """

    kept = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("card")
        self.session: Session | None = None
        self.at_rest: Callable[[], Ref | None] = _nowhere
        self._showing: Ref | None = None
        self.trail: list[Target] = []
        self.least = 0
        self._now = _Told("", "", "")
        self._shape: object = None
        self._rooms = Latest[int](_MOST_ROOMS)
        self.room = _LOW
        self._text = ""
        self.title, self.words, self.numbers, self.follow = Text(), Text(), Text(), Text()
        self.lines = LinesView()
        self.bar = ListBar(self.lines, phrase("these lines"))
        self.search = self.bar.search
        self.lines.arranged.connect(self._arranged)
        self.back = _link(phrase("‹ Back"), phrase("Back to the working that this was followed from"))
        self.copy = _link(phrase("Copy working"), phrase("Copy the working as text"))
        self._lay_out()
        self.clear()

    def _lay_out(self) -> None:
        self.title.setObjectName("cardtitle")
        self.words.setObjectName("quiet")
        self.numbers.setObjectName("numbers")
        for label in (self.words, self.numbers, self.follow):
            label.setWordWrap(True)
            label.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        for label in (self.title, self.words, self.numbers):
            label.setTextFormat(Qt.TextFormat.PlainText)
        self.numbers.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.follow.setTextFormat(Qt.TextFormat.RichText)
        self.follow.setTextInteractionFlags(
            Qt.TextInteractionFlag.LinksAccessibleByMouse | Qt.TextInteractionFlag.LinksAccessibleByKeyboard
        )
        self.follow.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.follow.setAccessibleName(phrase("Terms of the working"))
        self.follow.linkActivated.connect(self._followed)
        self.back.clicked.connect(self._go_back)
        self.copy.clicked.connect(self._copied)
        head = QHBoxLayout()
        head.addWidget(self.title, 1)
        head.addWidget(self.bar)
        head.addWidget(self.back)
        head.addWidget(self.copy)
        box = QVBoxLayout(self)
        box.setContentsMargins(_SIDE, _EDGE, _SIDE, _EDGE)
        box.setSpacing(_BETWEEN)
        box.addLayout(head)
        for widget in (self.words, self.numbers, self.follow):
            box.addWidget(widget)
        box.addWidget(self.lines, 1)
        box.addStretch()

    def dress(self) -> None:
        """Write the links in the colours of the palette."""
        self.follow.setText(self._link_text())

    def clear(self) -> None:
        """Nothing is pointed at: the card shows the figure it rests on."""
        self.trail = []
        rest = self.at_rest()
        if rest is not None and self._there(rest):
            assert self.session is not None
            deck = self.session.deck(rest.stage, rest.reach)
            self._show_ref(rest, deck.figures[rest.figure])
        else:
            self._fill(
                _Told(
                    phrase("Every figure shows its working"),
                    "",
                    phrase("Point at a figure in the table to see it."),
                )
            )

    @property
    def pinned(self) -> Ref | None:
        """The figure that is kept, None when the card follows the pointer."""
        return self.trail[0] if self.trail and isinstance(self.trail[0], Ref) else None

    @property
    def _must_wait(self) -> bool:
        """Whether lines are being read anew: a working asked for now would hold up the window."""
        return self.session is not None and not self.session.ready

    def _there(self, ref: Ref) -> bool:
        """Whether an address still points at a figure: an edit or undo may have taken it away."""
        if self.session is None or self._must_wait:
            return False
        deck = self.session.deck(ref.stage, ref.reach)
        figure = deck.figures.get(ref.figure)
        return figure is not None and all(
            at < there for at, there in zip((ref.series, ref.column), figure.values.shape, strict=True)
        )

    def peek(self, deck: Deck, figure: Figure | None, series: int, column: int) -> None:
        """Show the working of what is pointed at, unless one is kept."""
        if self.trail or self._must_wait:
            return
        ref = Ref(deck.stage, figure.name, series, column) if figure is not None else None
        if figure is None or ref is None or not self._there(ref):
            self.clear()
        else:
            self._show_ref(ref, figure)

    def keep(self, ref: Ref) -> None:
        """Keep a figure's working here."""
        self.trail = [ref]
        self.refresh()

    def release(self) -> None:
        """Follow the pointer again."""
        self.clear()

    def refresh(self) -> None:
        """Show the end of the trail as it is now."""
        if self._must_wait:
            return
        if not self.trail or self.session is None:
            self.clear()
            return
        target = self.trail[-1]
        if isinstance(target, SalesLines):
            self._show_lines(target)
        elif not self._there(target if isinstance(target, Ref) else target.ref):
            self.clear()
        elif isinstance(target, Run):
            self._show_run(target)
        else:
            deck = self.session.deck(target.stage, target.reach)
            self._show_ref(target, deck.figures[target.figure])

    def _show_ref(self, ref: Ref, figure: Figure) -> None:
        self._showing = ref
        self._fill(self._told(ref, figure))

    def _told(self, ref: Ref, figure: Figure) -> _Told:
        """What the card says of a figure."""
        working = figure.explain(ref.series, max(ref.column, 0))
        name = self._name(ref)
        if working is None:
            why = figure.why_blank(ref.series, ref.column) or phrase("There is no figure here.")
            return _Told(phrase("{name}: no figure", name=name), "", why)
        decimals = min(row_decimals(figure.values[ref.series]), 6)
        more = 0 if _whole(figure, ref.series) else 4
        numbers, result = with_numbers(working, decimals + more, self._run_name)
        came = f"{numbers} = {result}"
        if isinstance(working, Cell | Given):
            came = f"{self._leaf_name(working)}: {result}"
        elif isinstance(working, SalesLines):
            lines = counted(working.count, "sales line")
            came = phrase("the sum of {lines} = {result}", lines=lines, result=result)
        unit = f" {figure.unit}" if figure.unit else ""
        words = as_text(working, self._leaf_name) if isinstance(working, Op) else ""
        words = " ".join(filter(None, (figure.remark(ref.series, max(ref.column, 0)), words)))
        return self._with_links(f"{name} = {result}{unit}", words, came, tuple(_targets(working)))

    def _with_links(self, title: str, words: str, numbers: str, links: tuple[Target, ...]) -> _Told:
        return _Told(title, words, numbers, links, tuple(map(self._target_name, links[:_MOST_LINKS])))

    def _shape_of(self, deck: Deck) -> object:
        """What decides how much room the rows of a deck need, nearly."""
        return deck.stage, tuple(row.name for row in deck.rows), self.width()

    def expect(self, deck: Deck) -> None:
        """Have the room that such a deck needed before, so that nothing moves when its workings follow."""
        shape = self._shape_of(deck)
        room = self._rooms.get(shape)
        if room is not None and not self.trail and shape != self._shape:
            self.room = room
            self._stand()

    def reserve(self, deck: Deck, series: int) -> Iterator[None]:
        """Have room for the latest working of each row of a deck, so that pointing at rows moves nothing.

        Yields:
            after each row, for a working may take its time.
        """
        shape, tall = self._shape_of(deck), 0
        if self.session is None or self._must_wait or shape == self._shape:
            return
        for row in deck.rows:
            known_at = np.flatnonzero(~np.isnan(row.values[series, : deck.columns]))
            if known_at.size:
                ref = Ref(deck.stage, row.name, series, int(known_at[-1]))
                tall = max(tall, self._height(self._told(ref, row)))
                yield
        # What a deck still waits for may need more room.
        self._shape = None if deck.waits else shape
        self.room = min(max(tall, _LOW), _HIGH)
        self._rooms[shape] = self.room
        self._grow()

    def _height(self, told: _Told) -> int:
        """How high the card is that says this."""
        across = self.width() - 2 * _SIDE
        follow = phrase("Follow: ") + " · ".join(told.names)
        lines = (
            (told.title, TEXT + 1, True),
            (_cut(told.words, _MOST_WORDS), SMALL, False),
            (_cut(told.numbers, _MOST_NUMBERS), TEXT + 1, False),
            (follow if told.links else "", TEXT, False),
        )
        return 2 * _EDGE + sum(
            wrapped(text, across, size, bold) + _BETWEEN for text, size, bold in lines if text
        )

    def _grow(self) -> None:
        """Give the card more height where its text needs more than the rows of the deck, and keep it."""
        self.room = max(self.room, min(self._height(self._now), _HIGH))
        self._stand()

    def _stand(self) -> None:
        """Set the height from the rows of the deck and the kept workings."""
        kept = self._height(self._now) if self.trail else 0
        self.setFixedHeight(_TALL if self.lines.isVisibleTo(self) else max(self.room, kept, self.least))

    def _show_run(self, run: Run) -> None:
        assert self.session is not None
        refs = [
            Ref(run.ref.stage, run.ref.figure, run.ref.series, column)
            for column in range(run.ref.column, run.upto + 1)
        ]
        linked = [ref for ref, value in zip(refs, run.values, strict=True) if known(value)]
        shown = "; ".join(trimmed(float(value), 6) for value in run.values if known(value))
        self._fill(self._with_links(self._run_name(run), "", shown, tuple(linked)))

    def _show_lines(self, found: SalesLines) -> None:
        assert self.session is not None
        listing = self.session.lines(found)
        self._fill(_Told(_lines_title(listing), "", ""))
        self.lines.setVisible(True)
        self.bar.setVisible(True)
        self._grow()
        # In sight already, so that the title says what is shown of it.
        self.lines.take(listing)

    def _arranged(self, listing: Listing) -> None:
        if self.lines.isVisibleTo(self):
            self.title.setText(_lines_title(listing))

    def _fill(self, told: _Told) -> None:
        self._now = told
        title, words, numbers, links, _ = told
        self._text = "\n".join(part for part in (title, words, numbers) if part)
        self.title.setText(title)
        self.words.setText(_cut(words, _MOST_WORDS))
        self.numbers.setText(_cut(numbers, _MOST_NUMBERS))
        self.dress()
        self.words.setVisible(bool(words))
        self.numbers.setVisible(bool(numbers))
        self.follow.setVisible(bool(links))
        self.lines.setVisible(False)
        self.bar.setVisible(False)
        self.back.setVisible(len(self.trail) > 1)
        self.copy.setVisible(bool(links) or bool(self.trail))
        self._grow()
        self.setAccessibleName(phrase("Working: {title}", title=title))
        self.setAccessibleDescription(numbers)

    def _link_text(self) -> str:
        style = f"color:{palette().kelp}; text-decoration:none"
        links = [
            f'<a href="{place}" style="{style}">{escape(name)}</a>'
            for place, name in enumerate(self._now.names)
        ]
        unsaid = len(self._now.links) - len(self._now.names)
        more = phrase(" … {unsaid:,} more", unsaid=unsaid) if unsaid else ""
        return phrase("Follow: ") + " · ".join(links) + more

    def _followed(self, link: str) -> None:
        self.follow_term(int(link))

    def follow_term(self, place: int) -> None:
        """Follow a term, by its place among those named; the figure it belongs to is kept."""
        if not self.trail and self._showing is not None:
            self.trail = [self._showing]
            self.kept.emit()
        self.search.clear()
        self.trail.append(self._now.links[place])
        self.refresh()

    def _go_back(self) -> None:
        self.trail.pop()
        self.refresh()

    def _copied(self) -> None:
        clipboard = QGuiApplication.clipboard()
        if clipboard:
            clipboard.setText(self._text)

    def _name(self, ref: Ref) -> str:
        assert self.session is not None
        deck = self.session.deck(ref.stage, ref.reach)
        figure = deck.figures[ref.figure]
        label = _label(deck, figure, ref)
        return label if ref.column == FACT else f"{label}, {deck.label_on(figure.axis, ref.column)}"

    def _run_name(self, run: Run) -> str:
        assert self.session is not None
        deck = self.session.deck(run.ref.stage, run.ref.reach)
        figure = deck.figures[run.ref.figure]
        first, last = (deck.label_on(figure.axis, column) for column in (run.ref.column, run.upto))
        return f"{_label(deck, figure, run.ref)}, {first} – {last}"

    def _leaf_name(self, leaf: Leaf) -> str:
        if isinstance(leaf, Given):
            return leaf.why or trimmed(leaf.value, 6)
        if isinstance(leaf, Cell):
            return self._name(leaf.ref)
        return self._target_name(leaf)

    def _target_name(self, target: Target) -> str:
        if isinstance(target, SalesLines):
            return (
                phrase("the {count:,} sales lines", count=target.count)
                if target.count != 1
                else phrase("the sales line")
            )
        return self._run_name(target) if isinstance(target, Run) else self._name(target)


def _nowhere() -> Ref | None:
    return None


def _label(deck: Deck, figure: Figure, ref: Ref) -> str:
    """A figure for people; of another series than the one in sight, also whose it is."""
    return f"{named(deck.keys[ref.series])}: {figure.label}" if ref.reach else figure.label


def _lines_title(listing: Listing) -> str:
    return phrase(
        "{title}: {count:,}, together {full}",
        title=listing.title,
        count=listing.count,
        full=full(listing.total or 0.0),
    )


def _targets(working: Working) -> Iterator[Target]:
    """What the terms of a working lead to, each once."""
    seen: set[object] = set()
    for leaf in leaves(working):
        target = leaf.ref if isinstance(leaf, Cell) else leaf
        if isinstance(target, Given):
            continue
        mark = (target.ref, target.upto) if isinstance(target, Run) else target
        if mark not in seen:
            seen.add(mark)
            yield target


def _whole(figure: Figure, series: int) -> bool:
    values = figure.values[series]
    return bool((values == values.round())[known(values)].all())


def _cut(text: str, most: int) -> str:
    """A long text without its middle; what is copied is whole."""
    if len(text) <= most:
        return text
    head, tail = text[: most * 3 // 4], text[-(most // 5) :]
    return f"{head.rpartition(' ')[0]} … {tail.partition(' ')[2]}"


def _link(text: str, says: str) -> QPushButton:
    button = QPushButton(text)
    button.setObjectName("link")
    button.setAccessibleName(says)
    button.setCursor(Qt.CursorShape.PointingHandCursor)
    return button
