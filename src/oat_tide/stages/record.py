"""Which figures of a stage are its record, for the command line and for publishing."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True, slots=True)
class Record:
    """The figures of a stage that are written, a row a series and period.

    Attributes:
        kinds: the figures that are the value of a row, each a kind of row; the first one known.
        beside: what is asked -> the figures that stand beside it.
        said: what is asked -> what is the same in every row, by heading.
    """

    kinds: tuple[str, ...]
    beside: Callable[[Any], tuple[str, ...]] = lambda ask: ()
    said: Callable[[Any], dict[str, str]] = lambda ask: {}
