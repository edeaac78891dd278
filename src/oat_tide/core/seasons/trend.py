"""A trend beside the seasons: what both verdicts on a season, and on its form, are judged beside.

Source: Draper and Smith, Applied Regression Analysis (1998), chapters 12 and 14, for polynomials and for
indicators.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import Days

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


def trend_beside(values: Values, known: NDArray[np.bool_], place: Days, cycle: int) -> Values:
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
    seasons, weight = indicators_of(place, cycle), known.astype(float)
    many = np.maximum(weight @ seasons, 1)

    def off_season(rows: Values) -> Values:
        return rows - ((weight * rows) @ seasons / many)[:, place]

    y = np.where(known, values, 0.0)
    terms = np.stack([off_season(np.broadcast_to(each, y.shape)) for each in powers.T], axis=2)
    own = weight[:, :, None] * terms
    normal = np.einsum("spi,spj->sij", own, terms)
    # What a history is too short to tell stays 0.
    at = np.arange(normal.shape[1])
    normal[:, at, at] += 1e-9 * (1 + normal[:, at, at])
    slopes = np.linalg.solve(normal, np.einsum("spi,sp->si", own, off_season(y))[:, :, None])[:, :, 0]
    curve = slopes @ powers.T
    levels = (weight * (y - curve)) @ seasons / many
    there = (weight @ seasons) > 0
    level = np.where(there, levels, 0.0).sum(1) / np.maximum(there.sum(1), 1)
    found: Values = curve + level[:, None]
    return found
