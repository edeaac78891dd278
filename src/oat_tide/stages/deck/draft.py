"""A deck in the making: figures defined in order, each by those before it."""

from __future__ import annotations

import weakref
from collections.abc import Callable, MutableMapping, Sequence
from dataclasses import replace
from functools import partial
from typing import Unpack

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.series.coded import Key
from oat_tide.core.series.panel import Sight
from oat_tide.core.working.formula import Formula, Mask, given, only
from oat_tide.core.working.terms import Columns, Source, Term, wide
from oat_tide.core.working.tree import Given, SalesLines, Working
from oat_tide.stages.deck.axis import Axis
from oat_tide.stages.deck.called import Explanation, OfSeries
from oat_tide.stages.deck.deck import Deck, Views
from oat_tide.stages.deck.figure import Figure, Look
from oat_tide.stages.deck.said import Fact
from oat_tide.stages.deck.steps import Figures, StepFigures

Flags = NDArray[np.uint8]
Kernel = Values | Callable[[], Values]
"""The values of a figure, or what gives them."""


class Draft:
    """A deck in the making: figures are added in order and may cite each other's cells."""

    def __init__(self, stage: str, sight: Sight, columns: int = 0) -> None:
        past = sight.past
        self.stage, self.keys, self.grid, self.first = stage, past.keys, past.grid, past.first
        self.reach, self.past = sight.reach, past.columns
        self.columns = max(columns, sight.columns)
        self.flags = wide(sight.flags, self.columns, 0)
        self.axes: dict[str, Axis] = {}
        self.sees = ""
        self._widths = {"": self.columns}
        self.figures: MutableMapping[str, Figure] = {}
        self._declared: dict[str, Figure] = {}
        self._steps: list[StepFigures] = []

    @staticmethod
    def preferred(kernel: Kernel | None) -> Kernel | None:
        """What a figure that has a formula is reckoned by; None for the formula."""
        return kernel

    def lay(self, name: str, axis: Axis) -> None:
        """Add an axis that is no stretch of time, for the figures that name it."""
        self.axes[name], self._widths[name] = axis, len(axis.full)

    def show_on(self, name: str) -> None:
        """Have rows and curves stand on an axis that was added; figures to come are of it."""
        self.sees = name
        self.columns = self.past = self._widths[name]
        self.flags = np.zeros((len(self.keys), self.columns), np.uint8)

    def declare(self, name: str, label: str, **look: Unpack[Look]) -> Term:
        """A figure to be defined later, as a term: figures that go on from each other's earlier columns."""
        look.setdefault("axis", self.sees)
        figure = self._declared[name] = Figure(name, label, None, _untold, **look)
        # What is cited by itself would never be gone: the term holds it lightly.
        return Term(Source(self.stage, weakref.proxy(figure), reach=self.reach))

    def define(
        self,
        name: str,
        label: str,
        formula: Formula | Callable[[Term], Formula],
        *,
        values: Kernel | None = None,
        where: Formula | Mask | None = None,
        **look: Unpack[Look],
    ) -> Term:
        """Add a figure by its formula, and give it as a term for those that follow.

        Args:
            formula: what it is; its values and every working come from it. One that goes on from its own
                earlier columns is a call that is given the figure as a term, and has a kernel.
            values: (series, columns) of a kernel that reckons the same faster or more exactly, or a call
                that gives them; columns that it does not have are blank.
            where: the cells that have the figure: a mask (series, columns), either may be 1, a comparison
                that must be true, or another formula that must be known.
        """
        look.setdefault("axis", self.sees)
        figure = Figure(name, label, None, _untold, **look)
        goes_on = not isinstance(formula, Formula)
        body = formula if isinstance(formula, Formula) else formula(self._own(figure))
        return self._made(figure, body, values if goes_on else self.preferred(values), where)

    def define_by(
        self,
        name: str,
        label: str,
        values: Kernel,
        build: Callable[[], Formula],
        **look: Unpack[Look],
    ) -> Term:
        """Add a fact that a kernel reckons; its formula, and what it defines, is put together when asked for.

        Args:
            build: defines the steps that lead to it, and gives the formula.
        """
        look.setdefault("axis", self.sees)
        steps = StepFigures(partial(self._built, build, (self.sees, self.columns, self.past, self.flags)))
        self._steps.append(steps)
        kernel = self.preferred(values)
        return self._made(Figure(name, label, None, _untold, **look), steps, kernel, None)

    def _built(
        self, build: Callable[[], Formula], seen: tuple[str, int, int, Flags]
    ) -> tuple[Formula, dict[str, Figure]]:
        """A formula put together on the axis that was in sight, and the figures that it defined."""
        now, kept = (self.sees, self.columns, self.past, self.flags), self.figures
        self.sees, self.columns, self.past, self.flags = seen
        made: dict[str, Figure] = {}
        self.figures = made
        try:
            return build(), made
        finally:
            self.sees, self.columns, self.past, self.flags = now
            self.figures = kept

    def complete(self, name: str, body: Formula, values: Kernel, where: Formula | Mask) -> Term:
        """Give a declared figure its formula, and the kernel that it takes to go on from its own columns."""
        return self._made(self._declared.pop(name), body, values, where)

    def _made(
        self,
        figure: Figure,
        body: Formula,
        kernel: Kernel | None,
        where: Formula | Mask | None,
    ) -> Term:
        whole = body if where is None else only(where, body)
        figure.fact, figure.explanation = body.fact, whole.bind
        shape = len(self.keys), 1 if body.fact else self._widths[figure.axis]
        # It holds on to nothing of the deck, so that a deck that is let go is gone at once.
        figure.compute = partial(_reckoned, whole, kernel, where, shape)
        self.figures[figure.name] = figure
        return self._own(figure)

    def _own(self, figure: Figure) -> Term:
        return Term(Source(self.stage, figure, reach=self.reach))

    def add(
        self,
        name: str,
        label: str,
        values: Values,
        explanation: Explanation,
        *,
        fact: bool = False,
        **look: Unpack[Look],
    ) -> Term:
        """Add a figure explained by a function, as a term; values over fewer columns are widened."""
        look.setdefault("axis", self.sees)
        figure = Figure(name, label, None, explanation, fact, **look)
        widened = values if fact else wide(values, self._widths[figure.axis], np.nan)
        figure.compute = lambda: widened
        self.figures[name] = figure
        return self._own(figure)

    def borrow(self, other: Deck, name: str, **look: Unpack[Look]) -> Term:
        """Show a figure of another deck as it is, its working included, and give it as a term."""
        theirs = other.figures[name]
        columns = self._widths[theirs.axis]
        own = replace(theirs, compute=lambda: wide(theirs.values, columns, np.nan).view(), **look)
        self.figures[name] = own
        return self._own(own)

    def facts(self, *names: str, known: bool = False) -> list[Fact]:
        """Return the named facts that were defined, as items of the sheet.

        Args:
            known: only those that the first series has.
        """
        there = (name for name in names if name in self.figures)
        return [Fact(name) for name in there if not (known and np.isnan(self.figures[name].values[0, 0]))]

    def deck(
        self,
        *,
        title: OfSeries,
        subtitle: OfSeries,
        finding: OfSeries,
        rows: Sequence[str] = (),
        **views: Unpack[Views],
    ) -> Deck:
        """The deck. The draft holds its figures lightly from now on: a deck let go is gone at once.

        Args:
            rows: figures in the order that they are read in, those that are there; others come before them.
        """
        last = {name: self.figures[name] for name in rows if name in self.figures}
        figures = Figures(
            {name: self.figures[name] for name in self.figures if name not in last} | last, self._steps
        )
        self.figures, self._steps = weakref.WeakValueDictionary(figures), []
        return Deck(
            self.stage,
            self.keys,
            self.grid,
            self.first,
            self.columns,
            self.past,
            self.flags,
            figures,
            title,
            subtitle,
            finding,
            axes=self.axes,
            sees=self.sees,
            reach=self.reach,
            **views,
        )


