"""Runs of the same value, such as the days of a file in order of time."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

Places = NDArray[np.int64]
GLIMPSE = 512
"""Cells that tell whether values come in runs."""


def in_runs(marks: NDArray[Any]) -> bool:
    """Whether values come in runs, by a glimpse of them."""
    some = marks[:GLIMPSE]
    return 8 * int(np.count_nonzero(some[1:] != some[:-1])) < len(some)


def runs(marks: NDArray[Any]) -> tuple[Places, Places]:
    """Return where runs of the same value begin, and their lengths."""
    heads = np.flatnonzero(np.concatenate(([True], marks[1:] != marks[:-1])))
    return heads, np.diff(heads, append=len(marks))


def spans(starts: Places, lengths: Places) -> Places:
    """Return all indices within some runs."""
    before = np.cumsum(lengths) - lengths
    return np.repeat(starts - before, lengths) + np.arange(int(lengths.sum()))
