"""The prediction interval of all periods ahead together, from their joint errors.

From past starts the errors of leads share what `core/accuracy/past_errors` tells. If the curve is true its
errors go together from period to period, those of periods that have the same index as well: neither limits
nor their squares can be added. Of a total sum of g (x b + e), g what an error moves a period by, the variance
is s² (sum of g² + w (X'X)⁻¹ w'), w the sum of g x. Source: Draper and Smith, Applied Regression Analysis
(1998), chapters 3 and 5. Where logarithms are fitted, g is the projected figure itself (the first term of its
series), and the limits lie as far off in logarithms.
"""

from __future__ import annotations

from functools import partial

import numpy as np

from oat_tide.core.accuracy import past_errors
from oat_tide.core.exact import Values
from oat_tide.core.language import counted, phrase
from oat_tide.core.rows import by_place
from oat_tide.core.working.formula import Formula, either, given, only, sqrt, total
from oat_tide.core.working.terms import Term
from oat_tide.stages.by_kernel import ByKernel
from oat_tide.stages.cycle import by_kind
from oat_tide.stages.methods.applied import AppliedMethod, Regressed, raised
from oat_tide.stages.methods.ground import Ground
from oat_tide.stages.project.interval import floored
from oat_tide.stages.project.projection import IfTrue, IntervalTerms, Limits


def total_intervals(
    g: Ground, laid: AppliedMethod, projected: Term, whole: Term, told: IntervalTerms, if_true: IfTrue | None
) -> tuple[tuple[Limits, ...], tuple[Limits, ...]]:
    """The limits of the total of all periods ahead at every level: from past starts, and if it is true.

    Args:
        whole: the total.
    """
    limits = _by_past_errors(g, projected, whole, told)
    if laid.regressed is None or if_true is None:
        return limits, ()
    return limits, _if_true(g, laid, laid.regressed, whole, if_true)


def _by_past_errors(g: Ground, projected: Term, whole: Term, told: IntervalTerms) -> tuple[Limits, ...]:
    """Combine the errors of each lead; those of leads k < l correlate by w (k / l)^c."""
    d = g.d
    hidden = partial(d.define, shown=False)
    moves = by_kind(told.logs, projected * told.error, told.error, d.columns)
    error = hidden("ahead_error", phrase("error of a period, in units"), moves, where=g.ahead)
    stop = g.past + g.horizon
    squares = total(error.between(g.past, stop - 1) ** 2)
    pairs = ByKernel(
        lambda: _pairs(error.values[:, g.past : stop], told.growth.source.values[:, 0]),
        phrase("twice the sum, over leads k < l, of (k / l)^c times the errors of both"),
        True,
    )
    both = hidden("ahead_pairs", phrase("what pairs of leads add where they share all"), pairs)
    size = hidden("ahead_size", phrase("error of the total"), sqrt(squares + told.shared * both))
    halves = ((level, q * size) for level, q in told.quantiles.items())
    return tuple(_limits(g, "", level, whole - half, whole + half) for level, half in halves)


def _pairs(error: Values, growth: Values) -> Values:
    found = [past_errors.pairs_of(own[None], float(c)) for own, c in zip(error, growth, strict=True)]
    return np.array(found).reshape(len(error), 1)


def _if_true(
    g: Ground, laid: AppliedMethod, told: Regressed, whole: Term, if_true: IfTrue
) -> tuple[Limits, ...]:
    """If the curve is true and errors are independent."""
    d, limits = g.d, []
    hidden = partial(d.define, shown=False)
    gain = hidden("gain", phrase("what an error of the fit moves it by"), _gain(g, laid, told), where=g.ahead)
    every = gain.between(g.past, g.past + g.horizon - 1)
    own = hidden("gain_squares", phrase("sum of its squares"), total(every**2))
    curve = hidden("joint", phrase("joint leverage of the periods ahead"), told.joint(gain))
    error = told.s**2 * (own + curve)
    if laid.season is not None:
        error = error + hidden("index_together", phrase("squared error of the indices"), _of_indices(g, laid))
    size = hidden("total_error", phrase("standard error of the total"), sqrt(error))
    for level, q in if_true.quantiles.items():
        half = q * size
        if told.logs and laid.season is None:
            far = hidden(
                f"total_half_{level:g}", phrase("half of it over the total"), only(whole > 0, half / whole)
            )
            edges = whole / raised(far), whole * raised(far)
        else:
            far = hidden(f"total_half_{level:g}", phrase("half of it"), half)
            edges = whole - far, whole + far
        limits.append(_limits(g, "curve_", level, *edges))
    return tuple(limits)


def _gain(g: Ground, laid: AppliedMethod, told: Regressed) -> Formula:
    """What an error of what is fitted moves a projected period by."""
    plain = either(np.ones((1, g.d.columns), np.bool_), given(1.0, phrase("one for one")), given(1.0))
    if laid.trend is None or laid.season is None:
        return laid.projected if told.logs else plain
    own: Formula = laid.trend if told.logs else plain
    return by_kind(laid.multiplies, own * laid.season, own, g.d.columns)


def _of_indices(g: Ground, laid: AppliedMethod) -> Formula:
    """What the error of each index comes to in the total: its periods share it, and all of them average 1."""
    assert laid.trend is not None and laid.season is not None and laid.wavers is not None
    trend, season, wavers = laid.trend, laid.season, laid.wavers
    ahead = slice(g.past, g.past + g.horizon)
    place, length = g.cycle.place[ahead], g.cycle.length

    def squares() -> Values:
        multiplies = laid.multiplies[:, None]
        moves = np.where(multiplies, trend.values[:, ahead], 1.0)
        shared = np.where(multiplies, moves * season.values[:, ahead], moves).sum(1, keepdims=True) / length
        sure = np.zeros((len(moves), length))
        sure[:, place] = np.nan_to_num(wavers()[:, ahead])
        found: Values = (((by_place(moves, place, length) - shared) * sure) ** 2).sum(1, keepdims=True)
        return found

    return ByKernel(
        squares, phrase("from the ratios of each season, all of which average 1; see Seasons"), True
    )


def _limits(g: Ground, of: str, level: float, lower: Formula, upper: Formula) -> Limits:
    ahead = counted(g.horizon, g.grid.kind)
    if_true = phrase(", if true") if of else ""
    low, high = (
        g.d.define(
            f"total_{of}{side}_{level:g}",
            phrase("total, {level:g} % {said}{if_true}", level=level, said=said, if_true=if_true),
            floored(g, edge),
            unit=g.unit,
            blank=phrase("It takes a fit, and all of {ahead} projected.", ahead=ahead),
        )
        for side, said, edge in (("lower", phrase("lower"), lower), ("upper", phrase("upper"), upper))
    )
    return Limits(level, low, high)
