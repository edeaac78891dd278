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
    "laid",
    "interval",
    "year",
    "average",
    "range",
    "bars",
    "layer",
    "scenario",
    "forecast",
    "trend",
    "index",
    "within",
]


@dataclass(frozen=True, slots=True)
class Curve:
    """A figure drawn.

    Attributes:
        upto: the other edge of an interval or layer.
        label: written where it ends.
        ahead: whether only what lies after the as-of is drawn.
        stop: columns that are drawn, the rest being sums and means; 0 for all.
        shade: tells several of one role apart, from 0 for the faintest to 1.
        dash: tells several of one role apart by how the line is broken; 0 for an unbroken one.
        among: figures whose values stand side by side within each column, as a small line.
        base: what an index stands from.
    """

    figure: str
    role: Role
    upto: str = ""
    label: str = ""
    ahead: bool = False
    stop: int = 0
    shade: float = 1.0
    dash: int = 0
    among: tuple[str, ...] = ()
    base: float = 0.0

    @property
    def painted(self) -> tuple[object, ...]:
        """Return what decides how it is painted, without its name."""
        return (
            self.figure,
            self.role,
            self.upto,
            self.ahead,
            self.stop,
            self.shade,
            self.dash,
            self.among,
            self.base,
        )

    def columns(self, past: int, first: int, stop: int) -> tuple[int, int]:
        """Return the drawn columns of a range: the first, and the one after the last.

        Args:
            past: the columns up to the as-of.
        """
        return max(first, past) if self.ahead else first, min(stop, self.stop or stop)


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
        zero: where that line stands, such as at 1 among ratios.
        size: in bands of one size as many units take as many pixels; empty for each its own.
    """

    title: str
    curves: tuple[Curve, ...]
    scale: str = "main"
    height: float = 1.0
    kind: Literal["lines", "columns"] = "lines"
    zero_line: bool = False
    zero: float = 0.0
    size: str = ""


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
