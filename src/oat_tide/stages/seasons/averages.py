"""Simple averages: the mean of each season over, or less, the mean of all, on whole years."""

from __future__ import annotations

from functools import partial

import numpy as np

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
    own = hidden("kept", f"{label} in complete years", only(wide(kept, d.columns, False), ground.actual))
    counts = wide(~gone, d.columns, False)
    taken = own
    if gone.any():
        taken = hidden("kept_counted", f"{label} in complete years, counted", only(counts, own))
    seasons = d.define(
        "joined",
        "mean of the season",
        mean(known(taken.likes(ground.cycle.find(ground.past)))),
        axis=AXIS,
        unit=ground.unit,
        blank="No complete year is known.",
    )
    everything = d.define(
        "mean_of_all",
        "mean of all seasons",
        mean(known(seasons.between(0, ground.cycle.length - 1))),
        unit=ground.unit,
        blank="No complete year is known.",
    )
    row = partial(
        d.define,
        unit=ground.index_unit,
        signed=not ground.multiplies.any(),
        blank="No complete year is known.",
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
    counted = ratio
    if gone.any():
        counted = row("counted", "Ratio, counted", only(counts, ratio), shown=False)
    return ratio, counted, scaled