def of(deck: Deck, name: str, seen: Mask | None = None, rows: Columns | None = None) -> Term:
    """A figure of another deck as a term of a formula.

    Args:
        seen: (series, columns) the cells that the formula may see; None for all.
        rows: (series,) for each series at hand, its row in that deck; None where they are the same.
    """
    return Term(Source(deck.stage, deck.figures[name], seen, rows, deck.reach))


def _reckoned(
    whole: Formula,
    kernel: Kernel | None,
    where: Formula | Mask | None,
    shape: tuple[int, int],
) -> Values:
    """(series, columns) of a figure, by its kernel where it has one."""
    columns = shape[1]
    if kernel is not None:
        values = wide(kernel() if callable(kernel) else kernel, columns, np.nan)
        if where is None:
            return values.view()
        whole = only(where, given(values))
    with np.errstate(invalid="ignore", divide="ignore", over="ignore"):
        found = whole.compute(slice(0, columns))
    if np.shape(found) == shape:
        return found.view()  # type: ignore[no-any-return]
    return np.array(np.broadcast_to(found, shape), np.float64)


def _untold(series: int, column: int) -> Working:
    raise AssertionError("the figure is not defined yet")


def from_lines(value: float, key: Key, period: int, count: int) -> Working:
    """The working of what was added up from the lines of a period."""
    if not count:
        return Given(0.0, phrase("no line lies in the period: nothing was sold"))
    return SalesLines(float(value), key, period, count)
