"""The smoother in hand of Smooth, run on: its own rows, and what it says of the periods to come."""

from __future__ import annotations

from functools import partial

import numpy as np

from oat_tide.core.language import phrase
from oat_tide.core.methods.table import METHODS
from oat_tide.core.smoothing.exponential import carried
from oat_tide.core.working.formula import Formula, given
from oat_tide.core.working.number_format import significant
from oat_tide.plan.parts.smooth import Smoother
from oat_tide.plan.plan import Plan
from oat_tide.stages.cycle import by_kind, no_season
from oat_tide.stages.methods.applied import AppliedMethod
from oat_tide.stages.methods.carried import nothing
from oat_tide.stages.methods.ground import Ground
from oat_tide.stages.methods.room import Room
from oat_tide.stages.published import Smoothed, season_of, smoothers_of
from oat_tide.stages.reach import forecasts, in_hand, is_window, label_of, spans, why_no_forecast, why_no_span


def why_not(g: Ground) -> str:
    """Why the smoother in hand can not run on; empty where it can."""
    if g.smoothing is None:
        # It is not asked for.
        return ""
    place = in_hand(g.smoothing)
    if place < 0:
        return phrase("Smooth has no smoother. Add one there.")
    ask = g.smoothing.smoothers[place]
    if not forecasts(ask):
        return phrase(
            "{why_no_forecast} Select another smoother in Smooth.", why_no_forecast=why_no_forecast(ask)
        )
    if not ask.shown:
        return phrase("The smoother selected in Smooth is hidden. Show it, or select another.")
    if is_window(ask) and spans(ask, g.grid) and why_no_span(ask.told_in, g.grid):
        return why_no_span(ask.told_in, g.grid)
    if g.ask.since is not None or g.ask.until is not None:
        return phrase(
            "Smooth goes by all of the history and has no fit span. Clear the span to extend its smoother."
        )
    return ""


def lay(g: Ground, prefix: str, shown: bool) -> AppliedMethod:
    """Lay it on a history: its one-step forecasts are what is fitted.

    Ahead is the last of them, and the trend where it has one.
    """
    assert g.smooth is not None and g.smoothing is not None
    place = in_hand(g.smoothing)
    ask = g.smoothing.smoothers[place]
    last = np.full(len(g.d.keys), g.past - 1)
    label = label_of(ask, g.grid)
    last_of = phrase("last {label}", label=label) if is_window(ask) else phrase("last level")
    fact = partial(g.d.define, unit=g.unit, shown=shown)
    own = smoothers_of(g.smooth)[place]
    level = fact(f"{prefix}level", last_of, own.level.at(last))
    facts, curve = [level], level + nothing(g)
    if own.trend is not None:
        rise = fact(
            f"{prefix}rise",
            phrase("last trend {per_period}", per_period=g.grid.per_period),
            own.trend.at(last),
            signed=True,
        )
        facts.append(rise)
        curve = level + _steps(g, own, ask) * rise
    fitted: Formula = own.forecast
    if own.back is not None:
        fitted, curve = own.back, _in_season(g, curve)

    names = tuple(each.source.figure.name for each in facts)

    def said(series: int) -> str:
        parts = [float(each.values[series, 0]) for each in facts]
        if np.isnan(parts).any():
            return phrase("no fit")
        rise = (
            phrase(
                " and {parts} {per_period}",
                parts=significant(parts[1], 4, plus=True),
                per_period=g.grid.per_period,
            )
            if len(parts) > 1
            else ""
        )
        return phrase(
            "{unit} = the {last_of}, {parts}{rise}",
            unit=g.unit,
            last_of=last_of,
            parts=significant(parts[0], 5),
            rise=rise,
        )

    return AppliedMethod(METHODS["smoothed"], fitted, curve, lambda series: "", said, names, label=label)


def _steps(g: Ground, own: Smoothed, ask: Smoother) -> Formula:
    """What the trend counts: one for each period on, or phi + phi² + ... where it is damped."""
    counts = np.full((len(g.d.keys), g.d.columns), np.nan)
    counts[:, g.past :] = carried(own.damping, g.d.columns - g.past)
    damped = ask.kind == "damped"
    return given(
        counts,
        phrase("of the trend: φ + φ² + … for so many steps") if damped else phrase("steps of the trend"),
    )


def _in_season(g: Ground, curve: Formula) -> Formula:
    """Put back in the season that was taken out."""
    taken = season_of(g.seasons)
    assert taken is not None and not no_season(g.grid, g.seasonal)
    index = taken.index.like(g.cycle.place)
    inside = by_kind(taken.multiplies, curve * index, curve + index, g.d.columns)
    return by_kind(taken.untold, curve, inside, g.d.columns)


def _stands_on(plan: Plan) -> frozenset[str]:
    own = {"smooth", "seasons"} if plan.smooth.of == "deseasonalised" else {"smooth"}
    return frozenset(own)


ROOMS = (Room(METHODS["smoothed"], lay, why_not, _stands_on),)
