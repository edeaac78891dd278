"""What follows a paint takes turns of the event loop: one piece of work each, and none with a paint."""

from __future__ import annotations

import time
from collections.abc import Callable

from PyQt6.QtCore import QObject, QTimer

_BREATH = 0.004
"""Seconds between the end of one thing and the beginning of the next, where that is in another turn."""


class Turn(QTimer):
    """A timer for work that waits for a turn of its own once it is due.

    Args:
        work: what is done.
        again: whether it is done again and again, until the timer is stopped.
    """

    _ended = 0.0

    def __init__(self, parent: QObject, work: Callable[[], None], again: bool = False) -> None:
        super().__init__(parent)
        self.setSingleShot(not again)
        self._work = work
        self.timeout.connect(self._try)

    @staticmethod
    def taken() -> None:
        """Say that this turn has had its work."""
        Turn._ended = time.perf_counter()

    def _try(self) -> None:
        if time.perf_counter() - Turn._ended < _BREATH:
            self.start(1)
        else:
            self.setInterval(0)
            self._work()
            self.taken()
