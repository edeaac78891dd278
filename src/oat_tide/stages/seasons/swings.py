"""Whether the swing of the seasons grows with the level, and how far the trend goes in a year."""

from __future__ import annotations

from functools import partial

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import Days
from oat_tide.core.seasons.swing import FEWEST, ranked
from oat_tide.core.working.formula import (
    Formula,
    count,
    given,
    mean,
    only,
    sqrt,
    total,
)
from oat_tide.core.working.terms import Find, Term, known
from oat_tide.stages.cycle import year_of
from oat_tide.stages.deck import Axis
from oat_tide.stages.reckoned import Reckoned
from oat_tide.stages.seasons.centred import judged_trend
from oat_tide.stages.seasons.ground import Ground
from oat_tide.stages.seasons.taken import Taken

YEARS = "years"


def swing(ground: Ground, taken: Taken) -> None:
    """Whether the swing grows with the level: their rank correlation over the years (Spearman, 1904)."""
    d, past = ground.d, ground.past
    years, own = ground.cycle.of_years(past)
    if not years.size:
        return
    names = tuple(ground.grid.year_label(int(year)) for year in years)
    d.lay(YEARS, Axis(names, names, names, "year"))
    d.define_by(
        "rho",
        "swing grows with level, ρ",
        ground.judged.rho[:, None],
        partial(_rho, ground, years, own),
        signed=True,
        blank=f"It takes {FEWEST} years whose swing is known.",
    )


def _rho(ground: Ground, years: Days, own: Find) -> Formula:
    """The rank correlation of the swing and the level of every year, from the trend."""
    d, past = ground.d, ground.past
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
    return only(n > FEWEST - 1, only(one * other > 0, both / sqrt(one * other)))


def _ranked(of: Term) -> Formula:
    return Reckoned(lambda: ranks(of.values), "among the years, from 1")


def ranks(values: Values) -> Values:
    out = np.full(values.shape, np.nan)
    for row, found in zip(values, out, strict=True):
        there = ~np.isnan(row)
        found[there] = ranked(row[there])
    return out


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
        * float(year_of(d.grid, ground.cycle.length)),
        unit=ground.unit,
        signed=True,
        blank=next(filter(None, ground.why_none), "It is still reckoned."),
    )
