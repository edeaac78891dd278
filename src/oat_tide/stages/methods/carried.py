"""What methods that carry figures forward share: the ends of a history, steps on, and years of it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

import numpy as np

from oat_tide.core.language import phrase
from oat_tide.core.methods.shape import Method, first_known, last_known, used_of
from oat_tide.core.periods.calendar import Days
from oat_tide.core.working.formula import Formula, either, given
from oat_tide.core.working.number_format import significant
from oat_tide.core.working.terms import Term
from oat_tide.stages.methods.applied import AppliedMethod
from oat_tide.stages.methods.ground import Ground


@dataclass(frozen=True, eq=False, slots=True)
class Ends:
    """The first and the last known period of the fit span.

    Attributes:
        first_at, last_at: (series,) their columns; below 0 for none.
        last: the last value.
    """

    first_at: Days
    last_at: Days
    last: Term


def ends_of(g: Ground, prefix: str, shown: bool) -> Ends:
    """The ends of each history, the last value as a fact."""
    own = used_of(g.values, g.span.used[:, : g.past])
    first, last = first_known(own)[1], last_known(own)[1]
    value = g.d.define(f"{prefix}last", phrase("last value"), g.actual.at(last), unit=g.unit, shown=shown)
    return Ends(np.where(first < g.past, first, -1), last, value)


def steps_on(g: Ground, prefix: str, last: Days) -> Term:
    """How many periods each lies after the last known."""
    after = np.arange(g.d.columns)[None] - last[:, None]
    said = given(after.astype(float), phrase("periods after the last known"))
    return g.d.define(f"{prefix}steps", phrase("periods on"), said, where=(last >= 0)[:, None], shown=False)


def first_value(g: Ground, prefix: str, shown: bool, ends: Ends) -> Term:
    """The first value as a fact."""
    return g.d.define(
        f"{prefix}first", phrase("first value"), g.actual.at(ends.first_at), unit=g.unit, shown=shown
    )


def since_first(ends: Ends) -> Formula:
    """Periods from the first to the last."""
    apart = np.where(ends.last_at > ends.first_at, ends.last_at - ends.first_at, np.nan)[:, None]
    return given(apart.astype(float), phrase("periods from the first to the last"))


def nothing(g: Ground) -> Formula:
    """Nothing in any column, to be added: what is one value a series becomes a row."""
    return either(np.ones((1, g.d.columns), np.bool_), given(0.0, phrase("carried forward")), given(0.0))


def carried_on(
    method: Method,
    fitted: Formula,
    projected: Formula,
    said: Callable[[int], str],
    facts: tuple[str, ...] = (),
) -> AppliedMethod:
    """A method that carries figures forward, laid."""
    return AppliedMethod(method, fitted, projected, lambda series: "", said, facts)


def in_words(g: Ground, fact: Term, words: str) -> Callable[[int], str]:
    """The equation of a series: words with the value of a fact in them."""
    return partial(_in_words, g, fact, words)


def _in_words(g: Ground, fact: Term, words: str, series: int) -> str:
    value = float(fact.source.values[series, 0])
    return f"{g.unit} = {words.format(significant(value, 5))}" if not np.isnan(value) else phrase("no fit")
