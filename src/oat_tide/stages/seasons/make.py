"""Seasons: parts over time, the indices of the seasons, or the series without its season."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import partial

import numpy as np

from oat_tide.core.language import phrase
from oat_tide.core.series.panel import Sight
from oat_tide.core.series.reading import Reading
from oat_tide.core.working.formula import given, only
from oat_tide.plan.parts.evened import Evened
from oat_tide.plan.parts.seasons import Seasons
from oat_tide.stages.common import as_of_handle
from oat_tide.stages.cycle import cycle_of, year_of
from oat_tide.stages.deck import Axis, Band, Curve, Deck, LateWork
from oat_tide.stages.deck.draft import Draft
from oat_tide.stages.lines import borrow_actual
from oat_tide.stages.needs import READING, need
from oat_tide.stages.places import season_names
from oat_tide.stages.presence import judged, season_presence
from oat_tide.stages.published import SeasonOf, actuals_of
from oat_tide.stages.seasons import NAME, words
from oat_tide.stages.seasons.arranged import arrangements
from oat_tide.stages.seasons.cautions import cautions
from oat_tide.stages.seasons.ground import AXIS, Ground, refusals
from oat_tide.stages.seasons.line import through_it
from oat_tide.stages.seasons.rows import year_rows
from oat_tide.stages.seasons.selling import Days, by_selling_day, days_of
from oat_tide.stages.seasons.sheet import sheet
from oat_tide.stages.seasons.sure import how_sure
from oat_tide.stages.seasons.swings import likelier, year_change
from oat_tide.stages.seasons.taken import Taken, take_apart
from oat_tide.stages.seasons.told import Evidence, evidence_of

_STEP = 28
"""Days that the axis grows by."""


Shown = tuple[tuple[Band, ...], tuple[str, ...]]
"""What an arrangement draws, and its rows in the order that they are read in."""


@dataclass(frozen=True, eq=False, slots=True)
class Needs:
    """What the stage stands on."""

    lines: Deck = need("lines")
    reading: Reading = need(READING)


def make(sight: Sight, ask: tuple[Seasons, Evened], needs: Needs, late: LateWork) -> Deck:
    """The deck of Seasons in the arrangement asked for."""
    seasons, evened = ask
    lines, past = needs.lines, sight.past.columns
    grid = sight.past.grid
    cycle = cycle_of(seasons, grid, sight.past.first, past)
    carried = seasons.arrangement == "deseasonalised"
    ahead = year_of(grid, cycle.length)
    # In steps, so that a drag over days does not make another axis in every frame.
    reach = -(-(past + ahead) // _STEP) * _STEP if grid.kind == "day" else past + ahead
    d = Draft(NAME, sight, reach if carried else 0)
    borrow_actual(d, lines)
    ground, held = _ground(d, sight, lines, seasons, evened, needs.reading, late)
    taken = take_apart(ground) if _any(ground) else None
    shown: Shown = (Band(ground.unit, (_actual(ground),)),), ()
    evidence = line = None
    if taken is not None:
        evidence = _tell(ground, taken)
        line = through_it(ground, taken) if carried else None
        shown = _VIEWS[seasons.arrangement](ground, taken)
    return d.deck(
        bands=shown[0],
        rows=shown[1],
        sheet=lambda: sheet(ground, taken, evidence, line, held),
        handles=() if d.sees else (as_of_handle(sight),),
        marks=(lambda series: ()) if d.sees else lines.marks,
        arrangements=arrangements(seasons),
        tinted=bool(d.sees),
        title=partial(words.without_title, ground, line) if carried else partial(words.title, ground, taken),
        subtitle=partial(words.subtitle, ground),
        finding=partial(words.finding, ground, taken, evidence),
        cautions=partial(cautions, ground, taken),
        published=None if taken is None else _published(ground, taken),
    )


def _published(ground: Ground, taken: Taken) -> SeasonOf:
    return SeasonOf(ground.multiplies, taken.season, taken.ratio, taken.deseasonalised, taken.used)


def _any(ground: Ground) -> bool:
    """Whether any series can be taken apart."""
    return not all(ground.why_none)


def _ground(
    d: Draft, sight: Sight, lines: Deck, ask: Seasons, evened: Evened, reading: Reading, late: LateWork
) -> tuple[Ground, Days | None]:
    """What all stands on, and the selling days where they are asked for."""
    past = sight.past
    adjusted = actuals_of(lines).adjusted
    sold = adjusted.seeing(past.whole)
    grid, unit = d.grid, actuals_of(lines).unit
    cycle = cycle_of(ask, grid, d.first, d.columns)
    held = selling = None
    actual = sold
    if ask.per == "selling day" and grid.kind != "day":
        held = days_of(ask, evened, reading, grid, d.first, past.columns, d.columns)
        selling = by_selling_day(d, sold, held, unit, tuple(each.name for each in ask.moving))
        actual = selling.adjusted
    values = actual.values[:, : past.columns]
    how = judged(ask, values, cycle, past.scale if held is None else 1.0)
    why_none = refusals(values, cycle, grid, d.first, how.multiplies)
    fits = np.array([not why for why in why_none])[:, None]
    if not fits.all():
        values, plain = (np.where(fits, each, np.nan) for each in (values, how.plain))
        how = replace(how, plain=plain)
        if selling is None:
            actual = adjusted.seeing(past.whole & fits)
        else:
            actual = selling.adjusted.seeing(np.repeat(fits, d.columns, axis=1))
    season = season_presence(values, cycle.place[: past.columns], cycle.length, how.multiplies, late)
    ground = Ground(
        d, sight, lines, ask, late, cycle, reading.dimensions, actual, sold, values, how, season, why_none,
        selling,
    )  # fmt: skip
    d.lay(AXIS, Axis(*season_names(grid, cycle.length), grid.kind))
    return ground, held


def _tell(ground: Ground, taken: Taken) -> Evidence:
    """The facts of the season, and how sure its indices are."""
    ground.d.define(
        "kind",
        phrase("season multiplies"),
        given(ground.multiplies[:, None].astype(float), phrase("1 where it multiplies, 0 where it is added")),
        shown=False,
    )
    found = evidence_of(ground, taken)
    if ground.ask.arrangement == "indices":
        how_sure(ground, taken)
    likelier(ground)
    year_change(ground, taken.trend)
    return found


def _actual(ground: Ground) -> Curve:
    label = ground.actuals.label.lower()
    return Curve("actual", "actual", label=label)


def _parts(ground: Ground, taken: Taken) -> Shown:
    """Actual with trend; season and remainder on the same size of units, so that they compare."""
    unit = ground.unit
    season, rest = _in_units(ground, taken)
    curves = [_actual(ground), Curve("trend", "trend", label=phrase("trend"))]
    if ground.ask.over:
        curves.append(Curve("deseasonalised", "smoothed", label=phrase("deseasonalised")))
    bands = [Band(unit, tuple(curves), height=1.4, size="units")]
    # What is no more than chance is not drawn.
    if ground.told.said(0) != "no":
        bands.append(
            Band(phrase("season"), (Curve(season, "bars"),), "season", 1.0, zero_line=True, size="units")
        )
    bands.append(
        Band(phrase("remainder"), (Curve(rest, "bars"),), "remainder", 0.9, zero_line=True, size="units")
    )
    return tuple(bands), ()


def _in_units(ground: Ground, taken: Taken) -> tuple[str, str]:
    """The figures of season and remainder in units: what each adds to the trend."""
    if not ground.multiplies.any():
        return "season", "remainder"
    d, trend = ground.d, taken.trend
    inside = (np.arange(d.columns) < ground.past)[None]
    hidden = partial(d.define, shown=False, unit=ground.unit, signed=True)
    with_season = ground.by_kind(trend * taken.season, trend + taken.season, d.columns)
    hidden("season_units", phrase("what the season adds"), only(inside, with_season - trend))
    hidden("remainder_units", phrase("what remains"), ground.actual - with_season)
    return "season_units", "remainder_units"


def _indices(ground: Ground, taken: Taken) -> Shown:
    """Each season with its years as a small line, and its index as a bar across."""
    d = ground.d
    years = year_rows(ground, taken)
    d.show_on(AXIS)
    products = bool(ground.multiplies.any())
    curves = [Curve(years[0], "within", among=years)] if years else []
    if ground.told.said(0) != "no":
        curves.insert(0, Curve("index", "index", base=1.0 if products else 0.0))
    simple = ground.ask.method == "simple"
    if ground.multiplies.all():
        title = phrase("of the mean") if simple else phrase("of trend")
    elif simple:
        title = phrase("{unit} off the mean", unit=ground.unit)
    else:
        title = phrase("{unit} off trend", unit=ground.unit)
    # Ratios, how many, joined, scaled, by hand, in use.
    rows = "index", "hand", *years, "many", "joined", "scaled", "sure"
    return (Band(title, tuple(curves), zero_line=True, zero=1.0 if products else 0.0),), rows


def _without(ground: Ground, taken: Taken) -> Shown:
    """Actual and deseasonalised with a line through it, carried on and put back in season."""
    curves = (
        _actual(ground),
        Curve("deseasonalised", "smoothed", label=phrase("deseasonalised")),
        Curve(
            "through",
            "trend",
            label=phrase("growth curve") if ground.ask.through == "growth" else phrase("line"),
        ),
        Curve("back", "projected", label=phrase("back in season"), ahead=True),
    )
    return (Band(ground.unit, curves),), ()


# A total is spread by indices: they are what is seen of Seasons beside it.
_VIEWS = {"parts": _parts, "indices": _indices, "deseasonalised": _without, "spread": _indices}
