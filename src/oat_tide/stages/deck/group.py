"""Rows of the tide table that stand together under a head, and fold."""

from __future__ import annotations

from dataclasses import dataclass

from oat_tide.stages.deck.called import OfSeries


@dataclass(frozen=True, eq=False, slots=True)
class Group:
    """Rows of the tide table under a head.

    Attributes:
        name: tells it from the others of its stage.
        title: its name for people.
        rows: the figures, in the order that they are read in.
        said: what its head says of them in few words, by series.
        opens: whether its rows are shown where nothing else was chosen.
    """

    name: str
    title: str
    rows: tuple[str, ...]
    said: OfSeries = lambda series: ""
    opens: bool = False
