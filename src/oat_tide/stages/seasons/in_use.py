"""The indices in use: those set by hand as they are, the others scaled to them."""

from __future__ import annotations

from functools import partial

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.seasons.indices import in_use_or_none
from oat_tide.core.working.formula import count, either, given, only, total
from oat_tide.core.working.terms import Term, known
from oat_tide.stages.seasons.by_hand import mend_hand, said_of_hand, state_of_hand
from oat_tide.stages.seasons.centred import no_ratio
from oat_tide.stages.seasons.ground import AXIS, Ground, Mask


def index_in_use(ground: Ground, scaled: Term, hand: Values) -> tuple[Term, Term | None]:
    """The indices in use: those set by hand as they are, the others scaled so that all average 1, or 0.

    Returns:
        the indices, and what the others were scaled or shifted by; None where none is set by hand.
    """
    d, length = ground.d, ground.cycle.length
    row = partial(d.define, axis=AXIS, unit=ground.index_unit, signed=not ground.multiplies.any())
    written = row(
        "hand",
        phrase("by hand"),
        given(hand, lambda series: said_of_hand(ground, series)),
        where=~np.isnan(hand),
        blank=phrase("Write an index here, with a word why if you like: the others are scaled to it."),
        mend=mend_hand(ground, scaled),
        state=state_of_hand(hand),
    )
    if np.isnan(hand).all():
        return row("index", phrase("index in use"), scaled, blank=no_ratio(ground)), None
    by_hand = ~np.isnan(hand)
    used, by = in_use_or_none(scaled.values, hand, ground.multiplies)
    rest = d.define(
        "rest",
        phrase("scaled, not by hand"),
        only(~by_hand, scaled),
        axis=AXIS,
        unit=ground.index_unit,
        shown=False,
    )
    every = known(rest.between(0, length - 1))
    set_by_hand = total(known(written.between(0, length - 1)))
    seasons = count(every) + count(known(written.between(0, length - 1)))
    factor = d.define(
        "hand_factor",
        phrase("the others scaled by") if ground.multiplies.any() else phrase("the others shifted by"),
        ground.by_kind(
            (seasons - set_by_hand) / total(every), (0 - set_by_hand - total(every)) / count(every), 1
        ),
        where=_both(by_hand, ~by_hand & ~np.isnan(scaled.values)) & ~np.isnan(by),
        unit=ground.index_unit,
        blank=phrase("No index is set by hand, or all are."),
    )
    some = np.repeat(~np.isnan(factor.values), length, axis=1)
    others = either(some, ground.by_kind(rest * factor, rest + factor, length), scaled)
    index = either(by_hand, written, others)
    return row("index", phrase("index in use"), index, values=used, blank=no_ratio(ground)), factor


def _both(one: Mask, other: Mask) -> Mask:
    """(series, 1) the series that have some of each."""
    return np.asarray(one.any(1, keepdims=True) & other.any(1, keepdims=True))
