"""Is there a season at all? Strengths, a rank test and autocorrelation, each beside what chance reaches."""

from __future__ import annotations

import functools
from dataclasses import dataclass
from functools import partial

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.seasons import strength as kernels
from oat_tide.core.seasons.indices import drift, standard_errors
from oat_tide.core.seasons.strength import by_chance, strength
from oat_tide.core.seasons.swing import FEWEST, ranked
from oat_tide.core.trouble import Tell
from oat_tide.core.working.formula import (
    Formula,
    chi_tail,
    choose,
    count,
    given,
    ln,
    mean,
    only,
    sqrt,
    t_tail,
    total,
)
from oat_tide.core.working.terms import Term, known
from oat_tide.stages.cycle import year_of
from oat_tide.stages.deck import Axis
from oat_tide.stages.reckoned import Reckoned
from oat_tide.stages.seasons.ground import AXIS, Ground
from oat_tide.stages.seasons.taken import Taken, judged_trend

LEVEL = 0.05
"""What p stays below for a season to be told from chance."""
YEARS = "years"
_ROUNDING = 1e-12
"""Squares of so little of the others are those of rounding."""


def chance_of(cycles: int, cycle: int, tell: Tell) -> float:
    """The strength that chance reaches in so many whole cycles; takes its time."""
    return by_chance(cycles * cycle, cycle)


def strengths(ground: Ground, taken: Taken) -> None:
    """How strong season and trend are, and what chance reaches in a history of that length."""
    d, past, columns = ground.d, ground.past, ground.d.columns
    hidden = partial(d.define, shown=False)
    only_past = (np.arange(columns) < past)[None]

    def on_its_scale(term: Term) -> Formula:
        return ground.by_kind(only(term > 0, ln(term)), term, columns)

    logs = "logarithm of the " if ground.multiplies.all() else ""
    rest = hidden(
        "rest_log", f"{logs}remainder", only(only_past, on_its_scale(taken.remainder)), where=taken.remainder
    )
    alone = _variance(ground, "rest", f"{logs}remainder", rest)
    for name, part, said in (("season", taken.season, "season"), ("trend", taken.trend, "trend")):
        joint = hidden(
            f"{name}_and_rest",
            f"{logs}{said} and remainder" if not logs else f"{logs}{said} × remainder",
            on_its_scale(part) + rest,
        )
        both = _variance(ground, f"{name}_and_rest", f"{said} and remainder", joint)
        share = 1 - alone / both
        d.define(
            f"{name}_strength",
            f"strength of {said}",
            only(both > 0, choose(share > 0, share, 0.0)),
            values=partial(_strength, ground, taken, part),
            blank=_too_few(ground),
        )
    _chance(ground)


def _strength(ground: Ground, taken: Taken, part: Term) -> Values:
    """(series, 1) how strong a part is, on logarithms where the season multiplies."""
    past = ground.past
    own, rest = part.values[:, :past], taken.remainder.values[:, :past]

    def of(products: bool) -> Values:
        if not products:
            return strength(own, rest)
        with np.errstate(invalid="ignore", divide="ignore"):
            return strength(*(np.where(each > 0, np.log(each), np.nan) for each in (own, rest)))

    return ground.kernel(of)[:, None]


def _variance(ground: Ground, name: str, said: str, row: Term) -> Term:
    """The variance of a row, with what it is made of."""
    hidden, last = partial(ground.d.define, shown=False), max(ground.past - 1, 0)
    every = known(row.between(0, last))
    n = hidden(f"{name}_n", f"periods of {said}", count(every), exact=True)
    middle = hidden(f"{name}_mean", f"mean of {said}", mean(every))
    off = hidden(f"{name}_off", f"{said} off its mean", row - middle)
    squares = hidden(f"{name}_square", "square of that", off**2)
    return hidden(
        f"{name}_variance",
        f"variance of {said}",
        only(n > 1, total(known(squares.between(0, last))) / (n - 1)),
    )


def _too_few(ground: Ground) -> str:
    return next(filter(None, ground.why_none), "Nothing varies, or it is still reckoned.")


