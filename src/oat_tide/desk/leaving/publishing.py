"""What leaves the window: the figures of a view as CSV, and pictures of it."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QFileDialog

from oat_tide.core.trouble import Tell, Trouble
from oat_tide.desk.leaving import picture
from oat_tide.plan.container import write_whole

if TYPE_CHECKING:
    from oat_tide.desk.window.window import Window


class Publishing:
    """Asks where to, and writes."""

    def __init__(self, window: Window) -> None:
        self._window = window

    def publish_csv(self) -> None:
        """Write the figures in sight as CSV; with the as-of moved back it asks first."""
        if self._window.session is None or not self._window.session.ready:
            return
        if not self._window.session.moved_back:
            self._publish_csv()
            return
        label = self._window.session.grid.label(self._window.session.as_of)
        self._window.strip.say(
            f"The as-of line stands on {label}: these figures are what would have been said then.",
            ((f"Publish as of {label}", self._publish_csv), ("Bring it home first", self._publish_home)),
        )

    def _publish_home(self) -> None:
        self._window.bring_home()
        self._publish_csv()

    def _publish_csv(self) -> None:
        from oat_tide.publish.tables import view_csv

        session, stage = self._window.session, self._window.stage
        assert session is not None
        start = str(Path.home() / f"{session.plan.title} {stage}.csv".replace("/", "-"))
        name, _ = QFileDialog.getSaveFileName(self._window, "Write the figures", start, "Tables (*.csv)")
        if not name:
            return
        path, text = Path(name), view_csv(session, stage)

        def write(tell: Tell) -> None:
            write_whole(path, lambda file: file.write_text(text, encoding="utf-8"))

        self._window.runner.run(
            f"Writing {path.name}",
            write,
            lambda _: self._window.strip.say(f"{path.name} is written.", calm=True),
        )

    def ask_picture(self) -> None:
        """Ask for the size of a picture of the deck, to be saved or copied."""
        if self._window.session is None or not self._window.session.ready:
            return
        answers = (("Save…", self._save_picture), ("Copy", self._copy_picture))
        self._window.strip.ask(
            "Picture of this view, width and height in pixels.", picture.USUAL, answers, picture.USUAL
        )

    def _picture(self, size: str) -> picture.Picture | None:
        assert self._window.session is not None
        try:
            return picture.Picture(
                self._window.session, self._window.stage, self._window.deck, picture.size_of(size)
            )
        except Trouble as trouble:
            self._window.strip.say(str(trouble))
            return None

    def _copy_picture(self, size: str) -> None:
        made, clipboard = self._picture(size), QGuiApplication.clipboard()
        if made and clipboard:
            clipboard.setPixmap(made.pixmap())
            made.close()
            self._window.strip.say("The picture is copied.", calm=True)

    def _save_picture(self, size: str) -> None:
        made = self._picture(size)
        if made is None or self._window.session is None:
            return
        start = str(
            Path.home() / f"{self._window.session.plan.title} {self._window.stage}.svg".replace("/", "-")
        )
        name, _ = QFileDialog.getSaveFileName(
            self._window, "Save the picture", start, "Pictures (*.svg *.png)"
        )
        try:
            if name:
                write_whole(Path(name), lambda file: made.write_as(file, Path(name).suffix))
                self._window.strip.say(f"{Path(name).name} is written.", calm=True)
        except Trouble as trouble:
            self._window.strip.say(str(trouble))
        finally:
            made.close()
