"""How the window ends: by signals, with the session of the desktop; and where it comes back."""

from __future__ import annotations

import signal
import socket
from typing import TYPE_CHECKING

from PyQt6.QtCore import QByteArray, QEvent, QObject, QSocketNotifier
from PyQt6.QtGui import QSessionManager
from PyQt6.QtWidgets import QApplication

from oat_tide.system.settings import choose, setting

if TYPE_CHECKING:
    from oat_tide.desk.window.window import Window

SIGNALS = signal.SIGINT, signal.SIGTERM, signal.SIGHUP
_PLACE = "window"
_sockets: list[socket.socket] = []
"""They live as long as the program."""


def follow_signals(window: Window) -> None:
    """Close at once when the system asks: Ctrl+C in the terminal, the end of the terminal, a plain kill."""
    here, there = socket.socketpair()
    for each in (here, there):
        each.setblocking(False)
    signal.set_wakeup_fd(there.fileno(), warn_on_full_buffer=False)
    notifier = QSocketNotifier(here.fileno(), QSocketNotifier.Type.Read, window)  # type: ignore[call-overload]

    def heard() -> None:
        if set(here.recv(64)) & set(SIGNALS):
            window.end()

    notifier.activated.connect(heard)
    _sockets.extend((here, there))
    for number in SIGNALS:
        # A handler may come between any two steps, with a lock held that closing needs: it does nothing
        # itself, and a turn of the event loop hears of the signal by way of the socket.
        signal.signal(number, lambda *_: None)


def follow_session(application: QApplication, window: Window) -> None:
    """At the end of the desktop's session ask once about what is not saved; it is kept in any case."""
    asked = False

    def ending(manager: QSessionManager) -> None:
        nonlocal asked
        if window.changed and not asked and manager.allowsInteraction():
            asked = True
            manager.cancel()
            window.close()
        elif window.saving.journal is not None:
            window.saving.journal.write()

    application.commitDataRequest.connect(ending)


class _Keeper(QObject):
    """Notes where the window is when it closes."""

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        window = self.parent()
        if event is not None and event.type() == QEvent.Type.Close and watched is window:
            place = watched.saveGeometry().toBase64().data()  # type: ignore[union-attr]
            choose(_PLACE, place.decode("ascii"))
        return False


def stay_where_it_was(window: Window) -> None:
    """Put the window where it was when it closed last, and note where it is when it closes."""
    place = setting(_PLACE)
    if place:
        window.restoreGeometry(QByteArray.fromBase64(place.encode("ascii", "ignore")))
    window.installEventFilter(_Keeper(window))
