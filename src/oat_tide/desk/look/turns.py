"""What follows a paint takes turns of the event loop: one piece of work each, and none with a paint."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable
from typing import ClassVar

from PyQt6 import sip
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
    _queue: ClassVar[deque[Turn]] = deque()
    """Those that were due in another's turn: each comes to its own, however often others ask."""

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
        queue = Turn._queue
        while queue and queue[0] is not self and queue[0]._is_gone():
            queue.popleft()
        if Turn._left or (queue and queue[0] is not self):
            if self not in queue:
                queue.append(self)
            self.start(1)
            return
        if queue:
            queue.popleft()
        self.setInterval(0)
        self._work()
        self.taken()

    def _is_gone(self) -> bool:
        """Whether it no longer waits for its turn: it was stopped, or is due only later."""
        return sip.isdeleted(self) or not self.isActive() or self.remainingTime() > 1
