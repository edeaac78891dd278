"""Years laid over each other: columns of no one year."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.comparison.overlay import Overlay, laid_over, overlay, with_any
from oat_tide.core.exact import Values
from oat_tide.core.language import counted, noun, phrase
from oat_tide.core.periods.calendar import Days, Grid
from oat_tide.core.series.panel import INCOMPLETE, Sight
from oat_tide.core.working.formula import Formula, either, mean, only, total
from oat_tide.core.working.number_format import fixed, full
from oat_tide.core.working.terms import Term, known
from oat_tide.stages.common import as_known_now, listed
from oat_tide.stages.deck import (
    Axis,
    Band,
    Curve,
    Deck,
    Item,
    Look,
    Mark,
    Note,
    Remark,
    Role,
    WhyBlank,
)
from oat_tide.stages.deck.draft import Draft
from oat_tide.stages.history import NAME
from oat_tide.stages.history.context import HistoryContext
from oat_tide.stages.history.together import Together, all_known, marked, together, years_of
from oat_tide.stages.places import place_names
from oat_tide.stages.published import actuals_of

_FEW_PEAKS = 4
MOST_YEARS = 8
"""Years that are drawn; the table holds all."""


def whole(sight: Sight, lines: Deck) -> Term:
    """The actual of the past as a term, not known where a period is part: what sold."""
    return actuals_of(lines).actual.seeing(sight.past.whole)


def settled(sight: Sight, lines: Deck) -> Term:
    """Return the adjusted actuals, which averages and baselines use."""
    return actuals_of(lines).adjusted.seeing(sight.past.whole)


def laid(sight: Sight) -> Overlay:
    """The years of the past laid over each other, those that hold a complete period of any series."""
    past = sight.past
    over = overlay(past.grid, past.first, past.columns)
    complete: NDArray[np.bool_] = np.any(past.whole & ~np.isnan(past.values), axis=0)
    return with_any(over, complete)


def season_axis(grid: Grid, over: Overlay, sums: bool) -> Axis:
    """The places of a year, and where asked the columns of its total and mean."""
    short, brief, full = place_names(grid, over.places)
    more = ("total", "mean") if sums else ()
    full = (*full, *(phrase("the year's {each}", each=each) for each in more))
    return Axis((*short, *more), (*brief, *more), full, grid.kind)


def year_name(year: int) -> str:
    """The name of the figure of a year."""
    return f"year_{year}"


def _no_period(actual: Term, columns: Days, places: int) -> WhyBlank:
    """Why a place of a year has no figure."""

    def blank(series: int, column: int) -> str:
        if column >= places:
            return phrase("No period of this year is known.")
        at = int(columns[column])
        if at < 0:
            return phrase("The year has no such period, or the data do not reach it.")
        part = float(actual.values[series, at])
        if np.isnan(part):
            return phrase("The period is not known.")
        return phrase(
            "Only a part of the period is in the data: {full}. The year's total holds it.", full=full(part)
        )

    return blank


def add_year(d: Draft, sight: Sight, lines: Deck, over: Overlay, place: int) -> Term:
    """A row for one year: its whole periods."""
    columns, year = over.column[place], over.years[place]
    periods = whole(sight, lines).like(columns)
    return d.define(year_name(year), d.grid.year_label(year), periods, **_look(lines, over, columns))


def _look(lines: Deck, over: Overlay, columns: Days) -> Look:
    """How the row of a year is to be taken."""
    actuals = actuals_of(lines)
    blank = _no_period(actuals.actual, columns, over.places)
    return Look(unit=actuals.unit, adds_up=actuals.adds_up, blank=blank)


def _summed_year(
    d: Draft, sight: Sight, lines: Deck, over: Overlay, place: int, every: Overlay, parts: Together
) -> Term:
    """A row for one year with its total, all that is known, and the mean of its whole periods as ruled.

    Args:
        every: the same years with all columns that anything is known in; parts: their running totals.
    """
    columns, year = over.column[place], over.years[place]
    all_columns = every.column[every.years.index(year)]
    actual, ruled = whole(sight, lines), settled(sight, lines)
    at_total, at_mean = (np.arange(d.columns)[None] == over.places + more for more in (0, 1))

    def all_of(term: Term, chosen: Days) -> Formula:
        return known(term.likes(lambda at: np.broadcast_to(chosen, (len(at), len(chosen)))))

    periods = actual.like(np.append(columns, [-1, -1]))
    end = int(all_columns.max(initial=-1))

    def sums() -> Values:
        laid, means = (each.like(columns).compute(slice(0, over.places)) for each in (actual, ruled))
        held = (~np.isnan(means)).sum(1, keepdims=True)
        average = np.where(held > 0, np.nansum(means, axis=1, keepdims=True) / np.maximum(held, 1), np.nan)
        return np.concatenate((laid, parts.values[:, end : end + 1], average), axis=1)

    def remark(series: int, column: int) -> str:
        return _lacks(sight, all_columns, series) if column == over.places else ""

    held = only(mean(all_of(parts.actual, all_columns)), total(all_of(parts.actual, all_columns)))
    return d.define(
        year_name(year),
        d.grid.year_label(year),
        either(at_total, held, either(at_mean, mean(all_of(ruled, columns)), periods)),
        values=sums,
        **(_look(lines, over, columns) | Look(remark=remark, sees_later=True)),
    )


def _lacks(sight: Sight, columns: Days, series: int) -> str:
    """What a year's total lacks or holds in part, such as "9 of 12 months, and a part of October 2026"."""
    past, there = sight.past, columns[columns >= 0]
    known_ones = ~np.isnan(sight.values[series, there])
    parts = known_ones & (sight.flags[series, there] & INCOMPLETE > 0)
    held, whole_year = int(known_ones.sum()) - int(parts.sum()), len(columns) - (past.grid.kind == "week")
    if held >= whole_year:
        return ""
    kind = past.grid.kind
    said = phrase("{held} of {whole_year}", held=held, whole_year=counted(whole_year, kind))
    named_parts = [past.grid.label(past.first + int(column)) for column in there[parts]]
    return phrase("It holds {said}", said=said) + (
        phrase(", and a part of {named_parts}.", named_parts=listed(named_parts)) if named_parts else "."
    )


