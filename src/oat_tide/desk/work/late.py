"""Long reckoning in a process of its own: every question that is still wanted is answered, in turn."""

from __future__ import annotations

import functools
import multiprocessing as mp
from collections.abc import Callable, Iterable
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from oat_tide.core.series.panel import Panel
from oat_tide.core.trouble import Stopped
from oat_tide.core.working import numerals
from oat_tide.desk.work.worker import Sent, answer, listen, warmed
from oat_tide.latest import Latest
from oat_tide.stages.deck.called import Question

_MOST_KEPT = 48
"""Answers, with the panels that they are of."""
_MOST_PANELS = 8
"""Panels that the process at work keeps, so that they travel once."""


class Late(QObject):
    """Called as late(function, *arguments): the answer, or None while it is not known.

    The function stands at the top of its module, takes a Tell as its last argument and calls it often;
    the arguments can be hashed and can travel to another process.

    Attributes:
        arrivals: how many answers have come, or failed to.

    Signals:
        arrived: an answer is known now.
        failed: (exception) a question could not be answered; it is not asked again.
    """

    arrived = pyqtSignal()
    failed = pyqtSignal(object)
    _finished = pyqtSignal(object, object)

    def __init__(self) -> None:
        super().__init__()
        self.arrivals = 0
        self._known, self._failed = Latest[Any](_MOST_KEPT), Latest[bool](_MOST_KEPT)
        self._pending: dict[Question, None] = {}
        self._wanted: dict[str, frozenset[Question]] = {}
        self._running: Question | None = None
        self._number = 0
        self._pool: ProcessPoolExecutor | None = None
        self._ticket: Any = None
        self._panels: dict[Panel, int] = {}
        self._finished.connect(self._take)

    def __call__(self, function: Callable[..., Any], /, *args: object) -> Any:
        question = (function, args)
        if question in self._known:
            return self._known.get(question)
        if question != self._running and question not in self._failed:
            self._pending.setdefault(question)
            self._start()
        return None

    def waits(self, question: Question) -> bool:
        """Whether the answer is still to come."""
        return question in self._pending or question == self._running

    def want(self, owner: str, questions: Iterable[Question]) -> None:
        """Say which questions a deck still wants. What no deck wants any more is dropped, or stopped.

        Args:
            owner: the stage of the deck.
        """
        self._wanted[owner] = frozenset(questions)
        self._pending = {each: None for each in self._pending if self._is_wanted(each)}
        if self._running is not None and not self._is_wanted(self._running):
            self._ticket.value = 0

    def _is_wanted(self, question: Question) -> bool:
        return any(question in questions for questions in self._wanted.values())

    def warm(self) -> None:
        """Start the process, so that the first question need not wait for it."""
        self._by_another(lambda: self._worker().submit(warmed))

    def _by_another(self, put: Callable[[], Future[Any]]) -> Future[Any]:
        """What a question is put by; where the process died while nobody asked, another one is asked."""
        try:
            return put()
        except BrokenProcessPool:
            self._pool = None
            return put()

    def _worker(self) -> ProcessPoolExecutor:
        if self._pool is None:
            context = mp.get_context("spawn")
            self._ticket = context.Value("L", 0)
            self._panels = {}
            self._pool = ProcessPoolExecutor(1, context, listen, (self._ticket, numerals.marks()))
        return self._pool

    def _start(self) -> None:
        """Ask the next question, if none is running."""
        if self._running is not None or not self._pending:
            return
        question = self._running = next(iter(self._pending))
        del self._pending[question]
        future = self._by_another(lambda: self._put(question))
        future.add_done_callback(functools.partial(self._finished.emit, question))

    def _put(self, question: Question) -> Future[Any]:
        pool = self._worker()
        function, args = question
        sent = tuple(self._sent(each) for each in args)
        self._number += 1
        self._ticket.value = self._number
        return pool.submit(answer, function, sent, self._number, frozenset(self._panels.values()))

    def _sent(self, arg: object) -> object:
        """An argument as it travels."""
        if not isinstance(arg, Panel):
            return arg
        if arg in self._panels:
            return Sent(self._panels[arg], None)
        if len(self._panels) >= _MOST_PANELS:
            del self._panels[next(iter(self._panels))]
        self._number += 1
        self._panels[arg] = self._number
        return Sent(self._number, arg)

    def _take(self, question: Question, future: Future[Any]) -> None:
        self._running = None
        error = future.exception()
        if isinstance(error, BrokenProcessPool):
            # Another process answers the next one.
            self._pool = None
        if error is None:
            self._known[question] = future.result()
        elif not isinstance(error, Stopped):
            self._failed[question] = True
            # What it took along may not have arrived.
            self._panels = {}
        elif self._is_wanted(question):
            # Asked again while it was being stopped.
            self._pending.setdefault(question)
        self._start()
        if isinstance(error, Stopped):
            return
        self.arrivals += 1
        if error is None:
            self.arrived.emit()
        else:
            self.failed.emit(error)

    def close(self) -> None:
        """End the worker."""
        self._pending = {}
        if self._pool is not None:
            self._ticket.value = 0
            self._pool.shutdown(wait=False, cancel_futures=True)
            self._pool = None
