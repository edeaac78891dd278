"""Lines held, series by period."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from oat_tide.plan.edits import Edit


@dataclass(frozen=True, eq=False, slots=True)
class Coverage:
    """Lines held, series by period.

    Attributes:
        names: of the series, largest first.
        lines: (series, columns) how many lines.
        flags: (series, columns) why a period is special.
        unknown: (series, columns) where nothing is known.
        said: of each series, what is to be said of its start or end, with the column it is said at.
        go: the edit that brings a series in sight.
    """

    names: tuple[str, ...]
    lines: NDArray[np.int64]
    flags: NDArray[np.uint8]
    unknown: NDArray[np.bool_]
    said: tuple[tuple[tuple[int, str], ...], ...]
    go: Callable[[int], Edit]
