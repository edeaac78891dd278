"""Prediction intervals of single periods: by t with the parameters' own error, or by errors from past starts.

Sources: Draper and Smith, Applied Regression Analysis (1998), chapter 3; DEFINITIONS of the rolling origin in
`core/accuracy/rolling`.
"""

from __future__ import annotations

from functools import partial
from typing import NamedTuple

import numpy as np
from msgspec.structs import replace

from oat_tide.core.accuracy import rolling
from oat_tide.core.exact import Values
from oat_tide.core.methods import METHODS
from oat_tide.core.series.panel import Panel
from oat_tide.core.trouble import Tell
from oat_tide.core.working.formula import Formula, choose, given, only, sqrt, t_quantile
from oat_tide.core.working.terms import Term
from oat_tide.plan.parts.project import Project
from oat_tide.plan.parts.seasons import Seasons
from oat_tide.plan.parts.smooth import Smooth
from oat_tide.stages.cycle import by_kind
from oat_tide.stages.project.ground import Ground, how_of, span_of
from oat_tide.stages.project.laid import Laid, Regressed, raised
from oat_tide.stages.reckoned import Reckoned

_STARTS, _FEWER = 60, 24
"""Past starts; and those of what is found by steps, of more series than can be waited for."""
_SERIES = 500


class Margins(NamedTuple):
    """By level, what to add for the lower limit and for the upper one; of methods that err so, as a share.

    Attributes:
        each: of single periods, (series, horizon) each.
        total: of all of them together, (series, 1) each.
    """

    each: tuple[tuple[Values, Values], ...]
    total: tuple[tuple[Values, Values], ...]


def intervals(g: Ground, laid: Laid, projected: Term) -> None:
    """The limits at every level asked for."""
    if laid.regressed is not None:
        for level in g.ask.intervals:
            _by_t(g, laid, laid.regressed, level, projected)
        return
    _by_past_errors(g, projected)


def _by_t(g: Ground, laid: Laid, told: Regressed, level: float, projected: Term) -> None:
    """By the quantile of t: the error of a period, of the curve and, where there is one, of the season."""
    d, name = g.d, f"{level:g}"
    hidden = partial(d.define, shown=False)
    freedom, square = free(g, laid, told)
    q = hidden(
        f"t_{name}", f"t for {name} %", t_quantile(given(level / 100, "level"), only(freedom > 0, freedom)),
        where=told.s,
    )  # fmt: skip
    line = square * (1 + told.leverage)
    curve = laid.curve
    assert curve is not None
    said = f"half of the {name} % interval"
    if laid.trend is None or laid.season is None:
        half = hidden(f"half_{name}", said + (" of ln" if told.logs else ""), q * sqrt(line), where=projected)
        for side, to, edge in (("lower", "from", curve - half), ("upper", "to", curve + half)):
            _limit(g, side, name, to, raised(edge) if told.logs else edge, projected)
        return
    # The error of the curve, and that of the index, each as it moves what is projected.
    trend, season, wavers = laid.trend, laid.season, _wavers(g, laid)
    assert g.seasons is not None
    multiplies = g.seasons.figures["kind"].values[:, 0] > 0
    own = trend**2 * line if told.logs else line
    product = season**2 * own + (trend * wavers) ** 2
    half = hidden(
        f"half_{name}",
        said,
        q * sqrt(by_kind(multiplies, product, own + wavers**2, d.columns)),
        where=projected,
    )
    for side, to, edge in (("lower", "from", laid.projected - half), ("upper", "to", laid.projected + half)):
        _limit(g, side, name, to, edge, projected)


def free(g: Ground, laid: Laid, told: Regressed) -> tuple[Formula, Formula]:
    """Degrees of freedom, and the square of the residual standard error that goes with them."""
    if laid.season is None:
        return told.freedom, told.s**2
    # The indices were fitted as well: all but one of them took up some of what varies.
    freedom = told.freedom - float(g.cycle.length - 1)
    return freedom, told.s**2 * told.freedom / freedom


