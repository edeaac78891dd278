"""Columns that are no stretch of time."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Axis:
    """Columns that are no stretch of time, such as the months of any year.

    Attributes:
        short: the name of each column.
        brief: the same where there is little room.
        full: the same in full.
    """

    short: tuple[str, ...]
    brief: tuple[str, ...]
    full: tuple[str, ...]
