"""How a season is taken, for kernels: what Seasons is asked, by hand and left out included."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.methods.shape import SeasonBy
from oat_tide.core.series.coded import Key
from oat_tide.plan.parts.seasons import Seasons
from oat_tide.stages.common import where_of
from oat_tide.stages.cycle import Cycle

Rows = dict[frozenset[tuple[str, str]], int]
"""By what a plan names a series by, its row."""


def season_by(
    ask: Seasons, cycle: Cycle, keys: Sequence[Key], dimensions: tuple[str, ...], columns: int
) -> SeasonBy:
    """What Seasons is asked, of each of several series.

    Args:
        columns: of the history, which ratios left out are told by.
    """
    hand, gone = None, None
    if ask.by_hand or ask.left_out:
        rows = {frozenset(where_of(dimensions, key)): row for row, key in enumerate(keys)}
        hand, gone = _hand(ask, cycle, rows), _gone(ask, cycle, rows, columns)
    return SeasonBy(ask.method, ask.season, ask.joined, ask.seasonal, ask.span, ask.robust, hand, gone)


def _hand(ask: Seasons, cycle: Cycle, rows: Rows) -> tuple[Values, Values] | None:
    added, multiplied = (np.full((len(rows), cycle.length), np.nan) for _ in range(2))
    for each in ask.by_hand:
        row = rows.get(frozenset(each.where))
        if row is not None and each.cycle == cycle.length and each.place < cycle.length:
            (multiplied if each.season == "multiplicative" else added)[row, each.place] = each.value
    return (added, multiplied) if not (np.isnan(added) & np.isnan(multiplied)).all() else None


def _gone(ask: Seasons, cycle: Cycle, rows: Rows, columns: int) -> np.ndarray | None:
    out = np.zeros((len(rows), columns), np.bool_)
    for each in ask.left_out:
        row = rows.get(frozenset(each.where))
        if row is not None and each.cycle == cycle.length:
            out[row] |= (cycle.years[:columns] == each.year) & (cycle.place[:columns] == each.place)
    return out if out.any() else None
