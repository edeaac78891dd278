"""Simple averages: the mean of each season over, or less, the mean of all, on whole years."""

from __future__ import annotations

from functools import partial

import numpy as np

from oat_tide.core.language import phrase
from oat_tide.core.seasons.classical import Classical, whole_years
from oat_tide.core.working.formula import mean, only
from oat_tide.core.working.terms import Term, known, wide
from oat_tide.stages.seasons.ground import AXIS, Ground, Mask


def simple_averages(ground: Ground, result: Classical, gone: Mask) -> tuple[Term, Term, Term]:
    """The mean of each season over, or less, the mean of all, on whole years."""
    d, place = ground.d, ground.cycle.place[: ground.past]
    kept = ~np.isnan(
        whole_years(ground.values, place, ground.cycle.length, ground.cycle.years[: ground.past])
    )
    hidden = partial(d.define, unit=ground.unit, shown=False)
    label = ground.actuals.label
    own = hidden(
        "kept",
        phrase("{label} in complete years", label=label),
        only(wide(kept, d.columns, False), ground.actual),
    )
    counts = wide(~gone, d.columns, False)
    taken = own
    if gone.any():
        taken = hidden(
            "kept_counted", phrase("{label} in complete years, counted", label=label), only(counts, own)
        )
    seasons = d.define(
        "joined",
        phrase("mean of the season"),
        mean(known(taken.likes(ground.cycle.find(ground.past)))),
        axis=AXIS,
        unit=ground.unit,
        blank=phrase("No complete year is known."),
    )
    everything = d.define(
        "mean_of_all",
        phrase("mean of all seasons"),
        mean(known(seasons.between(0, ground.cycle.length - 1))),
        unit=ground.unit,
        blank=phrase("No complete year is known."),
    )
    row = partial(
        d.define,
        unit=ground.index_unit,
        signed=not ground.multiplies.any(),
        blank=phrase("No complete year is known."),
    )
    ratio = row(
        "ratio",
        phrase("Ratio to the mean of all")
        if ground.multiplies.all()
        else phrase("Difference from the mean of all"),
        ground.by_kind(only(everything > 0, own / everything), own - everything, d.columns),
        values=result.ratios,
        shown=False,
    )
    scaled = row(
        "scaled",
        phrase("index"),
        ground.by_kind(only(everything > 0, seasons / everything), seasons - everything, ground.cycle.length),
        values=result.indices,
        axis=AXIS,
    )
    counted = ratio
    if gone.any():
        counted = row("counted", phrase("Ratio, counted"), only(counts, ratio), shown=False)
    return ratio, counted, scaled
