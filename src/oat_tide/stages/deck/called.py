"""What is called: the functions that a deck holds, and those that a stage is made by and with."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from typing import Any, Literal, NamedTuple, Protocol, TypeVar

from oat_tide.core.language import phrase
from oat_tide.core.working.tree import Working
from oat_tide.plan.edits import Edit
from oat_tide.plan.plan import Plan

_Answer = TypeVar("_Answer")
State = Literal["", "own", "locked", "out"]
Question = tuple[Callable[..., Any], tuple[object, ...]]
"""A function and its arguments, without the Tell that it is handed last."""


class Explanation(Protocol):
    """How the value of a series and column came about; asked only where there is one."""

    def __call__(self, series: int, column: int, /) -> Working: ...


class WhyBlank(Protocol):
    """Why a series and column has no value, in words."""

    def __call__(self, series: int, column: int, /) -> str: ...


class Remark(Protocol):
    """What a reader of a value must know beside it, in words; the cell is marked. Empty for nothing."""

    def __call__(self, series: int, column: int, /) -> str: ...


class Read(Protocol):
    """What a text written into a series and column says; an empty one takes back what was written.

    Raises UserError where the cell cannot be written in, or for a text that cannot be used.
    """

    def __call__(self, series: int, column: int, text: str, /) -> Any: ...


class Put(Protocol):
    """The edit of a plan that puts what was read into the cells of a series, by column.

    Raises UserError where it cannot stand together.
    """

    def __call__(self, plan: Plan, series: int, cells: Mapping[int, Any], /) -> Edit: ...


class CellEdit(NamedTuple):
    """How cells are written in: each text is read by itself, and all of them are put in as one edit."""

    read: Read
    put: Put


NOT_WRITABLE = phrase("this cell cannot be written in. Choose another.")


class StateOf(Protocol):
    """How a cell that can be written in stands: "own" as written, "locked", "out" for left out, or ""."""

    def __call__(self, series: int, column: int, /) -> State: ...


class OfSeries(Protocol):
    """Something said of a series."""

    def __call__(self, series: int, /) -> str: ...


class LateWork(Protocol):
    """Has a function that takes long answer: at once, or later, and then None until it is known.

    The function stands at the top of its module and takes a Tell as its last argument.
    """

    def __call__(self, function: Callable[..., _Answer], /, *args: object) -> _Answer | None: ...


class LateAnswers(LateWork, Protocol):
    """What keeps the answers to late questions, for the decks of all stages.

    Attributes:
        arrivals: how many have come; tells whether a deck that waits is to be made anew.
    """

    results_received: int

    def waits(self, question: Question, /) -> bool:
        """Whether the answer is still to come."""

    def want(self, owner: str, questions: Iterable[Question], /) -> None:
        """Say which questions the deck of a stage still wants; the others may be dropped."""
