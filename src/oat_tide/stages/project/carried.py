"""What is carried forward: the last value, the same period last year, the mean of the last, or growth."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

import numpy as np

from oat_tide.core.methods.shape import first_known, heeded, last_known
from oat_tide.core.periods.calendar import Days
from oat_tide.core.working.formula import Formula, count, either, given, mean, only, total
from oat_tide.core.working.numerals import fixed, significant
from oat_tide.core.working.terms import Term, known
from oat_tide.stages.project.ground import Ground
from oat_tide.stages.project.laid import Laid


def carried(g: Ground, name: str, prefix: str = "", shown: bool = True) -> Laid:
    """Any of them."""
    return _MADE[name](g, name, prefix, shown)


def _ends(g: Ground) -> tuple[Days, Days]:
    """(series,) the first and the last column of the fit span that is known; below 0 for none."""
    own = heeded(g.values, g.span.used[:, : g.past])
    first, last = first_known(own)[1], last_known(own)[1]
    return np.where(first < g.past, first, -1), last


def _steps(g: Ground, prefix: str, last: Days) -> Term:
    """How many periods each lies after the last known."""
    after = np.arange(g.d.columns)[None] - last[:, None]
    said = given(after.astype(float), "periods after the last known")
    return g.d.define(f"{prefix}steps", "periods on", said, where=(last >= 0)[:, None], shown=False)


def _last(g: Ground, name: str, prefix: str, shown: bool) -> Laid:
    first, last = _ends(g)
    value = g.d.define(f"{prefix}last", "last value", g.actual.at(last), unit=g.unit, shown=shown)
    before = g.actual.shift(-1)
    facts = [f"{prefix}last"]
    if name == "last":
        said = partial(_said, g, value, "the last value, {0}")
        return _told(g, name, before, value + nothing(g), said, facts)
    steps = _steps(g, prefix, last)
    apart = np.where(last > first, last - first, np.nan)[:, None].astype(float)
    since = given(apart, "periods from the first to the last")
    begun = g.d.define(f"{prefix}first", "first value", g.actual.at(first), unit=g.unit, shown=shown)
    if name == "drift":
        change = g.d.define(
            f"{prefix}drift", f"mean change {g.grid.a_period}", (value - begun) / since, unit=g.unit,
            signed=True, shown=shown,
        )  # fmt: skip
        gone = np.arange(g.d.columns)[None] - 1.0 - first[:, None]
        own = (before - begun) / given(np.where(gone > 0, gone, np.nan), "periods since the first")
        said = partial(_said, g, change, "the last value and {0} for each " + g.grid.kind + " on")
        return _told(g, name, before + own, value + change * steps, said, [*facts, f"{prefix}drift"])
    growth = g.d.define(
        f"{prefix}compound",
        f"compound growth {g.grid.a_period}",
        100 * (only(begun > 0, only(value > 0, value / begun)) ** (1 / since) - 1),
        unit="%",
        signed=True,
        shown=shown,
    )
    curve = value * (1 + growth / 100) ** steps
    said = partial(_said, g, growth, "the last value, growing by {0} % " + g.grid.a_period)
    return _told(g, name, curve, curve, said, [*facts, f"{prefix}first", f"{prefix}compound"])


def _rate(g: Ground, name: str, prefix: str, shown: bool) -> Laid:
    _, last = _ends(g)
    value = g.d.define(f"{prefix}last", "last value", g.actual.at(last), unit=g.unit, shown=shown)
    rate = given(g.ask.rate, "growth a year in %, by hand")
    a_period = g.d.define(
        f"{prefix}a_period", f"growth {g.grid.a_period}, by hand",
        100 * ((1 + rate / 100) ** given(1 / g.how.year, "of a year") - 1), unit="%", signed=True,
        shown=False,
    )  # fmt: skip
    times = 1 + a_period / 100
    said = partial(_said, g, value, "{0}, growing by " + f"{fixed(g.ask.rate, 2, plus=True)} % a year")
    return _told(
        g, name, g.actual.shift(-1) * times, value * times ** _steps(g, prefix, last), said, [f"{prefix}last"]
    )


def _mean(g: Ground, name: str, prefix: str, shown: bool) -> Laid:
    n, stop = g.how.last, g.span.end + 1
    whole = mean(g.actual.between(stop - n, stop - 1)) if stop >= n else given(np.nan)
    value = g.d.define(
        f"{prefix}mean_last", f"mean of the last {n} {g.grid.kind}s", whole, unit=g.unit, shown=shown,
        blank=f"One of the last {n} {g.grid.kind}s is not known, or there are fewer.",
    )  # fmt: skip
    said = partial(_said, g, value, f"the mean of the last {n} {g.grid.kind}s, {{0}}")
    return _told(g, name, mean(g.actual.over(-n, -1)), value + nothing(g), said, [f"{prefix}mean_last"])


def _like(g: Ground, name: str, prefix: str, shown: bool) -> Laid:
    """The same period last year; of that year where a period lies further ahead."""
    back, stop, columns = g.how.back, g.span.end + 1, np.arange(g.d.columns)
    if not back:
        why = f"A {g.grid.kind} has no like one last year."
        return Laid(name, g.actual * np.nan, g.actual * np.nan, lambda series: why, lambda series: "no fit")
    years = np.where(columns >= stop, (columns - stop) // back + 1, 1)
    like = g.actual.like(np.where(columns - years * back >= 0, columns - years * back, -1))
    one_before = g.actual.shift(-back)
    same = f"the same {g.grid.kind} last year"
    if name == "same-period":
        return _told(g, name, one_before, like, lambda series: same, [])
    ahead = given(years[None].astype(float), "years back")
    pair = _two_years(g, prefix, shown)
    gone = (columns >= 2 * back)[None]
    facts = [f"{prefix}year_before", f"{prefix}year"]
    why = f"It takes two years, of which at least half of the {g.grid.kind}s are known in both"
    if name == "same-period-growth":
        growth = g.d.define(
            f"{prefix}year_growth",
            "growth on the year before",
            only(pair.year > 0, 100 * (only(pair.earlier > 0, pair.year / pair.earlier) - 1)),
            unit="%",
            signed=True,
            shown=shown,
            blank=f"{why}, above zero.",
        )
        recent, past = _recent(pair.now, back), _recent(pair.before, back)
        fitted = only(gone, one_before * only(past > 0, only(recent > 0, recent / past)))
        said = partial(_said, g, growth, same + ", with {0} % a year")
        projected = like * (1 + growth / 100) ** ahead
        return _told(g, name, fitted, projected, said, [*facts, f"{prefix}year_growth"])
    many = count(known(pair.now.between(stop - back, stop - 1)))
    change = g.d.define(
        f"{prefix}year_change",
        f"mean change of a {g.grid.kind} in a year",
        (pair.year - pair.earlier)
        / g.d.define(f"{prefix}year_many", "known in both", many, shown=False, where=_whole(stop, back)),
        unit=g.unit,
        signed=True,
        shown=shown,
        blank=f"{why}.",
    )
    moved = (_recent(pair.now, back) - _recent(pair.before, back)) / count(known(pair.now.over(-back, -1)))
    said = partial(_said, g, change, same + ", with {0} a year")
    fitted = only(gone, one_before + moved)
    return _told(g, name, fitted, like + change * ahead, said, [*facts, f"{prefix}year_change"])


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
    now = hidden(f"{prefix}now", "figure, its like one known", only(one_before, g.actual))
    before = hidden(f"{prefix}before", "the one a year before", only(g.actual, one_before))

    def year_of(row: Term) -> Formula:
        every = known(row.between(stop - back, stop - 1))
        return only(2 * count(every) > back - 1, total(every))

    year, earlier = (
        g.d.define(prefix + short, label, year_of(row), unit=g.unit, shown=shown, where=_whole(stop, back))
        for short, label, row in (
            ("year", f"the last {back} {g.grid.kind}s", now),
            ("year_before", f"the {back} before them", before),
        )
    )
    return _Pair(now, before, year, earlier)


def _whole(stop: int, back: int) -> np.ndarray:
    """(1, 1) whether there are two years."""
    return np.array([[stop >= 2 * back]])


def _recent(row: Term, back: int) -> Formula:
    """What the year before each period comes to."""
    every = known(row.over(-back, -1))
    return only(2 * count(every) > back - 1, total(every))


def nothing(g: Ground) -> Formula:
    """Nothing in any column, to be added: what is one value a series becomes a row."""
    return either(np.ones((1, g.d.columns), np.bool_), given(0.0, "carried forward"), given(0.0))


def _told(
    g: Ground,
    name: str,
    fitted: Formula,
    projected: Formula,
    said: Callable[[int], str],
    facts: list[str],
) -> Laid:
    return Laid(name, fitted, projected, partial(_why_none, g), said, tuple(facts))


def _said(g: Ground, fact: Term, words: str, series: int) -> str:
    value = float(fact.source.values[series, 0])
    return f"{g.unit} = {words.format(significant(value, 5))}" if not np.isnan(value) else "no fit"


def _why_none(g: Ground, series: int) -> str:
    return ""


_MADE: dict[str, Callable[[Ground, str, str, bool], Laid]] = {
    "last": _last,
    "drift": _last,
    "compound": _last,
    "rate": _rate,
    "mean": _mean,
    "same-period": _like,
    "same-period-growth": _like,
    "same-period-drift": _like,
}
