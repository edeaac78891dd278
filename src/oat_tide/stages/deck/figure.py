"""The figure: one name, its values for every series, and how each came about."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import TypedDict

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.working.formula import Mask
from oat_tide.core.working.tree import Working
from oat_tide.stages.deck.called import CellEdit, Explanation, Remark, State, StateOf, WhyBlank

LARGEST = 1e300
"""No figure is larger, above or below zero: from one such to another is still a number."""
BEYOND = phrase("beyond 10³⁰⁰")


def _reckoned_state(series: int, column: int) -> State:
    return ""


def _nothing(series: int, column: int) -> str:
    return ""


class Look(TypedDict, total=False):
    """How a figure is to be taken; the attributes of a Figure that have a default."""

    brief: str
    unit: str
    shown: bool
    sees_later: bool
    adds_up: bool
    signed: bool
    exact: bool
    blank: str | WhyBlank
    remark: Remark
    axis: str
    mend: CellEdit | None
    state: StateOf
    unlike: str


@dataclass(eq=False, slots=True, weakref_slot=True)
class Figure:
    """One figure, for every series. Its values are reckoned when they are first asked for.

    Attributes:
        name: tells it from the others of its stage.
        label: its name for people.
        reckon: gives the values; called once.
        told: the working of a series and column that has a value.
        fact: one value a series.
        brief: what its row is called below the one that it belongs to; empty for its label.
        unit: what it counts; "%" for a share.
        shown: whether it is a row or fact to be seen; hidden ones are met in workings.
        sees_later: whether it may depend on what lies after the as-of.
        adds_up: whether the figure of a year is the sum of its months.
        signed: whether a plus is written.
        exact: whether it is written to its last digit.
        blank: the reason for a missing value, in words; it may differ by series and column.
        remark: what must be known beside a value, such as that a total lacks a month; the cell is marked.
        axis: what its columns are, by the name of an axis of its deck; empty for periods of time.
        mend: where its cells can be written in, the edit of what is written.
        state: how each such cell stands.
        unlike: the figure that its row is shown beside only where it differs from it; empty for always.
    """

    name: str
    label: str
    compute: Callable[[], Values] | None
    explanation: Explanation
    fact: bool = False
    brief: str = ""
    unit: str = ""
    shown: bool = True
    sees_later: bool = False
    adds_up: bool = False
    signed: bool = False
    exact: bool = False
    blank: str | WhyBlank = ""
    remark: Remark = _nothing
    axis: str = ""
    mend: CellEdit | None = None
    state: StateOf = _reckoned_state
    unlike: str = ""
    _values: Values | None = field(default=None, init=False, repr=False)
    _beyond: Mask | None = field(default=None, init=False, repr=False)

    @property
    def values(self) -> Values:
        """(series, columns), or (series, 1) for a fact; NaN where there is none. They cannot be written.

        What would be larger than LARGEST, such as growth of a tenth a week for long enough, is none.

        Raises:
            RuntimeError: it could not be computed; the message names the figure.
        """
        if self._values is None:
            self._values = self._reckoned()
            # What it was reckoned from is needed no more.
            self.compute = None
        return self._values

    def _reckoned(self) -> Values:
        assert self.compute is not None
        try:
            values = self.compute()
        except Exception as error:
            raise RuntimeError(f"the figure “{self.name}” could not be computed: {error}") from error
        lowest, highest = (fold.reduce(values, axis=None, initial=0.0) for fold in (np.fmin, np.fmax))
        if lowest < -LARGEST or highest > LARGEST:
            self._beyond = np.abs(values) > LARGEST
            values = np.where(self._beyond, np.nan, values)
        values.flags.writeable = False
        return values

    def explain(self, series: int, column: int) -> Working | None:
        """The working of a series and column; None exactly where the value is NaN."""
        return None if np.isnan(self.values[series, column]) else self.explanation(series, column)

    def is_beyond(self, series: int, column: int) -> bool:
        """Whether a series and column has no value because it would be larger than any figure."""
        blank = bool(np.isnan(self.values[series, column]))
        return blank and self._beyond is not None and bool(self._beyond[series, column])

    def why_blank(self, series: int, column: int) -> str:
        """The reason for the missing value of a series and column, in words."""
        if self.is_beyond(series, column):
            return phrase("It lies {beyond}: no such figure is computed.", beyond=BEYOND)
        return self.blank if isinstance(self.blank, str) else self.blank(series, column)
