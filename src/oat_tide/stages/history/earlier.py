"""The as-of year against what earlier years sold in the same periods."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np

from oat_tide.core.comparison.overlay import Overlay
from oat_tide.core.comparison.usual import of_years
from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import Grid
from oat_tide.core.series.panel import Panel, Sight
from oat_tide.core.series.reading import Reading
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
from oat_tide.core.working.numerals import fixed
from oat_tide.core.working.terms import Term, known
from oat_tide.plan.parts.history import History
from oat_tide.plan.paths import P
from oat_tide.stages.common import as_known_now, counted, named
from oat_tide.stages.deck import Band, Curve, Deck, Fact, Knob, Late, Note, OfSeries, knob
from oat_tide.stages.deck.draft import Draft
from oat_tide.stages.history import NAME
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
from oat_tide.stages.lines import base

_LONG = {"day": "days", "week": "weeks", "month": "months", "quarter": "quarters"}


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
    return _Held(now, grid.year_label(now), years, said, f"{ask.against} of {said}")


def earlier(
    sight: Sight, ask: History, lines: Deck, leaves: Panel, reading: Reading, arrangements: Knob, late: Late
) -> Deck:
    """The as-of year against the mean or median, and the range, of the same periods in earlier years."""
    grid, over = sight.past.grid, laid(sight)
    held = _held(grid, over, ask)
    d = Draft(NAME, sight)
    d.lay("season", season_axis(grid, over, sums=False))
    d.show_on("season")
    unit = lines.figures["actual"].unit
    rows = _year_rows(d, over, sight, lines, (*held.years, held.now), ask.to_date)
    if held.years:
        now, against = _against_years(d, held, ask.against, unit, rows)
        _to_date(d, now, against, rows.compared, ask, unit)
    return d.deck(
        bands=(Band(unit, _earlier_curves(grid, held, ask.against)),),
        sheet=lambda: (
            knob(P.history.years, ask, slides_to=max(10, ask.years)),
            knob(P.history.against, ask),
            knob(P.history.to_date, ask),
            Note("What it says", "head"),
            Note(lambda series: _earlier_words(d, series, held, grid)),
            *(map(Fact, ("to_date", "to_date_held", "to_date_gap", "to_date_growth")) if held.years else ()),
        ),
        arrangements=arrangements,
        tinted=True,
        title=lambda series: f"{named(d.keys[series])}, {held.said} against the {held.held}",
        subtitle=lambda series: (
            f"{unit}, {'running totals' if ask.to_date else grid.a_period}{by_place(grid)} · "
            f"band: lowest to highest of {held.years_said}{rows.said(series)}{as_known_now(sight)}"
        ),
        finding=lambda series: _earlier_finding(d, series, held.said, ask),
    )


@dataclass(frozen=True, eq=False, slots=True)
class _Rows:
    """What the years give.

    Attributes:
        base: by year, what a baseline stands on: whole and with rulings heeded.
        compared: where the as-of year can be held against it.
        said: what the subtitle says of marked cells.
        adds_up: whether they are periods, and no running totals.
    """

    base: dict[int, Term]
    compared: Mask
    said: OfSeries
    adds_up: bool


def _year_rows(
    d: Draft, over: Overlay, sight: Sight, lines: Deck, years: Sequence[int], to_date: bool
) -> _Rows:
    """A row for each of some years: its periods, or its running totals."""
    grid, unit = sight.past.grid, lines.figures["actual"].unit
    places, ruled = [over.years.index(year) for year in years], base(lines) != "actual"
    hidden = partial(d.define, shown=False, unit=unit)
    found: dict[int, Term] = {}
    if not to_date:
        for place, year in zip(places, years, strict=True):
            label = grid.year_label(year)
            row = add_year(d, sight, lines, over, place)
            as_ruled = settled(sight, lines).like(over.column[place])
            found[year] = hidden(f"base_{year}", f"{label}, as ruled", as_ruled) if ruled else row
        return _Rows(found, np.ones((1, d.columns), bool), lambda series: "", True)
    parts = together(sight, lines, years_of(sight.past))
    running_rows(d, parts, over, lambda year: f"{grid.year_label(year)} to date", unit, places)
    for place, year in zip(places, years, strict=True):
        columns, label = over.column[place], f"{grid.year_label(year)} to date"
        if ruled:
            formula: Formula = total(settled(sight, lines).between(parts.starts[:, columns], columns[None]))
            label += ", as ruled"
        else:
            formula = d.term(year_name(year))
        whole_so_far = (columns >= 0) & parts.whole[:, columns]
        found[year] = hidden(f"base_{year}", label, formula, where=whole_so_far)
    columns = over.column[places[-1]]
    return _Rows(found, (columns >= 0) & parts.whole[:, columns], lambda series: marked(parts, series), False)


def _earlier_curves(grid: Grid, held: _Held, against: str) -> tuple[Curve, ...]:
    """The range and the lines of the earlier years, what they give, and the as-of year in front."""
    now = Curve(year_name(held.now), "actual", label=held.said)
    if not held.years:
        return (now,)
    lines = (Curve(year_name(year), "year", shade=0.35, label=grid.year_label(year)) for year in held.years)
    return (Curve("lowest", "range", "highest"), *lines, Curve("held", "average", label=against), now)


def _against_years(d: Draft, held: _Held, against: str, unit: str, rows: _Rows) -> tuple[Term, Term]:
    """What the earlier years give at each place, and the as-of year against it."""
    bases = [rows.base[year] for year in held.years]
    years = known(beside(*bases))
    now = d.term(year_name(held.now))
    place = partial(
        d.define,
        unit=unit,
        blank="None of the earlier years has a whole period here.",
    )

    def kernel(kind: str) -> Callable[[], Values]:
        return lambda: of_years(np.stack([each.values for each in bases], 1), kind)

    given = place("held", held.held, {"mean": mean, "median": median}[against](years), values=kernel(against))
    place("lowest", "lowest of them", lowest(years), values=kernel("lowest"), shown=False)
    place("highest", "highest of them", highest(years), values=kernel("highest"), shown=False)
    row = partial(
        d.define,
        signed=True,
        where=rows.compared,
        blank="One of the two is not known, or holds a part period.",
    )
    label = d.figures[year_name(held.now)].label
    difference = row("difference", f"{label} less {against}", now - given, unit=unit, adds_up=rows.adds_up)
    row("difference_share", f"% on {against}", percent(difference, given), unit="%")
    return now, given


def _to_date(d: Draft, now: Term, held: Term, compared: Mask, ask: History, unit: str) -> None:
    """Three facts: the as-of year so far, what it is held against on the same periods, and the change."""
    both = ~np.isnan(now.values) & ~np.isnan(held.values) & compared
    any_both: Mask = np.any(both, axis=1, keepdims=True)
    last = np.where(any_both[:, 0], both.shape[1] - 1 - both[:, ::-1].argmax(1), -1)

    def so_far(name: str, label: str, of: Term) -> Term:
        # Running totals hold all that came before them.
        formula = of.at(last) if ask.to_date else total(of.among(both))
        return d.define(name, label, formula, where=any_both, unit=unit)

    this = so_far("to_date", f"{now.source.figure.label}, so far", now)
    that = so_far("to_date_held", f"{ask.against}, same periods", held)
    d.define("to_date_gap", "difference", this - that, unit=unit, signed=True)
    d.define("to_date_growth", "difference, %", percent(this - that, that), unit="%", signed=True)


def _earlier_words(d: Draft, series: int, held: _Held, grid: Grid) -> str:
    if "difference" not in d.figures:
        return "There is no earlier year to hold this one against."
    gaps = d.figures["difference"].values[series]
    known = gaps[~np.isnan(gaps)]
    if not known.size:
        return "No period is known both in this year and in the earlier ones."
    above = int((known > 0).sum())
    return f"{held.said} stands above the {held.held} in {above} of {known.size} {_LONG[grid.kind]}."


def _earlier_finding(d: Draft, series: int, year: str, ask: History) -> str:
    if "to_date_growth" not in d.figures:
        return f"{year}: no\nearlier year"
    growth = float(d.figures["to_date_growth"].values[series, 0])
    if np.isnan(growth):
        return f"{year} cannot be\nheld against earlier years"
    return (
        f"{year} so far {fixed(growth, 1, plus=True)} %\non the {ask.against} of {counted(ask.years, 'year')}"
    )
