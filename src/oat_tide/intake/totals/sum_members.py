"""Members of a dimension that hold the sum of all the others, period by period, whatever they are called."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.series.coded import Key
from oat_tide.core.series.reading import TOTAL
from oat_tide.intake.cells.columns import Coded
from oat_tide.intake.pace.stretches import at_hand
from oat_tide.intake.totals.sums import LineArrays, Totals
from oat_tide.plan.parts.intake import Intake

_MOST_MEMBERS = 5000
_FEWEST_OTHERS, _FEWEST_DAYS, _FEWEST_VALUES = 2, 6, 4
"""Fewer members, days or different figures may add up by chance."""


def may_hold_sums(ask: Intake) -> bool:
    """Whether members are looked at: figures are added up as they stand, and totals are not used."""
    used = any(each.reason == TOTAL and each.outcome == "use" for each in ask.verdicts)
    return ask.totalled == "sum" and not (ask.running or used)


def half_of_all(cells: Coded, lines: LineArrays) -> bool:
    """Whether one text of a column holds half of all, as only the sum of the others can."""
    if not _FEWEST_OTHERS < len(cells.texts) <= _MOST_MEMBERS:
        return False
    place = cells.spread(np.arange(len(cells.texts)))
    held = np.rint(np.bincount(place, np.where(lines.used, at_hand(lines.units), 0), len(cells.texts)))
    return bool(((2 * held == held.sum()) & (held != 0)).any())


def sum_members(
    days: Totals, keys: tuple[Key, ...], by: tuple[str, ...], levels: frozenset[str] = frozenset()
) -> tuple[tuple[str, str], ...]:
    """(column, member) of each that holds the sum of the others of its dimension, by day and in every series.

    What holds half of all is the only one that can.

    Args:
        by: the dimensions of the keys; levels: those of them that are no columns.
    """
    of_keys = np.bincount(days.key, days.units, len(keys))
    found = []
    for place, name in enumerate(by):
        if name in levels:
            continue
        members = sorted({str(key[place]) for key in keys})
        if len(members) <= _FEWEST_OTHERS:
            continue
        at = {member: where for where, member in enumerate(members)}
        of_key = np.array([at[str(key[place])] for key in keys])
        held = np.rint(np.bincount(of_key, of_keys, len(members))).astype(np.int64)
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
