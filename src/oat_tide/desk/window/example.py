"""The whole example without a screen: findings on the console, figures and pictures in a folder."""

from __future__ import annotations

import functools
import os
import time
from pathlib import Path
from typing import TYPE_CHECKING

from oat_tide.core.language import phrase
from oat_tide.core.user_error import UserError

if TYPE_CHECKING:
    from PyQt6.QtWidgets import QApplication

    from oat_tide.desk.window.window import Window

_LONGEST = 30.0
"""Seconds that a picture waits for all to be told."""


def write_example(folder: Path) -> int:
    """Print the finding of each stage of the demo plan; write its figures and a picture of each.

    Raises:
        UserError: the folder cannot be written to.
    """
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from oat_tide.demo import plan_path
    from oat_tide.desk.window.app import application
    from oat_tide.desk.window.window import Window
    from oat_tide.documents import open_document
    from oat_tide.publish.tables import view_csv, view_of
    from oat_tide.stages import ON_RAIL
    from oat_tide.system.whole import write_whole

    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise UserError(
            "{folder} cannot be made: {strerror}. Choose another folder.",
            folder=folder,
            strerror=error.strerror,
        ) from error
    app = application()
    document = open_document(plan_path())
    window = Window()
    window.show_document(document)
    window.show()
    for name, stage in ON_RAIL.items():
        window.show_stage(name)
        _wait_until_told(app, window)
        print(f"{stage.title}: {document.session.shown(name).finding(0).replace(chr(10), ' · ')}")
        text = view_csv(view_of(document.session, name))
        write_whole(folder / f"{name}.csv", functools.partial(_write, text))
        write_whole(folder / f"{name}.png", functools.partial(_picture, window))
    window.close()
    print(phrase("Figures and pictures are in {folder}", folder=folder.resolve()))
    return 0


def _wait_until_told(app: QApplication, window: Window) -> None:
    """Let the window fill; what takes longer than any demo does is pictured as it is."""
    end = time.monotonic() + _LONGEST
    app.processEvents()
    while not window.all_told and time.monotonic() < end:
        app.processEvents()
        time.sleep(0.005)
    app.processEvents()


def _write(text: str, path: Path) -> None:
    path.write_text(text, encoding="utf-8")


def _picture(window: object, path: Path) -> None:
    from PyQt6.QtWidgets import QWidget

    assert isinstance(window, QWidget)
    if not window.grab().save(str(path), "PNG"):
        raise OSError(28, "the picture could not be written")
