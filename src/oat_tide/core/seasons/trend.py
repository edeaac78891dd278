"""A trend beside the seasons: what a season, and its form, are judged beside.

Source: Draper and Smith, Applied Regression Analysis (1998), chapters 12 and 14, for polynomials and for
indicators.
"""

from __future__ import annotations

import numpy as np

from oat_tide.core.alike import Mask, alike
from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import Days
from oat_tide.core.rows import by_place, columns_of, product

_LEAST, _MOST = 2, 6
"""Powers of time."""


def powers_of_time(periods: int, cycle: int) -> Values:
    """(periods, powers + 1) of time from -1 to 1, those of Legendre: two of up to five cycles, then more.

    A power for every two cycles bends with what lasts for years, and not with the seasons.
    """
    powers = int(np.clip(periods // (2 * cycle), _LEAST, _MOST)) if cycle else _LEAST
    return np.asarray(np.polynomial.legendre.legvander(np.linspace(-1, 1, periods), powers), np.float64)


def indicators_of(place: Days, cycle: int) -> Values:
    """(periods, seasons) 1 where a period stands in a season."""
    found: Values = (place[:, None] == np.arange(cycle)).astype(float)
    return found


def trend_beside(values: Values, known: Mask, place: Days, cycle: int) -> Values:
    """A polynomial of time by least squares beside a level a season; its mean is that of these levels.

    The levels are eliminated first, for their part of the equations is diagonal.

    Args:
        values: (series, periods) anything where it is not known.
        known: (series, periods).
        place: (periods,) the season of each, from 0.

    Returns:
        (series, periods).
    """
    powers = powers_of_time(values.shape[1], cycle)[:, 1:]
    out = np.zeros(values.shape)
    for rows, own in alike(known):
        at, inside = place[own], powers[own]
        many = np.bincount(at, minlength=cycle)
        terms = inside - (by_place(inside.T, at, cycle) / np.maximum(many, 1)).T[at]
        normal = terms.T @ terms
        # What a history is too short to tell stays 0.
        normal[np.diag_indices(len(normal))] += 1e-9 * (1 + np.diag(normal))
        y = columns_of(values[rows], own)
        slopes = product(product(y, terms), np.asarray(np.linalg.inv(normal), np.float64))
        left = y - product(slopes, inside.T)
        levels = by_place(left, at, cycle) / np.maximum(many, 1)
        out[rows] = product(slopes, powers.T) + levels.sum(1, keepdims=True) / max(int((many > 0).sum()), 1)
    return out
