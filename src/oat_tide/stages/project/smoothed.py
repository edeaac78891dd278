"""The smoother in hand of Smooth, run on: its own rows, and what it says of the periods to come."""

from __future__ import annotations

from functools import partial

import numpy as np

from oat_tide.core.smoothing.exponential import carried
from oat_tide.core.working.formula import Formula, given
from oat_tide.core.working.numerals import significant
from oat_tide.plan.parts.smooth import Smoother
from oat_tide.stages.cycle import by_kind, no_season
from oat_tide.stages.deck import Deck
from oat_tide.stages.deck.draft import of
from oat_tide.stages.project.carried import nothing
from oat_tide.stages.project.ground import Ground
from oat_tide.stages.project.laid import Laid
from oat_tide.stages.reach import forecasts, in_hand, is_window, label_of, spans, why_no_forecast, why_no_span


def why_not_on(g: Ground) -> str:
    """Why the smoother in hand can not run on; empty where it can."""
    if g.smoothing is None:
        # It is not asked for.
        return ""
    place = in_hand(g.smoothing)
    if place < 0:
        return "Smooth has no smoother. Add one there."
    ask = g.smoothing.smoothers[place]
    if not forecasts(ask):
        return f"{why_no_forecast(ask)} Take another smoother in hand in Smooth."
    if not ask.shown:
        return "The smoother in hand in Smooth is out of sight. Bring it back, or take another in hand."
    if is_window(ask) and spans(ask, g.grid) and why_no_span(ask.told_in, g.grid):
        return why_no_span(ask.told_in, g.grid)
    if g.ask.since is not None or g.ask.until is not None:
        return (
            "Smooth goes by all of the history and heeds no fit span. Clear the span to run its smoother on."
        )
    return ""


def smoothed(g: Ground, name: str, prefix: str = "", shown: bool = True) -> Laid:
    """Its one-step forecasts as what is fitted; ahead the last of them, and the trend where it has one."""
    deck = g.smooth
    assert deck is not None and g.smoothing is not None
    place = in_hand(g.smoothing)
    ask = g.smoothing.smoothers[place]
    last = np.full(len(g.d.keys), g.past - 1)
    label = label_of(ask, g.grid)
    last_of = f"last {label}" if is_window(ask) else "last level"
    fact = partial(g.d.define, unit=g.unit, shown=shown)
    level = fact(f"{prefix}level", last_of, of(deck, f"smoothed_{place}").at(last))
    facts, curve = [f"{prefix}level"], level + nothing(g)
    if ask.kind in ("trend", "damped"):
        trend = of(deck, f"trend_{place}").at(last)
        rise = fact(f"{prefix}rise", f"last trend {g.grid.a_period}", trend, signed=True)
        facts.append(f"{prefix}rise")
        curve = level + _steps(g, deck, place, ask) * rise
    fitted: Formula = of(deck, f"forecast_{place}")
    if f"back_{place}" in deck.figures:
        fitted, curve = of(deck, f"back_{place}"), _in_season(g, curve)

    def said(series: int) -> str:
        parts = [g.d.fact(each, series) for each in facts]
        if np.isnan(parts).any():
            return "no fit"
        rise = f" and {significant(parts[1], 4, plus=True)} {g.grid.a_period}" if len(parts) > 1 else ""
        return f"{g.unit} = the {last_of}, {significant(parts[0], 5)}{rise}"

    return Laid(name, fitted, curve, lambda series: "", said, tuple(facts), label=label)


def _steps(g: Ground, deck: Deck, place: int, ask: Smoother) -> Formula:
    """What the trend counts: one for each period on, or phi + phi² + ... where it is damped."""
    counts = np.full((len(g.d.keys), g.d.columns), np.nan)
    damped = ask.kind == "damped"
    phi = deck.figures[f"phi_{place}"].values[:, 0] if damped else np.ones(len(g.d.keys))
    counts[:, g.past :] = carried(phi, g.d.columns - g.past)
    return given(counts, "of the trend: φ + φ² + … for so many steps" if damped else "steps of the trend")


def _in_season(g: Ground, curve: Formula) -> Formula:
    """Put back in the season that was taken out."""
    assert g.seasons is not None and not no_season(g.grid, g.seasonal)
    index = of(g.seasons, "index").like(g.cycle.place)
    multiplies = g.seasons.figures["kind"].values[:, 0] > 0
    return by_kind(multiplies, curve * index, curve + index, g.d.columns)
