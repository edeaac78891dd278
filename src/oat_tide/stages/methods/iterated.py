"""What methods share that are found by steps: at once of short histories, else later."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.series.panel import Panel
from oat_tide.core.user_error import Progress
from oat_tide.core.working.formula import given
from oat_tide.core.working.number_format import MINUS, significant
from oat_tide.core.working.terms import Term
from oat_tide.plan.parts.project import Project
from oat_tide.stages.methods.ground import Ground, span_of

_SOON = 400
"""Periods, of all series, whose steps are gone within a frame."""
Find = Callable[[Values, Values, float], tuple[Values, ...]]
"""(values, weights, a ceiling or NaN) -> what is found by steps, of each series."""


def find_in(past: Panel, find: Find, ask: Project, ceiling: float, progress: Progress) -> tuple[Values, ...]:
    """What is found by steps, of a panel; takes its time."""
    return find(past.settled, span_of(past, ask, past.columns).used, ceiling if ceiling > 0 else np.nan)


def found(g: Ground, find: Find, none: tuple[Values, ...], soon: bool = True) -> tuple[Values, ...]:
    """What is found by steps.

    Args:
        none: what stands there while it is still being computed.
        soon: whether a short history takes no longer than a frame.
    """
    if soon and g.values.size <= _SOON:
        return find(g.values, g.span.used[:, : g.past], g.how.ceiling)
    # A span is all of what was asked for that it goes by.
    ask = Project(since=g.ask.since, until=g.ask.until)
    answer = g.late(find_in, g.sight.past, find, ask, g.ask.ceiling or -1.0)
    return none if answer is None else answer


def blank(g: Ground, *columns: int) -> Values:
    """Not known yet: (series,), or (series, so many)."""
    return np.full((len(g.values), *columns), np.nan)


def numbers(g: Ground, prefix: str, there: np.ndarray) -> Term:
    """The number of each period, of the series that are found."""
    return g.d.define(
        f"{prefix}t",
        phrase("period number"),
        given(np.arange(g.d.columns) - g.span.start + 1, g.first_number),
        where=there,
        shown=False,
    )


def column(values: Values, place: int) -> Values:
    """(series, 1) one of several parameters."""
    return values[:, place : place + 1]


def line_in_words(g: Ground, intercept: Term, slope: Term) -> Callable[[int], str]:
    """The equation of a line, of a series."""
    return partial(_line_in_words, g, intercept, slope)


def _line_in_words(g: Ground, a: Term, b: Term, series: int) -> str:
    intercept, slope = (float(each.source.values[series, 0]) for each in (a, b))
    if np.isnan(slope):
        return phrase("no fit")
    sign = MINUS if slope < 0 else "+"
    return phrase(
        "{unit} = {intercept} {sign} {slope} × t",
        unit=g.unit,
        intercept=significant(intercept, 5),
        sign=sign,
        slope=significant(abs(slope), 4),
    )
