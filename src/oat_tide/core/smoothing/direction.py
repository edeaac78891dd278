"""Which way a smoothed series goes, and since when. Definitions of our own."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.exact import Values

FEWEST_YEARS = 2
"""Changes at a place of the year before what is usual there is taken out of them."""


def last_turn(smoothed: Values) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Where each series turned last: its latest lowest or highest point.

    Args:
        smoothed: (series, columns); NaN is not known.

    Returns:
        (series,) which way it has gone since: -1, 0 for flat, 1; and (series,) the column of the turn, the
        first known one where it never turned; -1 where nothing is known.
    """
    way, since = np.zeros(len(smoothed), np.int64), np.full(len(smoothed), -1)
    for row, values in enumerate(smoothed):
        at = np.flatnonzero(~np.isnan(values))
        if not at.size:
            continue
        steps = np.sign(np.diff(values[at]))
        moves = np.flatnonzero(steps)
        since[row] = at[0]
        if moves.size:
            latest = steps[moves[-1]]
            way[row] = int(latest)
            against = np.flatnonzero(steps == -latest)
            since[row] = at[against[-1] + 1] if against.size else at[0]
    return way, since


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


def is_level(smoothed: Values, wobbles: Values, length: float) -> NDArray[np.bool_]:
    """Whether a smoothed series has moved by no more than its noise allows: |S(t) - S(t-n)| <= 2 s (2/n)^0.5.

    Args:
        smoothed: (series, columns).
        wobbles: (series,) of `wobble`.
        length: n, the periods of the window.
    """
    out = np.zeros(len(smoothed), np.bool_)
    back = max(round(length), 1)
    for row, values in enumerate(smoothed):
        known = np.flatnonzero(~np.isnan(values))
        if known.size:
            end = int(known[-1])
            before = values[end - back] if end >= back else np.nan
            limit = 2 * wobbles[row] * (2 / length) ** 0.5
            out[row] = abs(values[end] - before) <= limit
    return out
