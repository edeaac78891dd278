"""Spread: a total over its periods, and over its children, held against last year and the projection."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

import numpy as np

from oat_tide.core.language import noun, nouns, phrase
from oat_tide.core.series.panel import Panel, Sight
from oat_tide.core.series.reading import Reading
from oat_tide.core.user_error import UserError
from oat_tide.core.working.formula import count, either, given, only, percent, total
from oat_tide.core.working.terms import Term, known
from oat_tide.plan.parts.seasons import Seasons
from oat_tide.plan.parts.spread import Spread
from oat_tide.stages.common import as_of_handle, where_of
from oat_tide.stages.deck import Band, Breakdown, Curve, Deck, LateWork
from oat_tide.stages.deck.draft import Draft, of
from oat_tide.stages.lines import borrow_actual
from oat_tide.stages.needs import LEAVES, READING, need
from oat_tide.stages.published import actuals_of
from oat_tide.stages.seasons.arranged import arrangements
from oat_tide.stages.spread import NAME, words
from oat_tide.stages.spread.children import Children, bring_down, rows_of
from oat_tide.stages.spread.ground import Ground, Outcome, locked_of
from oat_tide.stages.spread.made import Beside, Going, Parted
from oat_tide.stages.spread.parted import part, rows
from oat_tide.stages.spread.sheet import sheet
from oat_tide.stages.spread.stretch import stretch
from oat_tide.stages.spread.weights import no_index, weight, year_before
from oat_tide.stages.spread.written import lock_written, state_of_lock

_ROWS = "spread", "locked", "weight", "last_year", "on_last", "baseline", "gap", "gap_share"
"""In the order that they are read in; those of children follow."""


@dataclass(frozen=True, eq=False, slots=True)
class Needs:
    """What the stage stands on."""

    lines: Deck = need("lines")
    reading: Reading = need(READING)
    leaves: Panel = need(LEAVES)
    seasons: Deck = need("seasons")
    project: Deck = need("project")


def make(sight: Sight, ask: tuple[Spread, Seasons], needs: Needs, late: LateWork) -> Deck:
    """The deck of a spread."""
    spread, seasonal = ask
    grid, start = sight.past.grid, sight.past.first
    try:
        first, last = stretch(spread.over, grid, start + sight.home)
    except UserError:
        # What was written for other periods does not fit these: the next year stands in its place.
        first, last = stretch("", grid, start + sight.home)
    first, last = max(first - start, 0), last - start
    d = Draft(NAME, sight, max(sight.past.columns, last + 1))
    borrow_actual(d, needs.lines)
    seen, actuals = sight.past.whole, actuals_of(needs.lines)
    asked = tuple(spread.asked_of(where_of(needs.reading.dimensions, key)) for key in sight.past.keys)
    g = Ground(
        d, sight, needs.lines, needs.seasons, needs.project, needs.leaves, needs.reading.dimensions, spread,
        seasonal, first, last, asked, actuals.actual.seeing(seen), actuals.adjusted.seeing(seen),
        locked_of(asked, grid, start, d.columns),
    )  # fmt: skip
    locked = d.define(
        "locked",
        phrase("Fixed at"),
        given(g.locked, phrase("as written")),
        where=~np.isnan(g.locked) & g.inside,
        unit=g.unit,
        exact=True,
        blank=phrase("Write a figure to fix it."),
        mend=lock_written(g),
        state=state_of_lock(g),
    )
    kids: tuple[str, ...] = ()
    parted = None
    refused = no_index(g) if spread.by.startswith("index") else ""
    if refused:
        outcome, children = (
            Outcome((None,) * len(asked), tuple(refused if each.total else "" for each in asked)),
            None,
        )
    else:
        raw = weight(g)
        weights = np.where(raw.values > 0, raw.values, np.where(np.isnan(raw.values), np.nan, 0.0))
        outcome = part(g, weights)
        parted = rows(g, locked, raw, outcome)
        children = bring_down(g, outcome, weights, late)
        if children is not None:
            kids = rows_of(g, parted.spread, children)
    beside = _beside(g, parted)
    return d.deck(
        rows=(*_ROWS, *kids),
        bands=_bands(g, outcome),
        sheet=lambda: sheet(g, outcome, parted, beside, children),
        handles=(as_of_handle(sight),),
        marks=needs.lines.marks,
        arrangements=arrangements(seasonal),
        title=partial(words.title, g, outcome),
        subtitle=partial(words.subtitle, g, outcome),
        finding=partial(words.finding, g, outcome, beside),
        cautions=partial(words.cautions, g, outcome, parted, beside, children),
        parts=_parts(g, children),
    )


def _beside(g: Ground, parted: Parted | None) -> Beside:
    """Last year, the projection and what has sold, each held against the spread."""
    d, at = g.d, (g.first, g.last)
    row = partial(d.define, unit=g.unit)
    last = row(
        "last_year", phrase("A year before"), g.sold.like(year_before(g)), where=g.inside, adds_up=True,
        blank=phrase("The matching {kind} a year before is not complete.", kind=noun(g.grid.kind)),
    )  # fmt: skip
    in_past = (np.arange(d.columns) < g.past)[None]
    to_come = of(g.project, "projected")
    baseline = row(
        "baseline",
        phrase("Sold, then projected"),
        either(in_past, g.sold, to_come),
        where=g.inside,
        adds_up=True,
        blank=phrase("The projection does not reach so far, or the period is not complete."),
    )
    before = row(
        "last_total",
        phrase("a year before"),
        total(last.between(*at)),
        blank=phrase("Some of it is not known."),
    )
    none = phrase("The projection ends before.")
    ahead = row("baseline_total", phrase("sold, then projected"), total(baseline.between(*at)), blank=none)
    if parted is None:
        return Beside(baseline)
    spread, whole = parted.spread, parted.total
    signed = partial(row, signed=True)
    share = partial(d.define, unit="%", signed=True)
    share(
        "on_last", phrase("% on year before"), percent(spread, only(last > 0, last)) - 100, where=spread,
        blank=phrase("The year before is not known, or not above zero."),
    )  # fmt: skip
    no_projection = phrase("There is no projection of it, or it is not above zero.")
    signed("gap", phrase("Difference from projected"), spread - baseline, where=spread, blank=no_projection)
    share(
        "gap_share",
        phrase("Difference, % of projected"),
        percent(spread, only(baseline > 0, baseline)) - 100,
        where=spread,
        blank=no_projection,
    )
    share(
        "on_last_total", phrase("total on year before"), percent(whole, only(before > 0, before)) - 100,
        blank=phrase("The year before is not known."),
    )  # fmt: skip
    signed("gap_total", phrase("difference from that"), whole - ahead, blank=none)
    gap_total = share(
        "gap_total_share", phrase("difference, % of projected"), percent(whole, only(ahead > 0, ahead)) - 100,
        blank=none,
    )  # fmt: skip
    return Beside(baseline, gap_total, _as_it_goes(g, whole))


def _as_it_goes(g: Ground, whole: Term) -> Going | None:
    """Sold so far, still to go, and the rate that is needed now; None where none of its periods has begun."""
    d, stop = g.d, min(g.past - 1, g.last)
    if stop < g.first:
        return None
    row = partial(d.define, unit=g.unit)
    every = known(g.sold.between(g.first, stop))
    many = d.define(
        "sold_many",
        phrase("{kinds} that have sold", kinds=nouns(g.grid.kind)),
        count(every),
        exact=True,
        shown=False,
    )
    sold = row("sold", phrase("sold so far"), only(many > 0, total(every)), adds_up=True)
    to_go = row("to_go", phrase("still to go"), whole - sold, signed=False)
    row("rate_sold", phrase("sold {per_period} so far", per_period=g.grid.per_period), sold / many)
    left = g.last - max(stop, g.first - 1)
    rate = None
    if left > 0:
        rate = row(
            "rate_needed",
            phrase("needed {per_period} now", per_period=g.grid.per_period),
            only(to_go > 0, to_go / given(float(left), "left")),
        )
    return Going(sold, to_go, rate)


def _bands(g: Ground, outcome: Outcome) -> tuple[Band, ...]:
    actual = g.actuals.label.lower()
    curves = [
        Curve("actual", "actual", label=actual),
        Curve("last_year", "year", label=phrase("a year before"), ahead=False),
        Curve("baseline", "laid", label=phrase("projection")),
    ]
    if any(each is not None for each in outcome.parts):
        curves.append(Curve("spread", "smoothed", label=phrase("spread")))
    return (Band(g.unit, tuple(curves)),)


def _parts(g: Ground, children: Children | None) -> Breakdown | None:
    """What each child gets, for files."""
    if children is None or children.why:
        return None
    at = year_before(g)[g.at]
    down = children.down
    last = np.where(at >= 0, down.sold[:, np.maximum(at, 0)], np.nan)
    return Breakdown(g.ask.children, down.members, g.first, down.parts / g.scale, {"last_year": last})
