"""Prediction intervals of single periods: from past starts, and beside them what a true curve would have.

Sources: `core/accuracy/past_errors` for those from past starts; Draper and Smith, Applied Regression Analysis
(1998), chapter 3, for those of a regression.
"""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace

from oat_tide.core.accuracy import past_errors
from oat_tide.core.accuracy.past_errors import UNTOLD, Shape
from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
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
from oat_tide.stages.by_kernel import ByKernel
from oat_tide.stages.cycle import by_kind
from oat_tide.stages.methods.applied import AppliedMethod, Regressed, raised
from oat_tide.stages.methods.ground import Ground
from oat_tide.stages.project.past import Past, past_of
from oat_tide.stages.project.projection import IfTrue, IntervalTerms, Limits


def intervals(
    g: Ground, laid: AppliedMethod, projected: Term
) -> tuple[IntervalTerms, tuple[Limits, ...], IfTrue | None]:
    """What intervals are made of, and the limits at every level; of a regression also those if it is true."""
    told, limits = _told(g, projected), []
    for level in g.ask.intervals:
        half = told.quantiles[level] * told.error
        low, high = (
            _limit(
                g,
                side,
                level,
                by_kind(told.logs, projected * raised(half * sign), projected + half * sign, g.d.columns),
                projected,
            )
            for sign, side in ((-1.0, "lower"), (1.0, "upper"))
        )
        limits.append(Limits(level, low, high))
    return told, tuple(limits), _if_true(g, laid, projected)


def _told(g: Ground, projected: Term) -> IntervalTerms:
    """How far off past starts lay, as figures: s l^c times the root of 1 + l / 2J."""
    d, past = g.d, _past_asked(g) or _nothing_yet(len(g.d.keys))

    def fact(name: str, label: str, values: Values, why: str) -> Term:
        blank = phrase("Still being computed, or nothing is projected.")
        return d.define(name, label, given(values[:, None], why), shown=False, blank=blank)

    of_ln = phrase(" of ln") if past.logs.all() else ""
    why = phrase("root mean square of what past starts missed, each over its lead to the power c")
    size = fact("past_size", phrase("error one period ahead{of_ln}, s", of_ln=of_ln), past.size, why)
    starts = fact(
        "past_starts",
        phrase("past starts, J"),
        past.starts,
        phrase("of the latest {starts}", starts=past_errors.STARTS),
    )
    over = (
        phrase("median over {series:,} series", series=past.shape.series)
        if past.shape.series
        else phrase("taken where nothing tells")
    )
    c, w = (np.where(past.few, UNTOLD, value) for value in (past.shape.growth, past.shape.shared))
    growth = fact("past_growth", phrase("errors grow by the lead to the power, c"), c, over)
    shared = fact("past_shared", phrase("errors of leads share, w"), w, over)
    lead = given(np.arange(d.columns, dtype=float)[None] - (g.past - 1), phrase("counted from the as-of"))
    ahead = d.define("lead", phrase("periods ahead, l"), lead, where=g.ahead, shown=False)
    least_one = choose(starts > 1, starts, 1.0)
    error = d.define(
        "past_error",
        phrase("error so far ahead{of_ln}", of_ln=of_ln),
        size * exp(growth * ln(ahead)) * sqrt(1 + ahead / (2 * least_one)),
        where=projected,
        shown=False,
    )
    free = choose(starts / 2 > 3, starts / 2, 3.0)
    freedom = d.define("past_freedom", phrase("degrees of freedom, half the starts, or 3"), free, shown=False)
    quantiles = {
        level: d.define(
            f"t_{level:g}",
            phrase("t for {level:g} %", level=level),
            t_quantile(given(level / 100, "level"), freedom),
            shown=False,
        )
        for level in g.ask.intervals
    }
    return IntervalTerms(past.logs, error, freedom, growth, shared, quantiles)


def _nothing_yet(series: int) -> Past:
    """Return empty limits while they are being computed, or without a history."""
    none, no = np.full(series, np.nan), np.zeros(series, np.bool_)
    return Past(none, none, no, no, Shape())


def _if_true(g: Ground, laid: AppliedMethod, projected: Term) -> IfTrue | None:
    """If the curve is true and errors are independent: the error of a period, of the curve, of the season."""
    told, d = laid.regressed, g.d
    if told is None:
        return None
    squared, of_index = told.s**2 * (1 + told.leverage), _index_error(g, laid)
    quantiles, limits = {}, []
    for level in g.ask.intervals:
        q = quantiles[level] = d.define(
            f"curve_t_{level:g}", phrase("t for {level:g} %, if the curve is true", level=level),
            t_quantile(given(level / 100, "level"), told.freedom), where=told.s, shown=False,
        )  # fmt: skip
        low, high = (
            _limit(g, f"curve_{side}", level, edge, projected)
            for side, edge in zip(
                ("lower", "upper"), _edges(g, laid, told, level, q, squared, of_index, projected), strict=True
            )
        )
        limits.append(Limits(level, low, high))
    return IfTrue(quantiles, tuple(limits))


def _edges(
    g: Ground,
    laid: AppliedMethod,
    told: Regressed,
    level: float,
    q: Term,
    squared: Formula,
    of_index: Term | None,
    projected: Term,
) -> tuple[Formula, Formula]:
    """Return both limits, given that the curve is true.

    Args:
        q: the quantile of t.
        squared: the squared error of a period and of the curve, on the scale that is fitted.
        of_index: the standard error of the index of each period; None of what has no season.
    """
    d, curve, name = g.d, laid.curve, f"half_{level:g}"
    assert curve is not None
    said = phrase("half of the {level:g} % interval, if the curve is true", level=level)
    if laid.trend is None or laid.season is None or of_index is None:
        half = d.define(
            name,
            said + (phrase(" of ln") if told.logs else ""),
            q * sqrt(squared),
            where=projected,
            shown=False,
        )
        edges = curve - half, curve + half
        return (laid.moved(raised(edges[0])), laid.moved(raised(edges[1]))) if told.logs else edges
    # The error of the curve, and that of the index, each as it moves what is projected.
    trend, season = laid.trend, laid.season
    own = trend**2 * squared if told.logs else squared
    product = season**2 * own + (trend * of_index) ** 2
    size = sqrt(by_kind(laid.multiplies, product, own + of_index**2, d.columns))
    half = d.define(name, said, q * size, where=projected, shown=False)
    return laid.projected - half, laid.projected + half


def _index_error(g: Ground, laid: AppliedMethod) -> Term | None:
    """The standard error of the index of each period."""
    found = laid.wavers
    if found is None:
        return None
    return g.d.define(
        "index_error",
        phrase("standard error of the index"),
        ByKernel(lambda: np.nan_to_num(found()), phrase("from the ratios of its season; see Seasons")),
        shown=False,
    )


def _limit(g: Ground, side: str, level: float, edge: Formula, projected: Term) -> Term:
    of_curve = phrase(", if the curve is true") if side.startswith("curve_") else ""
    to = phrase("upper") if side.endswith("upper") else phrase("lower")
    said = phrase("{level:g} % {to}{of_curve}", level=level, to=to, of_curve=of_curve)
    return g.d.define(
        f"{side}_{level:g}", said, floored(g, edge), where=projected, unit=g.unit,
        shown=not of_curve, blank=phrase("Only projected periods have an interval, once it is computed."),
    )  # fmt: skip


def floored(g: Ground, edge: Formula) -> Formula:
    """What is projected, or a limit of it: nothing below zero where nothing in the history is."""
    if not g.floors.any():
        return edge
    bound = not_below_zero(edge, phrase("nothing in the history is below zero"))
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
