"""The process that answers long questions: its side of `late`. It loads without Qt."""

from __future__ import annotations

import pickle
import traceback
from collections.abc import Callable
from multiprocessing.connection import Connection
from typing import Any

from oat_tide.core.language import phrase
from oat_tide.core.series.panel import Panel
from oat_tide.core.user_error import Stopped
from oat_tide.core.working import number_format
from oat_tide.system.child import receive, send

_panels: dict[int, Panel] = {}


class Sent:
    """A panel on its way to the worker: once as a whole, then by its number alone.

    Attributes:
        number: tells it from the others.
        panel: the panel; None where it has been sent before.
    """

    __slots__ = ("number", "panel")

    def __init__(self, number: int, panel: Panel | None) -> None:
        self.number, self.panel = number, panel


def serve(line: Connection, halt: Connection, marks: tuple[str, str]) -> None:
    """Answer one question after another until the line ends.

    Args:
        line: questions come on it, and their answers go back.
        halt: the number of each question that is wanted no more.
        marks: numbers are written here as there.
    """
    number_format.set_marks(*marks)
    if not line.poll():
        # What questions need is loaded before the first is asked.
        import scipy.special  # noqa: F401
    while True:
        answered = _answered(halt, *receive(line))
        send(line, answered if answered[0] else (False, _that_travels(answered[1])))


def _answered(
    halt: Connection, function: Callable[..., Any], args: tuple[Any, ...], number: int, kept: frozenset[int]
) -> tuple[bool, Any]:
    """Whether a question came to an answer, with that; else with the error.

    Args:
        number: of the question; it goes on until that is called off.
        kept: the panels that may be asked for again.
    """

    def progress(share: float) -> None:
        while halt.poll():
            if halt.recv() == number:
                raise Stopped

    for gone in _panels.keys() - kept:
        del _panels[gone]
    try:
        return True, function(*(_received(each) for each in args), progress)
    except Stopped as stopped:
        return False, stopped
    except BaseException as error:  # a panic of the engine is no Exception
        error.add_note(phrase("In the process that answers:\n") + "".join(traceback.format_exception(error)))
        return False, error


def _that_travels(error: BaseException) -> BaseException:
    """An error that can be sent; one that cannot is told in its words."""
    try:
        pickle.loads(pickle.dumps(error))  # a round trip of our own
    except Exception:
        return RuntimeError(f"{type(error).__name__}: {error}")
    return error


def _received(arg: Any) -> Any:
    if not isinstance(arg, Sent):
        return arg
    if arg.panel is not None:
        _panels[arg.number] = arg.panel
    return _panels[arg.number]
