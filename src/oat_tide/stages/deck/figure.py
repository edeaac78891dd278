"""The figure: one name, its values for every series, and how each came about."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from oat_tide.core.exact import Values
from oat_tide.core.working.tree import Working

Explain = Callable[[int, int], Working | None]


@dataclass(frozen=True, eq=False, slots=True)
class Figure:
    """One figure, for every series.

    Attributes:
        name: tells it from the others of its stage.
        label: its name for people.
        values: (series, columns), or (series, 1) for a fact; NaN where there is none.
        explain: the working of a series and column; None exactly where the value is NaN.
        unit: what it counts; "%" for a share.
        fact: one value a series.
        shown: whether it is a row or fact to be seen; hidden ones are met in workings.
        sees_later: whether it may depend on what lies after the as-of.
        adds_up: whether the figure of a year is the sum of its months.
        signed: whether a plus is written.
        exact: whether it is written to its last digit.
        why_blank: the reason for a missing value of a series and column, in words.
    """

    name: str
    label: str
    values: Values
    explain: Explain
    unit: str = ""
    fact: bool = False
    shown: bool = True
    sees_later: bool = False
    adds_up: bool = False
    signed: bool = False
    exact: bool = False
    why_blank: Callable[[int, int], str] = lambda series, column: ""
