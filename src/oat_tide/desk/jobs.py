"""Work off the interface thread: reading, preparing and saving. It shows progress and can be stopped."""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from oat_tide.core.trouble import Stopped, Tell, Trouble


class Job(QObject):
    """One piece of work in a thread of its own.

    Signals, all delivered on the interface thread:
        told: (share done).
        done: (answer).
        failed: (exception); not for work that was stopped.
        ended: in any case, last.
    """

    told = pyqtSignal(float)
    done = pyqtSignal(object)
    failed = pyqtSignal(object)
    ended = pyqtSignal()

    def __init__(self, work: Callable[[Tell], Any], parent: QObject) -> None:
        super().__init__(parent)
        self._work = work
        self._stopped = threading.Event()
        self._thread = threading.Thread(target=self._run, daemon=True)

    def start(self) -> None:
        """Begin."""
        self._thread.start()

    def stop(self) -> None:
        """Ask the work to stop at its next step; its answer is no longer wanted."""
        self._stopped.set()

    def _tell(self, share: float) -> None:
        if self._stopped.is_set():
            raise Stopped
        self.told.emit(share)

    def _run(self) -> None:
        try:
            answer = self._work(self._tell)
        except Stopped:
            pass
        except (Trouble, Exception) as error:  # anything else is shown and logged where it is received
            self.failed.emit(error)
        else:
            if not self._stopped.is_set():
                self.done.emit(answer)
        self.ended.emit()
