"""Seasonal indices: from ratios or differences, scaled, and with those that are set by hand.

Multiplicative indices average 1 over a cycle, additive ones 0. Source: Macaulay, The Smoothing of Time Series
(1931); Makridakis, Wheelwright and Hyndman, Forecasting: Methods and Applications (1998), 3/4.
"""

from __future__ import annotations

import itertools
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import Days
from oat_tide.core.series.like import median_known

Joined = Literal["mean", "median", "trimmed"]
_ROUNDING = 1e-12
"""Squares of so little of the others are those of rounding."""
FEWEST_TO_FIT = 5
"""Ratios of a season from which one of them can be said not to fit the others."""
_NORMAL = 1.4826
"""Makes the median size of normal errors their standard deviation."""
FEWEST_TO_TRIM = 4
"""Ratios of a season from which its lowest and its highest are left out."""


def joined(ratios: Values, place: Days, cycle: int, how: Joined = "mean") -> tuple[Values, NDArray[np.int64]]:
    """The ratios of each season joined to one.

    Args:
        ratios: (series, periods); NaN is none.
        place: (periods,) the season of each period, from 0.
        cycle: how many seasons there are.
        how: by their mean, their median, or their mean without the lowest and the highest.

    Returns:
        (series, cycle) one a season, NaN of none; and (series, cycle) from how many it comes.
    """
    order = np.argsort(place, kind="stable")
    own = ratios[:, order]
    known = ~np.isnan(own)
    filled = np.where(known, own, 0.0)
    out, total = (np.full((len(ratios), cycle), np.nan) for _ in range(2))
    count = np.zeros((len(ratios), cycle), np.int64)
    ends = np.cumsum(np.bincount(place, minlength=cycle)).tolist()
    for season, (start, end) in enumerate(itertools.pairwise((0, *ends))):
        np.add.reduce(known[:, start:end], axis=1, out=count[:, season])
        if how == "median":
            out[:, season] = median_known(own[:, start:end])
            continue
        np.add.reduce(filled[:, start:end], axis=1, out=total[:, season])
        if how == "trimmed":
            of = own[:, start:end]
            ends_of = np.fmin.reduce(of, 1, initial=np.nan) + np.fmax.reduce(of, 1, initial=np.nan)
            total[:, season] -= np.where(count[:, season] >= FEWEST_TO_TRIM, ends_of, 0.0)
    if how == "median":
        return out, count
    left = np.where(count >= FEWEST_TO_TRIM, count - 2, count) if how == "trimmed" else count
    return np.divide(total, left, out=out, where=left > 0), count


def factor(joint: Values, multiplicative: bool) -> Values:
    """(series, 1) what joined ratios are multiplied by so that they average 1, or shifted by to average 0.

    Seasons without a ratio have no index, and the others average 1 (0) among themselves.
    """
    known = ~np.isnan(joint)
    many = known.sum(1, keepdims=True)
    total = np.where(known, joint, 0.0).sum(1, keepdims=True)
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.where(many > 0, many / total if multiplicative else -total / many, np.nan)


def scaled(joint: Values, multiplicative: bool) -> Values:
    """(series, cycle) joined ratios brought to average 1, or 0."""
    by = factor(joint, multiplicative)
    return joint * by if multiplicative else joint + by


def standard_errors(ratios: Values, place: Days, cycle: int) -> Values:
    """(series, cycle) how sure the mean of each season's ratios is: their standard deviation over root n."""
    mean, count = joined(ratios, place, cycle)
    off = ratios - mean[:, place]
    squares, _ = joined(off**2, place, cycle)
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.where(count > 1, np.sqrt(squares / (count - 1)), np.nan)


def against_the_others(ratios: Values, place: Days, cycle: int) -> Values:
    """(periods,) each ratio less the mean of the others of its season, over how far chance takes it.

    The standard deviation of one ratio is robust, by the median size of all such differences, each over the
    root of 1 + 1 / others.

    Args:
        ratios: (periods,) NaN is none.

    Returns:
        NaN of a season with fewer than FEWEST_TO_FIT.
    """
    out = np.full(ratios.shape, np.nan)
    for season in range(cycle):
        at = np.flatnonzero((place == season) & ~np.isnan(ratios))
        if len(at) >= FEWEST_TO_FIT:
            own, others = ratios[at], len(at) - 1
            out[at] = (own - (own.sum() - own) / others) / np.sqrt(1 + 1 / others)
    known = ~np.isnan(out)
    spread = _NORMAL * float(np.median(np.abs(out[known]))) if known.any() else 0.0
    return np.where(known, out / spread, np.nan) if spread > 0 else np.full(ratios.shape, np.nan)


