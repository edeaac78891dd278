"""What every single one-step error counts: lengths by periods, on an axis of their own."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from oat_tide.core.accuracy.errors import Measure, loss
from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.smoothing.sums import window_mean
from oat_tide.core.smoothing.weights import rising_weights, weighted_known
from oat_tide.core.smoothing.windows import Mask, trailing
from oat_tide.core.working.formula import Formula
from oat_tide.core.working.terms import Source, Stretch, Term
from oat_tide.core.working.tree import Given, Op, Run, Working


@dataclass(frozen=True, eq=False, slots=True)
class Held:
    """What forecasts are held against.

    Attributes:
        values: (series, periods) of the past.
        ready: (series, periods) the targets: the same for all.
        measure: of the errors.
        rising: whether the weights of a window rise by one, or else are equal.
    """

    values: Values
    ready: Mask
    measure: Measure
    rising: bool

    def losses(self, length: int) -> Values:
        """(series, periods) what the one-step errors of a window count; NaN off the targets.

        A window is taken of what is known in it.
        """
        smoothed = (
            weighted_known(self.values, rising_weights(length))
            if self.rising
            else window_mean(self.values, trailing(length, self.values.shape[1]))
        )
        before = np.concatenate((np.full((len(smoothed), 1), np.nan), smoothed[:, :-1]), axis=1)
        return loss(np.where(self.ready, self.values - before, np.nan), self.values, self.measure)


@dataclass(eq=False, slots=True)
class Missed(Formula):
    """What every one-step error of every length counts; its columns are the periods of each length."""

    actual: Term
    held: Held
    longest: int
    fact: bool = False

    def compute(self, at: slice) -> Any:
        rows = [self.held.losses(length) for length in range(1, self.longest + 1)]
        return np.concatenate(rows, axis=1)[:, at]

    def bind(self, series: int, column: int) -> Working:
        place, period = divmod(column, self.held.values.shape[1])
        own = self.actual.source
        actual = own.cell(series, period)
        error = Op("-", (actual, self._forecast(series, period, place + 1)))
        if self.held.measure == "RMSE":
            return Op("^", (error, Given(2.0)))
        if self.held.measure == "MAPE":
            return Op("*", (Given(100.0), Op("size", (Op("/", (error, actual)),))))
        return Op("size", (error,))

    def _forecast(self, series: int, period: int, length: int) -> Working:
        own = self.actual.source
        if not self.held.rising:
            return Op("mean", own.runs(own.run(series, period - length, period - 1), series))
        ages = [age for age in range(length) if not np.isnan(own.values[series, period - 1 - age])]
        products = (
            Op("*", (Given(float(length - age), "weight"), own.cell(series, period - 1 - age)))
            for age in ages
        )
        whole = Given(float(sum(length - age for age in ages)), phrase("sum of the weights"))
        return Op("/", (Op("+", tuple(products)), whole))


@dataclass(eq=False, slots=True)
class Stretches(Stretch):
    """A figure whose columns are rows of so many: each row as the many values of one column."""

    source: Source
    wide: int
    skips: bool = True
    many: bool = True
    fact: bool = False

    def compute(self, at: slice) -> Any:
        values = self.source.values
        return values.reshape(len(values), -1, self.wide)[:, at]

    def bind(self, series: int, column: int) -> Run:
        return self.source.run(series, column * self.wide, (column + 1) * self.wide - 1)


@dataclass(eq=False, slots=True)
class Row(Formula):
    """One row of it, computed when asked for; below 0 for none."""

    source: Source
    wide: int
    row: Callable[[], int]
    fact: bool = False

    def compute(self, at: slice) -> Any:
        values, row = self.source.values, self.row()
        out = np.full((len(values), at.stop - at.start), np.nan)
        if row >= 0:
            stop = min(at.stop, self.wide)
            own = values[:, row * self.wide + at.start : row * self.wide + stop]
            out[:, : own.shape[1]] = own
        return out

    def bind(self, series: int, column: int) -> Working:
        return self.source.cell(series, self.row() * self.wide + column)