def _wavers(g: Ground, laid: Laid) -> Term:
    """The standard error of the index of each period, defined once for all levels."""
    if "index_error" in g.d.figures:
        return g.d.term("index_error")
    found = laid.wavers
    assert found is not None
    return g.d.define(
        "index_error", "standard error of the index",
        Reckoned(lambda: np.nan_to_num(found()), "from the ratios of its season; see Seasons"), shown=False,
    )  # fmt: skip


def _limit(g: Ground, side: str, name: str, to: str, edge: Formula, projected: Term) -> None:
    if g.ask.positive:
        edge = choose(edge > 0, edge, 0.0)
    g.d.define(
        f"{side}_{name}", f"{name} % {to}", edge, where=projected, unit=g.unit,
        blank="Only projected periods have an interval, once it is reckoned.",
    )  # fmt: skip


def _by_past_errors(g: Ground, projected: Term) -> None:
    """By what the method missed from past starts, lead by lead."""
    d, lead, found = g.d, np.arange(g.d.columns) - g.past, margins_asked(g)
    there = (lead >= 0) & (lead < g.horizon)
    for place, level in enumerate(g.ask.intervals):
        name = f"{level:g}"
        for at, (side, to) in enumerate((("lower", "from"), ("upper", "to"))):
            margin = np.full((len(d.keys), d.columns), np.nan)
            if found is not None:
                margin[:, there] = found.each[place][at]
            said = d.define(
                f"margin_{side}_{name}", f"what past starts missed, {name} % {to}",
                given(margin, f"{by_share(g)}from past starts, at this lead"), shown=False, signed=True,
            )  # fmt: skip
            _limit(g, side, name, to, moved_by(g, projected, said), projected)


def by_share(g: Ground) -> str:
    """How what past starts missed counts, where that is no plain difference."""
    return "as a share of what was projected, " if METHODS[g.ask.method].by_share else ""


def moved_by(g: Ground, projected: Term, missed: Term) -> Formula:
    """What is projected with what past starts missed, or with that share of it."""
    return projected * (1 + missed) if METHODS[g.ask.method].by_share else projected + missed


def margins_asked(g: Ground) -> Margins | None:
    """The margins of what was missed from past starts; None while they are reckoned, and of no history."""
    if g.past <= 1:
        return None
    return g.late(
        margins_of, g.sight.past, g.ask.method, _plain(g.ask), g.seasonal, g.smoothing, g.ask.intervals,
        g.horizon,
    )  # fmt: skip


def _plain(ask: Project) -> Project:
    """What a method goes by, without what only changes how it is shown."""
    return replace(ask, over=(), every=False, intervals=(80.0,), sure=95.0, mean=False, positive=False)


def margins_of(
    past: Panel,
    method: str,
    ask: Project,
    seasonal: Seasons,
    smoothing: Smooth | None,
    levels: tuple[float, ...],
    horizon: int,
    tell: Tell,
) -> Margins:
    """The margins of a method by its errors from past starts; takes its time."""
    columns = past.columns + horizon
    how = how_of(ask, seasonal, smoothing, past.grid, past.first, columns)
    span = span_of(past, ask, past.columns)
    many = _FEWER if METHODS[method].iterated and len(past.keys) > _SERIES else _STARTS
    # From half of the history on: what is made of less errs more than what is made of all.
    starts = rolling.past_starts(span.end + 1, max(2, (span.end + 1) // 2), many)
    by, reach = METHODS[method], np.array([horizon])
    ahead, came = rolling.from_starts(by.kernel, past.settled, span.used, starts, horizon, how)
    missed = rolling.errors(ahead, came, by.by_share)
    total = rolling.errors(*rolling.together(ahead, came), by.by_share)
    if by.on_time:
        used = span.used[:, : span.end + 1]
        missed, total = rolling.as_now(missed, used, starts), rolling.as_now(total, used, starts, horizon)
    return Margins(
        tuple(rolling.margins(missed, level / 100) for level in levels),
        tuple(rolling.margins(total, level / 100, reach) for level in levels),
    )
