"""What is said beside figures: cautions, notes, marks and sentences."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from oat_tide.core.working.tree import Ref
from oat_tide.plan.edits import Edit, Steps


@dataclass(frozen=True, slots=True)
class Caution:
    """What the user should know before trusting a figure, what shows it, and a way out in words."""

    text: str
    evidence: tuple[Ref, ...] = ()
    way_out: Edit | None = None
    way_out_text: str = ""


@dataclass(frozen=True, slots=True)
class Fact:
    """A fact of the side sheet, by the name of its figure."""

    figure: str


@dataclass(frozen=True, slots=True)
class Note:
    """A line of text on the side sheet. Attributes: text, by series; kind: "head", "text" or "small"."""

    text: Callable[[int], str]
    kind: str = "text"


@dataclass(frozen=True, slots=True)
class Mark:
    """Something of a period that is said on the chart.

    Attributes: column; text; kind, as of a Choice; figure it belongs to, empty for the last one drawn.
    """

    column: int
    text: str
    kind: str
    figure: str = ""


@dataclass(frozen=True, slots=True)
class Word:
    """Some words of a sentence; with a path they lead to the control of that field, and a tip says why."""

    text: str
    path: Steps = ()
    tip: str = ""
