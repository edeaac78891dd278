"""Is there a season at all? Strengths, a rank test and autocorrelation, each beside what chance reaches."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cache, partial

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.seasons import strength as kernels
from oat_tide.core.seasons.strength import Method, by_chance, strength
from oat_tide.core.user_error import Progress
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
    total,
)
from oat_tide.core.working.terms import Term, known
from oat_tide.stages.by_kernel import ByKernel
from oat_tide.stages.seasons.ground import AXIS, Ground
from oat_tide.stages.seasons.swings import ranks
from oat_tide.stages.seasons.taken import Taken

LEVEL = 0.05
"""What p stays below for something to be told from chance."""
_HOW: dict[Method, str] = {
    "simple": phrase("simple averages"),
    "classical": phrase("the centred average"),
    "loess": phrase("local regression"),
}


def chance_of(cycles: int, cycle: int, method: Method, years: int, progress: Progress) -> float:
    """The strength that 95 % limit by chance in so many whole cycles; takes its time."""
    return by_chance(cycles * cycle, cycle, method, years)


@dataclass(frozen=True, eq=False, slots=True)
class Evidence:
    """Whether there is a season, and how strong it is.

    Attributes:
        f, chance: the F of its seasons, and what 95 % limit by chance.
        strength: of the season.
    """

    f: Term
    chance: Term
    strength: Term


def evidence_of(ground: Ground, taken: Taken) -> Evidence:
    """Define everything that shows whether there is a season."""
    f, reached = _presence(ground)
    found = Evidence(f, reached, _strengths(ground, taken))
    _rank_tested(ground, taken)
    _autocorrelation(ground, taken)
    return found


def _presence(ground: Ground) -> tuple[Term, Term]:
    """The F of levels by season beside a trend, and what 95 % limit by chance."""
    told = ground.told
    fact = partial(ground.d.define, blank=_too_few(ground))

    def by(name: str, why: str) -> ByKernel:
        return ByKernel(lambda: getattr(told.told, name)[:, None], why, True)

    of = phrase("logarithms of ") if ground.multiplies.all() else ""
    foretold = phrase("of {of}what each period is off what the one before foretells", of=of)
    hidden = partial(fact, shown=False)
    rho = fact(
        "season_rho",
        phrase("autocorrelation of the errors"),
        by("rho", phrase("the likeliest of ten, 0 to 0.98")),
    )
    without, within, more, left = (
        hidden(f"season_{name}", label, by(name, why))
        for name, label, why in (
            ("without", phrase("squares that a trend leaves"), foretold),
            ("within", phrase("squares that trend and season leave"), foretold),
            ("more", phrase("seasons less one"), "counted"),
            ("left", phrase("periods less the terms of both"), "counted"),
        )
    )
    f = fact(
        "season_f", phrase("F of the seasons"), only(within > 0, (without - within) / more / (within / left))
    )
    why = phrase(
        "19 in 20 made-up histories without a season, whose errors are autocorrelated alike, stay below"
    )
    reached = ByKernel(lambda: told.chance[:, None], why, True)
    return f, fact("season_f_chance", phrase("95 % limit of F by chance"), reached, where=rho)


def _strengths(ground: Ground, taken: Taken) -> Term:
    """How strong season and trend are, and what chance reaches in so long a history; gives the season's."""
    left = cache(partial(_left, ground, taken))
    season, _ = (
        ground.d.define_by(
            f"{name}_strength",
            phrase("strength of {name}", name=phrase(name)),
            partial(_strength, ground, taken, part),
            partial(_strength_of, ground, left, name, part),
            blank=_too_few(ground),
        )
        for name, part in (("season", taken.season), ("trend", taken.trend))
    )
    _chance(ground)
    return season


def _on_its_scale(ground: Ground, term: Term) -> Formula:
    """A figure, or its logarithm where the season multiplies."""
    return ground.by_kind(only(term > 0, ln(term)), term, ground.d.columns)


def _logs(ground: Ground) -> str:
    return phrase("logarithm of the ") if ground.multiplies.all() else ""


def _left(ground: Ground, taken: Taken) -> tuple[Term, Term]:
    """The remainder on its scale, and its variance; both strengths go by them."""
    only_past = (np.arange(ground.d.columns) < ground.past)[None]
    said = phrase("{logs}remainder", logs=_logs(ground))
    inside = only(only_past, _on_its_scale(ground, taken.remainder))
    rest = ground.d.define("rest_log", said, inside, where=taken.remainder, shown=False)
    return rest, _variance(ground, "rest", said, rest)


def _strength_of(ground: Ground, left: Callable[[], tuple[Term, Term]], name: str, part: Term) -> Formula:
    """1 - var(R) / var(part + R), on logarithms where the season multiplies."""
    hidden, logs = partial(ground.d.define, shown=False), _logs(ground)
    rest, alone = left()
    joint = hidden(
        f"{name}_and_rest",
        phrase("{logs}{name} and remainder", logs=logs, name=phrase(name))
        if not logs
        else phrase("{logs}{name} × remainder", logs=logs, name=phrase(name)),
        _on_its_scale(ground, part) + rest,
    )
    both = _variance(ground, f"{name}_and_rest", phrase("{name} and remainder", name=phrase(name)), joint)
    share = 1 - alone / both
    return only(both > 0, choose(share > 0, share, 0.0))


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
    n = hidden(f"{name}_n", phrase("periods of {said}", said=said), count(every), exact=True)
    middle = hidden(f"{name}_mean", phrase("mean of {said}", said=said), mean(every))
    off = hidden(f"{name}_off", phrase("{said} off its mean", said=said), row - middle)
    squares = hidden(f"{name}_square", phrase("square of that"), off**2)
    return hidden(
        f"{name}_variance",
        phrase("variance of {said}", said=said),
        only(n > 1, total(known(squares.between(0, last))) / (n - 1)),
    )


