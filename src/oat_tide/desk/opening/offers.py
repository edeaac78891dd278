"""What was not saved when a window ended: offered where plans are opened, to be taken up or discarded."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Protocol

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout

from oat_tide.core.language import phrase
from oat_tide.core.user_error import Progress, UserError
from oat_tide.desk.deck.host import Host
from oat_tide.desk.look.measured import elided
from oat_tide.desk.look.palette import SMALL, TEXT
from oat_tide.desk.look.plain import Text, bare, tip
from oat_tide.desk.opening.source_dialogs import SourceDialogs
from oat_tide.documents import Document
from oat_tide.journal import Journal, Left, left, take_up, unsaved
from oat_tide.stages.deck import Listing
from oat_tide.what_was_done import logged

if TYPE_CHECKING:
    from pathlib import Path

    from oat_tide.plan.log import Entry

MOST = 3
"""Offers in sight at once; the others follow when these are dealt with."""
_STEPS = 4


def waiting() -> list[tuple[Left, list[Entry]]]:
    """What is to be offered, with its steps; a journal whose steps were all saved goes."""
    found: list[tuple[Left, list[Entry]]] = []
    for one in left():
        try:
            entries = unsaved(one)
        except UserError:
            # That it cannot be read is said when it is taken up.
            found.append((one, []))
            continue
        if one.steps and not entries:
            one.discard()
        else:
            found.append((one, entries))
    return found


class Offer(QFrame):
    """One plan with what was not saved of it, the latest steps first.

    Signals:
        taken: (Left) it is to be taken up.
        discarded: (Left) it is not wanted.
    """

    taken = pyqtSignal(object)
    discarded = pyqtSignal(object)

    def __init__(self, one: Left, entries: list[Entry], wide: int) -> None:
        super().__init__()
        self.setObjectName("offer")
        self.setFixedWidth(wide)
        self.setAccessibleName(f"{one.head.title}: {one.told()}")
        box = QVBoxLayout(self)
        box.setContentsMargins(14, 10, 14, 10)
        box.setSpacing(3)
        where = str(one.path) if one.path else phrase("in no file yet")
        for words, name, size in (
            (one.head.title, "head2", TEXT),
            (one.told(), "", TEXT),
            (where, "quiet", SMALL),
        ):
            box.addWidget(self._line(words, name, size))
        for each in list(reversed(entries))[:_STEPS]:
            said = f"{each.at.astimezone():%H:%M}  {'' if each.act == 'did' else each.act + ' '}{each.what}"
            box.addWidget(self._line(said, "quiet", SMALL))
        if len(entries) > _STEPS:
            box.addWidget(
                self._line(phrase("and {entries:,} before", entries=len(entries) - _STEPS), "quiet", SMALL)
            )
        row = QHBoxLayout()
        row.setSpacing(6)
        self.take, self.drop = QPushButton(phrase("Take up")), QPushButton(phrase("Discard"))
        for button, signal in ((self.take, self.taken), (self.drop, self.discarded)):
            button.setObjectName("choice")
            button.clicked.connect(lambda checked, signal=signal: signal.emit(one))
            row.addWidget(button)
        row.addStretch()
        box.addLayout(row)

    def _line(self, words: str, name: str, size: int) -> Text:
        label = Text(bare(elided(words, self.width() - 32, size, middle=True)))
        if name:
            label.setObjectName(name)
        tip(label, words if label.text() != words else "")
        return label


class Keeps(Protocol):
    """What sees to it that nothing is lost.

    Attributes:
        journal: of what is not saved yet, or None.
    """

    journal: Journal | None

    def show(self, listing: Listing) -> None:
        """Bring a list in sight at the foot of the stage in sight."""


class Begins(Protocol):
    """What is in sight while no plan is open."""

    def show_recent(self) -> None:
        """Show what can be opened, and what was not saved."""


class OffersHost(Host, Protocol):
    """A window that plans are opened in."""

    source_dialogs: SourceDialogs

    @property
    def saving(self) -> Keeps:
        """What sees to it that nothing is lost."""

    @property
    def welcome(self) -> Begins:
        """What is in sight while no plan is open."""


class Offers:
    """Takes up what was not saved, or discards it."""

    def __init__(self, window: OffersHost) -> None:
        self._window = window

    def take_up(self, one: Left) -> None:
        """Open a plan as it was when its window ended, with what was not saved listed at the foot."""
        window = self._window

        def work(progress: Progress) -> Document:
            return take_up(one, progress)

        def opened(document: Document) -> None:
            window.show_document(document)
            if window.saving.journal is not None:
                # What was left goes only once it is written anew.
                window.saving.journal.write()
                if not window.saving.journal.failed:
                    one.discard()
            new = document.session.log[document.session.recorder.before :]
            window.saving.show(
                logged(
                    new, phrase("Not saved"), phrase("Saving keeps them; undo takes them back one by one.")
                )
            )

        def failed(error: BaseException) -> None:
            if not window.source_dialogs.asks(error, lambda: self.take_up(one)):
                window.report(error)

        window.leave(
            lambda: window.runner.run(phrase("Taking up {title}", title=one.head.title), work, opened, failed)
        )

    def discard(self, one: Left) -> None:
        """Let what was not saved go."""
        one.discard()
        self._window.welcome.show_recent()

    def ask(self, path: Path, otherwise: Callable[[], object]) -> bool:
        """Before a plan is opened: whether something of it was not saved, which is asked about then."""
        own = next((each for each in waiting() if each[0].is_of(path)), None)
        if own is None:
            return False
        one, entries = own
        last = phrase(" The last: {what}.", what=entries[-1].what) if entries else ""

        def discard() -> None:
            one.discard()
            otherwise()

        self._window.strip.say(
            phrase("{name}: {told} when its window ended.{last}", name=path.name, told=one.told(), last=last),
            (
                (phrase("Take up"), lambda: self.take_up(one)),
                (phrase("Open as saved"), otherwise),
                (phrase("Discard"), discard),
            ),
            calm=True,
            stays=True,
        )
        return True
