"""The figures of a decomposition: trend, season and remainder over time, and the indices of the seasons."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import partial
from typing import Any

import numpy as np
from msgspec import structs

from oat_tide.core.exact import Values
from oat_tide.core.seasons.classical import Classical, remainder_of, whole_years, without_season
from oat_tide.core.seasons.indices import FEWEST_TO_TRIM, in_use
from oat_tide.core.working.formula import (
    Formula,
    count,
    either,
    given,
    mean,
    median,
    only,
    total,
)
from oat_tide.core.working.terms import Term, known, trimmed, wide
from oat_tide.core.working.tree import Working
from oat_tide.stages.deck.called import WhyBlank
from oat_tide.stages.seasons.ground import AXIS, Ground, Mask, gone_of, hands_of
from oat_tide.stages.seasons.kernels import by_regression, ratios_joined


@dataclass(frozen=True, slots=True)
class Turn:
    """One of the passes that the centred average is taken in.

    Attributes:
        mark: what the names of its figures end in; empty for the figures that are shown.
        said: what their labels end in.
    """

    mark: str = ""
    said: str = ""

    def named(self, name: str) -> str:
        """The name of a figure in this pass."""
        return f"{name}_{self.mark}" if self.mark else name

    def label(self, label: str) -> str:
        """Its label."""
        return f"{label}, {self.said}" if self.said else label


_ONE = Turn()
_PASSES = Turn("first", "first pass"), Turn("second", "second pass"), _ONE
"""Where something is not known the centred average is taken three times, twice to fill it."""
_JUDGED = (
    Turn("judged_first", "first pass, as if added"),
    Turn("judged_second", "second pass, as if added"),
    Turn("judged", "as if added"),
)
"""The same as if the season were added: how it counts is judged before that is known."""


@dataclass(frozen=True, eq=False, slots=True)
class Taken:
    """What a decomposition gives.

    Attributes:
        trend, season, remainder, deseasonalised: over time.
        ratio: over time, what the index of a season is made of.
        counted: the same without those left out.
        joined, many, scaled, used: by season.
        gone: (series, past columns) ratios left out.
        hand: (series, seasons) indices set by hand, NaN for the others.
    """

    trend: Term
    season: Term
    remainder: Term
    deseasonalised: Term
    ratio: Term
    counted: Term
    joined: Term
    many: Term
    scaled: Term
    used: Term
    gone: Mask
    hand: Values


@dataclass(eq=False, slots=True)
class LastKnown(Formula):
    """Of many values the last that is known."""

    body: Formula
    fact: bool = False

    def reckon(self, at: slice) -> Any:
        cells = self.body.reckon(at)
        there = ~np.isnan(cells)
        if not cells.shape[-1]:
            return np.full(cells.shape[:-1], np.nan)
        last = cells.shape[-1] - 1 - there[..., ::-1].argmax(-1)
        return np.take_along_axis(cells, last[..., None], axis=-1)[..., 0]

    def bind(self, series: int, column: int) -> Working:
        return self.body.bound(series, column)[-1]


def take_apart(ground: Ground) -> Taken:
    """Define all of it, by the method asked for."""
    gone, hand = _gone(ground), _hand(ground)
    if ground.ask.method == "loess":
        return _by_loess(ground, gone, hand)
    result = ratios_joined(ground, ~gone if gone.any() else None)
    if ground.ask.method == "simple":
        trend = centred_trend(ground, ground.actual, _ONE, result)
        ratio, joined, scaled = _simple(ground, result)
        counted = ratio
    else:
        trend, ratio, counted, joined, scaled = _classical(ground, result, gone)
    many = _how_many(ground, counted)
    used = _used(ground, scaled, hand)
    season = _season_over_time(ground, used.like(ground.cycle.place))
    return _rest(ground, trend, season, ratio, counted, joined, many, scaled, used, gone, hand)


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


def _classical(ground: Ground, result: Classical, gone: Mask) -> tuple[Term, Term, Term, Term, Term]:
    """The ratio to, or difference from, the centred average; in three passes where something is not known."""
    filled = ground.actual
    gaps = _gaps(ground.values)
    for turn in _PASSES if gaps.any() else (_ONE,):
        kernel = None if turn.mark else result
        trend = centred_trend(ground, filled, turn, kernel)
        ratio, counted = _ratio(ground, trend, gone, turn, kernel)
        joined = _joined(ground, counted, turn, kernel)
        scaled = _scaled(ground, joined, turn, kernel)
        if turn.mark:
            filled = _filled(ground, scaled, gaps, turn)
    return trend, ratio, counted, joined, scaled


def _gaps(values: Values) -> Mask:
    """(series, past columns) periods not known between the first and the last that are."""
    known = ~np.isnan(values)
    after = np.maximum.accumulate(known, axis=1)
    before = np.maximum.accumulate(known[:, ::-1], axis=1)[:, ::-1]
    return np.asarray(after & before & ~known)


def judged_trend(ground: Ground) -> Term:
    """The centred average as if the season were added, nothing left out: how it counts is judged by it."""
    d, gaps = ground.d, _gaps(ground.values)
    if not gaps.any():
        return d.term("trend") if ground.ask.method != "loess" else _plain(ground, ground.actual)
    mean_alone = structs.replace(ground.ask, joined="mean")
    none = np.zeros(ground.values.shape, np.bool_)
    as_added = replace(ground.judged, multiplies=np.zeros_like(ground.multiplies))
    added = replace(ground, judged=as_added, ask=mean_alone)
    filled = ground.actual
    for turn in _JUDGED[:2]:
        trend = centred_trend(added, filled, turn, None)
        joined = _joined(added, _ratio(added, trend, none, turn, None)[0], turn, None)
        filled = _filled(added, _scaled(added, joined, turn, None), gaps, turn)
    return _plain(added, filled)


def _plain(ground: Ground, filled: Term) -> Term:
    return centred_trend(ground, filled, _JUDGED[2], None)


def centred_trend(ground: Ground, filled: Term, turn: Turn, result: Classical | None) -> Term:
    """The centred average: of an even cycle half the first, the whole of the middle and half the last."""
    cycle, half = ground.cycle.length, ground.cycle.length // 2
    if cycle % 2:
        body: Formula = mean(filled.over(-half, half))
    else:
        middle = total(filled.over(1 - half, half - 1))
        body = (filled.shift(-half) / 2 + middle + filled.shift(half) / 2) / cycle
    return ground.d.define(
        turn.named("trend"),
        turn.label("Trend"),
        body,
        values=None if result is None else result.trend,
        where=_past_alone(ground),
        unit=ground.unit,
        shown=not turn.mark and ground.ask.arrangement != "deseasonalised",
        blank=_no_trend(ground),
    )


def _past_alone(ground: Ground) -> Mask:
    """(1, columns) up to the as-of."""
    return (np.arange(ground.d.columns) < ground.past)[None]


def _no_trend(ground: Ground) -> WhyBlank:
    half, kind = ground.cycle.length // 2, ground.grid.kind

    def why(series: int, column: int) -> str:
        if ground.why_none[series]:
            return ground.why_none[series]
        if column >= ground.past:
            return "It lies after the as-of."
        if column < half or column >= ground.past - half:
            return (
                f"The centred average takes {half} {kind}s on either side: at the ends of the history there "
                "is none, and none is made up."
            )
        return "The window of the centred average reaches beyond what is known."

    return why


def _ratio(
    ground: Ground, trend: Term, gone: Mask, turn: Turn, result: Classical | None
) -> tuple[Term, Term]:
    """What sold over, or less, its trend; and the same without those left out."""
    d, actual = ground.d, ground.actual
    row = partial(d.define, unit=ground.index_unit, shown=False, blank=_no_trend(ground))
    body = ground.by_kind(only(trend > 0, actual / trend), actual - trend, d.columns)
    label = "Ratio to trend" if ground.multiplies.all() else "Difference from trend"
    ratio = row(
        turn.named("ratio"), turn.label(label), body, values=None if result is None else result.ratios
    )
    if not gone.any():
        return ratio, ratio
    kept = wide(~gone, d.columns, False)
    return ratio, row(turn.named("counted"), turn.label(f"{label}, counted"), only(kept, ratio))


def _joined(ground: Ground, counted: Term, turn: Turn, result: Classical | None) -> Term:
    """The ratios of a season joined to one."""
    d, how = ground.d, ground.ask.joined
    likes = known(counted.likes(ground.cycle.find(ground.past)))
    body = {
        "mean": lambda: mean(likes),
        "median": lambda: median(likes),
        "trimmed": lambda: mean(trimmed(likes, 1, FEWEST_TO_TRIM)),
    }[how]()
    word = "ratios" if ground.multiplies.all() else "differences"
    said = {"mean": "mean", "median": "median", "trimmed": "trimmed mean"}[how]
    return d.define(
        turn.named("joined"),
        turn.label(f"{said} of {word}"),
        body,
        values=None if result is None else result.joined,
        axis=AXIS,
        unit=ground.index_unit,
        signed=not ground.multiplies.any(),
        shown=not turn.mark,
        blank=_no_ratio(ground),
    )


def _no_ratio(ground: Ground) -> WhyBlank:
    def why(series: int, column: int) -> str:
        if ground.why_none[series]:
            return ground.why_none[series]
        return (
            f"No year has a ratio for {ground.season(column)}: a whole {ground.cycle.length}-"
            f"{ground.grid.kind} window around one of them would give it."
        )

    return why


def _scaled(ground: Ground, joined: Term, turn: Turn, result: Classical | None) -> Term:
    """Joined ratios brought to average 1, or 0, and by what."""
    d, last = ground.d, ground.cycle.length - 1
    every = known(joined.between(0, last))
    products, sums = count(every) / total(every), 0 - mean(every)
    factor = d.define(
        turn.named("factor"),
        turn.label("scaled by" if ground.multiplies.all() else "shifted by"),
        ground.by_kind(only(total(every) > 0, products), sums, 1),
        values=None if result is None else result.factor,
        unit=ground.index_unit,
        shown=not turn.mark,
        signed=not ground.multiplies.any(),
        blank=_no_ratio(ground),
    )
    return d.define(
        turn.named("scaled"),
        turn.label("scaled" if ground.multiplies.any() else "shifted"),
        ground.by_kind(joined * factor, joined + factor, last + 1),
        values=None if result is None else result.indices,
        axis=AXIS,
        unit=ground.index_unit,
        signed=not ground.multiplies.any(),
        shown=not turn.mark,
        blank=_no_ratio(ground),
    )


def _filled(ground: Ground, scaled: Term, gaps: Mask, turn: Turn) -> Term:
    """Where something is not known, the local level with the index of its season."""
    d, half = ground.d, ground.cycle.length // 2
    hidden = partial(d.define, unit=ground.unit, shown=False)
    none = np.isnan(scaled.values)
    neutral = ground.by_kind(
        given(np.ones((1, none.shape[1])), "it has no ratio: as the trend"),
        given(np.zeros((1, none.shape[1])), "it has no ratio: as the trend"),
        none.shape[1],
    )
    index = d.define(
        turn.named("index"), turn.label("index"), either(none, neutral, scaled), axis=AXIS, shown=False
    )
    season = index.like(ground.cycle.place)
    out = hidden(
        turn.named("level_of"),
        turn.label("actual without its season"),
        ground.by_kind(only(wide(_not_zero(index, ground), d.columns, False), ground.actual / season),
                       ground.actual - season, d.columns),
    )  # fmt: skip
    if ground.cycle.length % 2:
        level: Formula = mean(known(out.over(-half, half)))
    else:
        level = (mean(known(out.over(-half, half - 1))) + mean(known(out.over(1 - half, half)))) / 2
    at = wide(gaps, d.columns, False)
    local = hidden(turn.named("level"), turn.label("local level"), level, where=at)
    expected = ground.by_kind(local * season, local + season, d.columns)
    return hidden(turn.named("filled"), turn.label("filled"), either(at, expected, ground.actual))


def _not_zero(index: Term, ground: Ground) -> Mask:
    mask: Mask = index.values[:, ground.cycle.place[: ground.past]] != 0
    return mask


def _simple(ground: Ground, result: Classical) -> tuple[Term, Term, Term]:
    """The mean of each season over, or less, the mean of all, on whole years."""
    d, place = ground.d, ground.cycle.place[: ground.past]
    kept = ~np.isnan(
        whole_years(ground.values, place, ground.cycle.length, ground.cycle.years[: ground.past])
    )
    hidden = partial(d.define, unit=ground.unit, shown=False)
    label = d.figures["actual"].label
    own = hidden("kept", f"{label} in whole years", only(wide(kept, d.columns, False), ground.actual))
    seasons = d.define(
        "joined",
        "mean of the season",
        mean(known(own.likes(ground.cycle.find(ground.past)))),
        axis=AXIS,
        unit=ground.unit,
        blank="No whole year is known.",
    )
    everything = d.define(
        "mean_of_all",
        "mean of all seasons",
        mean(known(seasons.between(0, ground.cycle.length - 1))),
        unit=ground.unit,
        blank="No whole year is known.",
    )
    row = partial(
        d.define,
        unit=ground.index_unit,
        signed=not ground.multiplies.any(),
        blank="No whole year is known.",
    )
    ratio = row(
        "ratio",
        "Ratio to the mean of all" if ground.multiplies.all() else "Difference from the mean of all",
        ground.by_kind(only(everything > 0, own / everything), own - everything, d.columns),
        values=result.ratios,
        shown=False,
    )
    scaled = row(
        "scaled",
        "index",
        ground.by_kind(only(everything > 0, seasons / everything), seasons - everything, ground.cycle.length),
        values=result.indices,
        axis=AXIS,
    )
    return ratio, seasons, scaled


def _how_many(ground: Ground, counted: Term) -> Term:
    word = "ratios" if ground.multiplies.all() else "differences"
    return ground.d.define(
        "many",
        f"how many {word}",
        count(known(counted.likes(ground.cycle.find(ground.past)))),
        where=np.array([[not why] for why in ground.why_none]),
        axis=AXIS,
        exact=True,
        blank=_no_ratio(ground),
    )


def _used(ground: Ground, scaled: Term, hand: Values) -> Term:
    """The indices in use: those set by hand as they are, the others scaled so that all average 1, or 0."""
    from oat_tide.stages.seasons.by_hand import mend_hand, said_of_hand, state_of_hand

    d, length = ground.d, ground.cycle.length
    row = partial(d.define, axis=AXIS, unit=ground.index_unit, signed=not ground.multiplies.any())
    written = row(
        "hand",
        "by hand",
        given(hand, lambda series: said_of_hand(ground, series)),
        where=~np.isnan(hand),
        blank="Write an index here, with a word why if you like: the others are scaled to it.",
        mend=mend_hand(ground, scaled),
        state=state_of_hand(hand),
    )
    if np.isnan(hand).all():
        return row("index", "index in use", scaled, blank=_no_ratio(ground))
    by_hand = ~np.isnan(hand)
    used, by = in_use_or_none(scaled.values, hand, ground.multiplies)
    rest = d.define(
        "rest", "scaled, not by hand", only(~by_hand, scaled), axis=AXIS, unit=ground.index_unit, shown=False
    )
    every = known(rest.between(0, length - 1))
    set_by_hand = total(known(written.between(0, length - 1)))
    seasons = count(every) + count(known(written.between(0, length - 1)))
    factor = d.define(
        "hand_factor",
        "the others scaled by" if ground.multiplies.any() else "the others shifted by",
        ground.by_kind(
            (seasons - set_by_hand) / total(every), (0 - set_by_hand - total(every)) / count(every), 1
        ),
        where=_both(by_hand, ~by_hand & ~np.isnan(scaled.values)) & ~np.isnan(by),
        unit=ground.index_unit,
        blank="No index is set by hand, or all are.",
    )
    some = np.repeat(~np.isnan(factor.values), length, axis=1)
    others = either(some, ground.by_kind(rest * factor, rest + factor, length), scaled)
    return row(
        "index", "index in use", either(by_hand, written, others), values=used, blank=_no_ratio(ground)
    )


def _both(one: Mask, other: Mask) -> Mask:
    """(series, 1) the series that have some of each."""
    return np.asarray(one.any(1, keepdims=True) & other.any(1, keepdims=True))


def in_use_or_none(scaled: Values, hand: Values, multiplies: Mask) -> tuple[Values, Values]:
    """The indices in use; where those by hand leave nothing for the rest, the rest is as scaled."""
    used, by = scaled.copy(), np.full((len(scaled), 1), np.nan)
    for series, products in enumerate(multiplies):
        one = slice(series, series + 1)
        try:
            used[one], by[one] = in_use(scaled[one], hand[one], bool(products))
        except ValueError:
            used[one] = np.where(np.isnan(hand[one]), scaled[one], hand[one])
    return used, by


def _season_over_time(ground: Ground, index: Formula) -> Term:
    return ground.d.define(
        "season",
        "Season",
        index,
        unit=ground.index_unit,
        signed=not ground.multiplies.any(),
        blank=lambda series, column: ground.why_none[series] or "Its season has no index.",
    )


def _rest(
    ground: Ground,
    trend: Term,
    season: Term,
    ratio: Term,
    counted: Term,
    joined: Term,
    many: Term,
    scaled: Term,
    used: Term,
    gone: Mask,
    hand: Values,
) -> Taken:
    """What trend and season leave, and the actual without its season."""
    d, actual, past = ground.d, ground.actual, ground.past
    remainder = d.define(
        "remainder",
        "Remainder",
        ground.by_kind(
            only(trend * season > 0, actual / (trend * season)), actual - trend - season, d.columns
        ),
        values=lambda: ground.kernel(
            partial(remainder_of, ground.values, trend.values[:, :past], season.values[:, :past])
        ),
        unit=ground.index_unit,
        signed=not ground.multiplies.any(),
        shown=ground.ask.arrangement != "deseasonalised",
        blank=_no_trend(ground),
    )
    without = d.define(
        "deseasonalised",
        "Deseasonalised",
        ground.by_kind(only(season > 0, actual / season), actual - season, d.columns),
        values=lambda: ground.kernel(partial(without_season, ground.values, season.values[:, :past])),
        unit=ground.unit,
        blank=lambda series, column: (
            ground.why_none[series] or "It is not known, or its season has no index."
        ),
    )
    return Taken(trend, season, remainder, without, ratio, counted, joined, many, scaled, used, gone, hand)


def _by_loess(ground: Ground, gone: Mask, hand: Values) -> Taken:
    """Local regression: the season changes from year to year, and the index in use is the latest one."""
    d, past, columns = ground.d, ground.past, ground.d.columns
    answer = by_regression(ground)
    none = np.full(ground.values.shape, np.nan)
    trend_values, season_values = (none, none) if answer is None else answer
    waits = "It is still reckoned." if answer is None else ""
    why = f"local regression over {ground.ask.seasonal} cycles and {_span(ground)} {ground.grid.kind}s"

    def blank(series: int, column: int) -> str:
        return (
            ground.why_none[series] or waits or "It lies before the first known period, or after the as-of."
        )

    row = partial(d.define, blank=blank)
    trend = row("trend", "Trend", given(wide(trend_values, columns, np.nan), why), unit=ground.unit)
    ratio = row(
        "ratio",
        "Ratio to trend" if ground.multiplies.all() else "Difference from trend",
        ground.by_kind(only(trend > 0, ground.actual / trend), ground.actual - trend, columns),
        unit=ground.index_unit,
        shown=False,
    )
    found = row(
        "found",
        "Season of the year",
        given(wide(season_values, columns, np.nan), why),
        unit=ground.index_unit,
        shown=False,
    )
    joined = d.define(
        "joined",
        "latest season",
        LastKnown(found.likes(ground.cycle.find(past))),
        axis=AXIS,
        unit=ground.index_unit,
        blank=_no_ratio(ground),
    )
    scaled = _scaled(ground, joined, _ONE, None)
    many = _how_many(ground, ratio)
    used = _used(ground, scaled, hand)
    place = ground.cycle.place
    by_hand = ~np.isnan(hand)[:, place] if hand.size else np.zeros((1, columns), np.bool_)
    own: Formula = found
    if "hand_factor" in d.figures:
        some = ~np.isnan(d.figures["hand_factor"].values)
        factor = d.term("hand_factor")
        moved = ground.by_kind(found * factor, found + factor, columns)
        own = either(np.repeat(some, columns, axis=1), moved, found)
    by_index = by_hand | (np.arange(columns) >= past)[None]
    season = _season_over_time(ground, either(by_index, used.like(place), own))
    return _rest(ground, trend, season, ratio, ratio, joined, many, scaled, used, gone & False, hand)


def _span(ground: Ground) -> int:
    from oat_tide.core.seasons.loess import trend_span

    return ground.ask.span or trend_span(ground.cycle.length, ground.ask.seasonal)
