"""What to know before trusting a projection, each with its evidence and, where there is one, a way out."""

from __future__ import annotations

import math

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import counted, phrase
from oat_tide.core.methods import quadratic, regression
from oat_tide.core.periods.calendar import date_of
from oat_tide.core.regression import t_quantile
from oat_tide.core.series.panel import PROVISIONAL
from oat_tide.core.working.number_format import fixed, significant
from oat_tide.core.working.terms import Term
from oat_tide.core.working.tree import Ref
from oat_tide.plan.edits import edit
from oat_tide.plan.parts.evened import Ruled
from oat_tide.plan.paths import P
from oat_tide.stages.common import listed
from oat_tide.stages.deck import Caution
from oat_tide.stages.methods.applied import AppliedMethod
from oat_tide.stages.methods.ground import Ground
from oat_tide.stages.methods.room import Room
from oat_tide.stages.places import spoken_season
from oat_tide.stages.project.projection import Projection, names, value

_BY_CHANCE = 0.01
"""A p below which something is no chance."""
_PULLS = 1.0
"""Cook's distance from which one period bends a fit, however it lies."""
_FEWEST = 5
"""Periods from which one of them can be told to be odd."""
_STEP = 13.5
"""The supremum of F of one step beside a line that 1 in 100 histories without any reach, by simulation.

At 1 in 20 it is 10.2, and of a level alone 8.85 (Andrews, 1993).
"""
_TRIM = 0.15
"""The part of a history at either end that no break is looked for in."""
_JUMPS = 3.0
"""Residual standard errors from which the last period lies off its fit."""
_LONG = 2
"""A horizon is long whose periods are more than the fit's over this."""


def cautions(g: Ground, made: Projection, room: Room, refused: str, series: int) -> tuple[Caution, ...]:
    """Return the cautions that apply to a series.

    Args:
        room: the method.
        refused: why another one stands in the place of what was asked for.
    """
    first = (
        (Caution(phrase("{refused} A straight line is shown in its place.", refused=refused)),)
        if refused
        else ()
    )
    if not made.has_fit(series):
        return (*first, _no_fit(g, made.laid, room, series))
    found = [
        _season(g, made, room, series),
        _no_season_there(g, room, series),
        _pull(g, made, series),
        _bends(g, made, room, series),
        _stepped(g, made, room, series),
        _no_growth(g, made, series),
        _jump(g, made, series),
        _long(g, series),
        _few(g, made, series),
        _hang(g, made, room, series),
        _below_zero(g, made, series),
        _provisional(g, series),
    ]
    return (*first, *(each for each in found if each), *room.cautions(g, made.laid, series))


def _refs(g: Ground, series: int, *terms: Term, column: int = -1) -> tuple[Ref, ...]:
    return tuple(Ref(g.d.stage, name, series, column) for name in names(terms))


def _of_past(g: Ground, term: Term, series: int) -> Values:
    """(past columns,) of a series."""
    found: Values = term.values[series, : g.past]
    return found


def _no_fit(g: Ground, laid: AppliedMethod, room: Room, series: int) -> Caution:
    values, used = g.values[series], g.span.used[series, : g.past] > 0
    refused = np.flatnonzero(used & ~(values > 0))
    if room.refusal and refused.size:
        named = listed([g.grid.label(g.d.first + int(column)) for column in refused], 4)
        return Caution(
            phrase(
                "{refusal} needs values above zero. Not above zero: {named}. Fit a straight line, or "
                "begin the fit after them.",
                refusal=room.refusal,
                named=named,
            ),
            way_out=edit(P.project.method, "line"),
            way_out_text=phrase("Fit a straight line"),
        )
    why = laid.why_none(series)
    if why:
        return Caution(why)
    n = int(used.sum())
    if n >= 3 and room.method.by_indices and g.seasons is not None:
        # The season is missing, and Seasons says why.
        told = (each.text for each in g.seasons.cautions(series))
        said = phrase("There is no seasonal index, so this method cannot be fitted.")
        return Caution(f"{said} {next(told, '')}".strip())
    if laid.regressed is not None or n < 3:
        return Caution(
            phrase(
                "A fit needs three complete periods, and {n} {which} in the fit span. Widen the fit "
                "span, or move the as-of on.",
                n=counted(n, g.grid.kind),
                which=phrase("lies") if n == 1 else phrase("lie"),
            )
        )
    return Caution(
        phrase(
            "This method needs the figures that it is carried forward from, and one of them is "
            "missing or not above zero. Choose another method, or widen the fit span."
        ),
        way_out=edit(P.project.method, "line"),
        way_out_text=phrase("Fit a straight line"),
    )


