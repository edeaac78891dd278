"""The process that answers long questions: its side of `late`. It loads without Qt."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from oat_tide.core.series.panel import Panel
from oat_tide.core.trouble import Stopped
from oat_tide.core.working import numerals

_ticket: Any = None
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


def listen(ticket: Any, marks: tuple[str, str]) -> None:
    """At the start: remember where the number of the running question stands, and write numbers alike."""
    globals()["_ticket"] = ticket
    numerals.set_marks(*marks)


def warmed() -> bool:
    """Load what questions need, before the first is asked."""
    import scipy.special  # noqa: F401

    return True


def answer(function: Callable[..., Any], args: tuple[Any, ...], number: int, kept: frozenset[int]) -> Any:
    """Answer one question, or stop when it is wanted no more.

    Args:
        number: of the question; it goes on while the ticket says so.
        kept: the panels that may be asked for again.
    """

    def tell(share: float) -> None:
        if _ticket.value != number:
            raise Stopped

    for gone in _panels.keys() - kept:
        del _panels[gone]
    return function(*(_received(each) for each in args), tell)


def _received(arg: Any) -> Any:
    if not isinstance(arg, Sent):
        return arg
    if arg.panel is not None:
        _panels[arg.number] = arg.panel
    return _panels[arg.number]
