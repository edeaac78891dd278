"""What Seasons says in words: titles, findings, and whether there is a season at all."""

from __future__ import annotations

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.working.numerals import compact, fixed, significant
from oat_tide.stages.common import as_known_now, named, titled
from oat_tide.stages.seasons.ground import Ground
from oat_tide.stages.seasons.told import DRIFTS, LEVEL

_METHODS = {
    "simple": "simple averages",
    "classical": "centred average",
    "loess": "local regression",
}
_FEW = 3
"""Seasons that are named one by one."""


def fact(ground: Ground, name: str, series: int) -> float:
    """A fact of a series; NaN where it is not known or not there."""
    figure = ground.d.figures.get(name)
    return float("nan") if figure is None else float(figure.values[series, 0])


def by_season(ground: Ground, name: str, series: int) -> Values:
    """(seasons,) a figure of the seasons."""
    row: Values = ground.d.figures[name].values[series]
    return row


def index_said(ground: Ground, series: int, value: float, digits: int = 2) -> str:
    """An index in a sentence: "1.32 times its trend", "+212 cases"."""
    if ground.multiplies[series]:
        return f"{fixed(value, digits)} times"
    return f"{compact(abs(value))} {ground.unit} {'above' if value >= 0 else 'below'} it"


def verdict(ground: Ground, series: int) -> str:
    """Whether there is a season: "yes", "no", "perhaps", or "" while it cannot be told."""
    strength, chance, p = (fact(ground, name, series) for name in ("season_strength", "chance", "rank_p"))
    if np.isnan(strength) or np.isnan(p):
        return ""
    stands_out = np.isnan(chance) or strength > chance
    if stands_out and p < LEVEL:
        return "yes"
    return "perhaps" if stands_out or p < LEVEL else "no"


def title(ground: Ground, series: int) -> str:
    """The highest and the lowest season; where there is none, that."""
    name = named(ground.d.keys[series])
    if ground.why_none[series]:
        return f"{name}: no season can be told yet"
    used = by_season(ground, "index", series)
    if np.isnan(used).all():
        return f"{name}: no index yet"
    if verdict(ground, series) == "no":
        return f"{name} has no season that stands out from chance"
    high, low = int(np.nanargmax(used)), int(np.nanargmin(used))
    most, least = (index_said(ground, series, float(used[place])) for place in (high, low))
    trend = " its trend" if ground.multiplies[series] else ""
    best, worst = ground.season(high), ground.season(low)
    return f"{name} sells most in {best}, {most}{trend}, and least in {worst}, {least}"


def subtitle(ground: Ground, series: int) -> str:
    """The unit, the method, and what indices average."""
    ask, kind = ground.ask, ground.grid.kind
    how = _METHODS[ask.method]
    if ask.method == "classical":
        to = "ratio to" if ground.multiplies[series] else "difference from"
        how = f"{to} {how} of {ground.cycle.length} {kind}s"
    neutral = "1" if ground.multiplies[series] else "0"
    per = " · by selling day" if ask.per == "selling day" else ""
    return f"{ground.unit} {ground.grid.a_period} · {how} · indices average {neutral}{per}" + as_known_now(
        ground.sight
    )


def without_title(ground: Ground, series: int) -> str:
    """What the deseasonalised series does, and next year's total."""
    name, change = named(ground.d.keys[series]), fact(ground, "year_change", series)
    if ground.why_none[series] or np.isnan(change):
        return f"{name}: nothing deseasonalised yet"
    way = "rises" if change > 0 else "falls"
    if ground.ask.through == "growth":
        growth = fact(ground, "growth", series)
        return f"{name} without its season {way} by {fixed(abs(growth), 2)} % {ground.grid.a_period}"
    return f"{name} without its season {way} by {compact(abs(change))} {ground.unit} a year"


def equation(ground: Ground, series: int) -> str:
    """The line as an equation."""
    slope, intercept = fact(ground, "slope", series), fact(ground, "intercept", series)
    if np.isnan(slope):
        return "No line can be laid through it: it takes three deseasonalised periods."
    sign = "+" if slope >= 0 else "−"
    if ground.ask.through == "growth":
        return f"y = e^({significant(intercept, 6)} {sign} {significant(abs(slope), 4)} t)"
    return f"y = {significant(intercept, 6)} {sign} {significant(abs(slope), 5)} t"