def _too_few(ground: Ground) -> str:
    return next(filter(None, ground.why_none), phrase("Nothing varies, or it is still being computed."))


def _chance(ground: Ground) -> None:
    """The strength of season that 95 % limit by chance in a history of that length."""
    cycle, method = ground.cycle.length, ground.ask.method
    spans = [_two_digits(_span(row) // cycle) for row in ground.values]
    answers = {
        cycles: ground.late(chance_of, cycles, cycle, method, ground.ask.seasonal) if cycles >= 2 else None
        for cycles in sorted(set(spans))
    }
    reached = np.array([[np.nan if answers[each] is None else answers[each]] for each in spans], np.float64)

    def why(series: int) -> str:
        return phrase(
            "19 in 20 histories of {spans} cycles of mere noise, made up and taken apart by "
            "{how}, stay below",
            spans=spans[series],
            how=_HOW[method],
        )

    ground.d.define(
        "chance",
        phrase("95 % limit by chance"),
        given(reached, why),
        blank=phrase("Still being computed."),
        unit="",
    )


def _two_digits(cycles: int) -> int:
    """So many cycles or a few less: 95 % limit by chance hardly more in 510 than in 519."""
    step: int = 10 ** max(len(str(cycles)) - 2, 0)
    return cycles // step * step


def _span(row: Values) -> int:
    there = np.flatnonzero(~np.isnan(row))
    return int(there[-1] - there[0]) + 1 if there.size else 0


def _rank_tested(ground: Ground, taken: Taken) -> None:
    """Kruskal and Wallis's test of the detrended series across seasons, ties shared."""
    past, cycle, ratio = ground.past, ground.cycle, taken.ratio
    ground.d.define_by(
        "rank_p",
        phrase("rank test, p"),
        lambda: kernels.rank_test(ratio.values[:, :past], cycle.place[:past], cycle.length)[2][:, None],
        partial(_rank_test, ground, ratio),
        blank=_too_few(ground),
    )


def _rank_test(ground: Ground, ratio: Term) -> Formula:
    """The tail of chi-squared beyond H, with one degree of freedom less than there are seasons."""
    d, past, find = ground.d, ground.past, ground.cycle.find(ground.past)
    hidden = partial(d.define, shown=False)
    rank = hidden(
        "rank",
        phrase("rank"),
        ByKernel(lambda: ranks(ratio.values), phrase("its place by size, from 1; equals share")),
        where=ratio,
    )
    tied = hidden(
        "tied",
        phrase("share of ties"),
        ByKernel(lambda: np.array([[_ties(row[~np.isnan(row)])] for row in ratio.values]), "ties", True),
    )
    every = known(rank.between(0, max(past - 1, 0)))
    n = hidden("ranked", phrase("periods ranked"), count(every), exact=True)
    sums = hidden("rank_sum", phrase("sum of ranks"), total(known(rank.likes(find))), axis=AXIS)
    held = hidden(
        "rank_many", phrase("periods of the season"), count(known(rank.likes(find))), axis=AXIS, exact=True
    )
    part = hidden(
        "rank_part", phrase("its square over their number"), only(held > 0, sums**2 / held), axis=AXIS
    )
    parts = known(part.between(0, ground.cycle.length - 1))
    groups = hidden("rank_groups", phrase("seasons that have any"), count(parts), exact=True)
    h = hidden(
        "h",
        phrase("H across seasons"),
        only(1 - tied > 0, (12 / (n * (n + 1)) * total(parts) - 3 * (n + 1)) / (1 - tied)),
        where=groups > 1,
    )
    return chi_tail(h, groups - 1)


def _ties(values: Values) -> float:
    return kernels.ties(np.unique(values, return_counts=True)[1])


def _autocorrelation(ground: Ground, taken: Taken) -> None:
    """The autocorrelation of the detrended series at the cycle, and what chance reaches."""
    d, lag, last = ground.d, ground.cycle.length, max(ground.past - 1, 0)
    d.define_by(
        "echo",
        phrase("autocorrelation at {lag}", lag=lag),
        lambda: kernels.autocorrelation(taken.ratio.values[:, : ground.past], lag)[0][:, None],
        partial(_echo, ground, taken, lag),
        blank=_too_few(ground),
    )
    n = d.define(
        "detrended_n",
        phrase("detrended periods"),
        count(known(taken.ratio.between(0, last))),
        exact=True,
        shown=False,
    )
    d.define(
        "echo_chance",
        phrase("95 % limit by chance"),
        only(n > lag, given(1.645, phrase("of a normal value, 19 in 20 stay below")) / sqrt(n)),
        blank=_too_few(ground),
    )


def _echo(ground: Ground, taken: Taken, lag: int) -> Formula:
    """The sum of products of what lies a cycle apart, over the sum of squares, all off their mean."""
    hidden, last = partial(ground.d.define, shown=False), max(ground.past - 1, 0)
    every = known(taken.ratio.between(0, last))
    off = hidden("detrended_off", phrase("detrended, off its mean"), taken.ratio - mean(every))
    square = hidden("detrended_square", phrase("square of that"), off**2)
    pair = hidden("detrended_pair", phrase("times that of {lag} before", lag=lag), off * off.shift(-lag))
    squares = total(known(square.between(0, last)))
    return only(squares > 0, total(known(pair.between(0, last))) / squares)
