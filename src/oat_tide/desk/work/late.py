"""Long reckoning in a process of its own: one question runs, one waits, and the newest wins."""

from __future__ import annotations

import multiprocessing as mp
from collections.abc import Callable
from concurrent.futures import Future, ProcessPoolExecutor
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from oat_tide.core.trouble import Stopped
from oat_tide.core.working import numerals

_ticket: Any = None
Question = tuple[Callable[..., Any], tuple[Any, ...]]
_MOST_KEPT = 200


def _listen(ticket: Any, marks: tuple[str, str]) -> None:
    """In the worker: remember where the number of the newest question stands, and write numbers alike."""
    globals()["_ticket"] = ticket
    numerals.set_marks(*marks)


def _answer(function: Callable[..., Any], args: tuple[Any, ...], number: int) -> Any:
    """In the worker: answer one question, or stop when a newer one has been asked."""

    def tell(share: float) -> None:
        if _ticket.value != number:
            raise Stopped

    return function(*args, tell)


class Late(QObject):
    """Called as late(function, *arguments): the answer, or None while it is not known.

    The function stands at the top of its module, takes a Tell as its last argument and calls it often;
    the arguments can be hashed and can travel to another process.

    Signals:
        arrived: an answer is known now.
        failed: (exception) a question could not be answered.
    """

    arrived = pyqtSignal()
    failed = pyqtSignal(object)
    _finished = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self._known: dict[Question, Any] = {}
        self._running: Question | None = None
        self._waiting: Question | None = None
        self._pool: ProcessPoolExecutor | None = None
        self._newest: Any = None
        self._finished.connect(self._take)

    def __call__(self, function: Callable[..., Any], *args: Any) -> Any:
        question = (function, args)
        if question not in self._known and question not in (self._running, self._waiting):
            if self._running:
                self._waiting = question
                self._newest.value += 1
            else:
                self._start(question)
        return self._known.get(question)

    def _start(self, question: Question) -> None:
        if self._pool is None:
            context = mp.get_context("spawn")
            self._newest = context.Value("L", 0)
            self._pool = ProcessPoolExecutor(1, context, _listen, (self._newest, numerals.marks()))
        self._running = question
        future = self._pool.submit(_answer, *question, self._newest.value)
        future.add_done_callback(self._finished.emit)

    def _take(self, future: Future[Any]) -> None:
        question, self._running = self._running, None
        following, self._waiting = self._waiting, None
        error = future.exception()
        if following:
            self._start(following)
        if error is None and question:
            while len(self._known) >= _MOST_KEPT:
                self._known.pop(next(iter(self._known)))
            self._known[question] = future.result()
            self.arrived.emit()
        elif not isinstance(error, Stopped):
            self.failed.emit(error)

    def close(self) -> None:
        """End the worker."""
        if self._pool is not None:
            self._newest.value += 1
            self._pool.shutdown(wait=False, cancel_futures=True)
            self._pool = None
