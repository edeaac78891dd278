"""Long reckoning in a process of its own: every question that is still wanted is answered, in turn."""

from __future__ import annotations

import multiprocessing as mp
import threading
from collections.abc import Callable, Iterable
from contextlib import suppress
from multiprocessing.connection import Connection
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from oat_tide.core.series.panel import Panel
from oat_tide.core.user_error import Stopped, UserError
from oat_tide.core.working import number_format
from oat_tide.desk.work.worker import Sent, serve
from oat_tide.latest import Latest
from oat_tide.stages.deck.called import Question
from oat_tide.system.child import Child

_MOST_KEPT = 48
"""Answers, with the panels that they are of."""
_MOST_PANELS = 8
"""Panels that the process at work keeps, so that they travel once."""
_MOST_DEATHS = 3
"""How often the process may end in mid answer before a question is given up."""


class LateProcess(QObject):
    """Computes in a process: `late(function, *arguments)` returns the answer, or None until it is known.

    The function stands at the top of its module, takes a Tell as its last argument and calls it often;
    the arguments can be hashed and can travel to another process.

    Attributes:
        arrivals: how many answers have come, or failed to.

    Signals:
        arrived: an answer is known now.
        failed: (exception) a question could not be answered; it is not asked again. That the process at work
            ended is none: another one is started, and asked again.
    """

    arrived = pyqtSignal()
    failed = pyqtSignal(object)
    _finished = pyqtSignal(int, object)

    def __init__(self) -> None:
        super().__init__()
        self.results_received = 0
        self._known, self._failed = Latest[Any](_MOST_KEPT), Latest[bool](_MOST_KEPT)
        self._pending: dict[Question, None] = {}
        self._wanted: dict[str, frozenset[Question]] = {}
        self._running: Question | None = None
        self._number, self._called_off, self._deaths = 0, 0, 0
        self._child: Child | None = None
        self._halt: Connection | None = None
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
            self._call_off()

    def _is_wanted(self, question: Question) -> bool:
        return any(question in questions for questions in self._wanted.values())

    def warm(self) -> None:
        """Start the process, so that the first question need not wait for it."""
        self._worker()

    def _worker(self) -> Child:
        """The process, started where it is not there."""
        if self._child is None or not self._child.alive:
            self._let_go()
            theirs, self._halt = mp.get_context("spawn").Pipe(duplex=False)
            self._child = Child(serve, theirs, number_format.marks())
            theirs.close()
        return self._child

    def _let_go(self) -> None:
        """Have the process gone, with the panels that it kept."""
        if self._child is not None and self._halt is not None:
            self._child.end()
            self._halt.close()
        self._child = self._halt = None
        self._panels = {}

    def _call_off(self) -> None:
        """Say that the running question is wanted no more."""
        # Once: a process that is busy reads nothing, and a full pipe would keep the window waiting.
        if self._halt is not None and self._called_off != self._number:
            self._called_off = self._number
            with suppress(OSError):
                self._halt.send(self._number)

    def _start(self) -> None:
        """Ask the next question, if none is running."""
        if self._running is not None or not self._pending:
            return
        question = self._running = next(iter(self._pending))
        del self._pending[question]
        child, (function, args) = self._worker(), question
        self._make_room(tuple(each for each in args if isinstance(each, Panel)))
        sent = tuple(self._sent(each) for each in args)
        self._number += 1
        asked = function, sent, self._number, frozenset(self._panels.values())
        threading.Thread(target=self._ask, args=(child, self._number, asked), daemon=True).start()

    def _ask(self, child: Child, number: int, asked: object) -> None:
        """Ask and wait, in a thread: what is asked may be large, and the answer long in coming."""
        said: tuple[bool, Any] | None = None
        with suppress(EOFError, OSError):
            child.ask(asked)
            said = child.answer()
        # A RuntimeError from Qt itself means that the window has gone meanwhile: nobody waits any more.
        with suppress(RuntimeError):
            self._finished.emit(number, said)

    def _sent(self, arg: object) -> object:
        """An argument as it travels."""
        if not isinstance(arg, Panel):
            return arg
        if arg in self._panels:
            return Sent(self._panels[arg], None)
        self._number += 1
        self._panels[arg] = self._number
        return Sent(self._number, arg)

    def _make_room(self, own: tuple[Panel, ...]) -> None:
        """Forget the oldest panels, but for those of the question that is about to be asked."""
        new = sum(each not in self._panels for each in own)
        for old in [each for each in self._panels if each not in own]:
            if len(self._panels) + new <= _MOST_PANELS:
                return
            del self._panels[old]

    def _take(self, number: int, said: tuple[bool, Any] | None) -> None:
        if self._running is None or number != self._number:
            return  # the window was closed meanwhile
        question, self._running = self._running, None
        if said is None and self._deaths + 1 < _MOST_DEATHS:
            self._let_go()
            self._deaths += 1
            self._pending = {question: None, **self._pending}
            self._start()
            return
        answered, answer = said or (False, self._given_up())
        self._deaths = 0
        if answered:
            self._known[question] = answer
        elif isinstance(answer, Stopped):
            if self._is_wanted(question):
                # Asked again while it was being stopped.
                self._pending.setdefault(question)
        else:
            self._failed[question] = True
            # What it took along may not have arrived.
            self._panels = {}
        self._start()
        if isinstance(answer, Stopped):
            return
        self.results_received += 1
        if answered:
            self.arrived.emit()
        else:
            self.failed.emit(answer)

    def _given_up(self) -> UserError:
        """What to say of a question in which the process ended again and again."""
        self._let_go()
        return UserError(
            "What takes long could not be computed: {most_deaths} times the process at work was "
            "ended, by another program or by the system for want of memory. Close what takes "
            "much memory, and open the plan again.",
            most_deaths=_MOST_DEATHS,
        )

    def forgive(self) -> None:
        """Have what could not be answered asked once more."""
        self._failed = Latest[bool](_MOST_KEPT)

    def close(self) -> None:
        """End the worker."""
        self._pending, self._running = {}, None
        self._let_go()
