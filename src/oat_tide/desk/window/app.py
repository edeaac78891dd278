"""Starting the window."""

from __future__ import annotations

import gc
import importlib
import logging
import os
import sys
import threading
from pathlib import Path
from typing import NoReturn

from PyQt6.QtCore import QLocale
from PyQt6.QtGui import QIcon
from PyQt6.QtWidgets import QApplication

from oat_tide.core.language import phrase
from oat_tide.core.user_error import UserError
from oat_tide.core.working.number_format import set_marks
from oat_tide.desk.look import dates, style
from oat_tide.desk.look.palette import system_is_dark
from oat_tide.desk.look.turns import Turn
from oat_tide.desk.window.ending import follow_session, follow_signals, stay_where_it_was
from oat_tide.desk.window.window import Window
from oat_tide.desk.work.faults import catch_all
from oat_tide.documents import rehearse
from oat_tide.intake.origins import subprocess_reader
from oat_tide.system import folders, log

_kept: list[QApplication] = []
_DESKTOP = "org.oat_tide.OatTide"
"""What the desktop knows the program by."""
_ICON = Path(style.__file__).parent / "marks" / "oat-tide.svg"


def has_display() -> bool:
    """Whether there is a screen to open a window on."""
    return bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))


def application() -> QApplication:
    """The application, dressed in the scheme and the number marks of the desktop."""
    found = QApplication.instance()
    if isinstance(found, QApplication):
        return found
    made = QApplication(sys.argv[:1])
    # Without a reference of its own it would go, and every window with it, when the caller forgets it.
    _kept.append(made)
    made.setApplicationName("oat-tide")
    made.setApplicationDisplayName(phrase("Oat Tide"))
    made.setDesktopFileName(_DESKTOP)
    made.setWindowIcon(QIcon(str(_ICON)))
    made.setStyle("Fusion")
    locale = QLocale.system()
    set_marks(locale.decimalPoint(), locale.groupSeparator())
    dates.use_locale()
    style.use(system_is_dark())
    return made


def run(path: Path | None) -> NoReturn:
    """Open the window, on a file if one is given; the program ends with it."""
    if not has_display() and not os.environ.get("QT_QPA_PLATFORM"):
        raise UserError(
            "there is no display to open a window on. Use oat-tide project, or oat-tide demo "
            "--folder FOLDER, which need none."
        )
    made = application()
    log.start()
    window = new_window()
    catch_all(window.fault)
    follow_signals(window)
    follow_session(made, window)
    stay_where_it_was(window)
    window.show()
    _say_where_it_writes(window, later=path is not None)
    if path is not None:
        window.open(path)
    else:
        threading.Thread(target=rehearse, daemon=True).start()
    _leave(made.exec())


def _say_where_it_writes(window: Window, later: bool) -> None:
    """Say where the home folder cannot be written in; after the first paint of a plan that is opened."""
    temporary = folders.stands_in()
    if temporary is None:
        return

    def say() -> None:
        if later:
            window.shown.disconnect(say)
        window.strip.say(
            phrase(
                "Your home folder cannot be written in. The log and what is not saved are kept in "
                "{temporary}, which the system empties. Have the home folder mended, and start again.",
                temporary=temporary,
            ),
            stays=True,
        )

    if later:
        window.shown.connect(say)
    else:
        say()


def _leave(code: int) -> NoReturn:
    """End the program at once: taken down with the interpreter, in no order, Qt can crash."""
    subprocess_reader.end()
    logging.shutdown()
    sys.stdout.flush()
    sys.stderr.flush()
    os._exit(code)


def new_window() -> Window:
    """A window that settles down after the paint of each plan."""
    window = Window()
    window.shown.connect(lambda: settle_down(window))
    # What is there before the first plan stays there: the collector need not look through it.
    gc.freeze()
    return window


_LATER = "scipy.special", "scipy.linalg", "scipy.ndimage"
"""What projections, exponential smoothing and medians need: each takes longer to load than a frame."""


def _load() -> None:
    for name in _LATER:
        importlib.import_module(name)
    gc.freeze()


def settle_down(window: Window) -> None:
    """After the paint of a plan: let go of the one before it, whose parts hold each other.

    After the first one, load what is needed later, and spare what is loaded the collector's rounds. Only
    then: what is spared once is never let go.
    """
    gc.collect()
    if window.loading is None:
        gc.freeze()
        gc.set_threshold(20_000, 20, 50)
        gc.enable()
        window.loading = threading.Thread(target=_load, daemon=True)
        for after, work in enumerate((window.late.warm, window.loading.start)):
            Turn(window, work).start(after)
