"""Medians, extremes and trimmed means over windows: what goes by rank.

Windows that are known throughout go through rank filters that keep the window sorted as it moves on, in
O(n log w). Source: Huang, Yang and Tang, A Fast Two-Dimensional Median Filtering Algorithm (1979), and
Tukey, Exploratory Data Analysis (1977), chapter 7, for medians over a series.
"""

from __future__ import annotations

import functools
from collections.abc import Callable

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view

from oat_tide.core.exact import Values
from oat_tide.core.smoothing.windows import Mask, Window, clipped, held, over

Fast = Callable[[Values, int], Values]
"""(values known throughout, length) to the trailing windows of that length."""
Slow = Callable[[Values], Values]
"""(windows, cells) with NaN for what is not known, to (windows,)."""
_AT_A_TIME = 1 << 20
"""Cells of windows that are sorted one by one at a time."""


def window_median(values: Values, window: Window, lenient: bool = False) -> Values:
    """The median of each window; of an even number of periods the mean of the middle two.

    Args:
        values: (..., columns); NaN is not known.
        lenient: whether a window that is not full, or holds a period not known, is taken of what is known.

    Returns:
        (..., columns); NaN of nothing, and where a window lacks something unless that is allowed.
    """
    return _by_rank(values, window, _median, lambda cells: np.nanmedian(cells, axis=-1), 1, lenient)


def window_lowest(values: Values, window: Window, lenient: bool = False) -> Values:
    """The least of each window. Arguments as of `window_median`."""
    return _by_rank(values, window, _lowest, lambda cells: np.nanmin(cells, axis=-1), 1, lenient)


def window_highest(values: Values, window: Window, lenient: bool = False) -> Values:
    """The greatest of each window. Arguments as of `window_median`."""
    return -window_lowest(-values, window, lenient)


def window_trimmed(values: Values, window: Window, trim: int, lenient: bool = False) -> Values:
    """The mean of each window less its `trim` lowest and as many highest (Tukey, 1977).

    Returns:
        (..., columns); NaN also where nothing would be left.
    """
    fast = functools.partial(_trimmed, trim=trim)
    slow = functools.partial(_middle_mean, trim=trim)
    return _by_rank(values, window, fast, slow, 2 * trim + 1, lenient)


def _by_rank(values: Values, window: Window, fast: Fast, slow: Slow, least: int, lenient: bool) -> Values:
    """Windows known throughout by a filter, and those that lack something one by one where that is wanted."""
    known = ~np.isnan(values)
    whole = bool(known.all())
    out = over(fast, values if whole else np.where(known, values, 0.0), window)
    if whole and not lenient:
        return out
    count = held(known, window)
    lacks = count < window.lengths
    out[lacks] = np.nan
    lacks &= count >= least
    if lenient and lacks.any():
        _one_by_one(values, window, lacks, slow, out)
    return out


def _one_by_one(values: Values, window: Window, lacks: Mask, slow: Slow, out: Values) -> None:
    """Windows whose cells are taken out and gone through one by one."""
    low, high = clipped(window)
    rows = values.reshape(-1, values.shape[-1])
    longest = int((high - low).max())
    padded = np.concatenate((rows, np.full((len(rows), longest), np.nan)), axis=1)
    cells = sliding_window_view(padded, longest, axis=1)
    inside = np.arange(longest)
    row, column = np.nonzero(lacks.reshape(rows.shape))
    flat = out.reshape(rows.shape)
    step = max(_AT_A_TIME // longest, 1)
    for at in range(0, len(row), step):
        r, c = row[at : at + step], column[at : at + step]
        taken = np.where(inside < (high - low)[c, None], cells[r, low[c]], np.nan)
        flat[r, c] = slow(taken)


def _rank(values: Values, rank: int, length: int) -> Values:
    """The value of a rank in each trailing window that is full."""
    from scipy import ndimage  # loads slowly, and only what goes by rank needs it

    out = np.empty(values.shape)
    for row, into in zip(
        values.reshape(-1, values.shape[-1]), out.reshape(-1, values.shape[-1]), strict=True
    ):
        ndimage.rank_filter(
            row, rank, size=length, output=into, mode="nearest", origin=(length - 1) - length // 2
        )
    return out


def _median(values: Values, length: int) -> Values:
    upper = _rank(values, length // 2, length)
    return upper if length % 2 else (_rank(values, length // 2 - 1, length) + upper) / 2


def _lowest(values: Values, length: int) -> Values:
    from scipy import ndimage

    found: Values = ndimage.minimum_filter1d(
        values, length, axis=-1, mode="nearest", origin=(length - 1) - length // 2
    )
    return found


def _trimmed(values: Values, length: int, trim: int) -> Values:
    if length < 2 * trim + 1:
        return np.full(values.shape, np.nan)
    ranks = range(trim, length - trim)
    if len(ranks) <= 2 * trim:
        kept: Values = sum(_rank(values, rank, length) for rank in ranks)  # type: ignore[assignment]
        return kept / len(ranks)
    running = np.zeros((*values.shape[:-1], values.shape[-1] + 1))
    np.cumsum(values, axis=-1, out=running[..., 1:])
    total = np.full(values.shape, np.nan)
    total[..., length - 1 :] = running[..., length:] - running[..., :-length]
    for rank in range(trim):
        total -= _rank(values, rank, length) + _rank(values, length - 1 - rank, length)
    return total / len(ranks)


def _middle_mean(cells: Values, trim: int) -> Values:
    """The mean of the known cells of each row less its `trim` lowest and highest; NaN sorts last."""
    ordered, known = np.sort(cells, axis=-1), (~np.isnan(cells)).sum(-1, keepdims=True)
    place = np.arange(cells.shape[-1])
    kept = (place >= trim) & (place < known - trim)
    mean: Values = np.where(kept, ordered, 0.0).sum(-1) / kept.sum(-1)
    return mean
