"""What leaves the window: the figures of a view as CSV, and pictures of it."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QSize, QTimer
from PyQt6.QtGui import QGuiApplication, QImage
from PyQt6.QtWidgets import QFileDialog

from oat_tide.core.language import phrase
from oat_tide.core.user_error import Progress, UserError
from oat_tide.desk.deck.host import Host
from oat_tide.desk.leaving import picture
from oat_tide.desk.look import style
from oat_tide.desk.look.turns import Turn
from oat_tide.system.whole import write_whole

_SOON = 50
"""Milliseconds until it is asked again whether other work is done."""


class Publishing:
    """Asks where to, and writes."""

    def __init__(self, window: Host) -> None:
        self._window = window
        self._being_drawn: set[picture.Picture] = set()

    def publish_csv(self) -> None:
        """Write the figures in sight as CSV; with the as-of moved back it asks first."""
        if self._window.session is None or not self._window.session.ready:
            return
        if not self._window.session.moved_back:
            self._publish_csv()
            return
        label = self._window.session.grid.label(self._window.session.as_of)
        self._window.strip.say(
            phrase(
                "The as-of is {label}: these figures are what would have been projected then.", label=label
            ),
            (
                (phrase("Publish as of {label}", label=label), self._publish_csv),
                (phrase("Go to the latest first"), self._publish_home),
            ),
        )

    def _publish_home(self) -> None:
        self._window.bring_home()
        self._publish_csv()

    def _publish_csv(self) -> None:
        from oat_tide.publish.tables import view_csv, view_of

        session, stage = self._window.session, self._window.stage
        assert session is not None
        start = str(
            Path.home()
            / phrase("{title} {stage}.csv", title=session.plan.title, stage=stage).replace("/", "-")
        )
        name, _ = QFileDialog.getSaveFileName(
            self._window.window(), phrase("Write the figures"), start, phrase("Tables (*.csv)")
        )
        if not name:
            return
        view = view_of(session, stage)
        self._write(Path(name), lambda file: file.write_text(view_csv(view), encoding="utf-8"))

    def _write(self, path: Path, write: Callable[[Path], object]) -> None:
        """Have a file written off the window, and say so."""
        self._run(
            phrase("Writing {name}", name=path.name),
            lambda _: write_whole(path, write),
            lambda _: self._window.strip.say(phrase("{name} is written.", name=path.name), calm=True),
        )

    def ask_picture(self) -> None:
        """Ask for the size of a picture of the deck, to be saved or copied."""
        if self._window.session is None or not self._window.session.ready:
            return
        answers = ((phrase("Save…"), self._save_picture), (phrase("Copy"), self._copy_picture))
        self._window.strip.ask(
            phrase("Picture of this view, width and height in pixels."), picture.USUAL, answers, picture.USUAL
        )

    def _draw(self, size: QSize, then: Callable[[picture.Drawing], object]) -> None:
        """Have the view drawn, a part at a turn: each takes a good share of a frame."""
        session = self._window.session
        assert session is not None
        made = picture.Picture(session, self._window.stage, self._window.deck, size)
        # Nothing else holds it: collected as garbage it would never be drawn, or be gone amid a paint.
        self._being_drawn.add(made)

        def fill() -> None:
            # Amid a switch of light and dark it would be of both.
            if style.is_whole():
                filling.stop()
                made.fill()
                drawing.start(0)

        def draw() -> None:
            if not style.is_whole():
                filling.start(0)
                return
            drawn = made.drawn()
            made.close()
            self._being_drawn.discard(made)
            then(drawn)

        filling, drawing = Turn(made, fill, again=True), Turn(made, draw)
        filling.start(0)

    def _size(self, written: str) -> QSize | None:
        try:
            return picture.size_of(written)
        except UserError as error:
            self._window.strip.say(str(error))
            return None

    def _run(self, words: str, work: Callable[[Progress], Any], done: Callable[[Any], object]) -> None:
        """Have something done as soon as nothing else is."""
        runner = self._window.runner
        if runner.job is None:
            runner.run(words, work, done)
        else:
            QTimer.singleShot(_SOON, lambda: self._run(words, work, done))

    def _copy_picture(self, written: str) -> None:
        def copied(image: QImage) -> None:
            clipboard = QGuiApplication.clipboard()
            if clipboard:
                clipboard.setImage(image)
                self._window.strip.say(phrase("The picture is copied."), calm=True)

        if size := self._size(written):
            self._draw(size, lambda drawing: self._run(phrase("Copying"), lambda _: drawing.image(), copied))

    def _save_picture(self, written: str) -> None:
        size, session = self._size(written), self._window.session
        if size is None or session is None:
            return
        start = str(
            Path.home()
            / phrase("{title} {stage}.svg", title=session.plan.title, stage=self._window.stage).replace(
                "/", "-"
            )
        )
        name, _ = QFileDialog.getSaveFileName(
            self._window.window(), phrase("Save the picture"), start, phrase("Pictures (*.svg *.png)")
        )
        if not name:
            return
        path = Path(name)
        self._draw(
            size,
            lambda drawing: self._write(path, lambda file: drawing.write_as(file, path.suffix)),
        )