def _residuals(g: Ground, made: Projection, series: int) -> Values:
    """(past columns,) of the fit, on its own scale where it is a regression."""
    told = made.laid.regressed
    return _of_past(g, made.remains if told is None else told.residual, series)


def _season(g: Ground, made: Projection, room: Room, series: int) -> Caution | None:
    """What has no season is laid through one."""
    cycle, off = g.cycle.length, _of_past(g, made.remains, series)
    if not room.method.curve or not cycle or (~np.isnan(off)).sum() < 2 * cycle:
        return None
    place = g.cycle.place[: g.past]
    if g.presence.said(series) != "yes":
        return None
    fitted = _of_past(g, made.fitted, series)
    with np.errstate(invalid="ignore", divide="ignore"):
        share = np.where(fitted > 0, 100 * off / fitted, np.nan)
    seasons = [share[(place == each) & ~np.isnan(share)] for each in range(cycle)]
    means = np.array([each.mean() if each.size else np.nan for each in seasons])
    if np.isnan(means).all():
        return None
    most = int(np.nanargmax(np.abs(means)))
    own, side = seasons[most], phrase("above") if means[most] > 0 else phrase("below")
    every = phrase(" in every year") if (np.sign(own) == np.sign(means[most])).all() and cycle != 7 else ""
    return Caution(
        phrase(
            "The history has a season and this method has none: {spoken_season} was {side} the "
            "fit{every}, by {means} % on average.",
            spoken_season=spoken_season(g.grid, cycle, most),
            side=side,
            every=every,
            means=fixed(abs(float(means[most])), 0),
        ),
        _refs(g, series, made.remains, column=int(np.flatnonzero((place == most) & ~np.isnan(off))[-1])),
        edit(P.project.method, room.with_season),
        phrase("Take a method with season"),
    )


def _no_season_there(g: Ground, room: Room, series: int) -> Caution | None:
    """What has a season goes through a history that has none."""
    if not room.method.with_season or not g.cycle.length or g.presence.said(series) != "no":
        return None
    f, chance = float(g.presence.told.f[series]), float(g.presence.chance[series])
    return Caution(
        phrase(
            "The history has no season beyond chance (F {f}, 95 % limit by chance {chance}): the "
            "season projected is noise.",
            f=fixed(f, 1),
            chance=fixed(chance, 1),
        ),
        way_out=edit(P.project.method, room.without_season),
        way_out_text=phrase("Take a method without season"),
    )


def _pull(g: Ground, made: Projection, series: int) -> Caution | None:
    """One period that bends the fit."""
    laid, judged = made.laid, made.judged
    if laid.regressed is None or judged is None or laid.regressed.terms != 2 or laid.season is not None:
        return None
    cook, off = (_of_past(g, each, series) for each in (judged.cook, judged.standardised))
    far = np.where(_no_chance(off) | (cook > _PULLS), cook, np.nan)
    if np.isnan(far).all():
        return None
    column = int(np.nanargmax(far))
    weights = g.span.used[series : series + 1, : g.past].copy()
    weights[0, column] = 0
    assert laid.method.regression is not None
    refit = regression.fit(laid.method.regression, g.values[series : series + 1], weights, 0, g.how)
    without = refit.coefficients[0, 1]
    slope = float(laid.regressed.coefficients[1].source.values[series, 0])
    label = g.grid.label(g.d.first + column)
    what = phrase("slope of ln") if laid.regressed.logs else phrase("slope")
    if np.isnan(without):
        return None
    day = [date_of(at(g.d.first + column)) for at in (g.grid.first_day, g.grid.last_day)]
    where = g.where(series)
    ruling = Ruled(where, day[0], day[1], "leave out", note=phrase("pulls the fit"))
    others = tuple(each for each in g.rulings if (each.where, each.first, each.last) != (where, *day))
    return Caution(
        phrase(
            "{label} lies {off} residual standard errors from the line and pulls it: without it "
            "the {what} is {without}, not {slope}.",
            label=label,
            off=fixed(abs(float(off[column])), 1),
            what=what,
            without=significant(float(without), 4),
            slope=significant(slope, 4),
        ),
        _refs(g, series, judged.standardised, judged.cook, column=column),
        edit(P.evened.rulings, (*others, ruling)),
        phrase("Leave it out"),
    )


