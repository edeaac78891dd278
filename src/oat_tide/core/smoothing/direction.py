"""Which way a smoothed series goes, and since when. Definitions of our own."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.exact import Values

FEWEST_YEARS = 2
"""Changes at a place of the year before what is usual there is taken out of them."""


def direction(
    smoothed: Values, wobbles: Values, length: float
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Which way each series goes, and where it turned last.

    It is level while |S(t) - S(t-n)| <= 2 s (2/n)^0.5, else rising or falling by the sign of that difference.
    It has gone so since its last turn: its latest lowest or highest point before which it went the other way
    by more than the same limit.

    Args:
        smoothed: (series, columns); NaN is not known.
        wobbles: (series,) s, as `wobble` gives them; NaN for none.
        length: n, the periods of the window.

    Returns:
        (series,) -1, 0 for level, 1; and (series,) the column of the turn, the first known one where it never
        turned; -1 where nothing is known.
    """
    way, since = np.zeros(len(smoothed), np.int64), np.full(len(smoothed), -1)
    limits = 2 * np.nan_to_num(wobbles) * (2 / length) ** 0.5
    back = max(round(length), 1)
    for row, (values, limit) in enumerate(zip(smoothed, limits.tolist(), strict=True)):
        at = np.flatnonzero(~np.isnan(values))
        if not at.size:
            continue
        end = int(at[-1])
        before = values[end - back] if end >= back else np.nan
        moved = float(values[end] - (values[at[0]] if np.isnan(before) else before))
        way[row] = 0 if abs(moved) <= limit else int(np.sign(moved))
        since[row] = at[_turn(way[row] * values[at], limit, back)]
    return way, since


def _turn(rising: Values, limit: float, back: int) -> int:
    """The place of the lowest point that a rising row has come from, small falls on the way apart.

    Where it has just fallen by more than that, and stands higher than so many periods back for all that, the
    lowest point since then.
    """
    lowest = len(rising) - 1
    for place in range(len(rising) - 1, -1, -1):
        if rising[place] < rising[lowest]:
            lowest = place
        elif rising[place] - rising[lowest] > limit:
            break
    if lowest == len(rising) - 1 and lowest:
        stretch = rising[max(lowest - back, 0) : lowest]
        return lowest - len(stretch) + int(np.flatnonzero(stretch == stretch.min())[-1])
    return lowest


def deseasonalised_changes(values: Values, place: NDArray[np.int64]) -> Values:
    """Changes from period to period, less what is usual at their place of the year.

    Where a place has fewer than two known changes nothing is taken off.

    Args:
        values: (series, columns).
        place: (columns,) the place of each in its year, of days in the week.

    Returns:
        (series, columns - 1).
    """
    changes = np.diff(values)
    known = ~np.isnan(changes)
    at = place[1:] if len(place) else place
    many = int(at.max()) + 1 if len(at) else 0
    usual = np.zeros(changes.shape)
    for row, (own, there) in enumerate(zip(changes, known, strict=True)):
        count = np.bincount(at[there], minlength=many)
        total = np.bincount(at[there], weights=own[there], minlength=many)
        mean = np.where(count >= FEWEST_YEARS, total / np.maximum(count, 1), 0.0)
        usual[row] = mean[at]
    return changes - usual


def wobble(values: Values, place: NDArray[np.int64]) -> Values:
    """(series,) s: the standard deviation of deseasonalised changes over the root of 2; NaN of too few."""
    changes = deseasonalised_changes(values, place)
    count = (~np.isnan(changes)).sum(1)
    out = np.full(len(values), np.nan)
    enough = count > 2
    if enough.any():
        out[enough] = np.nanstd(changes[enough], axis=1, ddof=1) / np.sqrt(2)
    return out
