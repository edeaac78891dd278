"""Project: what comes next? A method carried over the horizon, others laid over it, and how it fits."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

import numpy as np
from msgspec.structs import replace

from oat_tide.core.language import nouns, phrase
from oat_tide.core.periods.calendar import Grid
from oat_tide.core.series.panel import Panel, Sight
from oat_tide.core.series.reading import Reading
from oat_tide.core.working.formula import percent
from oat_tide.core.working.terms import Term, wide
from oat_tide.plan.parts.evened import Evened
from oat_tide.plan.parts.project import Project
from oat_tide.plan.parts.seasons import Seasons
from oat_tide.plan.parts.smooth import Smooth
from oat_tide.stages.common import as_known_now, named
from oat_tide.stages.cycle import cycle_of
from oat_tide.stages.deck import Band, Curve, Deck, Group, LateWork
from oat_tide.stages.deck.draft import Draft
from oat_tide.stages.lines import borrow_actual
from oat_tide.stages.methods.applied import AppliedMethod
from oat_tide.stages.methods.ground import MOST_YEARS, Ground, Mask, horizon_of, how_of, span_of
from oat_tide.stages.methods.table import ROOMS, stands_on, why_not
from oat_tide.stages.needs import LEAVES, READING, need, need_part
from oat_tide.stages.presence import presence_of
from oat_tide.stages.project import words
from oat_tide.stages.project.cautions import cautions
from oat_tide.stages.project.handles import handles
from oat_tide.stages.project.insets import define_insets
from oat_tide.stages.project.interval import floored, intervals
from oat_tide.stages.project.judged import growth, judge, remains_of
from oat_tide.stages.project.later import against_what_sold, beside, said_of_later
from oat_tide.stages.project.projection import (
    Ahead,
    Coefficient,
    IfTrue,
    IntervalTerms,
    Judged,
    Projection,
    names,
)
from oat_tide.stages.project.sheet import sheet
from oat_tide.stages.project.together import total_intervals
from oat_tide.stages.published import actuals_of
from oat_tide.stages.record import Record
from oat_tide.stages.scenarios import against_scenarios, borrow_scenarios

NAME = "project"


RECORD = Record(
    kinds=("fitted", "projected"),
    beside=lambda ask: {
        name: name for each in ask.intervals for name in (f"lower_{each:g}", f"upper_{each:g}")
    },
    said=lambda ask, grid: {"method": ask.method},
    each=lambda ask: tuple(replace(ask, method=name, over=()) for name in (ask.method, *ask.over)),
)


_AS_A_WHOLE = "r2", "adjusted_r2", "s", "f", "aicc", "durbin_watson", "n"


def _regression_table(deck: Deck) -> tuple[tuple[str, dict[str, str]], ...]:
    """A row a coefficient, and one for each figure of the fit as a whole."""
    judged = deck.published
    if not isinstance(judged, Judged):
        return ()
    rows = [_coefficient(each) for each in judged.coefficients]
    whole = [(name, {"coefficient": name}) for name in _AS_A_WHOLE]
    whole[3][1]["p"] = "f_p"
    return (*rows, *whole)


def _coefficient(each: Coefficient) -> tuple[str, dict[str, str]]:
    """A coefficient by its name, that of a season or weekday by what it is the level of, and its figures."""
    figure = each.value.source.figure
    numbered = figure.name.startswith(("season", "weekday"))
    said = figure.label.removeprefix("level of ") if numbered else figure.name
    parts = {
        "coefficient": each.value, "standard_error": each.error, "t": each.t, "p": each.p,
        "lower": each.limits.lower, "upper": each.limits.upper,
    }  # fmt: skip
    return said, {heading: term.source.figure.name for heading, term in parts.items()}


FIT = Record(
    said=RECORD.said,
    each=RECORD.each,
    beside=lambda ask: {"s": "s"},
    why_none=phrase(
        "Only a regression has a table, and only where there are periods enough: take line, "
        "growth or another one."
    ),
    table=_regression_table,
)


def misfit(ask: Project, grid: Grid) -> tuple[str, str] | None:
    """A horizon that no projection reaches."""
    most = MOST_YEARS * grid.cycle
    if 0 <= ask.horizon <= most:
        return None
    return "horizon", phrase(
        "choose 1 to {most:,} {kinds}, ten years' worth.", most=most, kinds=nouns(grid.kind)
    )


_BY_SEASONS, _BY_SMOOTH = (partial(stands_on, stage=stage) for stage in ("seasons", "smooth"))


@dataclass(frozen=True, eq=False, slots=True)
class Needs:
    """What the stage stands on."""

    lines: Deck = need("lines")
    reading: Reading = need(READING)
    leaves: Panel = need(LEAVES)
    seasons: Deck | None = need("seasons", when=_BY_SEASONS)
    smooth: Deck | None = need("smooth", when=_BY_SMOOTH)
    smoothing: Smooth | None = need_part("smooth", when=_BY_SMOOTH)


def make(sight: Sight, ask: tuple[Project, Seasons, Evened], needs: Needs, late: LateWork) -> Deck:
    """The deck of Project."""
    project, seasonal, evened = ask
    smoothing = needs.smoothing
    lines = needs.lines
    horizon, past = horizon_of(project, sight), sight.past.columns
    d = Draft(NAME, sight, past + horizon)
    borrow_actual(d, lines)
    cycle = cycle_of(seasonal, d.grid, d.first, d.columns)
    presence = presence_of(sight.past, seasonal, cycle, late)
    g = Ground(
        d, sight, lines, needs.seasons, needs.smooth, project, seasonal, smoothing, late, horizon,
        span_of(sight.past, project, d.columns), actuals_of(lines).adjusted.seeing(known_at(sight)),
        wide(sight.past.settled, past, np.nan), cycle,
        how_of(project, seasonal, smoothing, sight.past, d.columns, needs.reading.dimensions),
        needs.leaves, presence,
        evened.rulings, needs.reading.dimensions,
    )  # fmt: skip
    refused = why_not(g, project.method)
    # What cannot be on these periods gives way to a line, and is said.
    room = ROOMS["line" if refused else project.method]
    laid = room.lay(g, "", True)
    fitted, projected = _rows(g, laid)
    told, limits, if_true = intervals(g, laid, projected)
    remains = remains_of(g, fitted)
    judged = None if laid.regressed is None else judge(g, laid, laid.regressed, fitted)
    budgets = borrow_scenarios(d, lines)
    against_scenarios(d, lines, projected)
    differences = _differences(g, projected)
    since = against_what_sold(g, projected, *differences, limits)
    ahead = _ahead(g, laid, projected, told, if_true)
    charts = define_insets(g, laid, fitted, judged)
    over = _laid_over(g)
    made = Projection(
        laid, fitted, projected, remains, limits, if_true, judged, ahead, since,
        {name: term for name, term, _ in over}, charts,
        {name: beside(g, name, term) for name, term, _ in over} if sight.moved_back else {},
    )  # fmt: skip
    return d.deck(
        rows=(*_FIRST, *(each.figure for each in budgets)),
        groups=_groups(g, made, differences, budgets),
        bands=_bands(g, laid, budgets, tuple(curve for _, _, curve in over)),
        sheet=lambda: sheet(g, made, room, refused),
        handles=handles(g),
        marks=lines.marks,
        title=lambda series: f"{named(d.keys[series])}: {words.title(g, made, series)}",
        subtitle=lambda series: words.subtitle(g, made, series) + as_known_now(sight),
        finding=partial(words.finding, g, made, room.short),
        cautions=partial(cautions, g, made, room, refused),
        instead=refused,
        published=judged,
    )


def known_at(sight: Sight) -> Mask:
    """(series, columns) what methods may go by: complete periods up to the as-of."""
    seen = sight.whole.copy()
    seen[:, sight.past.columns :] = False
    return seen


def _rows(g: Ground, laid: AppliedMethod) -> tuple[Term, Term]:
    """Fitted and projected: two rows, for a fit is not a record."""
    row = partial(g.d.define, adds_up=g.actuals.adds_up, unit=g.unit)
    fitted = row(
        "fitted",
        phrase("Fitted"),
        laid.fitted,
        where=g.inside,
        blank=phrase("It lies outside the fit span, or has no fit."),
    )
    curve = floored(g, laid.projected)
    why = phrase("Only periods after the as-of are projected.")
    return fitted, row("projected", phrase("Projected"), curve, where=g.ahead, blank=why)


def _ahead(
    g: Ground, laid: AppliedMethod, projected: Term, told: IntervalTerms, if_true: IfTrue | None
) -> Ahead | None:
    """Define the total of all periods ahead."""
    if not g.past or not g.horizon:
        return None
    whole, growths = growth(g, projected)
    return Ahead(whole, growths, *total_intervals(g, laid, projected, whole, told, if_true))


def _laid_over(g: Ground) -> list[tuple[str, Term, Curve]]:
    """The other methods, each a row and a thinner curve that is named where it ends."""
    over = list[tuple[str, Term, Curve]]()
    for place, name in enumerate(each for each in g.ask.over if each != g.ask.method):
        if why_not(g, name):
            continue
        laid = ROOMS[name].lay(g, f"{name}_", False)
        title = laid.method.title
        row = g.d.define(
            f"projected_{name}", title, laid.projected, where=g.ahead, adds_up=g.actuals.adds_up,
            unit=g.unit, blank=phrase("Only periods after the as-of are projected."),
        )  # fmt: skip
        curve = Curve(f"projected_{name}", "laid", label=title.lower(), dash=place + 1, shade=0.8, ahead=True)
        over.append((name, row, curve))
    return over


def _groups(
    g: Ground, made: Projection, differences: tuple[Term, Term], budgets: tuple[Curve, ...]
) -> tuple[Group, ...]:
    """The rows that stand under heads, each head with its main figure."""
    laid, judged, if_true = made.laid, made.judged, made.if_true
    limits = (*made.limits, *(if_true.limits if if_true is not None else ()))
    fit = (
        made.fitted,
        made.remains,
        *((judged.standardised,) if judged is not None else ()),
        *(each for each in (laid.trend, laid.season) if each is not None),
    )
    held = tuple(f"{less}{each.figure}" for each in budgets for less in ("less_", "of_"))
    edges = (edge for each in limits for edge in each.both)
    return (
        Group("interval", phrase("Interval"), names(edges), partial(words.interval_said, g, made)),
        Group("over", phrase("Other methods"), names(made.over.values()), partial(words.over_said, made)),
        Group(
            "since",
            phrase("Sold since"),
            names(differences),
            partial(said_of_later, g, made.since),
            opens=True,
        ),
        Group("budgets", phrase("Beside budgets"), held),
        Group("fit", phrase("How it fits"), names(fit), partial(words.fit_said, g, made)),
        Group("growth", phrase("Growth"), ("on_year", "on_before"), partial(words.growth_said, g, made)),
    )


_FIRST = "actual", "settled", "projected", "year_base", "on_base"
"""The rows in the order that they are read in; budgets follow, and then what stands under heads."""


def _bands(
    g: Ground, laid: AppliedMethod, budgets: tuple[Curve, ...], over: tuple[Curve, ...]
) -> tuple[Band, ...]:
    """Actual, fitted and projected; below them, where there is a fit, what is missed."""
    own = g.actuals.label.lower()
    trend = laid.trend.source.figure.name if laid.trend is not None else ""
    bands = [Band(g.unit, _curves(g.ask.intervals, budgets, over, own, trend))]
    if g.ask.residuals:
        bands.append(Band(phrase("residual"), (Curve("remains", "bars"),), "residual", 0.4, zero_line=True))
    return tuple(bands)


def _curves(
    levels: tuple[float, ...], budgets: tuple[Curve, ...], over: tuple[Curve, ...], own: str, trend: str
) -> tuple[Curve, ...]:
    """What is drawn, the widest interval lowest."""
    shades = (
        Curve(f"lower_{each:g}", "interval", f"upper_{each:g}", label=f"{each:g} %")
        for each in reversed(levels)
    )
    return (
        *shades,
        *budgets,
        *((Curve(trend, "trend", label=phrase("trend")),) if trend else ()),
        *over,
        Curve("fitted", "fitted", label=phrase("fitted")),
        Curve("projected", "projected", label=phrase("projected")),
        Curve("actual", "actual", label=own),
    )


def _differences(g: Ground, projected: Term) -> tuple[Term, Term]:
    """Actual minus projected, where whole periods have sold since."""
    d, past = g.d, g.past
    actual = g.actuals.actual.seeing(g.sight.whole)

    def not_sold(series: int, column: int) -> str:
        if column < past:
            return phrase("Only periods after the as-of are projected.")
        return phrase("Not complete yet.")

    def no_share(series: int, column: int) -> str:
        if np.isnan(difference.values[series, column]):
            return not_sold(series, column)
        return phrase("The projected figure is not above zero: a share of it means nothing.")

    row = partial(d.define, sees_later=True, signed=True)
    difference = row(
        "difference", phrase("Difference"), actual - projected,
        where=projected, unit=g.unit, adds_up=g.actuals.adds_up, blank=not_sold,
    )  # fmt: skip
    share = row(
        "difference_share",
        phrase("Difference, % of projected"),
        percent(difference, projected),
        unit="%",
        blank=no_share,
    )
    return difference, share
