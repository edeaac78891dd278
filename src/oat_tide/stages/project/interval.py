"""Prediction intervals of single periods: from past starts, and beside them what a true curve would have.

Sources: `core/accuracy/past_errors` for those from past starts; Draper and Smith, Applied Regression Analysis
(1998), chapter 3, for those of a regression.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

import numpy as np
from msgspec.structs import replace

from oat_tide.core.accuracy import past_errors
from oat_tide.core.accuracy.past_errors import UNTOLD, Shape
from oat_tide.core.alike import Mask
from oat_tide.core.exact import Values
from oat_tide.core.working.formula import (
    Formula,
    choose,
    exp,
    given,
    ln,
    not_below_zero,
    sqrt,
    t_quantile,
)
from oat_tide.core.working.terms import Term
from oat_tide.plan.parts.project import Project
from oat_tide.stages.cycle import by_kind
from oat_tide.stages.project.ground import Ground
from oat_tide.stages.project.laid import Laid, Regressed, raised
from oat_tide.stages.project.past import Past, past_of
from oat_tide.stages.reckoned import Reckoned


@dataclass(frozen=True, eq=False, slots=True)
class Told:
    """The figures that intervals are made of.

    Attributes:
        logs: (series,) whether limits lie as far off in logarithms.
        error: the standard deviation of what is missed at each lead.
        freedom: degrees of freedom of t.
        growth, shared: how errors go with the lead.
    """

    logs: Mask
    error: Term
    freedom: Term
    growth: Term
    shared: Term


def intervals(g: Ground, laid: Laid, projected: Term) -> Told:
    """The limits at every level asked for; of a regression also those of a true curve."""
    told = _told(g, projected)
    for level in g.ask.intervals:
        name = f"{level:g}"
        half = t_of(g, told, name, level) * told.error
        for sign, side, to in ((-1.0, "lower", "from"), (1.0, "upper", "to")):
            edge = by_kind(told.logs, projected * raised(half * sign), projected + half * sign, g.d.columns)
            _limit(g, side, name, to, edge, projected)
    if laid.regressed is not None:
        for level in g.ask.intervals:
            _by_t(g, laid, laid.regressed, level, projected)
    return told


def t_of(g: Ground, told: Told, name: str, level: float) -> Term:
    """The quantile of t at a level, defined once."""
    if f"t_{name}" in g.d.figures:
        return g.d.term(f"t_{name}")
    return g.d.define(
        f"t_{name}", f"t for {name} %", t_quantile(given(level / 100, "level"), told.freedom), shown=False
    )


def _told(g: Ground, projected: Term) -> Told:
    """How far off past starts lay, as figures: s l^c times the root of 1 + l / 2J."""
    d, past = g.d, _past_asked(g) or _nothing_yet(len(g.d.keys))

    def fact(name: str, label: str, values: Values, why: str) -> Term:
        blank = "It is still reckoned, or nothing is projected."
        return d.define(name, label, given(values[:, None], why), shown=False, blank=blank)

    of_ln = " of ln" if past.logs.all() else ""
    why = "root mean square of what past starts missed, each over its lead to the power c"
    size = fact("past_size", f"error one period ahead{of_ln}, s", past.size, why)
    starts = fact("past_starts", "past starts, J", past.starts, f"of the latest {past_errors.STARTS}")
    over = f"median over {past.shape.series:,} series" if past.shape.series else "taken where nothing tells"
    c, w = (np.where(past.few, UNTOLD, value) for value in (past.shape.growth, past.shape.shared))
    growth = fact("past_growth", "errors grow by the lead to the power, c", c, over)
    shared = fact("past_shared", "errors of leads share, w", w, over)
    lead = given(np.arange(d.columns, dtype=float)[None] - (g.past - 1), "counted from the as-of")
    ahead = d.define("lead", "periods ahead, l", lead, where=g.ahead, shown=False)
    least_one = choose(starts > 1, starts, 1.0)
    error = d.define(
        "past_error",
        f"error so far ahead{of_ln}",
        size * exp(growth * ln(ahead)) * sqrt(1 + ahead / (2 * least_one)),
        where=projected,
        shown=False,
    )
    free = choose(starts / 2 > 3, starts / 2, 3.0)
    freedom = d.define("past_freedom", "degrees of freedom, half the starts, or 3", free, shown=False)
    return Told(past.logs, error, freedom, growth, shared)


def _nothing_yet(series: int) -> Past:
    """Where it is still reckoned, or there is no history."""
    none, no = np.full(series, np.nan), np.zeros(series, np.bool_)
    return Past(none, none, no, no, Shape())


def _by_t(g: Ground, laid: Laid, told: Regressed, level: float, projected: Term) -> None:
    """If the curve is true and errors are independent: the error of a period, of the curve, of the season."""
    d, name = g.d, f"{level:g}"
    hidden = partial(d.define, shown=False)
    q = hidden(
        f"curve_t_{name}", f"t for {name} %, if the curve is true",
        t_quantile(given(level / 100, "level"), told.freedom), where=told.s,
    )  # fmt: skip
    line = told.s**2 * (1 + told.leverage)
    curve = laid.curve
    assert curve is not None
    said = f"half of the {name} % interval, if the curve is true"
    if laid.trend is None or laid.season is None:
        half = hidden(f"half_{name}", said + (" of ln" if told.logs else ""), q * sqrt(line), where=projected)
        for side, to, edge in (("lower", "from", curve - half), ("upper", "to", curve + half)):
            _limit(g, f"curve_{side}", name, to, laid.moved(raised(edge)) if told.logs else edge, projected)
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
        _limit(g, f"curve_{side}", name, to, edge, projected)


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
    of_curve = ", if the curve is true" if side.startswith("curve_") else ""
    g.d.define(
        f"{side}_{name}", f"{name} % {to}{of_curve}", floored(g, edge), where=projected, unit=g.unit,
        shown=not of_curve, blank="Only projected periods have an interval, once it is reckoned.",
    )  # fmt: skip


def floored(g: Ground, edge: Formula) -> Formula:
    """What is projected, or a limit of it: nothing below zero where nothing in the history is."""
    if not g.floors.any():
        return edge
    bound = not_below_zero(edge, "nothing in the history is below zero")
    return by_kind(g.floors, bound, edge, g.d.columns)


def _past_asked(g: Ground) -> Past | None:
    """What past starts missed; None while it is reckoned, and of no history."""
    if not g.past:
        return None
    return g.late(
        past_of,
        g.sight.past,
        g.leaves,
        g.dimensions,
        g.ask.method,
        _plain(g.ask),
        g.seasonal,
        g.smoothing,
        g.horizon,
    )


def _plain(ask: Project) -> Project:
    """What a method goes by, without what only changes how it is shown."""
    return replace(ask, over=(), every=False, intervals=(80.0,), sure=95.0, mean=False, positive=False)
