"""Which form of season is likelier, and how far the trend goes in a year."""

from __future__ import annotations

from functools import partial

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.seasons.swing import FEWEST, FORMS, ranked
from oat_tide.core.working.formula import choose, given
from oat_tide.core.working.terms import Term
from oat_tide.stages.by_kernel import ByKernel
from oat_tide.stages.cycle import year_of
from oat_tide.stages.seasons.ground import Ground

_TOO_SHORT = phrase("It takes {fewest} cycles, all above zero.", fewest=FEWEST)


def likelier(ground: Ground) -> None:
    """Define by how much a multiplicative season is likelier than an additive one, at their better noise."""
    d = ground.d
    hidden = partial(d.define, shown=False, signed=True, blank=_TOO_SHORT)
    each = [
        hidden(
            f"likely_{place}",
            phrase("log-likelihood, {form} with noise {noise}", form=form, noise=noise),
            ByKernel(
                partial(_likelihood, ground, place),
                phrase("of what trend and season leave on this scale"),
                True,
            ),
        )
        for place, (form, noise) in enumerate(FORMS)
    ]
    total, product = (choose(one > other, one, other) for one, other in (each[:2], each[2:]))
    d.define(
        "form_ahead",
        phrase("log-likelihood, ahead by"),
        product - total,
        signed=True,
        blank=_TOO_SHORT,
    )


def _likelihood(ground: Ground, place: int) -> Values:
    return ground.judged.likelihoods[:, place : place + 1]


def ranks(values: Values) -> Values:
    out = np.full(values.shape, np.nan)
    for row, found in zip(values, out, strict=True):
        there = ~np.isnan(row)
        found[there] = ranked(row[there])
    return out


def year_change(ground: Ground, trend: Term) -> None:
    """How far the trend has come from its first period to its last, in a year's periods."""
    d, past = ground.d, ground.past
    there = ~np.isnan(trend.values[:, :past])
    first = np.where(there.any(1), there.argmax(1), -1) if past else np.full(len(there), -1)
    last = np.where(there.any(1), past - 1 - there[:, ::-1].argmax(1), -1)
    apart = np.where(last > first, last - first, np.nan)[:, None].astype(float)
    d.define(
        "year_change",
        phrase("change of the trend per year"),
        (trend.at(last) - trend.at(first))
        / given(apart, phrase("periods between the two"))
        * float(year_of(d.grid, ground.cycle.length)),
        unit=ground.unit,
        signed=True,
        blank=next(filter(None, ground.why_none), phrase("Still being computed.")),
    )
