"""A straight line or a growth curve, on the history itself or on what is left without its season."""

from __future__ import annotations

from functools import partial

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.regression import fit_line
from oat_tide.core.seasons.indices import standard_errors
from oat_tide.core.working.formula import Formula, either, given, sum_of_products, total
from oat_tide.core.working.numerals import MINUS, significant
from oat_tide.core.working.terms import Term, wide
from oat_tide.stages.cycle import by_kind, no_season
from oat_tide.stages.deck.draft import of
from oat_tide.stages.fitted import Through, line_of, spent_by
from oat_tide.stages.project.ground import Ground
from oat_tide.stages.project.laid import Laid, Regressed, raised


def straight(g: Ground, name: str, prefix: str = "", shown: bool = True) -> Laid:
    """A line or growth curve, with season or without."""
    growth, with_season = name.startswith("growth"), name.endswith("-season")
    missing = _no_season(g) if with_season else ""
    base = g.actual
    if with_season and not missing:
        assert g.seasons is not None
        base = of(g.seasons, "deseasonalised")
    got = _through(g, base, growth, prefix, shown, missing, with_season)
    d = g.d
    line = line_of(d, got, base)
    regressed = _regressed(g, got, prefix)
    curve = raised(line) if growth else line
    raise_by = raised(regressed.s**2 / 2) if growth and g.ask.mean else None
    if raise_by is not None:
        curve = curve * raise_by
    facts = tuple(prefix + each for each in ("intercept", "slope"))
    plain = partial(_equation, got, g.unit)
    if not with_season or missing:
        return Laid(
            name, curve, curve, partial(_why_none, g, got, missing), plain, facts, regressed, line,
            raise_by=raise_by,
        )  # fmt: skip
    trend = d.define(
        f"{prefix}trend", "Trend", curve, where=g.inside | g.ahead, unit=g.unit, shown=shown,
        blank="It lies outside the fit span, and is not projected.",
    )  # fmt: skip
    season, multiplies = _season(g, prefix, shown)
    whole = by_kind(multiplies, trend * season, trend + season, d.columns)
    return Laid(
        name, whole, whole, partial(_why_none, g, got, ""), partial(_in_season, plain, multiplies), facts,
        regressed, line, trend, season, partial(_wavers, g),
    )  # fmt: skip


def _no_season(g: Ground) -> str:
    """Why no season can be taken out; empty where it can."""
    why = no_season(g.grid, g.seasonal)
    if why:
        return why
    if g.seasons is None or "deseasonalised" not in g.seasons.figures:
        said = g.seasons.cautions(0) if g.seasons is not None else ()
        return said[0].text if said else "Seasons can take no season out of it."
    return ""


def _season(g: Ground, prefix: str, shown: bool) -> tuple[Term, np.ndarray]:
    """The season of every period: as Seasons has it, and ahead by the index of its season."""
    seasons = g.seasons
    assert seasons is not None
    multiplies = seasons.figures["kind"].values[:, 0] > 0
    in_past = (np.arange(g.d.columns) < g.past)[None]
    ahead = of(seasons, "index").like(g.cycle.place)
    season = g.d.define(
        f"{prefix}season", "Seasonal index", either(in_past, of(seasons, "season"), ahead),
        unit="" if multiplies.any() else g.unit, signed=not multiplies.any(), shown=shown,
        blank="Its season has no index.",
    )  # fmt: skip
    return season, multiplies


def _wavers(g: Ground) -> Values:
    """(series, columns) how sure the index of each period is, from the ratios of its season."""
    assert g.seasons is not None
    place, length = g.cycle.place, g.cycle.length
    ratios = g.seasons.figures["ratio"].values[:, : g.past]
    return standard_errors(ratios, place[: g.past], length)[:, place]


def _through(
    g: Ground, base: Term, growth: bool, prefix: str, shown: bool, missing: str, with_season: bool
) -> Through:
    d = g.d
    values = wide(base.values[:, : g.past], d.columns, np.nan)
    used = np.where(np.isnan(values) | bool(missing), 0.0, g.span.used)
    if growth:
        refused = (used > 0) & ~(values > 0)
        used = np.where(refused.any(1, keepdims=True), 0.0, used)
    with np.errstate(invalid="ignore", divide="ignore"):
        z = np.where(used > 0, np.log(values) if growth else values, np.nan)
    row = "deseasonalised" if with_season else "actual"
    spent = np.zeros(len(z))
    if with_season and not missing:
        spent = spent_by(g.seasonal, g.cycle.length, values[:, : g.past])
    fit = fit_line(g.span.t, z, used)
    return Through(growth, used, g.span.t, z, fit, g.first_number, row, prefix, shown, spent)


def _regressed(g: Ground, got: Through, prefix: str) -> Regressed:
    """The line as a regression of two terms."""
    d = g.d

    def term(name: str) -> Term:
        return d.term(prefix + name)

    t, t_mean, n, sxx, s = map(term, ("t", "t_mean", "n", "sxx", "s"))
    leverage = d.define(
        f"{prefix}leverage", "leverage", 1 / n + (t - t_mean) ** 2 / sxx, where=sxx, shown=False
    )
    squares = (1 / n + t_mean**2 / sxx, 1 / sxx)

    def joint(gain: Term) -> Formula:
        every, ts = (each.between(g.past, g.past + g.horizon - 1) for each in (gain, t))
        return total(every) ** 2 / n + sum_of_products(every, ts - t_mean) ** 2 / sxx

    return Regressed(
        term("z"), term("residual"), term("used"), (term("intercept"), term("slope")), squares, leverage,
        joint, term("free"), given(got.spent[:, None], "of the indices"), 1 - leverage, s, got.growth,
    )  # fmt: skip


def _equation(got: Through, unit: str, series: int) -> str:
    slope, intercept = float(got.line.slope[series, 0]), float(got.line.intercept[series, 0])
    if np.isnan(slope):
        return "no fit"
    if got.growth:
        return (
            f"{unit} = {significant(float(np.exp(intercept)), 5)} × {significant(float(np.exp(slope)), 6)}^t"
        )
    sign = MINUS if slope < 0 else "+"
    return f"{unit} = {significant(intercept, 5)} {sign} {significant(abs(slope), 4)} × t"


def _in_season(plain: partial[str], multiplies: np.ndarray, series: int) -> str:
    said = plain(series)
    if said == "no fit":
        return said
    head, _, curve = said.partition(" = ")
    return f"{head} = ({curve}) × index" if multiplies[series] else f"{head} = {curve} + season"


def _why_none(g: Ground, got: Through, missing: str, series: int) -> str:
    """Why a series has no fit."""
    if not np.isnan(got.line.slope[series, 0]):
        return ""
    return missing
