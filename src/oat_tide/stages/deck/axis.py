"""Columns that are no stretch of time."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any


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


class Names(Sequence[str]):
    """The names of an axis too long to be written out, each made as it is asked for."""

    def __init__(self, many: int, name: Callable[[int], str]) -> None:
        self._many, self._name = many, name

    def __len__(self) -> int:
        return self._many

    def __getitem__(self, place: Any) -> Any:
        if not 0 <= place < self._many:
            raise IndexError(place)
        return self._name(place)
