"""A deck in the making: figures added in order, that cite each other's cells."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.series.panel import Key, Sight
from oat_tide.core.working.tree import FACT, Cell, Given, Lines, Ref, Run, Working
from oat_tide.stages.deck.axis import Axis
from oat_tide.stages.deck.deck import Deck
from oat_tide.stages.deck.figure import Explain, Figure


class Draft:
    """A deck in the making: figures are added in order and may cite each other's cells."""

    def __init__(self, stage: str, sight: Sight, columns: int = 0) -> None:
        past = sight.past
        self.stage, self.keys, self.grid, self.first = stage, past.keys, past.grid, past.first
        self.past = past.columns
        self.columns = max(columns, sight.columns)
        self.flags = _wide(sight.all("flags").astype(np.uint8), self.columns, 0)
        self.figures: dict[str, Figure] = {}
        self.axis: Axis | None = None

    @classmethod
    def of_axis(cls, stage: str, sight: Sight, axis: Axis) -> Draft:
        """A deck whose columns are no stretch of time."""
        draft = cls(stage, sight)
        draft.columns = draft.past = len(axis.full)
        draft.flags = np.zeros((len(draft.keys), draft.columns), np.uint8)
        draft.axis = axis
        return draft

    def add(self, name: str, label: str, values: Values, explain: Explain, **more: Any) -> Figure:
        """Add a figure; values over fewer columns than the deck has are widened with NaN."""
        wide = values if more.get("fact") else _wide(values, self.columns, np.nan)
        wide.flags.writeable = False
        figure = Figure(name, label, wide, _where_known(wide, explain), **more)
        self.figures[name] = figure
        return figure

    def borrow(self, other: Deck, name: str) -> None:
        """Show a figure of another deck as it is, its working included."""
        theirs = other.figures[name]
        values = _wide(theirs.values, self.columns, np.nan)
        values.flags.writeable = False
        self.figures[name] = replace(theirs, values=values, explain=_where_known(values, theirs.explain))

    def cell(self, name: str, series: int, column: int = FACT) -> Cell:
        """A figure of this deck as a term of a working."""
        return _cell(self.stage, self.figures[name], series, column)

    def run(self, name: str, series: int, start: int, upto: int) -> Run:
        """A stretch of a figure of this deck, both ends included."""
        return Run(
            self.figures[name].values[series, start : upto + 1], Ref(self.stage, name, series, start), upto
        )

    def deck(self, **more: Any) -> Deck:
        """The deck."""
        empty: dict[str, Any] = {
            "sheet": lambda: (),
            "handles": (),
            "listings": (),
            "cautions": lambda series: (),
        }
        return Deck(
            stage=self.stage,
            keys=self.keys,
            grid=self.grid,
            first=self.first,
            columns=self.columns,
            past=self.past,
            flags=self.flags,
            figures=self.figures,
            axis=self.axis,
            **(empty | more),
        )


def cell(deck: Deck, name: str, series: int, column: int = FACT) -> Cell:
    """A figure of another deck as a term of a working."""
    return _cell(deck.stage, deck.figures[name], series, column)


def run(deck: Deck, name: str, series: int, start: int, upto: int) -> Run:
    """A stretch of a figure of another deck, both ends included."""
    return Run(
        deck.figures[name].values[series, start : upto + 1], Ref(deck.stage, name, series, start), upto
    )


def from_lines(value: float, key: Key, period: int, count: int) -> Working:
    """The working of what was added up from the lines of a period."""
    if not count:
        return Given(0.0, "no line lies in the period: nothing was sold")
    return Lines(float(value), key, period, count)


def _cell(stage: str, figure: Figure, series: int, column: int) -> Cell:
    return Cell(float(figure.values[series, max(column, 0)]), Ref(stage, figure.name, series, column))


def _where_known(values: Values, explain: Explain) -> Explain:
    """No working where there is no figure."""

    def how(series: int, column: int) -> Working | None:
        return None if np.isnan(values[series, column]) else explain(series, column)

    return how


def _wide(values: Any, columns: int, blank: float) -> Any:
    if values.shape[1] == columns:
        return values
    out = np.full((values.shape[0], columns), blank, values.dtype)
    out[:, : values.shape[1]] = values
    return out
