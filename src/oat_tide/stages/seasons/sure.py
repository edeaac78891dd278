"""How sure each index is, and whether its season drifts over the years."""

from __future__ import annotations

import functools
from functools import partial

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.seasons.indices import drift, standard_errors
from oat_tide.core.working.formula import (
    given,
    mean,
    only,
    sqrt,
    t_tail,
    total,
)
from oat_tide.core.working.terms import known
from oat_tide.stages.seasons.ground import AXIS, Ground
from oat_tide.stages.seasons.taken import Taken

_ROUNDING = 1e-12
"""Squares of so little of the others are those of rounding."""


def how_sure(ground: Ground, taken: Taken) -> None:
    """The standard error of each index from its ratios, and the slope of these over the years."""
    d, find, place = ground.d, ground.cycle.find(ground.past), ground.cycle.place
    over_time, by_season = partial(d.define, shown=False), partial(d.define, shown=False, axis=AXIS)
    counted, past = taken.counted, ground.past

    @functools.cache
    def found() -> tuple[Values, Values]:
        return drift(counted.values[:, :past], place[:past], ground.cycle.length, ground.cycle.years[:past])

    middle = by_season("ratio_mean", phrase("mean of its ratios"), mean(known(counted.likes(find))))
    off = over_time("ratio_off", phrase("ratio off the mean of its season"), counted - middle.like(place))
    square = over_time("ratio_square", phrase("square of that"), off**2)
    squares = by_season(
        "ratio_squares", phrase("sum of squares"), total(known(square.likes(find))), where=middle
    )
    n = taken.many
    d.define(
        "sure",
        phrase("standard error"),
        only(n > 1, sqrt(squares / (n - 1)) / sqrt(n)),
        values=lambda: standard_errors(
            counted.values[:, : ground.past], place[: ground.past], ground.cycle.length
        ),
        axis=AXIS,
        unit=ground.index_unit,
        blank=phrase("A standard error takes two ratios."),
    )
    years = ground.cycle.years.astype(float)[None]
    year = over_time(
        "ratio_year", phrase("year of the ratio"), given(years, phrase("the year")), where=counted
    )
    years_mean = by_season("year_mean", phrase("mean of its years"), mean(known(year.likes(find))))
    year_off = over_time("year_off", phrase("year off the mean of its season"), year - years_mean.like(place))
    year_square = over_time("year_square", phrase("square of that"), year_off**2)
    spread = by_season(
        "year_squares",
        phrase("squared spread of its years"),
        total(known(year_square.likes(find))),
        where=middle,
    )
    both = over_time("year_ratio", phrase("the two times each other"), year_off * off)
    slope = d.define(
        "drift",
        phrase("drift per year"),
        only(spread > 0, total(known(both.likes(find))) / spread),
        values=lambda: found()[0],
        axis=AXIS,
        unit=ground.index_unit,
        signed=True,
        shown=False,
        blank=phrase("It takes ratios of two years."),
    )
    left = over_time("drift_left", phrase("ratio off its drift"), off - slope.like(place) * year_off)
    left_square = over_time("drift_square", phrase("square of that"), left**2)
    missed = by_season(
        "drift_squares",
        phrase("sum of squares off the drift"),
        total(known(left_square.likes(find))),
        where=slope,
    )
    freedom = n - 2
    varies = missed > squares * _ROUNDING
    t = by_season("drift_t", phrase("t of the drift"), only(varies, slope / sqrt(missed / freedom / spread)))
    by_season(
        "drift_p",
        phrase("p-value of the drift"),
        only(n > 2, t_tail(t, freedom)),
        values=lambda: found()[1],
    )