def _no_chance(standardised: Values) -> np.ndarray:
    """Periods further off a line of two terms than the furthest of so many is by chance.

    By the residual over its standard error without the period, of all n at once (Cook and Weisberg, 1982).
    """
    n = int((~np.isnan(standardised)).sum())
    if n < _FEWEST:
        return np.zeros(standardised.shape, np.bool_)
    t = np.abs(_without_it(standardised, n, 2))
    return np.asarray(t > float(t_quantile(1 - _BY_CHANCE / n, np.array([n - 3.0]))[0]))


def _without_it(standardised: Values, n: int, k: int) -> Values:
    """A standardised residual over its standard error without the period (Cook and Weisberg, 1982)."""
    with np.errstate(invalid="ignore", divide="ignore"):
        rest = np.maximum(n - k - standardised**2, 0.0)
        return np.asarray(standardised * np.sqrt((n - k - 1) / rest))


def _bends(g: Ground, made: Projection, room: Room, series: int) -> Caution | None:
    """A line where the history bends."""
    laid, judged = made.laid, made.judged
    if not room.straight or laid.regressed is None or judged is None:
        return None
    z = laid.regressed.z.source.values[series : series + 1, : g.past]
    weights = (~np.isnan(z)).astype(float)
    bent = regression.fit(quadratic.TERMS, z, weights, 0, g.how)
    with np.errstate(invalid="ignore", divide="ignore"):
        t = float(bent.coefficients[0, 2] / bent.standard_errors[0, 2])
    if not abs(t) > float(t_quantile(1 - _BY_CHANCE, bent.freedom)[0]):
        return None
    way_out = edit(P.project.method, "quadratic") if laid.season is None else None
    return Caution(
        phrase(
            "The trend curves {which} and a line does not: the t² term would have {said}.",
            which=phrase("upwards") if t > 0 else phrase("downwards"),
            said=phrase("t = {t}", t=fixed(t, 1)) if math.isfinite(t) else phrase("no error at all"),
        ),
        _refs(g, series, judged.durbin_watson),
        way_out,
        phrase("Fit a quadratic") if way_out else "",
    )


def _stepped(g: Ground, made: Projection, room: Room, series: int) -> Caution | None:
    """A level that stepped: beside the fit a step explains far more than chance does."""
    off = _residuals(g, made, series)
    if made.laid.regressed is None or _season(g, made, room, series):
        return None
    at = np.flatnonzero(~np.isnan(off))
    found = stepped(off[at], at.astype(float))
    if found is None:
        return None
    column = int(at[found])
    return Caution(
        phrase(
            "The level seems to have stepped {when}: before it and after it the fit is off in "
            "opposite ways. Begin the fit there if it will last.",
            when=g.grid.when(g.d.first + column),
        ),
        _refs(g, series, made.remains, column=column),
        edit(P.project.since, date_of(g.grid.first_day(g.d.first + column))),
        phrase("Begin the fit there"),
    )


def stepped(off: Values, at: Values) -> int | None:
    """Find where the residuals of a line change level, by the supremum of F; None where they do not.

    Args:
        off: (periods,) residuals in the fit.
        at: (periods,) their columns.

    Returns:
        The place of the first period after the step.
    """
    n, least = len(off), max(int(np.ceil(_TRIM * len(off))), 3)
    if n < 2 * least + 2:
        return None
    line, _ = np.linalg.qr(np.column_stack((np.ones(n), at)))
    splits = np.arange(least, n - least + 1)
    steps = (np.arange(n) >= splits[:, None]).astype(float)
    own = steps - steps @ line @ line.T
    explained = (own @ off) ** 2 / (own**2).sum(1)
    most = int(explained.argmax())
    left = float((off**2).sum() - explained[most])
    if not left > 0 or explained[most] / (left / (n - 3)) < _STEP:
        return None
    return int(splits[most])


def _no_growth(g: Ground, made: Projection, series: int) -> Caution | None:
    told, judged = made.laid.regressed, made.judged
    if told is None or judged is None:
        return None
    slope = next(each for each in judged.coefficients if names((each.value,)) == ("slope",))
    low, high = (value(each, series) for each in slope.limits.both)
    if not low <= 0 <= high:
        return None
    return Caution(
        phrase(
            "The slope is not significantly different from zero: {low} and {high} "
            "{said}{per_period} ({sure:g} %).",
            low=significant(low, 3),
            high=significant(high, 3),
            said=phrase("of ln ") if told.logs else "",
            per_period=g.grid.per_period,
            sure=g.ask.sure,
        ),
        _refs(g, series, *slope.limits.both),
    )


