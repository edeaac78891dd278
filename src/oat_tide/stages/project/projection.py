"""What Project has made of a history, each part with its name: what words, cautions and controls go by."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from oat_tide.core.alike import Mask
from oat_tide.core.working.terms import Term
from oat_tide.stages.methods.applied import AppliedMethod


@dataclass(frozen=True, eq=False, slots=True)
class Limits:
    """An interval.

    Attributes:
        level: its probability, in percent.
        lower, upper: what it lies between.
    """

    level: float
    lower: Term
    upper: Term

    @property
    def both(self) -> tuple[Term, Term]:
        """The lower limit and the upper."""
        return self.lower, self.upper


@dataclass(frozen=True, eq=False, slots=True)
class IntervalTerms:
    """The figures that intervals from past starts are made of.

    Attributes:
        logs: (series,) whether limits lie as far off in logarithms.
        error: the standard deviation of what is missed at each lead.
        freedom: degrees of freedom of t.
        growth, shared: how errors go with the lead.
        quantiles: t at each level.
    """

    logs: Mask
    error: Term
    freedom: Term
    growth: Term
    shared: Term
    quantiles: dict[float, Term]


@dataclass(frozen=True, eq=False, slots=True)
class IfTrue:
    """What intervals are made of if the curve is true, and those of single periods.

    Attributes:
        quantiles: t at each level.
        limits: by level.
    """

    quantiles: dict[float, Term]
    limits: tuple[Limits, ...]


@dataclass(frozen=True, eq=False, slots=True)
class Coefficient:
    """How sure a coefficient is."""

    value: Term
    error: Term
    t: Term
    p: Term
    limits: Limits


@dataclass(frozen=True, eq=False, slots=True)
class Judged:
    """What a regression is judged by.

    Attributes:
        coefficients: how sure each is.
        whole: the facts of the fit as a whole.
        durbin_watson: one of them.
        standardised, cook: how far off each period lies, and how hard it pulls.
    """

    coefficients: tuple[Coefficient, ...]
    whole: tuple[Term, ...]
    durbin_watson: Term
    standardised: Term
    cook: Term


@dataclass(frozen=True, eq=False, slots=True)
class Ahead:
    """The total of all periods ahead.

    Attributes:
        total: what they come to.
        growth: how they grow, as facts.
        limits, if_true: the intervals of the total, from past starts and if the curve is true.
    """

    total: Term
    growth: tuple[Term, ...]
    limits: tuple[Limits, ...]
    if_true: tuple[Limits, ...]


@dataclass(frozen=True, eq=False, slots=True)
class Since:
    """How a projection has done against what sold since."""

    sold: Term
    mean_missed: Term
    bias: Term
    inside: tuple[tuple[float, Term], ...]


@dataclass(frozen=True, eq=False, slots=True)
class Projection:
    """What Project has made of a history.

    Attributes:
        laid: the method.
        fitted, projected, remains: of every period.
        limits: the intervals of single periods, from past starts.
        if_true: those of a regression if its curve is true.
        judged: what it is judged by, of a regression.
        ahead: all periods ahead together; None where there is no history or nothing ahead.
        since: how it has done.
        over: what is laid over it, by method.
        charts: whether its residuals have small charts.
        others: how those laid over it have done, by method, where the as-of is moved back.
    """

    laid: AppliedMethod
    fitted: Term
    projected: Term
    remains: Term
    limits: tuple[Limits, ...]
    if_true: IfTrue | None
    judged: Judged | None
    ahead: Ahead | None
    since: Since
    over: dict[str, Term]
    charts: bool
    others: dict[str, Since]

    def has_fit(self, series: int) -> bool:
        """Whether anything is projected of a series."""
        return bool((~np.isnan(self.projected.values[series])).any())


def names(terms: Iterable[Term]) -> tuple[str, ...]:
    """What figures are called in their deck."""
    return tuple(each.source.figure.name for each in terms)


def value(term: Term, series: int) -> float:
    """The value of a fact."""
    return float(term.source.values[series, 0])
