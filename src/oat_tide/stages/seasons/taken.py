"""The figures of a decomposition: trend, season and remainder over time, and the indices of the seasons."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.seasons.classical import remainder_of, without_season
from oat_tide.core.working.formula import Formula, count, only
from oat_tide.core.working.terms import Term, known
from oat_tide.stages.seasons.averages import simple_averages
from oat_tide.stages.seasons.centred import ONE, centred_trend, no_ratio, no_trend, ratio_to_average
from oat_tide.stages.seasons.ground import AXIS, Ground, Mask, gone_of, hands_of
from oat_tide.stages.seasons.in_use import index_in_use
from oat_tide.stages.seasons.kernels import ratios_joined
from oat_tide.stages.seasons.local import local_regression, season_of_each_year


@dataclass(frozen=True, eq=False, slots=True)
class Taken:
    """What a decomposition gives.

    Attributes:
        trend, season, remainder, deseasonalised: over time.
        ratio: over time, what the index of a season is made of.
        counted: the same without those left out.
        many, scaled, used: by season, from how many ratios it comes, the index, and the one in use.
        hand: (series, seasons) indices set by hand, NaN for the others.
        found: over time, what stands in the row of each year: the season of each, of local regression, else
            the ratio.
    """

    trend: Term
    season: Term
    remainder: Term
    deseasonalised: Term
    ratio: Term
    counted: Term
    many: Term
    scaled: Term
    used: Term
    hand: Values
    found: Term


def take_apart(ground: Ground) -> Taken:
    """Define all of it, by the method asked for."""
    gone, hand = _gone(ground), _hand(ground)
    local = None
    if ground.ask.method == "loess":
        local = local_regression(ground)
        trend, scaled = local.trend, local.scaled
        ratio = counted = local.ratio
    else:
        result = ratios_joined(ground, ~gone if gone.any() else None)
        if ground.ask.method == "simple":
            trend = centred_trend(ground, ground.actual, ONE, result)
            ratio, counted, scaled = simple_averages(ground, result, gone)
        else:
            trend, ratio, counted, scaled = ratio_to_average(ground, result, gone)
    many = _how_many(ground, counted)
    used, factor = index_in_use(ground, scaled, hand)
    index = used.like(ground.cycle.place)
    own = index if local is None else season_of_each_year(ground, local, used, factor, hand)
    season = _season_over_time(ground, own)
    remainder, without = _rest(ground, trend, season)
    found = ratio if local is None else local.found
    return Taken(trend, season, remainder, without, ratio, counted, many, scaled, used, hand, found)


def _gone(ground: Ground) -> Mask:
    """(series, past columns) the ratios left out."""
    place, years = (each[: ground.past] for each in (ground.cycle.place, ground.cycle.years))
    out = np.zeros(ground.values.shape, np.bool_)
    for series in range(len(out)):
        for each in gone_of(ground, series):
            out[series] |= (years == each.year) & (place == each.place)
    return out


def _hand(ground: Ground) -> Values:
    """(series, seasons) the indices set by hand."""
    out = np.full((len(ground.d.keys), ground.cycle.length), np.nan)
    for series in range(len(out)):
        for each in hands_of(ground, series):
            out[series, each.place] = each.value
    return out


def _how_many(ground: Ground, counted: Term) -> Term:
    word = phrase("ratios") if ground.multiplies.all() else phrase("differences")
    return ground.d.define(
        "many",
        phrase("how many {word}", word=word),
        count(known(counted.likes(ground.cycle.find(ground.past)))),
        where=np.array([[not why] for why in ground.why_none]),
        axis=AXIS,
        exact=True,
        blank=no_ratio(ground),
    )


def _season_over_time(ground: Ground, index: Formula) -> Term:
    return ground.d.define(
        "season",
        phrase("Season"),
        index,
        unit=ground.index_unit,
        signed=not ground.multiplies.any(),
        blank=lambda series, column: ground.why_none[series] or phrase("Its season has no index."),
    )


def _rest(ground: Ground, trend: Term, season: Term) -> tuple[Term, Term]:
    """What trend and season leave, and the actual without its season."""
    d, actual, past = ground.d, ground.actual, ground.past
    remainder = d.define(
        "remainder",
        phrase("Remainder"),
        ground.by_kind(
            only(trend * season > 0, actual / (trend * season)), actual - trend - season, d.columns
        ),
        values=lambda: ground.kernel(
            partial(remainder_of, ground.values, trend.values[:, :past], season.values[:, :past])
        ),
        unit=ground.index_unit,
        signed=not ground.multiplies.any(),
        shown=ground.ask.arrangement != "deseasonalised",
        blank=no_trend(ground),
    )
    without = d.define(
        "deseasonalised",
        phrase("Deseasonalised"),
        ground.by_kind(only(season > 0, actual / season), actual - season, d.columns),
        values=lambda: ground.kernel(partial(without_season, ground.values, season.values[:, :past])),
        unit=ground.unit,
        blank=lambda series, column: (
            ground.why_none[series] or phrase("It is not known, or its season has no index.")
        ),
    )
    return remainder, without
