"""The process that answers long questions: its side of `late`. It loads without Qt."""

from __future__ import annotations

import pickle
import traceback
from collections.abc import Callable
from multiprocessing.connection import Connection
from typing import Any

from oat_tide.core.series.panel import Panel
from oat_tide.core.trouble import Stopped
from oat_tide.core.working import numerals

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
    numerals.set_marks(*marks)
    if not line.poll():
        # What questions need is loaded before the first is asked.
        import scipy.special  # noqa: F401
    while True:
        asked = pickle.loads(line.recv_bytes())  # it comes from our own process
        line.send_bytes(_written(_answered(halt, *asked)))


def _answered(
    halt: Connection, function: Callable[..., Any], args: tuple[Any, ...], number: int, kept: frozenset[int]
) -> tuple[bool, Any]:
    """Whether a question came to an answer, with that; else with the error.

    Args:
        number: of the question; it goes on until that is called off.
        kept: the panels that may be asked for again.
    """

    def tell(share: float) -> None:
        while halt.poll():
            if halt.recv() == number:
                raise Stopped

    for gone in _panels.keys() - kept:
        del _panels[gone]
    try:
        return True, function(*(_received(each) for each in args), tell)
    except Stopped as stopped:
        return False, stopped
    except BaseException as error:  # a panic of the engine is no Exception
        error.add_note("In the process that answers:\n" + "".join(traceback.format_exception(error)))
        return False, error


def _written(answer: tuple[bool, Any]) -> bytes:
    """An answer as it travels; an error that cannot is told in its words."""
    try:
        written = pickle.dumps(answer, protocol=pickle.HIGHEST_PROTOCOL)
        if not answer[0]:
            pickle.loads(written)  # a round trip of our own
        return written
    except Exception as error:
        said = answer[1] if isinstance(answer[1], BaseException) else error
        return pickle.dumps((False, RuntimeError(f"{type(said).__name__}: {said}")))


def _received(arg: Any) -> Any:
    if not isinstance(arg, Sent):
        return arg
    if arg.panel is not None:
        _panels[arg.number] = arg.panel
    return _panels[arg.number]