def year_curves(over: Overlay, grid: Grid, current: int) -> tuple[Curve, ...]:
    """A line a year, the earlier the fainter, the as-of year standing out; each named where it ends."""
    drawn = [place for place in range(len(over.years)) if place <= current][-MOST_YEARS:]
    out = []
    for place in drawn:
        year = over.years[place]
        role: Role = "actual" if place == current else "year"
        shade = 0.35 + 0.65 * (place - drawn[0]) / max(len(drawn) - 1, 1)
        out.append(Curve(year_name(year), role, label=grid.year_label(year), stop=over.places, shade=shade))
    return tuple(out)


def overlaid(context: HistoryContext) -> Deck:
    """A line a year over the places of the year; the table's rows are the years, with total and mean."""
    sight, lines = context.sight, context.lines
    past = sight.past
    grid = past.grid
    over = laid(sight)
    d = Draft(NAME, sight)
    d.lay("season", season_axis(grid, over, sums=True))
    d.show_on("season")
    unit = actuals_of(lines).unit
    columns = all_known(sight)
    every = overlay(grid, past.first, columns)
    parts = together(sight, lines, years_of(past, columns))
    rows = [_summed_year(d, sight, lines, over, place, every, parts) for place in range(len(over.years))]
    current = len(over.years) - 1
    return d.deck(
        bands=(Band(unit, year_curves(over, grid, current)),) if over.years else (),
        sheet=lambda: _what_repeats(d, over, rows),
        tinted=True,
        arrangements=context.arrangements,
        marks=lambda series: year_marks(lines, over, grid, series),
        title=lambda series: phrase(
            "by {kind}, {years_said} over each other",
            kind=noun(grid.kind),
            years_said=years_said(grid, over.years),
        ),
        subtitle=lambda series: phrase(
            "{unit} {per_period}{by_place} · complete periods up to the as-of{marked}{as_known_now}",
            unit=unit,
            per_period=grid.per_period,
            by_place=by_place(grid),
            marked=marked(parts, series),
            as_known_now=as_known_now(sight),
        ),
        finding=lambda series: _overlay_finding(grid, over, rows, series),
    )


def year_marks(lines: Deck, over: Overlay, grid: Grid, series: int) -> tuple[Mark, ...]:
    """The notes on periods, where these stand when years are laid over each other."""
    out = []
    for mark in lines.marks(series):
        if mark.column < len(over.place):
            period = lines.first + mark.column
            year = int(grid.years([period])[0])
            text = f"{mark.text}, {grid.label(period)}"
            out.append(Mark(int(over.place[mark.column]), text, mark.kind, year_name(year)))
    return tuple(out)


