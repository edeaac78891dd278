"""Saving the open plan, and keeping what is not saved: the journal, other windows, other programs."""

from __future__ import annotations

import os
import pwd
from collections.abc import Callable
from pathlib import Path
from typing import Any

from PyQt6.QtWidgets import QFileDialog

from oat_tide.core.language import phrase
from oat_tide.desk.deck.host import Host
from oat_tide.desk.work.strip import Answer
from oat_tide.documents import Document, save_document, saved
from oat_tide.journal import Journal
from oat_tide.plan.container import SUFFIX
from oat_tide.stages.deck import Listing
from oat_tide.system import holding, versions
from oat_tide.system.settings import choose, setting
from oat_tide.what_was_done import LOG, differing, logged

_NAME = "name"
_LONGEST = 80
Then = Callable[[], Any]


class Saving:
    """Saves the plan of the window, and sees to it that nothing of it is lost before.

    Attributes:
        journal: of what is not saved yet, or None.
        stamp: the version of the plan file that was read or written last.
    """

    def __init__(self, window: Host) -> None:
        self._window = window
        self.journal: Journal | None = None
        self.stamp: versions.Stamp | None = None
        self._told: versions.Stamp | None = None
        self._held: Path | None = None
        self._keeps = self._warned = False

    # The plan that is open

    def begin(self, document: Document) -> None:
        """A plan was opened: note what is done to it."""
        self.end(keep=self._keeps)
        self._keeps = self._warned = False
        self.stamp = self._told = document.stamp
        document.session.recorder.who = lambda: setting(_NAME)
        self._journal(document)

    def _journal(self, document: Document) -> None:
        window = self._window
        path = None if document.path is None or window.is_demo(document.path) else document.path
        self.journal = Journal(document.session, path, document.stage, document.begun)
        self.journal.look(hurry=True)

    def hold(self, path: Path | None) -> str:
        """Say that the plan file is open here; returns who else has it open, in words, empty for nobody."""
        if path is None or self._window.is_demo(path):
            return ""
        self._held = path
        other = holding.hold(path, setting(_NAME))
        if other is None:
            return ""
        return phrase(
            "{name} is open in another window as well, {told}. What is saved there is noticed "
            "here; keep yours as a copy, or close one of the two.",
            name=path.name,
            told=other.told(),
        )

    def end(self, keep: bool = False) -> None:
        """The plan is left. What is not saved goes, for that was asked about, unless it is kept."""
        if self.journal is not None:
            self.journal.end(keep)
            self.journal = None
        if self._held is not None:
            holding.let_go(self._held)
            self._held = None

    def look(self, hurry: bool = False) -> None:
        """Something may have been done."""
        if self.journal is None:
            return
        self.journal.look(hurry)
        if self.journal.failed and not self._warned:
            self._warned = True
            self._window.strip.say(
                phrase(
                    "What you do is kept nowhere until you save: the journal cannot be written "
                    "({failed}). Make room, or save often.",
                    failed=self.journal.failed,
                )
            )

    # Saving

    def save(self, then: Then = lambda: None) -> None:
        """Save the plan in its file, asking for one where it has none."""
        path = self._window.path
        if path is None or self._window.is_demo(path):
            self.save_as(then)
        elif self._differs(path):
            self._ask_which(path)
        else:
            self._sign(lambda: self._save(path, then))

    def save_as(self, then: Then = lambda: None) -> None:
        """Ask for a file and save the plan in it."""
        window = self._window
        if window.session is None:
            return
        start = str(Path.home() / f"{window.session.plan.title.replace('/', '-')}{SUFFIX}")
        name, _ = QFileDialog.getSaveFileName(
            window.window(), phrase("Save the plan"), start, phrase("Plans (*{suffix})", suffix=SUFFIX)
        )
        if not name:
            return
        chosen = Path(name)
        path = chosen if chosen.suffix == SUFFIX else chosen.with_name(chosen.name + SUFFIX)
        if window.path is not None and path.absolute() == window.path.absolute():
            self.save(then)
        elif path != chosen and path.exists():
            # The dialog asked for another name.
            window.strip.say(
                phrase("There is a {name} already in {parent}.", name=path.name, parent=path.parent),
                (
                    (phrase("Replace it"), lambda: self._sign(lambda: self._save(path, then))),
                    (phrase("Another name"), lambda: self.save_as(then)),
                ),
            )
        elif (other := holding.holder(path)) is not None:
            window.strip.say(
                phrase("{name} is open in another window, {told}.", name=path.name, told=other.told()),
                ((phrase("Another name"), lambda: self.save_as(then)),),
            )
        else:
            self._sign(lambda: self._save(path, then))

    def _sign(self, then: Then) -> None:
        """Have a name for the log, asked once, and go on."""
        session = self._window.session
        assert session is not None

        def named(name: str) -> None:
            choose(_NAME, " ".join(name.split())[:_LONGEST] or _account())
            then_signed()

        def then_signed() -> None:
            session.recorder.sign(setting(_NAME))
            then()

        if setting(_NAME):
            then_signed()
        else:
            self._window.strip.ask(
                phrase(
                    "Your name, as the log of a plan shows it next to what you changed. It is asked once."
                ),
                "name",
                ((phrase("Save with this name"), named),),
                _account(),
            )

    def _save(self, path: Path, then: Then) -> None:
        window, session, stage = self._window, self._window.session, self._window.stage
        assert session is not None
        session.rest()
        plan = session.plan

        def done(stamp: versions.Stamp | None) -> None:
            self.end()
            self.stamp = self._told = stamp
            window.saved_as(path, plan)
            self._journal(Document(session, path, stage))
            held = self.hold(path)
            if held:
                window.strip.say(held, calm=True, stays=True)
            then()

        window.runner.run(
            phrase("Saving {name}", name=path.name),
            lambda progress: save_document(session, stage, path),
            done,
        )

    # Other windows and programs

    def _differs(self, path: Path) -> bool:
        """Whether the file is another than the one that was read or written here."""
        now = versions.stamp_of(path)
        return now is not None and now != self.stamp

    def look_at_disk(self) -> None:
        """The window is looked at: say where another program has changed the plan file."""
        window = self._window
        path = window.path
        asks = window.strip.isVisible() and len(window.strip.answers) > 1
        busy = window.runner.job is not None or asks
        if path is None or busy or window.is_demo(path):
            return
        now = versions.stamp_of(path)
        if now is not None and now not in (self.stamp, self._told):
            self._told = now
            self._ask_which(path)

    def _ask_which(self, path: Path) -> None:
        now = versions.stamp_of(path)
        other = holding.holder(path)
        by = phrase(" It is open {told}.", told=other.told()) if other else ""
        answers: list[Answer] = [
            (
                phrase("Keep mine as a copy"),
                lambda: self._sign(lambda: self._save(_free(path), lambda: None)),
            ),
            (phrase("Take theirs"), lambda: self._take_theirs(path)),
            (phrase("See what differs"), lambda: self._see(path)),
        ]
        if not self._window.changed:
            answers = answers[1:]
        at = phrase(" at {at}", at=now.at) if now else ""
        self._window.strip.say(
            phrase(
                "{name} was changed on the disk{at}, since it was opened here.{by}",
                name=path.name,
                at=at,
                by=by,
            ),
            tuple(answers),
            stays=True,
        )

    def _take_theirs(self, path: Path) -> None:
        # What was done here is offered once more, should it be missed.
        self._keeps = self._window.changed
        self._window.open_now(path)

    def _see(self, path: Path) -> None:
        window, session = self._window, self._window.session
        assert session is not None
        plan = session.plan

        def read(progress: Callable[[float], None]) -> Listing:
            return differing(saved(path).plan, plan, phrase("on the disk"), "here")

        def shown(listing: Listing) -> None:
            self.show(listing)
            self._ask_which(path)

        window.runner.run(phrase("Reading {name}", name=path.name), read, shown)

    # What was before

    def ask_version(self) -> None:
        """Ask for one of the versions that were kept of the plan file, and open it as a copy."""
        window = self._window
        if window.path is None:
            window.strip.say(
                phrase("The plan has no file yet: no version of it was kept. Save it first."), calm=True
            )
            return
        folder = versions.backups_of(window.path)
        if not folder.is_dir():
            window.strip.say(
                phrase("No earlier version was kept yet: one is on the first saving of a day."), calm=True
            )
            return
        name, _ = QFileDialog.getOpenFileName(
            window.window(),
            phrase("Open an earlier version"),
            str(folder),
            phrase("Plans (*{suffix})", suffix=SUFFIX),
        )
        if name:
            window.leave(lambda: window.open_now(Path(name), copy=True))

    def show_log(self) -> None:
        """List what was done to the plan, or take the list away again."""
        window = self._window
        if window.session is None:
            return
        if window.deck.foot.tab == LOG:
            window.deck.foot.set_news(None)
            window.refresh()
        else:
            self.show(logged(window.session.log))

    def show(self, listing: Listing) -> None:
        """Bring a list in sight at the foot of the stage in sight."""
        window = self._window
        window.deck.foot.set_news(listing, window.stage)
        window.refresh()


def _account() -> str:
    """The name of the account, as the system knows it."""
    try:
        told = pwd.getpwuid(os.getuid())
    except KeyError:
        return ""
    return (told.pw_gecos.partition(",")[0] or told.pw_name)[:_LONGEST]


def _free(path: Path) -> Path:
    """A name beside a file that no other has."""
    number = 2
    while (free := path.with_name(f"{path.stem} ({number}){path.suffix}")).exists():
        number += 1
    return free
