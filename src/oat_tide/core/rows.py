"""Products of many series with one matrix, each row by itself.

They are the same to the last bit however many stand together; a library for matrices adds up in another
order for one row than for many.
"""

from __future__ import annotations

import numpy as np

from oat_tide.core.alike import Mask
from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import Days


def columns_of(values: Values, own: Mask | Days) -> Values:
    """(series, ...) some columns of each row, one row after another in memory.

    In another order sums along a row would depend on how many rows there are.
    """
    return np.ascontiguousarray(values[:, own])


def product(rows: Values, matrix: Values) -> Values:
    """(series, k) of (series, j) rows and a (j, k) matrix."""
    few, many = matrix.shape
    if few <= many:
        out = np.zeros((len(rows), many))
        for place in range(few):
            out += rows[:, place, None] * matrix[place]
        return out
    rows = np.ascontiguousarray(rows)
    return np.stack([(rows * matrix[:, place]).sum(1) for place in range(many)], axis=1)


def by_place(rows: Values, place: Days, many: int) -> Values:
    """(series, many) the sum of those columns of each row that stand at a place.

    Args:
        place: (columns,) the place of each, from 0.
    """
    if len(rows) < rows.shape[1]:
        return np.stack([np.bincount(place, row, many) for row in rows]) if len(rows) else np.zeros((0, many))
    # The same sums in the same order.
    out = np.zeros((len(rows), many))
    for column, at in enumerate(place.tolist()):
        out[:, at] += rows[:, column]
    return out
