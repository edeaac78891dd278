"""A method laid on a history: its curve as a formula, and what it tells of itself."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from oat_tide.core.alike import Mask
from oat_tide.core.exact import Values
from oat_tide.core.methods.shape import Method
from oat_tide.core.working.formula import Formula, exp, only
from oat_tide.core.working.terms import Term

LARGEST = 1e300
"""What no square of figures comes to; beyond it there are no numbers."""
_POWER = 690.0
"""What e can be raised to."""


def raised(line: Formula) -> Formula:
    """e to a curve of logarithms, where that is a number at all."""
    return only(line < _POWER, exp(line))


@dataclass(frozen=True, eq=False, slots=True)
class Regressed:
    """What a regression that is linear in its coefficients tells.

    Attributes:
        z: what is fitted, on its own scale, where it is in the fit.
        residual: of it.
        counts: the weight of each period, 0 out of the fit.
        coefficients: its figures, one of each term.
        squares: by coefficient, the square of its standard error over that of the residuals.
        leverage: of every column.
        joint: of how much each period ahead counts, the square of the standard error of so weighted a sum
            of the curve, over that of the residuals.
        freedom: degrees of freedom; NaN where none is left.
        spent: (series,) those that seasonal indices took, 0 of a fit of the series itself.
        kept: of every column 1 less its leverage, by which residuals are standardised.
        s: residual standard error.
        n: periods in the fit.
        sse, sst: sums of squares, of what is missed and of deviations from the mean.
        logs: whether it is fitted on logarithms.
    """

    z: Term
    residual: Term
    counts: Term
    coefficients: tuple[Term, ...]
    squares: tuple[Formula, ...]
    leverage: Term
    joint: Callable[[Term], Formula]
    freedom: Formula
    spent: Formula
    kept: Formula
    s: Term
    n: Term
    sse: Term
    sst: Term
    logs: bool

    @property
    def terms(self) -> int:
        """How many coefficients there are."""
        return len(self.coefficients)


@dataclass(frozen=True, eq=False, slots=True)
class AppliedMethod:
    """A method laid on a history.

    Attributes:
        method: the method.
        fitted: of all columns; of what is carried forward its one-step forecasts.
        projected: of all columns.
        why_none: of a series, why it has none; empty where it has.
        regressed: what its regression tells; None for a method that is none.
        curve: on the scale that is fitted.
        trend, season: of one with season, which is put back into its trend.
        multiplies: (series,) whether its season is a factor.
        wavers: (series, columns) the standard error of the season.
        equation: of a series, with numbers.
        facts: the names of its facts, in order.
        beside: those of others that are shown beside its total.
        raise_by: what e to a limit of logarithms is multiplied by, where the mean is projected.
        label: what it is called where its title does not tell; empty where it does.
        through_time: whether it goes by the number of a period.
    """

    method: Method
    fitted: Formula
    projected: Formula
    why_none: Callable[[int], str]
    equation: Callable[[int], str]
    facts: tuple[str, ...] = ()
    regressed: Regressed | None = None
    curve: Formula | None = None
    trend: Term | None = None
    season: Term | None = None
    multiplies: Mask = field(default_factory=lambda: np.zeros(0, np.bool_))
    wavers: Callable[[], Values] | None = None
    label: str = ""
    through_time: bool = False
    beside: tuple[str, ...] = ()
    raise_by: Formula | None = None

    def moved(self, limit: Formula) -> Formula:
        """A limit of the curve as its projection is moved, where the mean is projected."""
        return limit if self.raise_by is None else limit * self.raise_by
