"""Years laid over each other, and this year against earlier ones: columns of no one year."""

from __future__ import annotations

import datetime as dt
from typing import Any

import numpy as np

from oat_tide.core.comparison.change import share
from oat_tide.core.comparison.overlay import Overlay, laid_over, overlay
from oat_tide.core.comparison.sums import running
from oat_tide.core.comparison.usual import of_years
from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import MONTHS, Days, Grid, date_of, day_number
from oat_tide.core.series.panel import PART, Panel, Sight
from oat_tide.core.working.numerals import fixed
from oat_tide.core.working.tree import Cell, Given, Op, Working
from oat_tide.plan.edits import P
from oat_tide.plan.parts.history import History
from oat_tide.stages.common import as_known_now, named
from oat_tide.stages.deck import Axis, Band, Curve, Deck, Fact, Item, Knob, Mark, Note, knob
from oat_tide.stages.deck.draft import Draft, cell, run

NAME = "history"
MOST_YEARS = 8
"""Years that are drawn; the table holds all."""
_LONG = {"day": "days", "week": "weeks", "month": "months", "quarter": "quarters"}


def whole(sight: Sight) -> Values:
    """(series, columns) of the past, NaN where a period is part."""
    return np.where(sight.past.flags & PART, np.nan, sight.past.values)


def season_axis(grid: Grid, over: Overlay, sums: bool) -> Axis:
    """The places of a year, and where asked the columns of its total and mean."""
    if grid.kind == "day":
        start = day_number(_leap(grid.year_start))
        dates = [date_of(start + place) for place in range(over.places)]
        full = [f"{day.day} {MONTHS[day.month - 1]}" for day in dates]
        short = [MONTHS[day.month - 1] if day.day == 1 else "" for day in dates]
        brief = short
    elif grid.kind == "month" and not grid.pattern:
        names = [MONTHS[(grid.year_start - 1 + place) % 12] for place in range(12)]
        full, short, brief = names, names, [name[0] for name in names]
    else:
        mark = {"week": "", "quarter": "Q", "month": "P"}[grid.kind]
        words = {"week": "week ", "quarter": "Q", "month": "P"}[grid.kind]
        full = [f"{words}{place + 1}" for place in range(over.places)]
        short = [f"{mark}{place + 1}" for place in range(over.places)]
        brief = short
    more = ("total", "mean") if sums else ()
    return Axis((*short, *more), (*brief, *more), (*full, *(f"the year's {each}" for each in more)))


def _leap(month: int) -> dt.date:
    return dt.date(2024, month, 1) if month < 3 else dt.date(2023, month, 1)


def year_name(year: int) -> str:
    """The name of the figure of a year."""
    return f"year_{year}"


def add_year(
    d: Draft, lines: Deck, over: Overlay, values: Values, place: int, sums: bool, label: str
) -> None:
    """A row for one year: its periods, and where asked its total and mean."""
    columns, own = over.column[place], laid_over(values, over)[:, place]
    known = ~np.isnan(own)
    scale_total = np.where(known.any(1), np.nansum(own, axis=1), np.nan)[:, None]
    count = known.sum(1)[:, None]
    with np.errstate(invalid="ignore", divide="ignore"):
        more = np.concatenate((scale_total, scale_total / count), axis=1) if sums else np.empty((len(own), 0))
    name = year_name(over.years[place])

    def how(series: int, column: int) -> Working:
        if column < over.places:
            return cell(lines, "actual", series, int(columns[column]))
        at = [int(columns[c]) for c in np.flatnonzero(known[series])]
        total = Op("sum", tuple(cell(lines, "actual", series, c) for c in at))
        if column == over.places:
            return total
        return Op("/", (d.cell(name, series, over.places), Given(float(len(at)), "periods")))

    def blank(series: int, column: int) -> str:
        if column >= over.places:
            return "No whole period of this year is known."
        if columns[column] < 0:
            return "The year has no such period, or the data do not reach it."
        return "The period is part, or not known."

    d.add(
        name,
        label,
        np.concatenate((own, more), axis=1),
        how,
        unit=lines.figures["actual"].unit,
        why_blank=blank,
    )


