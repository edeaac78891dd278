"""The tally of a selection of periods.

Compound growth is the geometric mean of the growth factors less 1 (Spiegel, Statistics, 1961, chapter 3).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from oat_tide.core.exact import Values, known
from oat_tide.core.periods.calendar import Days, Grid


@dataclass(frozen=True, slots=True)
class Tally:
    """What a selection of periods adds up to; NaN where it cannot be told.

    Attributes:
        count: known periods.
        total: their sum.
        mean: their arithmetic mean.
        median: their median.
        lowest: the least of them.
        highest: the greatest of them.
        steps: from the first of them to the last.
        change: of the last on the first.
        change_share: the same in %.
        compound: growth a period in %: 100 * ((last / first)**(1 / steps) - 1).
        share: of the sum of the years it lies in, in %.
    """

    count: int
    total: float
    mean: float
    median: float
    lowest: float
    highest: float
    steps: int
    change: float
    change_share: float
    compound: float
    share: float


def tally(values: Values, columns: Days, grid: Grid, first: int) -> Tally:
    """Add up some periods of one series; compound growth as by Spiegel (1961), chapter 3.

    Args:
        values: (periods,) of the series.
        columns: sorted columns.
    """
    at = np.array([c for c in columns.tolist() if 0 <= c < len(values) and known(values[c])], np.int64)
    nan = float("nan")
    if not at.size:
        return Tally(0, nan, nan, nan, nan, nan, 0, nan, nan, nan, nan)
    chosen = values[at]
    start, end, steps = float(chosen[0]), float(chosen[-1]), int(at[-1] - at[0])
    change = end - start if steps else nan
    grows = start > 0 and end > 0 and steps > 0
    years = grid.years(np.arange(first, first + len(values)))
    whole = np.nansum(values[np.isin(years, np.unique(years[at]))])
    total = float(chosen.sum())
    return Tally(
        len(at),
        total,
        float(chosen.mean()),
        float(np.median(chosen)),
        float(chosen.min()),
        float(chosen.max()),
        steps,
        change,
        100 * change / start if start > 0 and steps else nan,
        100 * ((end / start) ** (1 / steps) - 1) if grows else nan,
        float(100 * total / whole) if whole > 0 else nan,
    )
