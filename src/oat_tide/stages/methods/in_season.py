"""A line or growth curve through the deseasonalised series, put back in season."""

from __future__ import annotations

from functools import partial

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.methods.shape import Method
from oat_tide.core.methods.table import METHODS
from oat_tide.core.seasons.indices import standard_errors
from oat_tide.core.working.formula import either
from oat_tide.core.working.terms import Term
from oat_tide.stages.cycle import by_kind, no_season
from oat_tide.stages.fitted import spent_by
from oat_tide.stages.methods.applied import AppliedMethod
from oat_tide.stages.methods.ground import Ground
from oat_tide.stages.methods.line import GROWTH_REFUSAL
from oat_tide.stages.methods.room import Room, no_seasons
from oat_tide.stages.methods.straight import drawn, equation, through, why_none
from oat_tide.stages.published import SeasonOf, season_of


def lay(method: Method, g: Ground, prefix: str, shown: bool) -> AppliedMethod:
    """Lay a line or growth curve with season on a history."""
    taken, missing = season_of(g.seasons), _no_season(g)
    base, spent = g.actual, np.zeros(len(g.values))
    if taken is not None and not missing:
        base = taken.deseasonalised
        spent = spent_by(g.seasonal, g.cycle.length, base.values[:, : g.past])
    got = through(g, base, method.logs, prefix, shown, missing, spent)
    own = drawn(g, base, got, prefix)
    facts = f"{prefix}intercept", f"{prefix}slope"
    plain = partial(equation, got, g.unit)
    if taken is None or missing:
        why = partial(why_none, got, missing)
        return AppliedMethod(
            method,
            own.curve,
            own.curve,
            why,
            plain,
            facts,
            own.regressed,
            own.line.curve,
            raise_by=own.raise_by,
            through_time=True,
        )
    trend = g.d.define(
        f"{prefix}trend", phrase("Trend"), own.curve, where=g.inside | g.ahead, unit=g.unit, shown=shown,
        blank=phrase("It lies outside the fit span, and is not projected."),
    )  # fmt: skip
    season, multiplies = _season(g, taken, prefix, shown), taken.multiplies
    whole = by_kind(multiplies, trend * season, trend + season, g.d.columns)
    return AppliedMethod(
        method, whole, whole, partial(why_none, got, ""), partial(_in_season, plain, multiplies), facts,
        own.regressed, own.line.curve, trend, season, multiplies, partial(_wavers, g, taken),
        through_time=True,
    )  # fmt: skip


def _no_season(g: Ground) -> str:
    """Why no season can be taken out; empty where it can."""
    why = no_season(g.grid, g.seasonal)
    if why:
        return why
    if season_of(g.seasons) is None:
        said = g.seasons.cautions(0) if g.seasons is not None else ()
        return said[0].text if said else phrase("Seasons can take no season out of it.")
    return ""


def _season(g: Ground, taken: SeasonOf, prefix: str, shown: bool) -> Term:
    """The season of every period: as Seasons has it, and ahead by the index of its season."""
    multiplies = taken.multiplies
    in_past = (np.arange(g.d.columns) < g.past)[None]
    ahead = taken.index.like(g.cycle.place)
    return g.d.define(
        f"{prefix}season", phrase("Seasonal index"), either(in_past, taken.season, ahead),
        unit="" if multiplies.any() else g.unit, signed=not multiplies.any(), shown=shown,
        blank=phrase("Its season has no index."),
    )  # fmt: skip


def _wavers(g: Ground, taken: SeasonOf) -> Values:
    """(series, columns) how sure the index of each period is, from the ratios of its season."""
    place, length = g.cycle.place, g.cycle.length
    ratios = taken.ratio.values[:, : g.past]
    return standard_errors(ratios, place[: g.past], length)[:, place]


def _in_season(plain: partial[str], multiplies: np.ndarray, series: int) -> str:
    said = plain(series)
    if said == phrase("no fit"):
        return said
    head, _, curve = said.partition(" = ")
    return (
        phrase("{head} = ({curve}) × index", head=head, curve=curve)
        if multiplies[series]
        else phrase("{head} = {curve} + season", head=head, curve=curve)
    )


_LINE, _GROWTH = METHODS["line-season"], METHODS["growth-season"]
ROOMS = (
    Room(_LINE, partial(lay, _LINE), no_seasons, lambda plan: frozenset({"seasons"}), straight=True),
    Room(
        _GROWTH,
        partial(lay, _GROWTH),
        no_seasons,
        lambda plan: frozenset({"seasons"}),
        refusal=GROWTH_REFUSAL,
        with_season="growth-season",
        without_season="growth",
    ),
)
