"""What is taken in from outside: files, databases, typed figures, levels, closed days, newer figures."""

from __future__ import annotations

import functools
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QFileSystemWatcher
from PyQt6.QtWidgets import QFileDialog

from oat_tide.core.language import phrase
from oat_tide.core.user_error import Locked, Progress, Unasked, UserError
from oat_tide.desk.deck.host import Host
from oat_tide.desk.work.strip import Answer
from oat_tide.documents import Document, open_sources
from oat_tide.intake.origins.passwords import is_address
from oat_tide.plan.edits import Edit
from oat_tide.plan.parts.evened import RulingKind
from oat_tide.plan.parts.sources import Sources
from oat_tide.plan.paths import P, steps

if TYPE_CHECKING:
    from oat_tide.session import Session

_TABLES = phrase("Sales files (*.csv *.tsv *.txt *.xlsx *.ods *.parquet);;All files (*)")


class SourceDialogs:
    """What the window takes in from outside, by dialogs and from a thread.

    Attributes:
        watcher: looks at the files of the open plan.
    """

    def __init__(self, window: Host) -> None:
        self._window = window
        self.watcher = QFileSystemWatcher(window.window())
        self.watcher.fileChanged.connect(self._changed)
        self.watcher.directoryChanged.connect(self._changed)

    # Opening

    def ask_folder(self) -> None:
        """Ask for a folder whose files are one source."""
        name = QFileDialog.getExistingDirectory(self._window.window(), phrase("Open a folder of sales files"))
        if name:
            self._window.open(Path(name))

    def ask_files(self) -> None:
        """Ask for several files of one shape."""
        names, _ = QFileDialog.getOpenFileNames(
            self._window.window(), phrase("Open several files as one"), "", _TABLES
        )
        if names:
            self.open_new(Sources(places=tuple(sorted(names))), phrase("Reading files"))

    def ask_address(self) -> None:
        """Ask for the address of a database."""
        self._window.strip.ask(
            phrase("Address of the database. The password is asked for and kept nowhere."),
            "postgresql://user@server/database",
            ((phrase("Open"), self._open_address),),
        )

    def _open_address(self, address: str) -> None:
        from oat_tide.intake.origins import passwords

        try:
            place = passwords.bare(address.strip())
        except UserError as error:
            self._window.strip.say(str(error))
            return
        self.open_new(Sources(places=(place,)), phrase("Asking the database"))

    def ask_query(self) -> None:
        """Ask for a query on the open database."""
        session = self._window.session
        if session is None:
            return
        self._window.strip.ask(
            phrase("A query that only reads. Its columns take the place of a table's."),
            phrase("SELECT sold_on, goods, cases FROM sales WHERE …"),
            ((phrase("Run"), self._open_query),),
            session.plan.sources.query,
            tall=True,
        )

    def _open_query(self, query: str) -> None:
        session = self._window.session
        assert session is not None
        places = session.plan.sources.places
        self.open_new(Sources(places=places, query=query.strip()), phrase("Asking the database"))

    def ask_typed(self) -> None:
        """Ask for figures to be typed or pasted: into an empty box, so that nothing is there twice."""
        self._window.strip.ask(
            phrase("Periods and their figures, a line each, typed or pasted."),
            "2023  1,200\n2024  1,340",
            ((phrase("Make a series"), lambda text: self.open_new(Sources(typed=text), phrase("Reading"))),),
            tall=True,
        )

    def open_new(self, sources: Sources, words: str) -> None:
        """Open a new plan on sources; a server that asks for a password gets it from the user."""
        window = self._window

        def failed(error: BaseException) -> None:
            if not self.asks(error, lambda: self.open_new(sources, words)):
                window.report(error)

        def read(progress: Progress) -> Document:
            return open_sources(sources, progress)

        window.leave(lambda: window.runner.run(words, read, window.show_document, failed))

    def asks(self, error: BaseException, then: Callable[[], Any]) -> bool:
        """Whether an error is a question: it is asked, and what failed is tried again with the answer."""
        if isinstance(error, Locked):
            self.ask_password(error, then)
        elif isinstance(error, Unasked):
            self.ask_to_read(error, then)
        return isinstance(error, Locked | Unasked)

    def ask_to_read(self, unasked: Unasked, then: Callable[[], Any]) -> None:
        """Ask whether files that a plan alone has named may be read."""
        from oat_tide.intake.origins import path_permission

        def said_yes() -> None:
            path_permission.chosen(unasked.places)
            then()

        self._window.strip.say(str(unasked), ((phrase("Read them"), said_yes),), stays=True)

    def ask_password(self, locked: Locked, then: Callable[[], Any]) -> None:
        """Ask for the password of a server, and try again with it."""
        from oat_tide.intake.origins import passwords

        def given(password: str) -> None:
            passwords.keep(locked.place, password)
            then()

        self._window.strip.ask(str(locked), "password", ((phrase("Try again"), given),), secret=True)

    # What belongs to the open plan

    def ask_levels(self) -> None:
        """Ask for a file that puts members into groups, such as products into families."""
        from oat_tide.outside import levels

        self._with_file(phrase("Hierarchy from a file"), levels)

    def ask_firsts(self) -> None:
        """Ask for a file of first figures."""
        from oat_tide.refresh import firsts_from

        self._with_file(phrase("First-published figures from a file"), firsts_from)

    def ask_days(self) -> None:
        """Ask for days on which the series in sight could not sell."""
        from oat_tide.outside import days_of

        window = self._window
        if window.session is None:
            return
        answers = (
            (phrase("Closed"), functools.partial(self._days, "closed")),
            (phrase("No stock"), functools.partial(self._days, "no stock")),
            (phrase("From a file…"), lambda text: self._with_file(phrase("Days from a file"), days_of)),
        )
        window.strip.ask(
            phrase("Days closed or without stock, one range per line, for the series in sight."),
            phrase("2025-02-10 – 2025-02-18 storm"),
            answers,
            tall=True,
        )

    def _days(self, act: RulingKind, text: str) -> None:
        from oat_tide.outside import days

        session = self._window.session
        assert session is not None
        try:
            self._window.do(days(session, act, text))
        except UserError as error:
            self._window.strip.say(str(error))

    def _with_file(self, title: str, read: Callable[[Session, Path, Progress], Edit]) -> None:
        """Ask for a file, have an edit made of it off this thread, and make it."""
        window, session = self._window, self._window.session
        if session is None:
            return
        name, _ = QFileDialog.getOpenFileName(window.window(), title, "", _TABLES)
        if name:
            path = Path(name)
            window.runner.run(
                phrase("Reading {name}", name=path.name),
                lambda progress: read(session, path, progress),
                window.do,
            )

    # What the sources hold now

    def watch(self) -> None:
        """Look at the files of the open plan from now on."""
        for old in (*self.watcher.files(), *self.watcher.directories()):
            self.watcher.removePath(old)
        session = self._window.session
        for place in session.plan.sources.places if session else ():
            if not is_address(place) and Path(place).exists():
                self.watcher.addPath(place)

    def _changed(self, place: str) -> None:
        busy = self._window.runner.job is not None or self._window.strip.isVisible()
        if not busy and Path(place).exists():
            answers: tuple[Answer, ...] = ((phrase("Look at what is new"), self.look_again),)
            self._window.strip.say(
                phrase("{name} has changed since it was read.", name=Path(place).name),
                answers,
                calm=True,
                stays=True,
            )

    def look_again(self) -> None:
        """Read the sources again and show what is new before it is taken."""
        from oat_tide.refresh import Again, look_again, take

        window = self._window
        session = window.session
        if session is None or not session.ready:
            return

        def failed(error: BaseException) -> None:
            if not self.asks(error, self.look_again):
                window.report(error)

        def shown(again: Again) -> None:
            self.watch()
            if (
                not again.found
                and not again.changes
                and len(again.session.reading.files) == len(session.reading.files)
            ):
                window.strip.say(again.said, calm=True)
                return

            def taken() -> None:
                window.deck.foot.set_news(None)
                take(session, again)
                window.refresh()

            def left() -> None:
                window.deck.foot.set_news(None)
                window.refresh()

            stage = session.stage_of(steps(P.sources))
            window.show_stage(stage)
            window.deck.foot.set_news(again.listing(), stage)
            window.refresh()
            window.strip.say(
                phrase("{said} Rulings, notes and choices stay.", said=again.said),
                ((phrase("Take them"), taken), (phrase("Leave them"), left)),
                calm=True,
                closes=False,
                stays=True,
            )

        window.runner.run(
            phrase("Reading the sources again"), lambda progress: look_again(session, progress), shown, failed
        )
