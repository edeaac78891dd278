"""Odd periods: those that stand far from their series' own level and season, by medians.

Usual for a place in the year (of days, in the week) is the median, over the other years, of the figure over
the mean of a full cycle around it. The level is the running median of the figures without what is usual; at
both ends, where no window is whole, it is a line through them by medians of slopes (Theil, 1950; Sen, 1968),
on logarithms where all are above zero. Level and usual together are what was to be expected. A period is odd
when it is off by more than 2.8 times the robust spread of all periods, each by how sure what is usual there
is (the modified z-score of Iglewicz and Hoaglin, 1993), and by more than 8 %.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray

from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import Grid, Kind
from oat_tide.core.seasons.classical import centred_average
from oat_tide.core.series.like import like_places, median_known

HALF: dict[Kind, int] = {"day": 14, "week": 13, "block": 6, "month": 6, "quarter": 4, "year": 3}
"""Periods on either side that a level is the median of."""
TIMES, LEAST = 2.8, 8.0
FEWEST = 2
"""Ratios of a place that it takes to tell what is usual there."""
_NORMAL = 1.4826
"""Makes the median deviation of normal errors their standard deviation."""
MANY = 10
"""Ratios of a place among which one hardly moves the median."""
_OF_MEDIANS = 1.3
"""The variance of a median of a few, over that of their mean, about."""


@dataclass(frozen=True, eq=False, slots=True)
class Odd:
    """All (series, periods); NaN where it cannot be told.

    Attributes:
        base: the mean of a whole cycle around a period; of a cycle with something not known the running
            median around it.
        centred: whether it is such a mean.
        ratio: of the figure to that.
        every: the median ratio at its place.
        usual: the same in the other years.
        without: the figure over `every`.
        around: the level: the running median of these, at either end a line through them.
        carried: whether it is such a line.
        expected: level and usual multiplied.
        off: how far the figure is from that, in %.
        unsure: what the spread of a period is taken times, for what is usual there is not sure.
        spread: (series, 1) robust spread of off, each over how unsure it is, in %.
        place: (periods,) the place that like periods share.
        told: whether there are enough like places to tell what is usual there; else it is taken for 1.
        odd: whether a period is.
    """

    base: Values
    centred: NDArray[np.bool_]
    ratio: Values
    every: Values
    usual: Values
    without: Values
    around: Values
    carried: NDArray[np.bool_]
    expected: Values
    off: Values
    unsure: Values
    spread: Values
    place: NDArray[np.int64]
    told: NDArray[np.bool_]
    odd: NDArray[np.bool_]


def find_odd(values: Values, grid: Grid, first: int) -> Odd:
    """Hold every period against its level and season.

    Args:
        values: (series, periods), NaN where not known or not whole.
        first: the first period.
    """
    half = HALF[grid.kind]
    place = like_places(grid, first, values.shape[1])
    cycle = 7 if grid.kind == "day" else grid.cycle
    mean = centred_average(values, cycle) if cycle > 1 else np.full(values.shape, np.nan)
    base = _base(values, mean, cycle, half)
    with np.errstate(invalid="ignore", divide="ignore"):
        ratio = np.where(base > 0, values / base, np.nan)
        usual, every, many = _usual(ratio, place)
        told = many >= FEWEST
        usual, every = (np.where(told, each, 1.0) for each in (usual, every))
        without = np.where(every > 0, values / every, np.nan)
        line = _carried(without, half)
        carried = ~np.isnan(line)
        around = np.where(carried, line, running_median(without, half))
        expected = np.where(np.isnan(values), np.nan, around * usual)
        off = np.where(expected > 0, 100 * (values / expected - 1), np.nan)
    others = np.maximum(many - ~np.isnan(ratio), 1)
    unsure = np.sqrt(1 + np.where(told, np.where(others > FEWEST, _OF_MEDIANS, 1.0) / others, 0.0))
    spread = _NORMAL * median_known(np.abs(off) / unsure)[:, None]
    with np.errstate(invalid="ignore"):
        odd = (np.abs(off) > TIMES * spread * unsure) & (np.abs(off) > LEAST)
    return Odd(
        base,
        ~np.isnan(mean),
        ratio,
        every,
        usual,
        without,
        around,
        carried,
        expected,
        off,
        unsure,
        spread,
        place,
        told,
        odd,
    )


def _base(values: Values, mean: Values, cycle: int, half: int) -> Values:
    """(series, periods) what ratios are taken to; NaN where no window around is whole."""
    if cycle < 2:
        return mean
    edge = cycle // 2
    around = running_median(values, half)
    around[:, :edge] = around[:, max(values.shape[1] - edge, 0) :] = np.nan
    return np.where(np.isnan(mean), around, mean)


def _usual(ratio: Values, place: NDArray[np.int64]) -> tuple[Values, Values, Values]:
    """What is usual at each place: in the other years, in all of them, and from how many ratios."""
    usual, every = np.full(ratio.shape, np.nan), np.full(ratio.shape, np.nan)
    many = np.zeros(ratio.shape)
    for each in np.unique(place):
        at = np.flatnonzero(place == each)
        own = ratio[:, at]
        many[:, at] = (~np.isnan(own)).sum(1, keepdims=True)
        every[:, at] = median_known(own)[:, None]
        usual[:, at] = every[:, at]
        if len(at) > MANY:
            continue
        for column in range(len(at)):
            others = median_known(np.delete(own, column, axis=1))
            usual[:, at[column]] = np.where(np.isnan(others), every[:, at[column]], others)
    return usual, every, many


def _carried(without: Values, half: int) -> Values:
    """(series, periods) the line through either end, where less than half a window is on one side."""
    out = np.full(without.shape, np.nan)
    reach = 2 * half + 1
    for row, own in enumerate(without):
        known = np.flatnonzero(~np.isnan(own))
        if len(known) < reach:
            continue
        for ends, told in ((known[:half], known[:reach]), (known[-half:], known[-reach:])):
            out[row, ends] = line_by_medians(own[told], told)(ends)
    return out


def running_median(values: Values, half: int) -> Values:
    """The running median (Tukey, 1977) of up to 2 * half + 1 periods around each.

    NaN with fewer than half + 1 known ones.
    """
    around = np.pad(values, ((0, 0), (half, half)), constant_values=np.nan)
    if not values.shape[1]:
        return values.copy()
    windows = sliding_window_view(around, 2 * half + 1, axis=1)
    known = (~np.isnan(windows)).sum(2)
    return np.where(known > half, median_known(windows), np.nan)


def line_by_medians(values: Values, at: NDArray[np.intp]) -> Callable[[NDArray[np.intp]], Values]:
    """A line through values by the median of all slopes, and of what is left; on logarithms where it can be.

    Args:
        values: (periods,) known ones.
        at: (periods,) their columns.
    """
    logs = bool((values > 0).all())
    z = np.log(values) if logs else values
    one, other = np.triu_indices(len(z), 1)
    slope = float(np.median((z[other] - z[one]) / (at[other] - at[one])))
    level = float(np.median(z - slope * at))

    def line(columns: NDArray[np.intp]) -> Values:
        found: Values = level + slope * columns.astype(float)
        return np.asarray(np.exp(found), np.float64) if logs else found

    return line