def _jump(g: Ground, made: Projection, series: int) -> Caution | None:
    """The last residual is over three residual standard errors, as they are without it."""
    laid, judged = made.laid, made.judged
    if laid.regressed is None or judged is None:
        return None
    off = _of_past(g, judged.standardised, series)
    at = np.flatnonzero(~np.isnan(off))
    n, k = len(at), laid.regressed.terms
    if n < k + 3:
        return None
    last = int(at[-1])
    far = float(_without_it(off[last], n, k))
    if not abs(far) > _JUMPS:
        return None
    side = phrase("up") if off[last] < 0 else phrase("down")
    curve = made.projected if laid.trend is None else laid.trend
    trend = curve.values[series, g.past : g.past + g.horizon]
    runs = (
        phrase("rises")
        if trend[-1] > trend[0]
        else phrase("falls")
        if trend[-1] < trend[0]
        else phrase("runs level")
    )
    return Caution(
        phrase(
            "The projection jumps {side} from {first}: the last actual lies {far} residual "
            "standard errors off the fit, while the curve itself {runs}.",
            side=side,
            first=g.grid.named(g.d.first + last),
            far=fixed(abs(far), 1),
            runs=runs,
        ),
        _refs(g, series, made.projected, column=g.past),
    )


def _long(g: Ground, series: int) -> Caution | None:
    n = int((g.span.used[series] > 0).sum())
    if _LONG * g.horizon <= n or g.ask.reach != "periods":
        return None
    fewer = max(1, n // 4)
    return Caution(
        phrase(
            "{horizon} ahead is far for a fit on {n}.",
            horizon=counted(g.horizon, g.grid.kind),
            n=counted(n, g.grid.kind),
        ),
        way_out=edit(P.project.horizon, fewer),
        way_out_text=phrase("Project {fewer}", fewer=counted(fewer, g.grid.kind)),
    )


def _few(g: Ground, made: Projection, series: int) -> Caution | None:
    """Too few periods for so many coefficients."""
    told = made.laid.regressed
    if told is None or told.terms < 3:
        return None
    n, k = int((g.span.used[series] > 0).sum()), told.terms
    if n >= 3 * k:
        return None
    return Caution(
        phrase(
            "{n} are too few for {k} coefficients (fewer than 3 each). A line has 2.",
            n=counted(n, g.grid.kind),
            k=k,
        ),
        _refs(g, series, told.n),
        edit(P.project.method, "line"),
        phrase("Fit a straight line"),
    )


def _hang(g: Ground, made: Projection, room: Room, series: int) -> Caution | None:
    """Residuals that hang together: the interval shown counts it, that of a true curve does not."""
    judged = made.judged
    if judged is None or _season(g, made, room, series):
        return None
    off = _residuals(g, made, series)
    pairs = ~np.isnan(off[1:]) & ~np.isnan(off[:-1])
    n, squares = int(pairs.sum()), float(np.nansum(off**2))
    if n < 10 or not squares > 0:
        return None
    echo = float((off[1:] * off[:-1])[pairs].sum()) / squares
    if echo < 2.326 / np.sqrt(n):
        return None
    return Caution(
        phrase(
            "Residuals are autocorrelated (Durbin-Watson {value}): the interval from past starts "
            "counts that; the one of a true curve is too narrow.",
            value=fixed(value(judged.durbin_watson, series), 2),
        ),
        _refs(g, series, judged.durbin_watson),
    )


def _below_zero(g: Ground, made: Projection, series: int) -> Caution | None:
    """An interval that reaches below zero for what cannot be."""
    if g.ask.positive or not g.ask.intervals or np.nanmin(g.values[series], initial=np.inf) < 0:
        return None
    edge = made.limits[-1].lower
    low = edge.values[series]
    there = np.flatnonzero(low < 0)
    if not there.size:
        return None
    projected = np.flatnonzero(made.projected.values[series] < 0)
    what = phrase("The {intervals:g} % interval reaches", intervals=g.ask.intervals[-1])
    if projected.size:
        edge, there, what = made.projected, projected, phrase("The projection falls")
    return Caution(
        phrase(
            "{what} below zero from {first}, and nothing in the history does.",
            what=what,
            first=g.grid.named(g.d.first + int(there[0])),
        ),
        _refs(g, series, edge, column=int(there[0])),
        edit(P.project.positive, True),
        phrase("Project nothing below zero"),
    )


def _provisional(g: Ground, series: int) -> Caution | None:
    """The last period of the fit may still change."""
    used = np.flatnonzero(g.span.used[series] > 0)
    if not used.size or not g.d.flags[series, int(used[-1])] & PROVISIONAL:
        return None
    label = g.grid.label(g.d.first + int(used[-1]))
    return Caution(phrase("{label} is provisional and in the fit: its figure may still change.", label=label))
