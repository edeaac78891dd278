"""Which figures of a stage are its record, for the command line and for publishing."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from oat_tide.core.periods.calendar import Grid
from oat_tide.stages.deck import Deck


@dataclass(frozen=True, slots=True)
class Record:
    """The figures of a stage that are written, a row a series and period.

    Attributes:
        kinds: the figures that are the value of a row, each a kind of row; the first one known. Where there
            is only one way to read a row, none, and a row stands where anything of it is known.
        beside: what is asked -> the figures that stand beside it, by heading.
        said: (what is asked, periods) -> what is the same in every row, by heading.
        each: what is asked -> what is written one after another, where several are asked for at once.
        counts: (what is asked, deck of some series) -> how many of them were taken for what.
        echo: (what is asked, a deck, how many were taken for what) -> how the call was understood; empty for
            nothing to say.
        axis: what is asked -> the axis whose columns have a row each; empty for periods of time.
        column: what such an axis is called at the head of its column.
        why_none: what to say where there is nothing to write; empty for what the deck says.
        main: the figure that there is a row for, where the actual is none of the record; with parts of it in
            the deck a row a part, which has that figure alone.
        table: deck -> facts that have a row each: its name, and figures by heading; None for periods.
    """

    kinds: tuple[str, ...] = ()
    beside: Callable[[Any], dict[str, str]] = lambda ask: {}
    said: Callable[[Any, Grid], dict[str, str]] = lambda ask, grid: {}
    each: Callable[[Any], tuple[Any, ...]] = lambda ask: (ask,)
    counts: Callable[[Any, Deck], Counter[str]] = lambda ask, deck: Counter()
    echo: Callable[[Any, Deck, Counter[str]], str] = lambda ask, deck, counts: ""
    axis: Callable[[Any], str] = lambda ask: ""
    column: str = ""
    why_none: str = ""
    main: str = ""
    table: Callable[[Deck], tuple[tuple[str, dict[str, str]], ...]] | None = None
