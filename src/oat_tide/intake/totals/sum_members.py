"""Members of a dimension that hold the sum of all the others, period by period, whatever they are called."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.series.panel import Key
from oat_tide.core.series.reading import TOTAL
from oat_tide.intake.totals.sums import Totals
from oat_tide.plan.parts.intake import Intake

_FEWEST_OTHERS, _FEWEST_DAYS, _FEWEST_VALUES = 2, 6, 4
"""Fewer members, days or different figures may add up by chance."""


def sum_members(days: Totals, keys: tuple[Key, ...], ask: Intake) -> tuple[tuple[str, str], ...]:
    """(column, member) of each that holds the sum of the others of its dimension, on every day and in every
    series.

    What holds half of all is the only one that can.
    """
    if (
        not keys
        or ask.running
        or any(each.reason == TOTAL and each.outcome == "use" for each in ask.verdicts)
    ):
        return ()
    levels = {level.name for level in ask.levels}
    found = []
    for place, name in enumerate(ask.by):
        if name in levels:
            continue
        members = sorted({str(key[place]) for key in keys})
        if len(members) <= _FEWEST_OTHERS:
            continue
        at = {member: where for where, member in enumerate(members)}
        of_key = np.array([at[str(key[place])] for key in keys])
        held = np.rint(np.bincount(of_key[days.key], days.units, len(members))).astype(np.int64)
        for where in np.flatnonzero((2 * held == held.sum()) & (held != 0)).tolist():
            others = [tuple(part for spot, part in enumerate(key) if spot != place) for key in keys]
            if _adds_up(days, of_key[days.key] == where, others):
                found.append((name, members[where]))
    return tuple(found)


def _adds_up(days: Totals, own: NDArray[np.bool_], others: list[tuple[str | None, ...]]) -> bool:
    """Whether some sums are those of the rest, on every day and in every combination of other dimensions."""
    of = {each: place for place, each in enumerate(dict.fromkeys(others))}
    which = np.array([of[each] for each in others])[days.key]
    first = int(days.day.min())
    cells = (days.day.astype(np.int64) - first) * len(of) + which
    places, cell = np.unique(cells, return_inverse=True)
    mine = np.bincount(cell[own], days.units[own], len(places))
    rest = np.bincount(cell[~own], days.units[~own], len(places))
    figures = mine[mine != 0]
    told = len(figures) >= _FEWEST_DAYS and len(np.unique(figures)) >= _FEWEST_VALUES
    return bool(told and (mine == rest).all())
