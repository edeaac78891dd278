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

    _breath: QTimer | None = None
    """Active until the turn after the one that had its work."""
    _left = 0

    def __init__(self, parent: QObject, work: Callable[[], None], again: bool = False) -> None:
        super().__init__(parent)
        self.setSingleShot(not again)
        self._work = work
        self.timeout.connect(self._try)

    @staticmethod
    def taken() -> None:
        """Say that this turn has had its work."""
        if Turn._breath is None:
            Turn._breath = QTimer(QCoreApplication.instance())
            Turn._breath.timeout.connect(Turn._breathe)
        # Timers come last in a turn: the first time that it fires may be in this one.
        Turn._left = 2
        Turn._breath.start(0)

    @staticmethod
    def _breathe() -> None:
        Turn._left -= 1
        if not Turn._left and Turn._breath is not None:
            Turn._breath.stop()

    def _try(self) -> None:
        if Turn._left:
            self.start(1)
        else:
            self.setInterval(0)
            self._work()
            self.taken()
