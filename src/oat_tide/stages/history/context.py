"""What every arrangement of History stands on."""

from __future__ import annotations

from dataclasses import dataclass

from oat_tide.core.series.panel import Panel, Sight
from oat_tide.core.series.reading import Reading
from oat_tide.plan.parts.history import History
from oat_tide.stages.deck import Control, Deck, LateWork


@dataclass(frozen=True, eq=False, slots=True)
class HistoryContext:
    """What is seen and asked, and what a deck is made from.

    Attributes:
        sight: the series in sight, as of the as-of.
        ask: the settings of History.
        lines: the published deck of the lines.
        leaves: the series that no series is part of.
        reading: how the source was read.
        arrangements: the control that chooses among the arrangements.
        late: has what would hold up a frame done by the worker.
    """

    sight: Sight
    ask: History
    lines: Deck
    leaves: Panel
    reading: Reading
    arrangements: Control
    late: LateWork
