"""Each period against what is usual at its place."""

from __future__ import annotations

from functools import partial

import numpy as np

from oat_tide.core.comparison.overlay import overlay
from oat_tide.core.comparison.usual import usual
from oat_tide.core.exact import Values
from oat_tide.core.language import counted, noun, phrase
from oat_tide.core.periods.calendar import Days, Grid
from oat_tide.core.series.like import like_places
from oat_tide.core.series.panel import Sight
from oat_tide.core.working.formula import mean, percent
from oat_tide.core.working.number_format import fixed
from oat_tide.core.working.terms import Term, known, same_place, wide
from oat_tide.plan.parts.history import History
from oat_tide.plan.paths import P
from oat_tide.stages.common import as_known_now, as_of_handle, span
from oat_tide.stages.deck import Band, Control, Curve, Deck, Note, Role, control
from oat_tide.stages.deck.draft import Draft
from oat_tide.stages.history import NAME
from oat_tide.stages.history.context import HistoryContext
from oat_tide.stages.history.years import MOST_YEARS, season_axis, settled, whole, year_name
from oat_tide.stages.published import actuals_of


def on_usual(context: HistoryContext) -> Deck:
    """% of usual and difference from usual, usual being the mean of that month or week over all years."""
    sight, ask, lines = context.sight, context.ask, context.lines
    past = sight.past
    grid = past.grid
    place = like_places(grid, past.first, past.columns)
    what = phrase("weekday") if grid.kind == "day" else noun(grid.kind)
    if ask.laid != "over time" and grid.kind != "day" and past.columns:
        return _usual_by_year(sight, ask, lines, context.arrangements, place, what)
    d = Draft(NAME, sight)
    d.borrow(lines, "actual")
    _, difference = _usual_rows(d, sight, lines, place, what)
    return d.deck(
        bands=(Band(phrase("% from the average {what}", what=what), (Curve("from_usual", "bars"),)),),
        sheet=lambda: (
            _laid(ask),
            Note(phrase("Finding"), "head"),
            Note(lambda series: _above_words(difference.values[series], grid.kind)),
            Note(
                phrase(
                    "The average is the mean of that {what} over all years up to the as-of, this one's "
                    "own included, with decisions applied. It does not change with what is in sight.",
                    what=what,
                ),
                "small",
            ),
        ),
        handles=(as_of_handle(sight),),
        marks=lines.marks,
        arrangements=context.arrangements,
        title=lambda series: phrase("against the average {what}", what=what),
        subtitle=lambda series: (
            phrase(
                "% from the average {what} · {span}", what=what, span=span(sight, 0, max(past.columns - 1, 0))
            )
            + as_known_now(sight)
        ),
        finding=lambda series: _usual_finding(difference.values[series, : past.columns], grid, past.first),
    )


def _usual_rows(d: Draft, sight: Sight, lines: Deck, place: Days, what: str) -> tuple[Term, Term]:
    """The usual of each period and how far from it what sold is; gives it as % of that, and that from 100."""
    past, unit = sight.past.columns, actuals_of(lines).unit
    actual, ruled = whole(sight, lines), settled(sight, lines)

    def blank(series: int, column: int) -> str:
        if column >= past:
            return phrase("After the as-of.")
        if np.isnan(actual.values[series, column]):
            return phrase("The period is part, or not known.")
        return phrase("No period at its place is known and not left out: there is no average.")

    def no_share(series: int, column: int) -> str:
        if column >= past or np.isnan(usual_of.values[series, column]):
            return blank(series, column)
        return phrase("The average is not above zero: a share of it means nothing.")

    row, share_row = partial(d.define, blank=blank), partial(d.define, blank=no_share, unit="%")
    places = wide(place[None], d.columns, -1)[0]
    usual_of = row(
        "usual",
        phrase("Average {what}", what=what),
        mean(known(ruled.likes(same_place(places)))),
        values=lambda: usual(ruled.values[:, :past], place),
        where=actual,
        unit=unit,
    )
    row(
        "above_usual",
        phrase("Above or below the average {what}", what=what),
        actual - usual_of,
        unit=unit,
        signed=True,
        adds_up=actuals_of(lines).adds_up,
    )
    share = share_row("of_usual", phrase("% of the average {what}", what=what), percent(actual, usual_of))
    return share, share_row(
        "from_usual", phrase("Difference from the average {what}", what=what), share - 100, signed=True
    )


def _laid(ask: History) -> Control:
    two = ("over time", "years overlaid")
    return control(P.history.laid, ask, choices=two, names=tuple(map(phrase, two)))


def _above_words(difference: Values, kind: str) -> str:
    if np.isnan(difference).all():
        return phrase("Nothing can be compared with its average yet.")
    above, below = int((difference > 0).sum()), int((difference < 0).sum())
    stand = phrase("is above its average") if above == 1 else phrase("are above their average")
    return phrase(
        "{above} {stand} and {below:,} below.", above=counted(above, kind), stand=stand, below=below
    )


def _usual_finding(difference: Values, grid: Grid, first: int) -> str:
    if not difference.size or np.isnan(difference[-1]):
        return phrase("the latest {kind} has\nno average yet", kind=noun(grid.kind))
    label = grid.label(first + len(difference) - 1)
    return phrase(
        "{label}:\n{difference} % from the average",
        label=label,
        difference=fixed(float(difference[-1]), 1, plus=True),
    )


def _usual_by_year(
    sight: Sight, ask: History, lines: Deck, arrangements: Control, place: Days, what: str
) -> Deck:
    """The differences from usual with the years laid over each other; a row a year."""
    past = sight.past
    grid = past.grid
    over = overlay(grid, past.first, past.columns)
    d = Draft(NAME, sight)
    d.borrow(lines, "actual")
    share, difference = _usual_rows(d, sight, lines, place, what)
    d.lay("season", season_axis(grid, over, sums=False))
    d.show_on("season")
    curves = []
    for year, columns in zip(over.years, over.column, strict=True):
        label = grid.year_label(year)
        d.define(
            year_name(year),
            phrase("{label}, % from the average", label=label),
            share.like(columns) - 100,
            unit="%",
            signed=True,
            blank=phrase("The period is part, not known, or has no average."),
        )
        role: Role = "actual" if year == over.years[-1] else "year"
        curves.append(Curve(year_name(year), role, label=label, shade=0.6))
    return d.deck(
        bands=(Band(phrase("% from the average {what}", what=what), tuple(curves[-MOST_YEARS:])),),
        sheet=lambda: (
            _laid(ask),
            Note(lambda series: _above_words(difference.values[series], grid.kind)),
        ),
        arrangements=arrangements,
        tinted=True,
        title=lambda series: phrase("against the average {what}, year by year", what=what),
        subtitle=lambda series: phrase(
            "% from the average {what}{as_known_now}", what=what, as_known_now=as_known_now(sight)
        ),
        finding=lambda series: _usual_finding(difference.values[series, : past.columns], grid, past.first),
    )