def by_year(ratios: Values, place: Days, cycle: int, years: Days, each: Days) -> Values:
    """(series, years, cycle) the mean of each season's ratios in each year; NaN of none.

    Args:
        ratios: (series, periods); NaN is none.
        years: (periods,) the year of each.
        each: (years,) those asked for, in order, all of which there are.
    """
    at, cells = np.searchsorted(each, years) * cycle + place, len(each) * cycle
    out = np.full((len(ratios), cells), np.nan)
    for row, own in enumerate(ratios):
        known = ~np.isnan(own)
        count = np.bincount(at[known], minlength=cells)
        total = np.bincount(at[known], weights=own[known], minlength=cells)
        np.divide(total, count, out=out[row], where=count > 0)
    return out.reshape(len(ratios), len(each), cycle)


def drift(ratios: Values, place: Days, cycle: int, years: Days) -> tuple[Values, Values]:
    """Whether the ratios of a season drift over the years: a line through each, by least squares.

    Args:
        ratios: (series, periods); NaN is none.
        years: (periods,) the year of each.

    Returns:
        (series, cycle) the slope a year, NaN of one year alone; and (series, cycle) the p of its t, NaN of
        fewer than three ratios, and where they fall on their line.
    """
    from scipy.special import stdtr

    slope, p = (np.full((len(ratios), cycle), np.nan) for _ in range(2))
    for row, own in enumerate(ratios):
        known = ~np.isnan(own)
        at, r, x = place[known], own[known], years[known].astype(np.float64)

        def summed(weights: Values, at: Days = at) -> Values:
            sums: Values = np.bincount(at, weights, minlength=cycle).astype(np.float64)
            return sums

        n = np.bincount(at, minlength=cycle)
        with np.errstate(invalid="ignore", divide="ignore"):
            x_off, r_off = x - (summed(x) / n)[at], r - (summed(r) / n)[at]
            sxx, squares = summed(x_off**2), summed(r_off**2)
            slope[row] = np.where(sxx > 0, summed(x_off * r_off) / sxx, np.nan)
            missed = summed((r_off - slope[row][at] * x_off) ** 2)
            t = slope[row] / np.sqrt(missed / (n - 2) / sxx)
            tells = (n > 2) & (missed > squares * _ROUNDING)
            p[row] = np.where(tells, 2 * stdtr(n - 2, -np.abs(t)), np.nan)
    return slope, p


def in_use(indices: Values, hand: Values, multiplicative: bool) -> tuple[Values, Values]:
    """Indices with those set by hand kept as they are and the others scaled, so that all average 1 (0).

    Args:
        indices: (series, cycle) of `scaled`.
        hand: (1 or series, cycle) those set by hand, NaN for the others.

    Returns:
        (series, cycle) the indices, and (series, 1) the factor, or shift, of those that are not set by hand.

    Raises:
        ValueError: all are set by hand with another average, or nothing is left for the others.
    """
    by_hand = np.broadcast_to(~np.isnan(hand), indices.shape)
    known = by_hand | ~np.isnan(indices)
    rest = known & ~by_hand
    aim = known.sum(1, keepdims=True) * (1.0 if multiplicative else 0.0)
    left = aim - np.where(by_hand, hand, 0.0).sum(1, keepdims=True)
    own = np.where(rest, indices, 0.0).sum(1, keepdims=True)
    some, any_by_hand = rest.any(1, keepdims=True), by_hand.any(1, keepdims=True)
    if (any_by_hand & ~some & (np.abs(left) > 1e-9)).any():
        raise ValueError(
            "all indices are set by hand, and they do not average " + ("1" if multiplicative else "0")
        )
    if multiplicative and (any_by_hand & some & ~(left > 0)).any():
        raise ValueError("the indices set by hand leave nothing for the others")
    with np.errstate(invalid="ignore", divide="ignore"):
        if multiplicative:
            by = np.where(any_by_hand & some, left / own, 1.0)
            others = indices * by
        else:
            by = np.where(any_by_hand & some, (left - own) / np.maximum(rest.sum(1, keepdims=True), 1), 0.0)
            others = indices + by
    return np.where(by_hand, hand, others), by


def in_use_or_none(scaled: Values, hand: Values, multiplies: NDArray[np.bool_]) -> tuple[Values, Values]:
    """The indices in use; where those by hand leave nothing for the rest, the rest is as scaled."""
    used, by = scaled.copy(), np.full((len(scaled), 1), np.nan)
    for series, products in enumerate(multiplies):
        one = slice(series, series + 1)
        try:
            used[one], by[one] = in_use(scaled[one], hand[one], bool(products))
        except ValueError:
            used[one] = np.where(np.isnan(hand[one]), scaled[one], hand[one])
    return used, by
