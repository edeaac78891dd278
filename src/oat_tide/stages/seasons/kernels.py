"""The arrays behind a decomposition, by each method, for series whose seasons multiply and those that add."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import fields

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.seasons import loess
from oat_tide.core.seasons.classical import Classical, classical, simple
from oat_tide.core.series.panel import Panel
from oat_tide.core.user_error import Progress
from oat_tide.stages.seasons.ground import Ground, Mask

_SOON = 15_000
"""Periods, times the passes of the outer loop, that local regression takes within a frame."""
_BEGINS = 1_200
"""What a pass takes however few the periods are, in periods."""

Answer = tuple[Values, Values]
"""Trend and season."""
Selling = tuple[tuple[float, ...], ...]
"""Selling days, their average, and by what moving holidays raise; nothing where days do not count."""


def ratios_joined(ground: Ground, counted: Mask | None) -> Classical:
    """Simple averages or the centred average.

    Args:
        counted: (series, past columns) the ratios that count; None for all.
    """
    cycle, ask, past = ground.cycle, ground.ask, ground.past
    place, scale = cycle.place[:past], ground.scale

    def run(rows: Mask, products: bool) -> Classical:
        values = ground.values[rows]
        own = None if counted is None else counted[rows]
        if ask.method == "simple":
            return simple(values, place, cycle.length, cycle.years[:past], products, own, scale)
        plain = ground.judged.plain[rows]
        return classical(values, place, cycle.length, products, ask.joined, own, scale, plain)

    return _merged(ground.multiplies, run)


def _merged(multiplies: Mask, run: Callable[[Mask, bool], Classical]) -> Classical:
    """One result of the series that multiply and those that add, each by its own."""
    if multiplies.all() or not multiplies.any():
        return run(np.ones(len(multiplies), np.bool_), bool(multiplies.all()))
    found = {products: run(multiplies == products, products) for products in (True, False)}
    merged = []
    for field in fields(Classical):
        one, other = (getattr(found[products], field.name) for products in (True, False))
        both = np.empty((len(multiplies), *one.shape[1:]), one.dtype)
        both[multiplies], both[~multiplies] = one, other
        merged.append(both)
    return Classical(*merged)


def by_regression(ground: Ground) -> Answer | None:
    """Trend and season by local regression; None while it is still being computed."""
    ask, place = ground.ask, ground.cycle.place[: ground.past]
    # Week 53 and 29 February share the season before them: without them each cycle is as long as the others.
    odd = tuple(np.flatnonzero(np.diff(place, prepend=-1) == 0).tolist())
    asked = odd, ground.cycle.length, ask.seasonal, ask.span, ask.robust
    loops = loess.ROBUST_OUTER if ask.robust else 1
    if loops * (_BEGINS + ground.values.size) <= _SOON:
        return loess.of_each(ground.values, ground.multiplies, *asked)
    products = tuple(ground.multiplies.tolist())
    usable = tuple(not why for why in ground.why_none)
    return ground.late(parts_of, ground.sight.past, products, usable, _selling(ground), *asked)


def _selling(ground: Ground) -> Selling:
    sells = ground.selling
    if sells is None:
        return ()
    by = np.ones(1) if sells.raised is None else sells.raised.values[0]
    return tuple(tuple(each.tolist()) for each in (sells.days.values[0], sells.average.values[0], by))


def parts_of(
    panel: Panel,
    products: tuple[bool, ...],
    usable: tuple[bool, ...],
    selling: Selling,
    odd: tuple[int, ...],
    cycle: int,
    seasonal: int,
    span: int,
    robust: bool,
    progress: Progress,
) -> Answer:
    """Decompose a whole panel; this takes a while."""
    values = np.where(np.array(usable)[:, None], panel.judged, np.nan)
    if selling:
        days, average, raised = (np.array(each)[: panel.columns] for each in selling)
        sells = days > 0
        values = np.where(sells, values / np.where(sells, days, 1) * average / raised, np.nan)
    return loess.of_each(values, np.array(products), odd, cycle, seasonal, span, robust)
