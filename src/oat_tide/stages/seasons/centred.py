"""The centred average, the ratios to it and their indices; in three passes where something is not known."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

import numpy as np

from oat_tide.core.language import counted, noun, phrase
from oat_tide.core.seasons.classical import Classical, gaps_within
from oat_tide.core.seasons.indices import FEWEST_TO_TRIM
from oat_tide.core.working.formula import Formula, count, either, given, mean, median, only, total
from oat_tide.core.working.terms import Term, known, trimmed, wide
from oat_tide.stages.deck.called import WhyBlank
from oat_tide.stages.seasons.ground import AXIS, Ground, Mask


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
        """Return the label of a figure in this pass."""
        return f"{label}, {self.said}" if self.said else label


ONE = Turn()
_PASSES = Turn("first", phrase("first pass")), Turn("second", phrase("second pass")), ONE
"""Where something is not known the centred average is taken three times, twice to fill it."""


def ratio_to_average(ground: Ground, result: Classical, gone: Mask) -> tuple[Term, Term, Term, Term]:
    """The ratio to, or difference from, the centred average; in three passes where something is not known."""
    filled = ground.actual
    gaps = gaps_within(ground.values)
    for turn in _PASSES if gaps.any() else (ONE,):
        kernel = None if turn.mark else result
        trend = centred_trend(ground, filled, turn, kernel)
        ratio, counted = _ratio(ground, trend, gone, turn, kernel)
        joined = _joined(ground, counted, turn, kernel)
        scaled = scaled_row(ground, joined, turn, kernel)
        if turn.mark:
            filled = _filled(ground, scaled, gaps, turn)
    return trend, ratio, counted, scaled


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
        turn.label(phrase("Trend")),
        body,
        values=None if result is None else result.trend,
        where=_past_alone(ground),
        unit=ground.unit,
        shown=not turn.mark and ground.ask.arrangement != "deseasonalised",
        blank=no_trend(ground),
    )


def _past_alone(ground: Ground) -> Mask:
    """(1, columns) up to the as-of."""
    return (np.arange(ground.d.columns) < ground.past)[None]


def no_trend(ground: Ground) -> WhyBlank:
    half, kind = ground.cycle.length // 2, ground.grid.kind

    def why(series: int, column: int) -> str:
        if ground.why_none[series]:
            return ground.why_none[series]
        if column >= ground.past:
            return phrase("After the as-of.")
        if column < half or column >= ground.past - half:
            return phrase(
                "The centred average takes {half} on either side: at the ends of the history there "
                "is none, and none is made up.",
                half=counted(half, kind),
            )
        return phrase("The window of the centred average reaches beyond what is known.")

    return why


def _ratio(
    ground: Ground, trend: Term, gone: Mask, turn: Turn, result: Classical | None
) -> tuple[Term, Term]:
    """What sold over, or less, its trend; and the same without those left out."""
    d, actual = ground.d, ground.actual
    row = partial(d.define, unit=ground.index_unit, shown=False, blank=no_trend(ground))
    body = ground.by_kind(only(trend > 0, actual / trend), actual - trend, d.columns)
    label = phrase("Ratio to trend") if ground.multiplies.all() else phrase("Difference from trend")
    ratio = row(
        turn.named("ratio"), turn.label(label), body, values=None if result is None else result.ratios
    )
    if not gone.any():
        return ratio, ratio
    kept = wide(~gone, d.columns, False)
    return ratio, row(
        turn.named("counted"), turn.label(phrase("{label}, counted", label=label)), only(kept, ratio)
    )


def _joined(ground: Ground, counted: Term, turn: Turn, result: Classical | None) -> Term:
    """The ratios of a season joined to one."""
    d, how = ground.d, ground.ask.joined
    likes = known(counted.likes(ground.cycle.find(ground.past)))
    body = {
        "mean": lambda: mean(likes),
        "median": lambda: median(likes),
        "trimmed": lambda: mean(trimmed(likes, 1, FEWEST_TO_TRIM)),
    }[how]()
    word = phrase("ratios") if ground.multiplies.all() else phrase("differences")
    said = {"mean": phrase("mean"), "median": phrase("median"), "trimmed": phrase("trimmed mean")}[how]
    return d.define(
        turn.named("joined"),
        turn.label(phrase("{said} of {word}", said=said, word=word)),
        body,
        values=None if result is None else result.joined,
        axis=AXIS,
        unit=ground.index_unit,
        signed=not ground.multiplies.any(),
        shown=not turn.mark,
        blank=no_ratio(ground),
    )


def no_ratio(ground: Ground) -> WhyBlank:
    def why(series: int, column: int) -> str:
        if ground.why_none[series]:
            return ground.why_none[series]
        return phrase(
            "No year has a ratio for {season}: a full {length}-{kind} window around one of them "
            "would give it.",
            season=ground.season(column),
            length=ground.cycle.length,
            kind=noun(ground.grid.kind),
        )

    return why


def scaled_row(ground: Ground, joined: Term, turn: Turn, result: Classical | None) -> Term:
    """Joined ratios brought to average 1, or 0, and by what."""
    d, last = ground.d, ground.cycle.length - 1
    every = known(joined.between(0, last))
    products, sums = count(every) / total(every), 0 - mean(every)
    factor = d.define(
        turn.named("factor"),
        turn.label(phrase("scaled by") if ground.multiplies.all() else phrase("shifted by")),
        ground.by_kind(only(total(every) > 0, products), sums, 1),
        values=None if result is None else result.factor,
        unit=ground.index_unit,
        shown=not turn.mark,
        signed=not ground.multiplies.any(),
        blank=no_ratio(ground),
    )
    return d.define(
        turn.named("scaled"),
        turn.label(phrase("scaled") if ground.multiplies.any() else phrase("shifted")),
        ground.by_kind(joined * factor, joined + factor, last + 1),
        values=None if result is None else result.indices,
        axis=AXIS,
        unit=ground.index_unit,
        signed=not ground.multiplies.any(),
        shown=not turn.mark,
        blank=no_ratio(ground),
    )


def _filled(ground: Ground, scaled: Term, gaps: Mask, turn: Turn) -> Term:
    """Fill unknown periods with the local level times, or plus, the index of their season."""
    d, half = ground.d, ground.cycle.length // 2
    hidden = partial(d.define, unit=ground.unit, shown=False)
    none = np.isnan(scaled.values)
    neutral = ground.by_kind(
        given(np.ones((1, none.shape[1])), phrase("it has no ratio: as the trend")),
        given(np.zeros((1, none.shape[1])), phrase("it has no ratio: as the trend")),
        none.shape[1],
    )
    index = d.define(
        turn.named("index"),
        turn.label(phrase("index")),
        either(none, neutral, scaled),
        axis=AXIS,
        shown=False,
    )
    season = index.like(ground.cycle.place)
    out = hidden(
        turn.named("level_of"),
        turn.label(phrase("actual without its season")),
        ground.by_kind(only(wide(_not_zero(index, ground), d.columns, False), ground.actual / season),
                       ground.actual - season, d.columns),
    )  # fmt: skip
    if ground.cycle.length % 2:
        level: Formula = mean(known(out.over(-half, half)))
    else:
        level = (mean(known(out.over(-half, half - 1))) + mean(known(out.over(1 - half, half)))) / 2
    at = wide(gaps, d.columns, False)
    local = hidden(turn.named("level"), turn.label(phrase("local level")), level, where=at)
    expected = ground.by_kind(local * season, local + season, d.columns)
    return hidden(turn.named("filled"), turn.label(phrase("filled")), either(at, expected, ground.actual))


def _not_zero(index: Term, ground: Ground) -> Mask:
    mask: Mask = index.values[:, ground.cycle.place[: ground.past]] != 0
    return mask