def suggestion(ground: Ground, series: int) -> str:
    """Why the season is taken to multiply, or to add."""
    rho, asked = float(ground.rho[series]), ground.ask.season
    if ground.why_none[series] and "above zero" not in ground.why_none[series]:
        return ""
    row = ground.sold.values[series, : ground.past]
    if (row[~np.isnan(row)] <= 0).any():
        return "Some periods are not above zero: only an additive season takes them."
    if np.isnan(rho):
        return "It takes three years to see whether the swing grows with the level: additive until then."
    grows = ground.multiplies[series] if asked == "suggested" else rho >= 0.5
    said = f"ρ = {fixed(rho, 2)}"
    if grows:
        return f"The swing grows with the level ({said}): multiplicative suits."
    return f"The swing does not grow with the level ({said}): additive suits."


def is_there(ground: Ground, series: int) -> str:
    """One plain sentence, with what drifts."""
    said = verdict(ground, series)
    if not said:
        return ground.why_none[series] or "It cannot be told yet."
    kind = ground.grid.kind
    what = (
        {"day": "the weekday"}.get(kind, f"the {kind}")
        if ground.cycle.length != 365
        else "the day of the year"
    )
    share = fixed(100 * fact(ground, "season_strength", series), 0)
    sentence = {
        "yes": f"Yes: {what} explains {share} % of what the trend leaves, more than chance does.",
        "perhaps": "Perhaps: one of strength and rank test stands out from chance, the other does not.",
        "no": f"No: {what} explains no more than chance does in a history of this length. The figures below "
              "are noise, and no season is drawn.",
    }[said]  # fmt: skip
    return sentence + drifting(ground, series)


def drifting(ground: Ground, series: int) -> str:
    """The seasons whose ratios drift over the years."""
    slope, p = by_season(ground, "drift", series), by_season(ground, "drift_p", series)
    found = np.flatnonzero((p < DRIFTS) & ~np.isnan(p)).tolist()
    if not found:
        return ""
    names = [
        f"{ground.season(place)} ({significant(float(slope[place]), 2, plus=True)} a year)"
        for place in sorted(found, key=lambda place: float(p[place]))[:_FEW]
    ]
    more = f" and {len(found) - _FEW} more" if len(found) > _FEW else ""
    return f" {', '.join(names)}{more} {'drifts' if len(found) == 1 else 'drift'}: old years mislead there."


def finding(ground: Ground, series: int) -> str:
    """The highest and lowest season, how strong it is and which way the trend goes."""
    if ground.why_none[series]:
        return "no season\ncan be told yet"
    used = by_season(ground, "index", series)
    if np.isnan(used).all():
        return "no index yet"
    said = verdict(ground, series)
    if said == "no":
        return "no season that\nstands out from chance"
    high, low = int(np.nanargmax(used)), int(np.nanargmin(used))
    names = ground.d.axes["seasons"].short
    digits = [
        fixed(float(used[each]), 2) if ground.multiplies[series] else compact(float(used[each]))
        for each in (high, low)
    ]
    strength = fact(ground, "season_strength", series)
    strong = "strong" if strength >= 0.7 else "clear" if said == "yes" else "uncertain"
    ends = [names[high] or ground.season(high), names[low] or ground.season(low)]
    return f"{ends[0]} {digits[0]} · {ends[1]} {digits[1]}\n{strong}{_trend_way(ground, series)}"


def _trend_way(ground: Ground, series: int) -> str:
    trend = ground.d.figures["trend"].values[series]
    known = trend[~np.isnan(trend)]
    if known.size < 2 or known[0] == known[-1]:
        return ""
    return ", growing" if known[-1] > known[0] else ", shrinking"


def hint(ground: Ground) -> str:
    """What can be written where."""
    return titled(
        "in a year's row, Delete leaves a ratio out and takes it back; words leave it out with that note. In "
        "“by hand” an index is written, with a note behind it."
    )
