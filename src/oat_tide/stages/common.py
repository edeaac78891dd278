"""What several stages say or offer alike."""

from __future__ import annotations

import datetime as dt
import functools
from collections.abc import Sequence

import numpy as np

from oat_tide.core.language import phrase
from oat_tide.core.periods.calendar import NONE, Days, Grid, date_of
from oat_tide.core.series.coded import Key
from oat_tide.core.series.panel import Sight
from oat_tide.plan.parts.part import Pairs
from oat_tide.plan.paths import P, steps
from oat_tide.stages.deck import Handle


@functools.lru_cache(16)
def year_before(grid: Grid, first: int, columns: int) -> Days:
    """(columns,) the column of the like period of the year before; below 0 before the first, NONE for none.

    It is the same at every step of a drag.
    """
    before = grid.year_before(first + np.arange(columns))
    found = np.where(before == NONE, NONE, before - first)
    found.flags.writeable = False
    return found


def named(key: Key, everything: str = phrase("All")) -> str:
    """A series by its members, such as "Oat drink, North shore"; where there is only one, that."""
    if not key:
        return phrase("The series")
    return ", ".join(member for member in key if member is not None) or everything


def as_of_handle(sight: Sight) -> Handle:
    """The as-of line; at home it stands for "whatever is complete", so that new data move it on."""
    past = sight.past

    def value(column: int) -> dt.date | None:
        return None if column >= sight.home else date_of(past.grid.last_day(past.first + column))

    return Handle(
        steps(P.as_of), "as_of", past.columns - 1, min(0, sight.home), sight.home, value, says=phrase("as of")
    )


def as_known_now(sight: Sight) -> str:
    """What to say of history seen from an earlier as-of; empty at home."""
    return phrase(" · history as known now") if sight.moved_back else ""


def titled(words: str) -> str:
    """Words as a title begins, the rest as it is."""
    return words[:1].upper() + words[1:]


def listed(names: Sequence[str], most: int = 3) -> str:
    """Names in a row; of more than so many the first, and how many more."""
    more = phrase(" and {names} more", names=len(names) - most) if len(names) > most else ""
    return ", ".join(names[:most]) + more


def span(sight: Sight, first: int, last: int) -> str:
    """Two columns as "Jan 2023 – May 2026"."""
    grid, start = sight.past.grid, sight.past.first
    return f"{grid.label(start + first)} – {grid.label(start + last)}"


def where_of(dimensions: tuple[str, ...], key: Key) -> Pairs:
    """A series as a plan names it."""
    return tuple((name, member) for name, member in zip(dimensions, key, strict=True) if member is not None)
