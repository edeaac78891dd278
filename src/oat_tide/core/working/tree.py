"""How a figure came about: a small tree, one level deep.

A leaf is a constant or ruling (Given), another figure (Cell), a stretch of one (Run) or sales lines
(Lines); an Op joins them. Every sign stands once in SIGNS, with all that is ever asked of it.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from oat_tide.core.exact import Values
from oat_tide.core.series.coded import Key
from oat_tide.core.series.panel import Reach

FACT = -1
"""The column of a figure that has one value a series."""


@dataclass(frozen=True, slots=True)
class Ref:
    """The address of a figure's value.

    Attributes:
        stage: whose figure it is.
        figure: its name.
        series: the place of its series among those that the deck holds.
        column: of the figure's own axis; FACT for a fact.
        reach: which series that deck holds.
    """

    stage: str
    figure: str
    series: int
    column: int = FACT
    reach: Reach = ""


@dataclass(frozen=True, slots=True)
class Given:
    """A constant, or what the user has ruled."""

    value: float
    why: str = ""


@dataclass(frozen=True, slots=True)
class Cell:
    """The value of another figure."""

    value: float
    ref: Ref


@dataclass(frozen=True, slots=True, eq=False)
class Run:
    """A stretch of one figure, from the column of `ref` to the column `upto`, both included."""

    values: Values
    ref: Ref
    upto: int


@dataclass(frozen=True, slots=True)
class SalesLines:
    """The sum of the sales lines of a series in a period."""

    value: float
    key: Key
    period: int
    count: int


@dataclass(frozen=True, slots=True, eq=False)
class Op:
    """Terms joined by a sign of SIGNS."""

    sign: str
    terms: tuple[Working, ...]


Working = Given | Cell | Run | SalesLines | Op
Leaf = Given | Cell | Run | SalesLines


def leaves(working: Working) -> Iterator[Leaf]:
    """The leaves, from left to right."""
    if isinstance(working, Op):
        for term in working.terms:
            yield from leaves(term)
    else:
        yield working
