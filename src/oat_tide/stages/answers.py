"""How late questions are asked: by a deck in the making, and where they are answered at once."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import TypeVar

from oat_tide.core.user_error import no_progress
from oat_tide.stages.deck import LateAnswers, Question

_Answer = TypeVar("_Answer")


class Inline:
    """Late work done on the spot: in tests, on the command line, for publishing."""

    results_received = 0

    def __call__(self, function: Callable[..., _Answer], /, *args: object) -> _Answer:
        return function(*args, no_progress)

    def waits(self, question: Question) -> bool:  # noqa: ARG002
        """No answer is ever to come."""
        return False

    def want(self, owner: str, questions: Iterable[Question]) -> None:
        """Return at once: all questions have been answered."""


class Asking:
    """The late questions of one deck in the making.

    Attributes:
        answers: what keeps the answers.
        questions: those asked, in order.
    """

    def __init__(self, answers: LateAnswers) -> None:
        self.answers = answers
        self.questions: list[Question] = []

    def __call__(self, function: Callable[..., _Answer], /, *args: object) -> _Answer | None:
        self.questions.append((function, args))
        return self.answers(function, *args)

    @property
    def waits(self) -> bool:
        """Whether an answer is still to come."""
        return any(map(self.answers.waits, self.questions))