def year_curves(over: Overlay, grid: Grid, current: int) -> tuple[Curve, ...]:
    """A line a year, the earlier the fainter, the as-of year standing out; each named where it ends."""
    drawn = [place for place in range(len(over.years)) if place <= current][-MOST_YEARS:]
    out = []
    for place in drawn:
        year = over.years[place]
        role: Any = "actual" if place == current else "year"
        shade = 0.35 + 0.65 * (place - drawn[0]) / max(len(drawn) - 1, 1)
        out.append(Curve(year_name(year), role, label=grid.year_label(year), stop=over.places, shade=shade))
    return tuple(out)


def overlaid(sight: Sight, ask: History, lines: Deck, leaves: Panel, reading: Any, ways: Knob) -> Deck:
    """A line a year over the places of the year; the table's rows are the years, with total and mean."""
    past = sight.past
    grid, values = past.grid, whole(sight)
    over = overlay(grid, past.first, past.columns)
    d = Draft.of_axis(NAME, sight, season_axis(grid, over, sums=True))
    for place in range(len(over.years)):
        add_year(d, lines, over, values, place, True, grid.year_label(over.years[place]))
    unit = lines.figures["actual"].unit
    current = len(over.years) - 1
    return d.deck(
        bands=(Band(unit, year_curves(over, grid, current)),) if over.years else (),
        sheet=lambda: _what_repeats(d, over, values),
        tinted=True,
        ways=ways,
        marks=lambda s: year_marks(lines, over, grid, s),
        title=lambda s: f"{named(d.keys[s])} by {grid.kind}, {_years_said(grid, over.years)} over each other",
        subtitle=lambda s: f"{unit} {grid.a_period} · whole periods up to the as-of{as_known_now(sight)}",
        finding=lambda s: _overlay_finding(d, grid, over, values, s),
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


def running_working(lines: Deck, values: Values, group: Days, series: int, column: int) -> Working:
    """The sum from the first known period of the group that a column lies in."""
    start = int(np.flatnonzero(group == group[column])[0])
    while np.isnan(values[series, start]):
        start += 1
    return Op("sum", (run(lines, "actual", series, start, column),))


def _years_said(grid: Grid, years: tuple[int, ...]) -> str:
    if not years:
        return "no years"
    if len(years) == 1:
        return grid.year_label(years[0])
    return f"{grid.year_label(years[0])} to {grid.year_label(years[-1])}"


def _what_repeats(d: Draft, over: Overlay, values: Values) -> tuple[Item, ...]:
    return (
        Note(lambda s: "What it says", "head"),
        Note(lambda s: _peak_words(d, over, values, s)),
        Note(lambda s: "The year in front is the one of the as-of. Columns at the end are the year's "
             "total and mean over its whole periods.", "small"),
    )  # fmt: skip


def _peak_words(d: Draft, over: Overlay, values: Values, series: int) -> str:
    laid = laid_over(values, over)[series]
    full = [row for row in range(len(over.years)) if (~np.isnan(laid[row])).sum() >= over.places - 1]
    if len(full) < 2 or d.axis is None:
        return "Fewer than two whole years: what repeats cannot be told yet."
    peaks = [int(np.nanargmax(laid[row])) for row in full]
    peak = max(set(peaks), key=peaks.count)
    return f"The highest has been {d.axis.full[peak]} in {peaks.count(peak)} of {len(full)} whole years."


def _overlay_finding(d: Draft, grid: Grid, over: Overlay, values: Values, series: int) -> str:
    if len(over.years) < 2:
        return "less than\ntwo years"
    now, then = _to_date(over, values, series)
    label = grid.year_label(over.years[-1])
    if np.isnan(now) or not then > 0:
        return f"{label} cannot be\nheld against the year before"
    growth = fixed(100 * (now / then - 1), 1, plus=True)
    return f"{label} so far {growth} %\non the year before"


def _to_date(over: Overlay, values: Values, series: int) -> tuple[float, float]:
    """The as-of year so far and the same periods of the year before, on those known in both."""
    laid = laid_over(values, over)[series]
    both = ~np.isnan(laid[-1]) & ~np.isnan(laid[-2])
    if not both.any():
        return float("nan"), float("nan")
    return float(laid[-1][both].sum()), float(laid[-2][both].sum())


def earlier(sight: Sight, ask: History, lines: Deck, leaves: Panel, reading: Any, ways: Knob) -> Deck:
    """The as-of year against the mean or median, and the range, of the same periods in earlier years."""
    past = sight.past
    grid, values = past.grid, whole(sight)
    over = overlay(grid, past.first, past.columns)
    current = len(over.years) - 1
    own = list(range(max(current - ask.years, 0), current))
    d = Draft.of_axis(NAME, sight, season_axis(grid, over, sums=False))
    shown = values
    if ask.to_date:
        group = grid.years(np.arange(past.first, past.first + past.columns))
        shown = running(values, group, past.scale)
        _running_rows(d, lines, over, values, group, shown, (*own, current))
    else:
        for place in (*own, current):
            add_year(d, lines, over, values, place, False, grid.year_label(over.years[place]))
    laid = laid_over(shown, over)
    unit = lines.figures["actual"].unit
    years = [over.years[place] for place in own]
    names = [year_name(year) for year in years]
    said = _years_said(grid, tuple(years))
    held = f"{ask.against} of {said}"
    if own:
        _against_years(
            d, laid[:, own], laid[:, current], names, year_name(over.years[current]), held, ask, unit
        )
    curves = (
        (
            Curve("lowest", "range", "highest"),
            *(
                Curve(n, "year", shade=0.5, label=grid.year_label(y))
                for n, y in zip(names, years, strict=True)
            ),
            Curve("held", "average", label=ask.against),
        )
        if own
        else ()
    )
    now = year_name(over.years[current])
    bands = (Band(unit, (*curves, Curve(now, "actual", label=grid.year_label(over.years[current])))),)
    return d.deck(
        bands=bands,
        sheet=lambda: (
            knob(P.history.years, ask, slides_to=max(10, ask.years)),
            knob(P.history.against, ask),
            knob(P.history.to_date, ask),
            Note(lambda s: "What it says", "head"),
            Note(lambda s: _earlier_words(d, s, grid.year_label(over.years[current]), held, grid)),
            *((Fact("to_date"), Fact("to_date_held"), Fact("to_date_growth")) if own else ()),
        ),
        ways=ways,
        tinted=True,
        title=lambda s: f"{named(d.keys[s])}, {grid.year_label(over.years[current])} against the {held}",
        subtitle=lambda s: (
            f"{unit}, {'running totals' if ask.to_date else grid.a_period} · "
            f"band: lowest to highest of {said}" + as_known_now(sight)
        ),
        finding=lambda s: _earlier_finding(d, s, grid.year_label(over.years[current]), ask),
    )


def _running_rows(
    d: Draft, lines: Deck, over: Overlay, values: Values, group: Days, shown: Values, places: tuple[int, ...]
) -> None:
    """A row a year of running totals from its start."""
    laid = laid_over(shown, over)
    for place in places:

        def how(series: int, column: int, columns: Days = over.column[place]) -> Working:
            return running_working(lines, values, group, series, int(columns[column]))

        label = d.grid.year_label(over.years[place])
        d.add(
            year_name(over.years[place]),
            f"{label} to date",
            laid[:, place],
            how,
            unit=lines.figures["actual"].unit,
            why_blank=lambda s, c: "A period of this year up to here is part, or not known.",
        )


def _against_years(
    d: Draft, laid: Values, now: Values, names: list[str], current: str, held: str, ask: History, unit: str
) -> None:
    """What the earlier years give at each place, and the as-of year against it."""

    def terms(series: int, column: int) -> tuple[Cell, ...]:
        return tuple(
            d.cell(name, series, column)
            for place, name in enumerate(names)
            if laid[series, place, column] == laid[series, place, column]
        )

    none = lambda s, c: "None of the earlier years has a whole period here."  # noqa: E731
    d.add(
        "held",
        held,
        of_years(laid, ask.against),
        lambda s, c: Op(ask.against, terms(s, c)),
        unit=unit,
        why_blank=none,
    )
    for name, label in (("lowest", "lowest of them"), ("highest", "highest of them")):
        values = of_years(laid, name)

        def at(series: int, column: int, values: Values = values) -> Working:
            place = next(i for i in range(len(names)) if laid[series, i, column] == values[series, column])
            return d.cell(names[place], series, column)

        d.add(name, label, values, at, unit=unit, shown=False, why_blank=none)
    difference = now - d.figures["held"].values
    why = lambda s, c: "One of the two is not known."  # noqa: E731
    d.add(
        "difference",
        f"{d.figures[current].label} less {ask.against}",
        difference,
        lambda s, c: Op("-", (d.cell(current, s, c), d.cell("held", s, c))),
        unit=unit,
        signed=True,
        why_blank=why,
    )
    d.add(
        "difference_share",
        f"% of {ask.against}",
        share(difference, d.figures["held"].values),
        lambda s, c: Op("/", (Op("*", (Given(100.0), d.cell("difference", s, c))), d.cell("held", s, c))),
        unit="%",
        signed=True,
        why_blank=why,
    )
    both = ~np.isnan(now) & ~np.isnan(d.figures["held"].values)
    if ask.to_date:
        last = np.where(both.any(1), both.shape[1] - 1 - both[:, ::-1].argmax(1), 0)

        def chosen(values: Values) -> Values:
            return np.where(both.any(1), np.take_along_axis(values, last[:, None], 1)[:, 0], np.nan)[:, None]

        def picked(name: str, s: int) -> Working:
            return d.cell(name, s, int(last[s]))
    else:

        def chosen(values: Values) -> Values:
            return np.where(both.any(1), np.where(both, values, 0.0).sum(1), np.nan)[:, None]

        def picked(name: str, s: int) -> Working:
            return Op("sum", tuple(d.cell(name, s, c) for c in np.flatnonzero(both[s]).tolist()))

    d.add(
        "to_date",
        f"{d.figures[current].label}, so far",
        chosen(now),
        lambda s, c: picked(current, s),
        fact=True,
        unit=unit,
    )
    d.add(
        "to_date_held",
        f"{ask.against}, same periods",
        chosen(d.figures["held"].values),
        lambda s, c: picked("held", s),
        fact=True,
        unit=unit,
    )
    this, that = d.figures["to_date"].values, d.figures["to_date_held"].values

    def growth(s: int, c: int) -> Working:
        less = Op("-", (d.cell("to_date", s), d.cell("to_date_held", s)))
        return Op("/", (Op("*", (Given(100.0), less)), d.cell("to_date_held", s)))

    d.add(
        "to_date_growth", "above or below", share(this - that, that), growth, fact=True, unit="%", signed=True
    )


def _earlier_words(d: Draft, series: int, year: str, held: str, grid: Grid) -> str:
    if "difference" not in d.figures:
        return "There is no earlier year to hold this one against."
    gaps = d.figures["difference"].values[series]
    known = gaps[~np.isnan(gaps)]
    if not known.size:
        return "No period is known both in this year and in the earlier ones."
    above = int((known > 0).sum())
    return f"{year} stands above the {held} in {above} of {known.size} {_LONG[grid.kind]}."


def _earlier_finding(d: Draft, series: int, year: str, ask: History) -> str:
    if "to_date_growth" not in d.figures:
        return f"{year}: no\nearlier year"
    growth = float(d.figures["to_date_growth"].values[series, 0])
    if np.isnan(growth):
        return f"{year} cannot be\nheld against earlier years"
    return f"{year} so far {fixed(growth, 1, plus=True)} %\non the {ask.against} of {ask.years} years"
