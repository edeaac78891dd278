"""Figures that only lead to a fact which a kernel gives: they are defined when one of them is asked for."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any, overload

from oat_tide.core.working.formula import Formula
from oat_tide.core.working.tree import Working
from oat_tide.stages.deck.figure import Figure

Build = Callable[[], tuple[Formula, dict[str, Figure]]]


@dataclass(eq=False, slots=True)
class StepFigures(Formula):
    """The formula of a fact, put together when its working is asked for, and the figures it is made of."""

    build: Build
    fact: bool = True
    _built: tuple[Formula, dict[str, Figure]] | None = None

    def _laid(self) -> tuple[Formula, dict[str, Figure]]:
        if self._built is None:
            self._built = self.build()
        return self._built

    @property
    def figures(self) -> dict[str, Figure]:
        """What it is made of."""
        return self._laid()[1]

    def compute(self, at: slice) -> Any:
        return self._laid()[0].compute(at)

    def bind(self, series: int, column: int) -> Working:
        return self._laid()[0].bind(series, column)


class Figures(dict[str, Figure]):
    """The figures of a deck by name. A step is found by its name too, and listed by `every` alone."""

    def __init__(self, figures: dict[str, Figure], steps: Iterable[StepFigures] = ()) -> None:
        super().__init__(figures)
        self._steps = tuple(steps)

    def __missing__(self, name: str) -> Figure:
        for steps in self._steps:
            if name in steps.figures:
                return steps.figures[name]
        raise KeyError(name)

    @overload
    def get(self, name: str, default: None = None, /) -> Figure | None: ...
    @overload
    def get(self, name: str, default: Any, /) -> Any: ...
    def get(self, name: str, default: Any = None, /) -> Any:
        """A figure, a step as well, or else the default."""
        try:
            return self[name]
        except KeyError:
            return default

    def every(self) -> tuple[Figure, ...]:
        """Iterate over all figures, steps included."""
        laid = {name: each for steps in reversed(self._steps) for name, each in steps.figures.items()}
        return tuple((laid | self).values())
