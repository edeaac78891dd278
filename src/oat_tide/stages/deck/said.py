"""What is said beside figures: cautions, notes, marks and sentences."""

from __future__ import annotations

from dataclasses import dataclass

from oat_tide.core.working.tree import Ref
from oat_tide.plan.edits import Edit
from oat_tide.plan.paths import FieldSteps
from oat_tide.stages.deck.called import OfSeries


@dataclass(frozen=True, slots=True)
class Caution:
    """What the user should know before trusting a figure.

    Attributes:
        text: in words.
        evidence: the figures that show it.
        way_out: the edit that mends it.
        way_out_text: what that is called.
    """

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
    """A line of text on the side sheet.

    Attributes:
        said: the text; it may differ by series.
        kind: "head", "text" or "small"; "cautions" for where these stand, at the end without one.
    """

    said: str | OfSeries
    kind: str = "text"

    def text(self, series: int) -> str:
        """What is said of a series."""
        return self.said if isinstance(self.said, str) else self.said(series)


@dataclass(frozen=True, slots=True)
class Mark:
    """Something of a period that is said on the chart.

    Attributes:
        column: where it stands.
        text: in words.
        kind: how it is marked, as of a Choice.
        figure: the one it belongs to; empty for the last one drawn.
    """

    column: int
    text: str
    kind: str
    figure: str = ""


@dataclass(frozen=True, slots=True)
class Word:
    """A piece of a sentence, which may lead to a control.

    Attributes:
        text: the words.
        path: the field whose control they lead to; empty for none.
        tip: why it was taken so.
        edit: what they do when clicked; None for words that only lead somewhere.
    """

    text: str
    path: FieldSteps = ()
    tip: str = ""
    edit: Edit | None = None