def _chance(ground: Ground) -> None:
    """The strength of season that chance reaches in a history of that length."""
    cycle = ground.cycle.length
    spans = [_two_digits(_span(row) // cycle) for row in ground.values]
    answers = {
        cycles: ground.late(chance_of, cycles, cycle) if cycles >= 2 else None
        for cycles in sorted(set(spans))
    }
    reached = np.array([[np.nan if answers[each] is None else answers[each]] for each in spans], np.float64)

    def why(series: int) -> str:
        return (
            f"19 in 20 histories of {spans[series]} cycles of mere noise, made up and taken apart by the "
            "centred average, stay below"
        )

    ground.d.define("chance", "chance reaches", given(reached, why), blank="It is still reckoned.", unit="")


def _two_digits(cycles: int) -> int:
    """So many cycles or a few less: chance reaches hardly more in 510 than in 519."""
    step: int = 10 ** max(len(str(cycles)) - 2, 0)
    return cycles // step * step


def _span(row: Values) -> int:
    there = np.flatnonzero(~np.isnan(row))
    return int(there[-1] - there[0]) + 1 if there.size else 0


def rank_test(ground: Ground, taken: Taken) -> None:
    """Kruskal and Wallis's test of the detrended series across seasons, ties shared."""
    d, past, find = ground.d, ground.past, ground.cycle.find(ground.past)
    hidden = partial(d.define, shown=False)
    ratio = taken.ratio
    rank = hidden(
        "rank", "rank", Reckoned(lambda: _ranks(ratio.values), "its place by size, from 1; equals share"),
        where=ratio,
    )  # fmt: skip
    tied = hidden(
        "tied",
        "share of ties",
        Reckoned(lambda: np.array([[_ties(row[~np.isnan(row)])] for row in ratio.values]), "ties", True),
    )
    every = known(rank.between(0, max(past - 1, 0)))
    n = hidden("ranked", "periods ranked", count(every), exact=True)
    sums = hidden("rank_sum", "sum of ranks", total(known(rank.likes(find))), axis=AXIS)
    held = hidden("rank_many", "periods of the season", count(known(rank.likes(find))), axis=AXIS, exact=True)
    part = hidden("rank_part", "its square over their number", only(held > 0, sums**2 / held), axis=AXIS)
    parts = known(part.between(0, ground.cycle.length - 1))
    groups = hidden("rank_groups", "seasons that have any", count(parts), exact=True)
    h = hidden(
        "h",
        "H across seasons",
        only(1 - tied > 0, (12 / (n * (n + 1)) * total(parts) - 3 * (n + 1)) / (1 - tied)),
        where=groups > 1,
    )
    d.define(
        "rank_p",
        "rank test, p",
        chi_tail(h, groups - 1),
        values=lambda: kernels.rank_test(
            ratio.values[:, :past], ground.cycle.place[:past], ground.cycle.length
        )[2][:, None],
        blank=_too_few(ground),
    )


def _ties(values: Values) -> float:
    counts = np.unique(values, return_counts=True)[1]
    n = len(values)
    return float((counts**3 - counts).sum() / max(n**3 - n, 1))


def autocorrelation(ground: Ground, taken: Taken) -> None:
    """The autocorrelation of the detrended series at the cycle, and what chance reaches."""
    d, lag, last = ground.d, ground.cycle.length, max(ground.past - 1, 0)
    hidden = partial(d.define, shown=False)
    every = known(taken.ratio.between(0, last))
    n = hidden("detrended_n", "detrended periods", count(every), exact=True)
    off = hidden("detrended_off", "detrended, off its mean", taken.ratio - mean(every))
    square = hidden("detrended_square", "square of that", off**2)
    pair = hidden("detrended_pair", f"times that of {lag} before", off * off.shift(-lag))
    squares = total(known(square.between(0, last)))
    d.define(
        "echo",
        f"autocorrelation at {lag}",
        only(squares > 0, total(known(pair.between(0, last))) / squares),
        values=lambda: kernels.autocorrelation(taken.ratio.values[:, : ground.past], lag)[0][:, None],
        blank=_too_few(ground),
    )
    d.define(
        "echo_chance",
        "chance reaches in it",
        only(n > lag, given(1.645, "of a normal value, 19 in 20 stay below") / sqrt(n)),
        blank=_too_few(ground),
    )


@dataclass(frozen=True, eq=False, slots=True)
class Sure:
    """How sure an index is, and whether its season drifts; by season."""

    error: Term
    slope: Term
    p: Term


def year_change(ground: Ground) -> None:
    """How far the trend has come from its first period to its last, in a year's periods."""
    d, past = ground.d, ground.past
    trend = d.term("trend")
    there = ~np.isnan(trend.values[:, :past])
    first = np.where(there.any(1), there.argmax(1), -1) if past else np.full(len(there), -1)
    last = np.where(there.any(1), past - 1 - there[:, ::-1].argmax(1), -1)
    apart = np.where(last > first, last - first, np.nan)[:, None].astype(float)
    d.define(
        "year_change",
        "the trend's change a year",
        (trend.at(last) - trend.at(first))
        / given(apart, "periods between the two")
        * float(year_of(d.grid.kind, ground.cycle.length)),
        unit=ground.unit,
        signed=True,
        blank=_too_few(ground),
    )


def how_sure(ground: Ground, taken: Taken) -> Sure:
    """The standard error of each index from its ratios, and the slope of these over the years."""
    d, find, place = ground.d, ground.cycle.find(ground.past), ground.cycle.place
    over_time, by_season = partial(d.define, shown=False), partial(d.define, shown=False, axis=AXIS)
    counted, past = taken.counted, ground.past

    @functools.cache
    def found() -> tuple[Values, Values]:
        return drift(counted.values[:, :past], place[:past], ground.cycle.length, ground.cycle.years[:past])

    middle = by_season("ratio_mean", "mean of its ratios", mean(known(counted.likes(find))))
    off = over_time("ratio_off", "ratio off the mean of its season", counted - middle.like(place))
    square = over_time("ratio_square", "square of that", off**2)
    squares = by_season("ratio_squares", "sum of squares", total(known(square.likes(find))), where=middle)
    n = taken.many
    error = d.define(
        "sure",
        "standard error",
        only(n > 1, sqrt(squares / (n - 1)) / sqrt(n)),
        values=lambda: standard_errors(
            counted.values[:, : ground.past], place[: ground.past], ground.cycle.length
        ),
        axis=AXIS,
        unit=ground.index_unit,
        blank="It takes two ratios to say how sure it is.",
    )
    years = ground.cycle.years.astype(float)[None]
    year = over_time("ratio_year", "year of the ratio", given(years, "the year"), where=counted)
    years_mean = by_season("year_mean", "mean of its years", mean(known(year.likes(find))))
    year_off = over_time("year_off", "year off the mean of its season", year - years_mean.like(place))
    year_square = over_time("year_square", "square of that", year_off**2)
    spread = by_season(
        "year_squares", "squared spread of its years", total(known(year_square.likes(find))), where=middle
    )
    both = over_time("year_ratio", "the two times each other", year_off * off)
    slope = d.define(
        "drift",
        "drift a year",
        only(spread > 0, total(known(both.likes(find))) / spread),
        values=lambda: found()[0],
        axis=AXIS,
        unit=ground.index_unit,
        signed=True,
        shown=False,
        blank="It takes ratios of two years.",
    )
    left = over_time("drift_left", "ratio off its drift", off - slope.like(place) * year_off)
    left_square = over_time("drift_square", "square of that", left**2)
    missed = by_season(
        "drift_squares", "sum of squares off the drift", total(known(left_square.likes(find))), where=slope
    )
    freedom = n - 2
    varies = missed > squares * _ROUNDING
    t = by_season("drift_t", "t of the drift", only(varies, slope / sqrt(missed / freedom / spread)))
    p = by_season(
        "drift_p",
        "p of so much drift by chance",
        only(n > 2, t_tail(t, freedom)),
        values=lambda: found()[1],
    )
    return Sure(error, slope, p)


def swing(ground: Ground, taken: Taken) -> None:
    """Whether the swing grows with the level: their rank correlation over the years (Spearman, 1904)."""
    d, past = ground.d, ground.past
    years, own = ground.cycle.of_years(past)
    if not years.size:
        return
    names = tuple(ground.grid.year_label(int(year)) for year in years)
    d.lay(YEARS, Axis(names, names, names, "year"))
    hidden = partial(d.define, shown=False)
    by_year = partial(d.define, shown=False, axis=YEARS)
    plain = judged_trend(ground)
    off = hidden("swing_off", "actual less trend", ground.actual - plain)
    square = hidden("swing_square", "square of that", off**2)
    usual = int((ground.cycle.years[:past] == years[len(years) // 2]).sum())
    enough = 2 * count(known(off.likes(own))) > usual - 1
    trend = hidden("level_of_year", "trend where both are known", plain, where=off)
    level = by_year("year_level", "level of the year", mean(known(trend.likes(own))), where=enough)
    swings = by_year("year_swing", "swing of the year", sqrt(mean(known(square.likes(own)))), where=enough)
    ranks = [
        by_year(f"{name}_rank", f"rank of its {said}", _ranked(of), where=of)
        for name, said, of in (("level", "level", level), ("swing", "swing", swings))
    ]
    last = len(years) - 1
    off_mean = [
        by_year(f"{name}_rank_off", "off the mean rank", rank - mean(known(rank.between(0, last))))
        for name, rank in zip(("level", "swing"), ranks, strict=True)
    ]
    products = [
        by_year(f"{name}_product", said, one * other)
        for name, said, one, other in (
            ("both", "the two times each other", off_mean[0], off_mean[1]),
            ("level", "square of the first", off_mean[0], off_mean[0]),
            ("swing", "square of the second", off_mean[1], off_mean[1]),
        )
    ]
    both, one, other = (total(known(each.between(0, last))) for each in products)
    n = count(known(ranks[0].between(0, last)))
    d.define(
        "rho",
        "swing grows with level, ρ",
        only(n > FEWEST - 1, only(one * other > 0, both / sqrt(one * other))),
        values=ground.judged.rho[:, None],
        signed=True,
        blank=f"It takes {FEWEST} years whose swing is known.",
    )


def _ranked(of: Term) -> Formula:
    return Reckoned(lambda: _ranks(of.values), "among the years, from 1")


def _ranks(values: Values) -> Values:
    out = np.full(values.shape, np.nan)
    for row, found in zip(values, out, strict=True):
        there = ~np.isnan(row)
        found[there] = ranked(row[there])
    return out
