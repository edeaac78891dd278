"""What a stage needs of the others: attributes with types, each named where it is to come from.

@dataclass(frozen=True, eq=False, slots=True)
class Needs:
    lines: Deck = need("lines")
    parts: Deck = need("lines", "children")
    reading: Reading = need(READING)
"""

from __future__ import annotations

import functools
from collections.abc import Callable
from dataclasses import dataclass, field, fields
from typing import Any

from oat_tide.core.series.panel import Reach
from oat_tide.plan.plan import Plan

READING, TIE, LEAVES, KEPT = "reading", "tie-out", "leaves", "kept"
"""What can be needed beside decks: what is known of the source, how it ties, every series by period, and the
large data that belong to the plan (a tuple of `KeptData`)."""


@dataclass(frozen=True, slots=True)
class Need:
    """A source of what a stage needs.

    Attributes:
        of: the stage whose deck it is; or READING, TIE, LEAVES or KEPT.
        reach: the series that the deck is to hold; empty for those of the stage that needs it.
        when: whether a plan asks for it.
        part: whether it is not a deck but a part of the plan, by its name.
    """

    of: str
    reach: Reach = ""
    when: Callable[[Plan], bool] = lambda plan: True
    part: bool = False


def need(of: str, reach: Reach = "", when: Callable[[Plan], bool] = lambda plan: True) -> Any:
    """An attribute of what a stage needs; where the plan does not ask for it, it is None."""
    return field(metadata={"need": Need(of, reach, when)})


def need_part(of: str, when: Callable[[Plan], bool]) -> Any:
    """An attribute that is a part of the plan; where the plan does not ask for it, it is None."""
    return field(metadata={"need": Need(of, when=when, part=True)})


@functools.cache
def needs_of(kind: Any) -> tuple[Need, ...]:
    """What a stage needs, in the order of its attributes."""
    return tuple(each.metadata["need"] for each in fields(kind)) if kind is not None else ()
