"""Series whose known periods are the same, so that what is made of these alone is made once."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.periods.calendar import Days

Mask = NDArray[np.bool_]


def alike(used: Mask) -> Iterator[tuple[Days | slice, Mask]]:
    """Series whose fits use the same periods: their rows, and (columns,) these periods."""
    if len(used) and (used == used[0]).all():
        yield slice(None), used[0]
        return
    packed = np.packbits(used, axis=1)
    _, first, group = np.unique(packed, axis=0, return_index=True, return_inverse=True)
    order = np.argsort(group.ravel(), kind="stable")
    ends = np.cumsum(np.bincount(group.ravel()))
    for place, rows in enumerate(np.split(order, ends[:-1])):
        yield rows, used[first[place]]
