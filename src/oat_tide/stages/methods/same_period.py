"""The same period last year: as it was, with the growth of the last year, or with its drift."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import noun, nouns, phrase
from oat_tide.core.methods.same_period import many_before, year_before
from oat_tide.core.methods.table import METHODS
from oat_tide.core.working.formula import Formula, count, given, only, total
from oat_tide.core.working.terms import Term, known
from oat_tide.stages.methods.applied import AppliedMethod
from oat_tide.stages.methods.carried import carried_on, in_words
from oat_tide.stages.methods.ground import Ground
from oat_tide.stages.methods.room import Room

_AS_IT_WAS, _WITH_GROWTH, _WITH_DRIFT = (
    METHODS[name] for name in ("same-period", "same-period-growth", "same-period-drift")
)


def as_it_was(g: Ground, prefix: str, shown: bool) -> AppliedMethod:
    """Lay the same period last year on a history."""
    same = _same(g)
    return carried_on(_AS_IT_WAS, g.actual.shift(-g.how.back), _like(g), lambda series: same)


def with_growth(g: Ground, prefix: str, shown: bool) -> AppliedMethod:
    """Lay it times the growth of the last year on the one before, for each year on."""
    back = g.how.back
    pair = _two_years(g, prefix, shown)
    growth = g.d.define(
        f"{prefix}year_growth",
        phrase("growth on the year before"),
        only(pair.year > 0, 100 * (only(pair.earlier > 0, pair.year / pair.earlier) - 1)),
        unit="%",
        signed=True,
        shown=shown,
        blank=phrase("{why_none}, above zero.", why_none=_why_none(g)),
    )
    recent, past = _both_years(g, prefix, pair)
    fitted = only(_gone(g), g.actual.shift(-back) * only(past > 0, only(recent > 0, recent / past)))
    projected = _like(g) * (1 + growth / 100) ** _years_on(g)
    said = in_words(g, growth, _same(g) + phrase(", with {0} % per year"))
    return carried_on(_WITH_GROWTH, fitted, projected, said, _facts(prefix, "year_growth"))


def with_drift(g: Ground, prefix: str, shown: bool) -> AppliedMethod:
    """Lay it and, for each year on, what the last year lay above the year before."""
    back, stop = g.how.back, g.span.end + 1
    pair = _two_years(g, prefix, shown)
    many = count(known(pair.now.between(stop - back, stop - 1)))
    change = g.d.define(
        f"{prefix}year_change",
        phrase("mean change of a {kind} in a year", kind=noun(g.grid.kind)),
        (pair.year - pair.earlier)
        / g.d.define(
            f"{prefix}year_many", phrase("known in both"), many, shown=False, where=_whole(stop, back)
        ),
        unit=g.unit,
        signed=True,
        shown=shown,
        blank=f"{_why_none(g)}.",
    )
    recent, past = _both_years(g, prefix, pair)
    many_before = g.d.define(
        f"{prefix}recent_many", phrase("known in both"), count(known(pair.now.over(-back, -1))),
        values=partial(_many_before, pair.now, back), where=_gone(g), shown=False,
    )  # fmt: skip
    moved = (recent - past) / many_before
    fitted = only(_gone(g), g.actual.shift(-back) + moved)
    said = in_words(g, change, _same(g) + phrase(", with {0} per year"))
    return carried_on(
        _WITH_DRIFT, fitted, _like(g) + change * _years_on(g), said, _facts(prefix, "year_change")
    )


def _same(g: Ground) -> str:
    return phrase("the same {kind} last year", kind=noun(g.grid.kind))


def _facts(prefix: str, change: str) -> tuple[str, ...]:
    return tuple(prefix + each for each in ("year_before", "year", change))


def _why_none(g: Ground) -> str:
    return phrase(
        "It takes two years, of which at least half of the {kinds} are known in both",
        kinds=nouns(g.grid.kind),
    )


def _years_back(g: Ground) -> np.ndarray:
    """(columns,) how many years each period ahead lies after the one that it repeats."""
    columns, stop = np.arange(g.d.columns), g.span.end + 1
    return np.where(columns >= stop, (columns - stop) // g.how.back + 1, 1)


def _like(g: Ground) -> Formula:
    """What each period ahead repeats."""
    at = np.arange(g.d.columns) - _years_back(g) * g.how.back
    return g.actual.like(np.where(at >= 0, at, -1))


def _years_on(g: Ground) -> Formula:
    return given(_years_back(g)[None].astype(float), phrase("years back"))


def _gone(g: Ground) -> np.ndarray:
    """(1, columns) the periods before which there are two years."""
    return (np.arange(g.d.columns) >= 2 * g.how.back)[None]


@dataclass(frozen=True, eq=False, slots=True)
class _Pair:
    """Two years of the periods that are known in both.

    Attributes:
        now, before: rows of the figures and of those a year before.
        year, earlier: what the last year comes to, and the one before it.
    """

    now: Term
    before: Term
    year: Term
    earlier: Term


def _two_years(g: Ground, prefix: str, shown: bool) -> _Pair:
    """The last year and the one before: a period that is not known in one is left out of the other."""
    back, stop = g.how.back, g.span.end + 1
    one_before = g.actual.shift(-back)
    hidden = partial(g.d.define, shown=False, unit=g.unit)
    now = hidden(f"{prefix}now", phrase("figure, its like one known"), only(one_before, g.actual))
    before = hidden(f"{prefix}before", phrase("the one a year before"), only(g.actual, one_before))

    def year_of(row: Term) -> Formula:
        every = known(row.between(stop - back, stop - 1))
        return only(2 * count(every) > back - 1, total(every))

    year, earlier = (
        g.d.define(prefix + short, label, year_of(row), unit=g.unit, shown=shown, where=_whole(stop, back))
        for short, label, row in (
            ("year", phrase("the last {back} {kinds}", back=back, kinds=nouns(g.grid.kind)), now),
            ("year_before", phrase("the {back} before them", back=back), before),
        )
    )
    return _Pair(now, before, year, earlier)


def _whole(stop: int, back: int) -> np.ndarray:
    """(1, 1) whether there are two years."""
    return np.array([[stop >= 2 * back]])


def _both_years(g: Ground, prefix: str, pair: _Pair) -> tuple[Term, Term]:
    """What the year before each period comes to, and the one before that."""
    return (
        _recent(g, f"{prefix}recent", phrase("the year before it"), pair.now),
        _recent(g, f"{prefix}recent_before", phrase("the year before that"), pair.before),
    )


def _recent(g: Ground, name: str, label: str, row: Term) -> Term:
    """What the year before each period comes to."""
    back = g.how.back
    every = known(row.over(-back, -1))
    whole = only(2 * count(every) > back - 1, total(every))
    values = partial(_year_before, row, back)
    return g.d.define(name, label, whole, values=values, where=_gone(g), unit=g.unit, shown=False)


def _year_before(row: Term, back: int) -> Values:
    return year_before(row.values, back)


def _many_before(row: Term, back: int) -> Values:
    return many_before(~np.isnan(row.values), back)


def why_not(g: Ground) -> str:
    """Refuse periods that do not divide a year."""
    return "" if g.how.back else phrase("A {kind} has no match last year.", kind=noun(g.grid.kind))


ROOMS = tuple(
    Room(method, lay, why_not)
    for method, lay in ((_WITH_GROWTH, with_growth), (_AS_IT_WAS, as_it_was), (_WITH_DRIFT, with_drift))
)
