"""Work off the interface thread: reading, preparing and saving. It shows progress and can be stopped."""

from __future__ import annotations

import threading
from collections.abc import Callable
from contextlib import suppress
from functools import partial
from typing import Any

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from oat_tide.core.language import phrase
from oat_tide.core.user_error import Progress, Stopped
from oat_tide.desk.look.turns import Turn
from oat_tide.desk.work.strip import Strip

_SLOW = 300
"""Milliseconds of work after which progress is shown."""


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

    def __init__(self, work: Callable[[Progress], Any], parent: QObject) -> None:
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
        # A RuntimeError from Qt itself means that the window has gone meanwhile: nobody waits any more.
        with suppress(RuntimeError):
            self._work_and_tell()

    def _work_and_tell(self) -> None:
        try:
            answer = self._work(self._tell)
        except Stopped:
            pass
        except BaseException as error:  # a panic of the engine is no Exception, and must not be waited for
            self.failed.emit(error)
        else:
            if not self._stopped.is_set():
                self.done.emit(answer)
        self.ended.emit()


class Runner:
    """Has work done one piece at a time, and shows on the strip how far it is.

    Attributes:
        job: the work going on, or None.
    """

    def __init__(self, parent: QObject, strip: Strip, report: Callable[[BaseException], Any]) -> None:
        self.job: Job | None = None
        self._parent, self._strip, self._report = parent, strip, report
        self._slow = QTimer(parent)
        self._slow.setSingleShot(True)
        self._slow.timeout.connect(self._show)
        # What follows paints: the turn in which the answer comes is not its own.
        self._following = Turn(parent, self._follow)
        self._next: Callable[[], Any] | None = None
        self._words = ""
        self._stopped: Callable[[], Any] = lambda: None

    def run(
        self,
        words: str,
        work: Callable[[Progress], Any],
        done: Callable[[Any], Any],
        failed: Callable[[BaseException], Any] | None = None,
        stopped: Callable[[], Any] = lambda: None,
    ) -> None:
        """Have something done; while other work goes on that is said, and nothing begun.

        Args:
            words: what is being done, shown with the progress.
            done, failed, stopped: what follows, on the interface thread.
        """
        # Asked for once more it is under way already.
        if self.job is not None and (words == self._words or self.refuses()):
            return
        self._words, self._stopped = words, stopped
        job = self.job = Job(work, self._parent)
        job.told.connect(self._strip.progress)
        job.done.connect(self._then(job, done))
        job.failed.connect(self._then(job, failed or self._report))
        job.ended.connect(job.deleteLater)
        self._slow.start(_SLOW)
        job.start()

    def refuses(self) -> bool:
        """Whether work goes on, so that no other can begin; that is said then."""
        if self.job is not None:
            self._slow.stop()
            words = phrase(
                "Busy: {words}. Wait until it ends, or stop it.",
                words=self._words[:1].lower() + self._words[1:],
            )
            self._strip.show_progress(words, self.stop)
        return self.job is not None

    def _then(self, job: Job, act: Callable[[Any], Any]) -> Callable[[Any], None]:
        def go(answer: Any) -> None:
            # The answer of work that was stopped in its last step is no longer wanted.
            if self.job is job:
                self._next = partial(act, answer)
                self._following.start(0)

        return go

    def _follow(self) -> None:
        act = self._next
        self._end()
        if act is not None:
            act()

    def _show(self) -> None:
        self._strip.show_progress(self._words, self.stop)

    def stop(self) -> None:
        """Stop the work; what it was for is left as it was."""
        if self.job is not None:
            self.job.stop()
            self._end()
            self._stopped()

    def _end(self) -> None:
        self._slow.stop()
        self._following.stop()
        self.job = self._next = None
        if self._strip.bar.isVisible():
            self._strip.clear()
