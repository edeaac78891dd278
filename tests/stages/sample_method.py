"""A method that there is only in the tests: the mean of the same period in the last years.

It has a setting, a season, a refusal, a caution and an interval. Both halves of its room stand here; of a
real one they are two files, `core/methods/<room>.py` and `stages/methods/<room>.py`.
"""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from unittest import mock

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.methods.shape import Fitted, How, Method, each_start, used_of
from oat_tide.core.methods.table import METHODS
from oat_tide.core.working.formula import Formula, added_up, only
from oat_tide.stages.deck import Caution
from oat_tide.stages.methods.applied import AppliedMethod
from oat_tide.stages.methods.carried import carried_on
from oat_tide.stages.methods.ground import Ground
from oat_tide.stages.methods.room import Room
from oat_tide.stages.methods.table import ROOMS

# What it is, and its kernel: the file in the core.


def mean_of_years(values: Values, weights: Values, horizon: int, how: How) -> tuple[Values, Fitted]:
    """The mean of the same period in the last years."""
    own = used_of(values, weights)
    # It takes figures above zero alone.
    own = np.where((own <= 0).any(1, keepdims=True), np.nan, own)
    columns, m = own.shape[1], how.back

    def mean_at(at: Values, first: Values) -> Values:
        """(series, places) the mean over the years that end with the one of these columns."""
        if not m:
            return np.full((len(own), len(at)), np.nan)
        padded = np.concatenate((own, np.full((len(own), 1), np.nan)), axis=1)
        years = [np.where(first - k * m >= 0, first - k * m, columns) for k in range(how.last)]
        return np.asarray(sum(padded[:, each] for each in years) / how.last)

    ahead = np.arange(columns, columns + horizon)
    latest = ahead - ((ahead - columns) // m + 1) * m if m else ahead
    before = np.arange(columns)
    return mean_at(ahead, latest), lambda: mean_at(before, before - m)


MEAN_OF_YEARS = Method(
    "mean-of-years", "Mean of years", "made up", each_start(mean_of_years), with_season=True
)

# How it is laid, and its words: the file among the stages.


def lay(g: Ground, prefix: str, shown: bool) -> AppliedMethod:
    """Lay the mean of years on a history."""
    columns, stop, m, n = np.arange(g.d.columns), g.span.end + 1, g.how.back, g.how.last
    latest = np.where(columns >= stop, columns - ((columns - stop) // m + 1) * m, columns - m)
    projected: Formula = added_up(
        tuple(g.actual.like(np.where(latest - k * m >= 0, latest - k * m, -1)) for k in range(n))
    ) / float(n)
    fitted: Formula = added_up(tuple(g.actual.shift(-m * (k + 1)) for k in range(n))) / float(n)
    allowed = ~(used_of(g.values, g.span.used[:, : g.past]) <= 0).any(1, keepdims=True)
    projected, fitted = only(allowed, projected), only(allowed, fitted)
    return carried_on(MEAN_OF_YEARS, fitted, projected, lambda series: f"{g.unit} = the mean of {n} years")


def why_not(g: Ground) -> str:
    """Where no year is told by the periods."""
    return "" if g.how.back else f"A {g.grid.kind} has no years to take the mean of."


def cautions(g: Ground, laid: AppliedMethod, series: int) -> tuple[Caution, ...]:
    """One of its own."""
    return (Caution("One year is no mean. Take two or more."),) if g.how.last == 1 else ()


ROOM = Room(MEAN_OF_YEARS, lay, why_not, settings=("last",), refusal="A mean of years", cautions=cautions)


@contextlib.contextmanager
def with_method() -> Iterator[None]:
    """The tables with the line that names it."""
    name = MEAN_OF_YEARS.name
    with mock.patch.dict(METHODS, {name: MEAN_OF_YEARS}), mock.patch.dict(ROOMS, {name: ROOM}):
        yield
