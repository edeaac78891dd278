"""Local regression: trend and season by kernels, and the latest season as the index."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial
from typing import Any

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import nouns, phrase
from oat_tide.core.seasons.loess import trend_span
from oat_tide.core.working.formula import Formula, either, given, only
from oat_tide.core.working.terms import Term, wide
from oat_tide.core.working.tree import Working
from oat_tide.stages.seasons.centred import ONE, no_ratio, scaled_row
from oat_tide.stages.seasons.ground import AXIS, Ground
from oat_tide.stages.seasons.kernels import by_regression


@dataclass(eq=False, slots=True)
class LastKnown(Formula):
    """Takes the last known of several values."""

    body: Formula
    fact: bool = False

    def compute(self, at: slice) -> Any:
        cells = self.body.compute(at)
        there = ~np.isnan(cells)
        if not cells.shape[-1]:
            return np.full(cells.shape[:-1], np.nan)
        last = cells.shape[-1] - 1 - there[..., ::-1].argmax(-1)
        return np.take_along_axis(cells, last[..., None], axis=-1)[..., 0]

    def bind(self, series: int, column: int) -> Working:
        return self.body.bound(series, column)[-1]


@dataclass(frozen=True, eq=False, slots=True)
class Local:
    """What local regression gives.

    Attributes:
        trend, ratio, found: over time; found is the season of each year.
        scaled: by season.
    """

    trend: Term
    ratio: Term
    found: Term
    scaled: Term


def local_regression(ground: Ground) -> Local:
    """Define its rows: the season changes from year to year, and the latest index is used."""
    d, past, columns = ground.d, ground.past, ground.d.columns
    answer = by_regression(ground)
    none = np.full(ground.values.shape, np.nan)
    trend_values, season_values = (none, none) if answer is None else answer
    waits = phrase("Still being computed.") if answer is None else ""
    why = phrase(
        "local regression over {seasonal} cycles and {span} {kinds}",
        seasonal=ground.ask.seasonal,
        span=_span(ground),
        kinds=nouns(ground.grid.kind),
    )

    def blank(series: int, column: int) -> str:
        return (
            ground.why_none[series]
            or waits
            or phrase("It lies before the first known period, or after the as-of.")
        )

    row = partial(d.define, blank=blank)
    trend = row("trend", phrase("Trend"), given(wide(trend_values, columns, np.nan), why), unit=ground.unit)
    ratio = row(
        "ratio",
        phrase("Ratio to trend") if ground.multiplies.all() else phrase("Difference from trend"),
        ground.by_kind(only(trend > 0, ground.actual / trend), ground.actual - trend, columns),
        unit=ground.index_unit,
        shown=False,
    )
    found = row(
        "found",
        phrase("Season of the year"),
        given(wide(season_values, columns, np.nan), why),
        unit=ground.index_unit,
        shown=False,
    )
    joined = d.define(
        "joined",
        phrase("latest season"),
        LastKnown(found.likes(ground.cycle.find(past))),
        axis=AXIS,
        unit=ground.index_unit,
        blank=no_ratio(ground),
    )
    return Local(trend, ratio, found, scaled_row(ground, joined, ONE, None))


def season_of_each_year(
    ground: Ground, local: Local, used: Term, factor: Term | None, hand: Values
) -> Formula:
    """The season of every column: its year's own, the index where that is by hand, and ahead.

    Args:
        factor: what the others were scaled or shifted by where some are by hand.
    """
    past, columns = ground.past, ground.d.columns
    place, found = ground.cycle.place, local.found
    by_hand = ~np.isnan(hand)[:, place] if hand.size else np.zeros((1, columns), np.bool_)
    own: Formula = found
    if factor is not None:
        some = ~np.isnan(factor.values)
        moved = ground.by_kind(found * factor, found + factor, columns)
        own = either(np.repeat(some, columns, axis=1), moved, found)
    by_index = by_hand | (np.arange(columns) >= past)[None]
    return either(by_index, used.like(place), own)


def _span(ground: Ground) -> int:
    return ground.ask.span or trend_span(ground.cycle.length, ground.ask.seasonal)