def running_rows(
    d: Draft,
    parts: Together,
    over: Overlay,
    label: Callable[[int], str],
    unit: str,
    places: Sequence[int] | None = None,
) -> tuple[dict[int, Term], Values]:
    """A row a year of running totals, for all years or those of some places.

    Args:
        label: of a year.

    Returns:
        The rows by year, and (series, years, places) the running totals of all years.
    """
    rows: dict[int, Term] = {}
    laid = laid_over(parts.values, over)
    for place in range(len(over.years)) if places is None else places:
        columns, year = over.column[place], over.years[place]
        rows[year] = d.define(
            year_name(year),
            label(year),
            total(known(parts.actual.between(parts.starts[:, columns], columns[None]))),
            values=laid[:, place],
            where=~np.isnan(laid[:, place]),
            unit=unit,
            blank=phrase(
                "The year has no such period, the data do not reach it, or nothing of it is known yet."
            ),
            remark=_remark_at(parts, columns),
        )
    return rows, laid


def _remark_at(parts: Together, columns: Days) -> Remark:
    return lambda series, column: parts.remark(series, int(columns[column]))


def by_place(grid: Grid) -> str:
    """How weeks lie over each other: those of one number, which are not always 52 weeks apart."""
    return phrase(" · by week of the year") if grid.kind == "week" else ""


def years_said(grid: Grid, years: tuple[int, ...]) -> str:
    if not years:
        return phrase("no years")
    if len(years) < 3:
        return phrase(" and ").join(map(grid.year_label, years))
    return phrase(
        "{first} to {last}",
        first=grid.year_label(years[0]),
        last=grid.year_label(years[-1]),
    )


def _what_repeats(d: Draft, over: Overlay, rows: Sequence[Term]) -> tuple[Item, ...]:
    return (
        Note(phrase("Finding"), "head"),
        Note(lambda series: _peak_words(d, over, rows, series)),
        Note(phrase("The year in front is the one of the as-of. At the end are the year's total, of all "
"that is known of it, and the mean of its complete periods, with decisions applied."), "small"),
    )  # fmt: skip


def _peak_words(d: Draft, over: Overlay, rows: Sequence[Term], series: int) -> str:
    laid = [_periods_of(row, over, series) for row in rows]
    # A year of weeks may have 52, and one of days no 29 February.
    places = over.places - (d.grid.kind in ("day", "week"))
    full = [periods for periods in laid if (~np.isnan(periods)).sum() >= places]
    if len(full) < 2:
        return phrase("Fewer than two complete years: it is too early to say what repeats.")
    peaks = [int(np.nanargmax(periods)) for periods in full]
    peak, names = max(set(peaks), key=peaks.count), d.axes[d.sees].full
    # What is highest in half of the years or fewer has others beside it.
    if 2 * peaks.count(peak) > len(full):
        years = phrase("{count} of {full} complete years", count=peaks.count(peak), full=len(full))
        return phrase(
            "The highest {kind} was {names} in {years}.",
            kind=noun(d.grid.kind),
            names=names[peak],
            years=years,
        )
    found = [names[each] for each in dict.fromkeys(peaks)]
    if len(found) > _FEW_PEAKS:
        return phrase(
            "The highest {kind} differs from year to year: {found} in {full} years.",
            kind=noun(d.grid.kind),
            found=len(found),
            full=len(full),
        )
    return phrase(
        "The highest {kind} is not the same from year to year: {found}.",
        kind=noun(d.grid.kind),
        found=", ".join(found),
    )


def _periods_of(row: Term, over: Overlay, series: int) -> Values:
    """(places,) the periods of a year."""
    return row.values[series, : over.places]


def _overlay_finding(grid: Grid, over: Overlay, rows: Sequence[Term], series: int) -> str:
    if len(over.years) < 2:
        return phrase("less than\ntwo years")
    now, then = (_periods_of(row, over, series) for row in reversed(rows[-2:]))
    # The as-of year so far and the same periods of the year before, on those known in both.
    both = ~np.isnan(now) & ~np.isnan(then)
    label = grid.year_label(over.years[-1])
    if not both.any() or not then[both].sum() > 0:
        return phrase("{label} cannot be compared\nwith the year before", label=label)
    growth = fixed(100 * (now[both].sum() / then[both].sum() - 1), 1, plus=True)
    return phrase("{label} so far {growth} %\non the year before", label=label, growth=growth)
