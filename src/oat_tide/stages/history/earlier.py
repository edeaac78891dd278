"""The as-of year against what earlier years sold in the same periods."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np

from oat_tide.core.comparison.overlay import Overlay
from oat_tide.core.comparison.usual import of_years
from oat_tide.core.exact import Values
from oat_tide.core.language import nouns, phrase
from oat_tide.core.periods.calendar import Grid
from oat_tide.core.series.panel import Sight
from oat_tide.core.working.formula import (
    Formula,
    Mask,
    beside,
    highest,
    lowest,
    mean,
    median,
    percent,
    total,
)
from oat_tide.core.working.number_format import fixed
from oat_tide.core.working.terms import Term, known
from oat_tide.plan.parts.history import History
from oat_tide.plan.paths import P
from oat_tide.stages.common import as_known_now
from oat_tide.stages.deck import Band, Curve, Deck, Fact, Note, OfSeries, control
from oat_tide.stages.deck.draft import Draft
from oat_tide.stages.history import NAME
from oat_tide.stages.history.context import HistoryContext
from oat_tide.stages.history.together import marked, together, years_of
from oat_tide.stages.history.years import (
    add_year,
    by_place,
    laid,
    running_rows,
    season_axis,
    settled,
    year_name,
    years_said,
)
from oat_tide.stages.published import actuals_of


@dataclass(frozen=True, eq=False, slots=True)
class _Held:
    """The as-of year, and what it is held against.

    Attributes:
        now: the as-of year.
        said: its name.
        years: the earlier ones.
        years_said: theirs together.
        held: what they give, such as "mean of 2021 to 2024".
    """

    now: int
    said: str
    years: tuple[int, ...]
    years_said: str
    held: str


def _held(grid: Grid, over: Overlay, ask: History) -> _Held:
    current = len(over.years) - 1
    years = over.years[max(current - ask.years, 0) : current]
    said, now = years_said(grid, years), over.years[current]
    return _Held(
        now,
        grid.year_label(now),
        years,
        said,
        phrase("{against} of {said}", against=phrase(ask.against), said=said),
    )


def earlier(context: HistoryContext) -> Deck:
    """The as-of year against the mean or median, and the range, of the same periods in earlier years."""
    sight, ask, lines = context.sight, context.ask, context.lines
    grid, over = sight.past.grid, laid(sight)
    held = _held(grid, over, ask)
    d = Draft(NAME, sight)
    d.lay("season", season_axis(grid, over, sums=False))
    d.show_on("season")
    unit = actuals_of(lines).unit
    rows = _year_rows(d, over, sight, lines, (*held.years, held.now), ask.to_date)
    told = _against_years(d, held, ask, unit, rows) if held.years else None
    return d.deck(
        bands=(Band(unit, _earlier_curves(grid, held, ask.against)), *_difference_band(held)),
        sheet=lambda: (
            control(P.history.years, ask, slides_to=max(10, ask.years)),
            control(P.history.against, ask),
            control(P.history.to_date, ask),
            Note(phrase("Finding"), "head"),
            Note(lambda series: _earlier_words(told, series, held, grid)),
            *(map(Fact, ("to_date", "to_date_held", "to_date_gap", "to_date_growth")) if held.years else ()),
        ),
        arrangements=context.arrangements,
        tinted=True,
        title=lambda series: phrase("{said} against the {held}", said=held.said, held=held.held),
        subtitle=lambda series: phrase(
            "{unit}, {said}{by_place} · band: lowest to highest of {years_said}{compared}{as_known_now}",
            unit=unit,
            said=phrase("running totals") if ask.to_date else grid.per_period,
            by_place=by_place(grid),
            years_said=held.years_said,
            compared=rows.said(series),
            as_known_now=as_known_now(sight),
        ),
        finding=lambda series: _earlier_finding(told, series, held),
    )


@dataclass(frozen=True, eq=False, slots=True)
class _Rows:
    """What the years give.

    Attributes:
        years: by year, as they are shown.
        base: by year, what a baseline stands on: whole and with rulings heeded.
        compared: where the as-of year can be held against it.
        said: what the subtitle says of marked cells.
        adds_up: whether they are periods, and no running totals.
    """

    years: dict[int, Term]
    base: dict[int, Term]
    compared: Mask
    said: OfSeries
    adds_up: bool


def _year_rows(
    d: Draft, over: Overlay, sight: Sight, lines: Deck, years: Sequence[int], to_date: bool
) -> _Rows:
    """A row for each of some years: its periods, or its running totals."""
    grid, unit, ruled = sight.past.grid, actuals_of(lines).unit, actuals_of(lines).ruled
    places = [over.years.index(year) for year in years]
    hidden = partial(d.define, shown=False, unit=unit)
    rows, found = dict[int, Term](), dict[int, Term]()
    if not to_date:
        for place, year in zip(places, years, strict=True):
            label = grid.year_label(year)
            row = rows[year] = add_year(d, sight, lines, over, place)
            as_ruled = settled(sight, lines).like(over.column[place])
            found[year] = (
                hidden(f"base_{year}", phrase("{label}, adjusted", label=label), as_ruled) if ruled else row
            )
        return _Rows(rows, found, np.ones((1, d.columns), bool), lambda series: "", True)
    parts = together(sight, lines, years_of(sight.past))
    rows, _ = running_rows(
        d,
        parts,
        over,
        lambda year: phrase("{year_label} to date", year_label=grid.year_label(year)),
        unit,
        places,
    )
    for place, year in zip(places, years, strict=True):
        columns, label = over.column[place], phrase("{year_label} to date", year_label=grid.year_label(year))
        if ruled:
            formula: Formula = total(settled(sight, lines).between(parts.starts[:, columns], columns[None]))
            label += phrase(", adjusted")
        else:
            formula = rows[year]
        whole_so_far = (columns >= 0) & parts.whole[:, columns]
        found[year] = hidden(f"base_{year}", label, formula, where=whole_so_far)
    columns = over.column[places[-1]]
    compared = (columns >= 0) & parts.whole[:, columns]
    return _Rows(rows, found, compared, lambda series: marked(parts, series), False)


def _difference_band(held: _Held) -> tuple[Band, ...]:
    """How far the as-of year lies above or below, as columns."""
    if not held.years:
        return ()
    return (Band(phrase("difference"), (Curve("difference", "bars"),), "difference", 0.5, zero_line=True),)


def _earlier_curves(grid: Grid, held: _Held, against: str) -> tuple[Curve, ...]:
    """The range and the lines of the earlier years, what they give, and the as-of year in front."""
    now = Curve(year_name(held.now), "actual", label=held.said)
    if not held.years:
        return (now,)
    lines = (Curve(year_name(year), "year", shade=0.35, label=grid.year_label(year)) for year in held.years)
    return (Curve("lowest", "range", "highest"), *lines, Curve("held", "average", label=phrase(against)), now)


@dataclass(frozen=True, eq=False, slots=True)
class _Told:
    """The as-of year less what earlier years give: at each place, and so far in %."""

    difference: Term
    growth: Term


def _against_years(d: Draft, held: _Held, ask: History, unit: str, rows: _Rows) -> _Told:
    """What the earlier years give at each place, and the as-of year against it."""
    against = ask.against
    bases = [rows.base[year] for year in held.years]
    years = known(beside(*bases))
    now = rows.years[held.now]
    place = partial(
        d.define,
        unit=unit,
        blank=phrase("None of the earlier years has a complete period here."),
    )

    def kernel(kind: str) -> Callable[[], Values]:
        return lambda: of_years(np.stack([each.values for each in bases], 1), kind)

    given = place("held", held.held, {"mean": mean, "median": median}[against](years), values=kernel(against))
    place("lowest", phrase("lowest of them"), lowest(years), values=kernel("lowest"), shown=False)
    place("highest", phrase("highest of them"), highest(years), values=kernel("highest"), shown=False)
    row = partial(
        d.define,
        signed=True,
        where=rows.compared,
        blank=phrase("One of the two is not known, or holds a part period."),
    )
    label = now.source.figure.label
    difference = row(
        "difference",
        phrase("{label} less {against}", label=label, against=phrase(against)),
        now - given,
        unit=unit,
        adds_up=rows.adds_up,
    )
    row(
        "difference_share",
        phrase("% on {against}", against=phrase(against)),
        percent(difference, given),
        unit="%",
    )
    return _Told(difference, _to_date(d, now, given, rows.compared, ask, unit))


def _to_date(d: Draft, now: Term, held: Term, compared: Mask, ask: History, unit: str) -> Term:
    """Facts: the as-of year so far, what it is held against on the same periods, and the change in %."""
    both = ~np.isnan(now.values) & ~np.isnan(held.values) & compared
    any_both: Mask = np.any(both, axis=1, keepdims=True)
    last = np.where(any_both[:, 0], both.shape[1] - 1 - both[:, ::-1].argmax(1), -1)

    def so_far(name: str, label: str, of: Term) -> Term:
        # Running totals hold all that came before them.
        formula = of.at(last) if ask.to_date else total(of.among(both))
        return d.define(name, label, formula, where=any_both, unit=unit)

    this = so_far("to_date", phrase("{label}, so far", label=now.source.figure.label), now)
    that = so_far("to_date_held", phrase("{against}, same periods", against=phrase(ask.against)), held)
    d.define("to_date_gap", phrase("difference"), this - that, unit=unit, signed=True)
    return d.define(
        "to_date_growth", phrase("difference, %"), percent(this - that, that), unit="%", signed=True
    )


def _earlier_words(told: _Told | None, series: int, held: _Held, grid: Grid) -> str:
    if told is None:
        return phrase("There is no earlier year to compare this one with.")
    gaps = told.difference.values[series]
    known = gaps[~np.isnan(gaps)]
    if not known.size:
        return phrase("No period is known both in this year and in the earlier ones.")
    above = int((known > 0).sum())
    return phrase(
        "{said} was above the {held} in {above} of {size} {long}.",
        said=held.said,
        held=held.held,
        above=above,
        size=known.size,
        long=nouns(grid.kind),
    )


def _earlier_finding(told: _Told | None, series: int, held: _Held) -> str:
    year = held.said
    if told is None:
        return phrase("{year}: no\nearlier year", year=year)
    growth = float(told.growth.values[series, 0])
    if np.isnan(growth):
        return phrase("{year} cannot be compared\nwith earlier years", year=year)
    return phrase(
        "{year} so far {growth} %\non the {held}",
        year=year,
        growth=fixed(growth, 1, plus=True),
        held=held.held,
    )
