"""Columns that are no stretch of time."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Axis:
    """Columns that are no stretch of time, such as the months of any year.

    Attributes:
        short: the name of each column.
        brief: the same where there is little room.
        full: the same in full.
        step: what leads from one column to the next, such as "month"; empty where nothing does.
    """

    short: Sequence[str]
    brief: Sequence[str]
    full: Sequence[str]
    step: str = ""
