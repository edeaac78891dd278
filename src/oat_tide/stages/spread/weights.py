"""What periods are weighted by: their index, index and trend, the year before, or all alike."""

from __future__ import annotations

from functools import partial

import numpy as np

from oat_tide.core.language import noun, phrase
from oat_tide.core.periods.calendar import NONE
from oat_tide.core.regression import fit_line
from oat_tide.core.working.formula import Formula, choose, given, mean
from oat_tide.core.working.terms import Term, known, wide
from oat_tide.stages.cycle import by_kind, cycle_of, no_season
from oat_tide.stages.fitted import Through, line_of
from oat_tide.stages.published import SeasonOf, season_of
from oat_tide.stages.spread.ground import Ground

NAMES = {
    "index": phrase("seasonal index"),
    "index-trend": phrase("index and trend"),
    "last-year": phrase("last year's shares"),
    "even": phrase("evenly"),
}
_LABELS = {
    "index": phrase("Seasonal index"),
    "index-trend": phrase("Trend in season"),
    "last-year": phrase("A year before"),
    "even": phrase("All alike"),
}


def no_index(g: Ground) -> str:
    """Why there is no index to spread by; empty where there is one."""
    why = no_season(g.grid, g.seasonal)
    if why:
        return why
    taken = season_of(g.seasons)
    if taken is None:
        said = g.seasons.cautions(0)
        return said[0].text if said else phrase("Seasons finds no index.")
    return "" if not np.isnan(taken.index.values).any() else phrase("A season has no index. See Seasons.")


def no_last_year(g: Ground) -> str:
    """Why there is no last year to spread by; empty where there is one."""
    gone = np.isnan(like(g, g.settled)[:, g.at]).any(0)
    if not gone.any():
        return ""
    which = g.label(g.first + int(gone.argmax()))
    return phrase(
        "The matching {kind} a year before {which} is not complete.", kind=noun(g.grid.kind), which=which
    )


def year_before(g: Ground) -> np.ndarray:
    """(columns,) the like column of the latest year that is known as a whole; below 0 for none."""
    periods = g.d.first + np.arange(g.d.columns)
    before = g.grid.year_before(periods)
    # Of what lies further ahead it is the same period of the last year before the as-of.
    for _ in range(20):
        late = (before - g.d.first >= g.past) & (before != NONE)
        if not late.any():
            break
        before[late] = g.grid.year_before(before[late])
    at = np.where(before == NONE, -1, before - g.d.first)
    return np.where((at >= 0) & (at < g.past), at, -1)


def like(g: Ground, row: Term) -> np.ndarray:
    """(series, columns) a row a year before."""
    values = wide(row.values, g.d.columns, np.nan)
    at = year_before(g)
    return np.where(at >= 0, values[:, np.maximum(at, 0)], np.nan)


def weight(g: Ground) -> Term:
    """What periods weigh, below zero too."""
    body = _MADE[g.ask.by](g)
    label = _LABELS[g.ask.by]
    if g.ask.by == "index" and not _taken(g).multiplies.all():
        label = phrase("Level with season")
    return g.d.define(
        "raw_weight", label, body, where=g.inside, shown=False,
        unit="" if label in (_LABELS["index"], _LABELS["even"]) else g.unit,
    )  # fmt: skip


def counting(g: Ground, raw: Term) -> Term:
    """The row that shares are taken by, none below zero."""
    return g.d.define(
        "weight",
        raw.source.figure.label,
        choose(raw > 0, raw, 0.0),
        unit=raw.source.figure.unit,
        blank=phrase("It lies outside of what the total is spread over, or is not known."),
    )


def _taken(g: Ground) -> SeasonOf:
    """What Seasons has taken out; it is not spread by indices where that is nothing (`no_index`)."""
    found = season_of(g.seasons)
    assert found is not None
    return found


def _even(g: Ground) -> Formula:
    return given(np.ones((1, g.d.columns)), phrase("each counts alike"))


def _last_year(g: Ground) -> Formula:
    return g.settled.like(year_before(g))


def _index(g: Ground) -> Formula:
    """The index; where the season is added, with the level of the last year of the deseasonalised series."""
    cycle = cycle_of(g.seasonal, g.grid, g.d.first, g.d.columns)
    taken = _taken(g)
    index, multiplies = taken.index.like(cycle.place), taken.multiplies
    if multiplies.all():
        return index
    without = taken.deseasonalised
    level = g.d.define(
        "level", phrase("mean of the last {length} deseasonalised", length=cycle.length),
        mean(known(without.between(g.past - cycle.length, g.past - 1))), unit=g.unit, shown=False,
    )  # fmt: skip
    return by_kind(multiplies, index, level + index, g.d.columns)


def _index_trend(g: Ground) -> Formula:
    """A straight line through the deseasonalised series, put back in season."""
    d, taken = g.d, _taken(g)
    without = taken.deseasonalised
    index = taken.index.like(cycle_of(g.seasonal, g.grid, d.first, d.columns).place)
    values = wide(without.values[:, : g.past], d.columns, np.nan)
    used = (~np.isnan(values)).astype(float)
    t = np.arange(d.columns, dtype=float)[None] + 1
    first = partial(lambda label, series: phrase("counted from {label} = 1", label=label), g.label(0))
    got = Through(
        False, used, t, values, fit_line(t, values, used), first, phrase("deseasonalised"), "trend_", False
    )
    trend = d.define("trend", phrase("trend"), line_of(d, got, without).curve, unit=g.unit, shown=False)
    return by_kind(taken.multiplies, trend * index, trend + index, d.columns)


_MADE = {"even": _even, "last-year": _last_year, "index": _index, "index-trend": _index_trend}
