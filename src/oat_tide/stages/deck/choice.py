"""Something found, and what can become of it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from oat_tide.core.working.tree import Ref
from oat_tide.plan.edits import Edit


@dataclass(frozen=True, slots=True)
class Entry:
    """A line to write in beside a choice.

    Attributes:
        title: what is written.
        now: what stands there.
        edit: of what is written; it raises UserError for what cannot be.
    """

    title: str
    now: str
    edit: Callable[[str], Edit]


@dataclass(frozen=True, slots=True)
class Choice:
    """Something found, and what can become of it.

    Attributes:
        text: what was found.
        mark: how it is marked: "odd", "part", "provisional", "aside", "ruled" or "".
        outcomes: what can become of it, each with its edit; None for what holds now.
        entries: notes or figures that can be written.
        evidence: the figure whose working shows it.
        again: what is asked once more before the first outcome is taken; empty where it is taken at once.
    """

    text: str
    mark: str = ""
    outcomes: tuple[tuple[str, Edit | None], ...] = ()
    entries: tuple[Entry, ...] = ()
    evidence: Ref | None = None
    again: str = ""
