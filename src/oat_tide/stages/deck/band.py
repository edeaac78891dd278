"""Charts, and the curves on them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Role = Literal[
    "actual",
    "columns",
    "smoothed",
    "weighted",
    "fitted",
    "projected",
    "interval",
    "year",
    "average",
    "range",
    "bars",
    "layer",
]


@dataclass(frozen=True, slots=True)
class Curve:
    """A figure drawn.

    Attributes:
        upto: the other edge of an interval or layer.
        label: written where it ends.
        stop: columns that are drawn, the rest being sums and means; 0 for all.
        shade: tells several of one role apart, from 0 for the faintest to 1.
    """

    figure: str
    role: Role
    upto: str = ""
    label: str = ""
    stop: int = 0
    shade: float = 1.0


@dataclass(frozen=True, slots=True)
class Band:
    """One chart. Bands of one scale name share their scale."""

    title: str
    curves: tuple[Curve, ...]
    scale: str = "main"
