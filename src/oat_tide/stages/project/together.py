"""The prediction interval of all periods ahead together, from their joint errors.

The errors of a curve go together from period to period, those of periods that have the same index as well:
neither limits nor their squares can be added. Of a total sum of g (x b + e), g what an error moves a period
by, the variance is s² (sum of g² + w (X'X)⁻¹ w'), w the sum of g x. Source: Draper and Smith, Applied
Regression Analysis (1998), chapters 3 and 5. Where logarithms are fitted, g is the projected figure itself
(the first term of its series), and the limits lie as far off in logarithms. What is projected by past errors
has the totals that past starts missed.
"""

from __future__ import annotations

from functools import partial

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.working.formula import Formula, choose, either, given, only, sqrt, total
from oat_tide.plan.parts.project import Project
from oat_tide.stages.common import counted
from oat_tide.stages.cycle import by_kind
from oat_tide.stages.project.ground import Ground
from oat_tide.stages.project.interval import by_share, free, margins_asked, moved_by
from oat_tide.stages.project.laid import Laid, Regressed, raised
from oat_tide.stages.reckoned import Reckoned


def limits_of(ask: Project) -> tuple[str, ...]:
    """The figures of the limits, level by level."""
    return tuple(f"total_{side}_{level:g}" for level in ask.intervals for side in ("lower", "upper"))


def total_intervals(g: Ground, laid: Laid) -> None:
    """The limits of the total of all periods ahead, at every level asked for."""
    if "ahead_total" not in g.d.figures:
        return
    if laid.regressed is None:
        _by_past_errors(g)
    else:
        _by_t(g, laid, laid.regressed)


def _by_t(g: Ground, laid: Laid, told: Regressed) -> None:
    d, whole = g.d, g.d.term("ahead_total")
    hidden = partial(d.define, shown=False)
    gain = hidden("gain", "what an error of the fit moves it by", _gain(g, laid, told), where=g.ahead)
    every = gain.between(g.past, g.past + g.horizon - 1)
    own = hidden("gain_squares", "sum of its squares", total(every**2))
    curve = hidden("joint", "joint leverage of the periods ahead", told.joint(gain))
    freedom, square = free(g, laid, told)
    error = square * (own + curve)
    if laid.season is not None:
        error = error + hidden("index_together", "squared error of the indices", _of_indices(g, laid))
    size = hidden("total_error", "standard error of the total", sqrt(only(freedom > 0, error)))
    for level in g.ask.intervals:
        half = d.term(f"t_{level:g}") * size
        if told.logs and laid.season is None:
            far = hidden(f"total_half_{level:g}", "half of it over the total", only(whole > 0, half / whole))
            edges = whole / raised(far), whole * raised(far)
        else:
            far = hidden(f"total_half_{level:g}", "half of it", half)
            edges = whole - far, whole + far
        _limits(g, level, *edges)


def _gain(g: Ground, laid: Laid, told: Regressed) -> Formula:
    """What an error of what is fitted moves a projected period by."""
    plain = either(np.ones((1, g.d.columns), np.bool_), given(1.0, "one for one"), given(1.0))
    if laid.trend is None or laid.season is None:
        return laid.projected if told.logs else plain
    own: Formula = laid.trend if told.logs else plain
    return by_kind(_multiplies(g), own * laid.season, own, g.d.columns)


def _multiplies(g: Ground) -> np.ndarray:
    assert g.seasons is not None
    found: np.ndarray = g.seasons.figures["kind"].values[:, 0] > 0
    return found


def _of_indices(g: Ground, laid: Laid) -> Formula:
    """What the error of each index comes to in the total: its periods share it, and all of them average 1."""
    assert laid.trend is not None and laid.season is not None and laid.wavers is not None
    trend, season, wavers = laid.trend, laid.season, laid.wavers
    ahead = slice(g.past, g.past + g.horizon)
    place, length = g.cycle.place[ahead], g.cycle.length

    in_season = (place[:, None] == np.arange(length)).astype(float)

    def squares() -> Values:
        multiplies = _multiplies(g)[:, None]
        moves = np.where(multiplies, trend.values[:, ahead], 1.0)
        shared = np.where(multiplies, moves * season.values[:, ahead], moves).sum(1, keepdims=True) / length
        sure = np.zeros((len(moves), length))
        sure[:, place] = np.nan_to_num(wavers()[:, ahead])
        found: Values = (((moves @ in_season - shared) * sure) ** 2).sum(1, keepdims=True)
        return found

    return Reckoned(squares, "from the ratios of each season, all of which average 1; see Seasons", True)


def _by_past_errors(g: Ground) -> None:
    d, whole, found = g.d, g.d.term("ahead_total"), margins_asked(g)
    for place, level in enumerate(g.ask.intervals):
        edges = []
        for at, side in enumerate(("lower", "upper")):
            margin = np.full((len(d.keys), 1), np.nan) if found is None else found.total[place][at]
            why = f"{by_share(g)}from what past starts missed of {g.horizon} together"
            missed = d.define(
                f"margin_total_{side}_{level:g}", f"what past starts missed of it, {level:g} %",
                given(margin, why), shown=False, signed=True,
            )  # fmt: skip
            edges.append(moved_by(g, whole, missed))
        _limits(g, level, *edges)


def _limits(g: Ground, level: float, lower: Formula, upper: Formula) -> None:
    ahead = counted(g.horizon, g.grid.kind)
    for side, to, edge in (("lower", "from", lower), ("upper", "to", upper)):
        g.d.define(
            f"total_{side}_{level:g}",
            f"their total, {level:g} % {to}",
            choose(edge > 0, edge, 0.0) if g.ask.positive else edge,
            unit=g.unit,
            blank=f"It takes a fit, or two past starts with {ahead} known after each.",
        )
