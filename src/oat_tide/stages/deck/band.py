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
    "scenario",
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
    """One chart.

    Attributes:
        title: what its values are, at its left.
        curves: what is drawn.
        scale: bands of one scale name share their scale.
        height: how high it is beside the other bands of its deck.
        kind: whether its curves are lines, or columns that stand from zero; some roles are always columns.
        zero_line: whether a line is drawn at zero, which then is always in sight.
    """

    title: str
    curves: tuple[Curve, ...]
    scale: str = "main"
    height: float = 1.0
    kind: Literal["lines", "columns"] = "lines"
    zero_line: bool = False


@dataclass(frozen=True, slots=True)
class Boundary:
    """A line through all bands at the end of a column, such as the last one with actuals.

    Attributes:
        column: the one that ends there.
        role: "projected as of" or "actuals to".
        says: what is written at it.
    """

    column: int
    role: Literal["projected as of", "actuals to"]
    says: str
