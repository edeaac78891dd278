"""What every method is: (values, weights, starts, horizon, how) -> what each start projects.

A start is the number of periods that are known at it: what it projects is made of the periods before it
alone, parameters and indices included. A projection is one start, a record on past starts is many.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import partial
from typing import Literal

import numpy as np

from oat_tide.core.alike import Mask
from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.methods.least_squares import DesignOf
from oat_tide.core.periods.calendar import Days
from oat_tide.core.seasons.indices import Joined
from oat_tide.core.smoothing.running import Smoother

_NONE = np.zeros(0, np.int64)


@dataclass(frozen=True, eq=False, slots=True)
class SeasonBy:
    """How a season is taken, as Seasons is asked.

    Attributes:
        method: how indices are taken.
        counts: whether a season is a factor; "suggested" asks each history.
        joined: how the ratios of a season are joined.
        years, span, robust: of local regression, the cycles that a season and the periods that a trend is
            smoothed over, 0 for what suits, and whether wild periods lose their weight.
        hand: indices set by hand, of seasons that are added and of those that multiply, (series, cycle)
            each with NaN for the others; None for none.
        gone: (series, columns) the ratios that are left out; None for none.
    """

    method: Literal["classical", "simple", "loess"] = "classical"
    counts: Literal["suggested", "multiplicative", "additive"] = "suggested"
    joined: Joined = "mean"
    years: int = 7
    span: int = 0
    robust: bool = False
    hand: tuple[Values, Values] | None = None
    gone: Mask | None = None


@dataclass(frozen=True, eq=False, slots=True)
class How:
    """What methods go by beside the values; columns reach to the last start and its horizon.

    Attributes:
        cycle: seasons in a cycle; 0 for none.
        place: (columns,) the season of each, from 0.
        years: (columns,) the year of each.
        phase: (columns,) how much of its year has gone, from 0 to 1.
        weekday: (columns,) of days, 0 Monday; None for other periods.
        year: periods in a year.
        back: periods from one to the same period last year; 0 for none.
        last: periods in the mean of the last.
        rate: growth a year, as a share, where it is set by hand.
        ceiling: what saturating growth comes up to; NaN for one that is fitted.
        year0: of series numbered by calendar year, that of the first column; NaN where periods are counted
            from 1 at the first of the fit.
        half: periods after which a weighted line counts a period half.
        pairs: waves a year of harmonic terms.
        season: how a season is taken.
        smoother: what runs on; None for none.
    """

    cycle: int = 0
    place: Days = field(default_factory=lambda: _NONE)
    years: Days = field(default_factory=lambda: _NONE)
    phase: Values = field(default_factory=lambda: np.zeros(0))
    weekday: Days | None = None
    year: int = 1
    back: int = 0
    last: int = 3
    rate: float = 0.0
    ceiling: float = np.nan
    year0: float = np.nan
    half: float = 12.0
    pairs: int = 3
    season: SeasonBy = field(default_factory=SeasonBy)
    smoother: Smoother | None = None


@dataclass(frozen=True, eq=False, slots=True)
class Projected:
    """What a method says.

    Attributes:
        ahead: (starts, series, horizon) what each start projects; NaN where it cannot.
        fitted: gives (series, columns of the history) what the last start makes of its own history: the
            fitted curve of a regression, one-step forecasts of what is carried forward.
    """

    ahead: Values
    fitted: Fitted


Fitted = Callable[[], Values]
"""Gives (series, columns) what a method makes of its own history; reckoned for whoever asks."""

Kernel = Callable[[Values, Values, Days, int, How], Projected]
"""(values, weights, starts, horizon, how), values and weights (series, columns), weight 0 out of the fit."""

OneStart = Callable[[Values, Values, int, How], tuple[Values, Fitted]]
"""(values, weights, horizon, how), all of it known -> (series, horizon), and what it makes of the history."""


def each_start(one: OneStart) -> Kernel:
    """A method that is made anew at each start from what lies before it."""

    def run(values: Values, weights: Values, starts: Days, horizon: int, how: How) -> Projected:
        ahead = np.full((len(starts), len(values), horizon), np.nan)
        fitted: Fitted = lambda: np.full(values.shape, np.nan)  # noqa: E731
        for at, start in enumerate(np.asarray(starts).tolist()):
            ahead[at], own = one(values[:, :start], weights[:, :start], horizon, how)
            fitted = partial(_widened, own, values.shape)
        return Projected(ahead, fitted)

    return run


def _widened(fitted: Fitted, shape: tuple[int, ...]) -> Values:
    out, own = np.full(shape, np.nan), fitted()
    out[:, : own.shape[1]] = own
    return out


@dataclass(frozen=True, eq=False, slots=True)
class Terms:
    """What a regression is linear in.

    Attributes:
        names: what goes by -> what its coefficients are called.
        design: (columns, what goes by) -> the terms.
        logs: whether it is fitted on logarithms.
        weights: (periods, what goes by) -> (periods,) how much each counts; None where all count alike.
        there: what goes by -> whether its terms can be told at all.
    """

    names: Callable[[How], tuple[str, ...]]
    design: Callable[[int, How], DesignOf]
    logs: bool = False
    weights: Callable[[int, How], Values] | None = None
    there: Callable[[How], bool] = lambda how: True


@dataclass(frozen=True, eq=False, slots=True)
class Method:
    """One way to project.

    Attributes:
        name: as the command line has it.
        title: for people.
        source: who described it.
        kernel: what it projects.
        regression: what it is linear in, where it is a regression that tells how sure it is.
        parameters: how many it fits otherwise; 0 of what is carried forward.
        with_season: whether it goes by the season, and takes a cycle.
        by_indices: whether it takes the season out by seasonal indices.
        by_year: whether its fit is the same whether years are counted from 1 or by the calendar.
        by_phase: whether it goes by how much of the year has gone.
        curve: whether it is a curve through time that leaves the season to what is missed.
        iterated: whether it is found by steps, and takes longer.
    """

    name: str
    title: str
    source: str
    kernel: Kernel
    regression: Terms | None = None
    parameters: int = 0
    with_season: bool = False
    by_indices: bool = False
    by_year: bool = False
    by_phase: bool = False
    curve: bool = False
    iterated: bool = False

    @property
    def logs(self) -> bool:
        """Whether it is a regression of logarithms."""
        return self.regression is not None and self.regression.logs


TEXTBOOK = phrase("Makridakis, Wheelwright and Hyndman, 1998")
REGRESSION = phrase("Draper and Smith, 1998")


def used_of(values: Values, weights: Values) -> Values:
    """Values that a method may go by; NaN for the others."""
    return np.where(weights > 0, values, np.nan)


def last_known(values: Values) -> tuple[Values, Days]:
    """(series,) the last known value, NaN of none, and its column, -1 of none."""
    at = np.where(np.isnan(values), -1, np.arange(values.shape[1])).max(1, initial=-1)
    return _taken(values, at), at


def first_known(values: Values) -> tuple[Values, Days]:
    """(series,) the first known value, NaN of none, and its column, that after the last of none."""
    columns = values.shape[1]
    at = np.where(np.isnan(values), columns, np.arange(columns)).min(1, initial=columns)
    return _taken(values, np.where(at < columns, at, -1)), at


def _taken(values: Values, at: Days) -> Values:
    """(series,) the value of each series at its column; NaN where that is -1."""
    padded = np.concatenate((values, np.full((len(values), 1), np.nan)), axis=1)
    return np.asarray(np.take_along_axis(padded, at[:, None], 1)[:, 0])


def known_before(values: Values) -> tuple[Values, Days]:
    """(series, columns) the last known value before each period, NaN of none, and its column, -1 of none."""
    columns = values.shape[1]
    at = np.full(values.shape, -1)
    if columns:
        known = np.where(np.isnan(values), -1, np.arange(columns))
        at[:, 1:] = np.maximum.accumulate(known, axis=1)[:, :-1]
    padded = np.concatenate((values, np.full((len(values), 1), np.nan)), axis=1)
    return np.take_along_axis(padded, at, 1), at
