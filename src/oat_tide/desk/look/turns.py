"""What follows a paint takes turns of the event loop: one piece of work each, and none with a paint."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QCoreApplication, QObject, QTimer


class Turn(QTimer):
    """A timer for work that waits for a turn of its own once it is due.

    Args:
        work: what is done.
        again: whether it is done again and again, until the timer is stopped.
    """

    _next: QTimer | None = None
    """Fires in the turn after the one that had its work."""

    def __init__(self, parent: QObject, work: Callable[[], None], again: bool = False) -> None:
        super().__init__(parent)
        self.setSingleShot(not again)
        self._work = work
        self.timeout.connect(self._try)

    @staticmethod
    def taken() -> None:
        """Say that this turn has had its work."""
        if Turn._next is None:
            Turn._next = QTimer(QCoreApplication.instance())
            Turn._next.setSingleShot(True)
        Turn._next.start(0)

    def _try(self) -> None:
        if Turn._next is not None and Turn._next.isActive():
            self.start(1)
        else:
            self.setInterval(0)
            self._work()
            self.taken()
