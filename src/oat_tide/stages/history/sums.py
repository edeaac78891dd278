"""Running totals and trailing totals: what has come together up to each period."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Unpack

import numpy as np

from oat_tide.core.comparison.sums import running as running_sum
from oat_tide.core.comparison.sums import running_starts
from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import Days, Kind
from oat_tide.core.series.panel import Sight
from oat_tide.core.smoothing.sums import window_mean, window_total
from oat_tide.core.smoothing.windows import Window, held, placed, spanning
from oat_tide.core.working.formula import Formula, mean, total
from oat_tide.core.working.number_format import compact, fixed
from oat_tide.core.working.terms import Term, known, wide
from oat_tide.plan.parts.history import History
from oat_tide.plan.paths import P, steps
from oat_tide.stages.common import as_known_now, as_of_handle, counted, named, span
from oat_tide.stages.deck import Band, Control, Curve, Deck, Fact, Item, Look, Note, Word, control
from oat_tide.stages.deck.draft import Draft
from oat_tide.stages.history import NAME
from oat_tide.stages.history.context import HistoryContext
from oat_tide.stages.history.together import Together, all_known, marked, together, years_of
from oat_tide.stages.history.years import (
    by_place,
    laid,
    running_rows,
    season_axis,
    settled,
    whole,
    year_curves,
)
from oat_tide.stages.published import actuals_of

LAID = ("over time", "years overlaid", "overlaid, not reset")
"""What the ways to lay out running totals are called."""


def running_total(context: HistoryContext) -> Deck:
    """From the first period, or from each year's, quarter's or month's start; over time or years overlaid."""
    sight, ask, lines = context.sight, context.ask, context.lines
    past = sight.past
    if ask.laid != "over time" and past.grid.kind not in ("year", "block") and past.columns:
        return _years(sight, ask, lines, context.arrangements)
    reset, why_not = _reset(ask, past.grid.kind)
    group = _groups(sight, reset, all_known(sight))
    d = Draft(NAME, sight)
    d.borrow(lines, "actual")
    unit = actuals_of(lines).unit
    parts, columns = together(sight, lines, group), np.arange(d.columns)[None]
    running = d.define(
        "running",
        "Running total" if reset == "never" else f"Since the {reset}'s start",
        total(known(parts.actual.between(wide(parts.starts, d.columns, 0), columns))),
        values=parts.values,
        where=wide(~np.isnan(parts.values), d.columns, False),
        sees_later=True,
        unit=unit,
        blank="Nothing since the start is known yet.",
        remark=parts.remark,
    )
    curves = [Curve("running", "smoothed", label="running total")]
    if reset != "never":
        _finished(d, unit, running, parts, group[: past.columns], reset, sight)
        curves.insert(0, Curve("finished", "average", label=f"totals of {reset}s"))
    budgets = _running_scenarios(d, sight, lines, running, reset)
    return d.deck(
        bands=(Band(unit, (*budgets, *curves)),),
        sheet=lambda: (
            control(P.history.reset, ask, why_not=why_not),
            control(P.history.laid, ask, names=LAID),
            Note(f"The working of a running total is the sum of its {past.grid.kind}s.", "small"),
        ),
        handles=(as_of_handle(sight),),
        marks=lines.marks,
        arrangements=context.arrangements,
        title=lambda series: (
            f"{named(d.keys[series])}, running total"
            + ("" if reset == "never" else f" from each {reset}'s start")
        ),
        subtitle=lambda series: (
            f"{unit} · {span(sight, 0, d.columns - 1)}{marked(parts, series)}{as_known_now(sight)}"
        ),
        finding=lambda series: _running_finding(running.values[series, : d.past], reset, unit, sight),
    )


def _reset(ask: History, kind: Kind) -> tuple[str, str]:
    """What running totals start anew with: something longer than a period."""
    longer = {
        "day": ("month", "quarter", "year"),
        "month": ("quarter", "year"),
        "quarter": ("year",),
        "week": ("year",),
    }.get(kind, ())
    if ask.reset == "never" or ask.reset in longer:
        return ask.reset, ""
    fallback = "year" if "year" in longer else "never"
    why_not = f"With {kind}s a running total cannot restart each {ask.reset}."
    return fallback, why_not if fallback == "never" else ""


def _running_scenarios(d: Draft, sight: Sight, lines: Deck, running: Term, reset: str) -> tuple[Curve, ...]:
    """The running total of each budget, as far ahead as it is known, and the history less it."""
    actuals, columns = actuals_of(lines), np.arange(d.columns)[None]
    group = _groups(sight, reset, d.columns)
    curves = []
    for scenario in actuals.scenarios:
        name, said = scenario.source.figure.name, scenario.source.figure.label
        values = scenario.values
        starts = running_starts(values, group)
        sums = running_sum(values, group, sight.past.scale)
        # It is known as far as the budget goes.
        last = values.shape[1] - 1 - (~np.isnan(values))[:, ::-1].argmax(1)
        row = partial(d.define, unit=actuals.unit, sees_later=True)
        so_far = row(
            f"running_{name}",
            f"{said}, running total",
            total(known(scenario.between(starts, columns))),
            values=sums,
            where=~np.isnan(sums) & (columns <= last[:, None]),
            blank=f"No {said} since the start is known.",
        )
        row(
            f"running_less_{name}",
            f"Running total less {said}",
            running - so_far,
            signed=True,
            blank=f"The running total or that of {said} is not known.",
        )
        curves.append(Curve(f"running_{name}", "scenario", label=said))
    return tuple(curves)


def _groups(sight: Sight, reset: str, columns: int) -> Days:
    """(columns,) what each period's running total started with."""
    past = sight.past
    if reset == "never":
        return np.zeros(columns, np.int64)
    if reset == "year":
        return years_of(past, columns)
    periods = past.first + np.arange(columns)
    return past.grid.of(reset).at(past.grid.first_days(periods))  # type: ignore[arg-type]


def _finished(
    d: Draft, unit: str, running: Term, parts: Together, group: Days, reset: str, sight: Sight
) -> None:
    """A finished quarter's or year's total stands on through its last period, beside the running one."""
    past = sight.past
    ends = np.flatnonzero(np.append(np.diff(group) != 0, False)) if past.columns else np.zeros(0, np.int64)
    if past.columns and _group_is_over(sight, reset):
        ends = np.append(ends, past.columns - 1)
    end_of = np.full(d.columns, -1)
    for end in ends.tolist():
        end_of[group.searchsorted(group[end]) : end + 1] = end
    d.define(
        "finished",
        f"Total of the {reset}",
        running.like(end_of),
        unit=unit,
        blank=lambda series, column: (
            f"The {reset} is not over, or nothing of it is known."
            if column < past.columns
            else "After the as-of."
        ),
        remark=lambda series, column: parts.remark(series, int(end_of[column])),
    )


def _group_is_over(sight: Sight, reset: str) -> bool:
    """Whether the last period of the past is the last of its year, quarter or month."""
    past = sight.past
    last = past.first + past.columns - 1
    ends = past.grid.last_day(last)
    if reset == "year":
        return int(past.grid.years([last])[0]) != int(past.grid.years([last + 1])[0])
    outer = past.grid.of(reset)  # type: ignore[arg-type]
    return outer.period(ends) != outer.period(ends + 1)


def _running_finding(values: Values, reset: str, unit: str, sight: Sight) -> str:
    known = values[~np.isnan(values)]
    if not known.size or np.isnan(values[-1]):
        return "the latest running\ntotal is not known"
    past = sight.past
    last = past.first + past.columns - 1
    said = f"{compact(float(values[-1]))} {unit}"
    if reset == "never":
        return f"{said}\nin all"
    if reset == "year":
        return f"{said}\nin {past.grid.year_label(int(past.grid.years([last])[0]))} so far"
    outer = past.grid.of(reset)  # type: ignore[arg-type]
    return f"{said}\nin {outer.label(outer.period(past.grid.last_day(last)))} so far"


def _years(sight: Sight, ask: History, lines: Deck, arrangements: Control) -> Deck:
    """Running totals of each year over the places of the year, from zero or from what earlier years left."""
    past = sight.past
    grid = past.grid
    over = laid(sight)
    carried = ask.laid == "carried on"
    group = np.zeros(past.columns, np.int64) if carried else years_of(past)
    d = Draft(NAME, sight)
    d.lay("season", season_axis(grid, over, sums=False))
    d.show_on("season")
    unit = actuals_of(lines).unit
    parts = together(sight, lines, group)
    _, totals = running_rows(d, parts, over, grid.year_label, unit)
    said = "each from what all earlier years left" if carried else "each from zero"
    return d.deck(
        bands=(Band(unit, year_curves(over, grid, len(over.years) - 1)),),
        sheet=lambda: (
            control(P.history.reset, ask, why_not="Years overlaid restart each year."),
            control(P.history.laid, ask, names=LAID),
        ),
        arrangements=arrangements,
        tinted=True,
        title=lambda series: f"{named(d.keys[series])}, running totals of the years, {said}",
        subtitle=lambda series: (
            f"{unit}{by_place(grid)} · up to the as-of{marked(parts, series)}{as_known_now(sight)}"
        ),
        finding=lambda series: _years_finding(totals, series, grid.year_label(over.years[-1]), carried),
    )


def _years_finding(laid: Values, series: int, year: str, carried: bool) -> str:
    now = laid[series, -1]
    known = np.flatnonzero(~np.isnan(now))
    if not known.size:
        return f"{year} is\nnot known"
    value = float(now[known[-1]])
    before = float(laid[series, -2, known[-1]]) if laid.shape[1] > 1 else float("nan")
    if carried or not before > 0:
        return f"{year}: {compact(value)}\n{'in all' if carried else 'so far'}"
    growth = fixed(100 * (value / before - 1), 1, plus=True)
    return f"{year} so far {compact(value)}\n{growth} % on year before"


@dataclass(frozen=True, eq=False, slots=True)
class _Window:
    """The window of each period of the past.

    Attributes:
        takes: the columns that it takes in.
        spans: whether it is a span of days, weeks or months on a grid of days.
        words: what it is called.
    """

    takes: Window
    spans: bool
    words: str


def _window(sight: Sight, ask: History, columns: int | None = None) -> _Window:
    """The windows of the past, or of so many columns."""
    past = sight.past
    grid, columns = past.grid, past.columns if columns is None else columns
    if grid.kind == "day" and ask.span != "periods":
        takes = spanning(grid, past.first, columns, ask.span, ask.length)
        return _Window(takes, True, f"last {counted(ask.length, ask.span)}")
    size = ask.back + ask.ahead + 1
    words = f"{ask.back} back to {ask.ahead} ahead" if ask.ahead else f"last {size} {grid.kind}s"
    return _Window(placed(ask.back, ask.ahead, columns), False, words)


def trailing(context: HistoryContext) -> Deck:
    """The total and the average of a window from any number of periods back to any number ahead."""
    sight, ask, lines = context.sight, context.ask, context.lines
    window = _window(sight, ask)
    d = Draft(NAME, sight)
    d.borrow(lines, "actual")
    unit = actuals_of(lines).unit
    latest = _window_rows(d, sight, window, _window(sight, ask, d.columns).takes, lines, ask.short)
    budgets = tuple(
        Curve(f"trailing_{figure.name}", "scenario", label=figure.label)
        for figure in (each.source.figure for each in actuals_of(lines).scenarios)
    )
    averages = (
        Curve("actual", "actual", label="actual"),
        Curve("trailing_mean", "smoothed", label="average"),
    )
    ends = "short windows shown" if ask.short else "no value where a window is not full"
    elsewhere = Word("Of any kind, weighted or by a median"), Word("in Smooth", steps(P.smooth.smoothers))
    return d.deck(
        bands=(
            Band(f"total, {unit}", (*budgets, Curve("trailing", "smoothed", label="total"))),
            Band(f"average, {unit}", averages, "mean"),
        ),
        sheet=lambda: _trailing_sheet(d, ask, window),
        handles=(as_of_handle(sight),),
        sentence=elsewhere,
        marks=lines.marks,
        arrangements=context.arrangements,
        title=lambda series: f"{named(d.keys[series])}, {window.words}",
        subtitle=lambda series: f"{unit} · {ends}{as_known_now(sight)}",
        finding=lambda series: _trailing_finding(latest, series, window.words),
    )


def _window_rows(
    d: Draft, sight: Sight, window: _Window, ahead: Window, lines: Deck, short: bool
) -> tuple[Term, ...]:
    """The total of each window, its average with rulings heeded, and the latest of both as facts, given.

    Args:
        ahead: the windows of all columns, those after the as-of too.
    """
    past, actuals = sight.past, actuals_of(lines)

    def blank(series: int, column: int) -> str:
        if column >= past.columns:
            return "After the as-of."
        if window.takes.first[column] < 0:
            return "The window is not full yet."
        return "The window reaches beyond the as-of, or holds a period that is part, not known or left out."

    row = partial(d.define, unit=actuals.unit, blank=blank)

    def rolled(
        name: str,
        label: str,
        gather: Callable[[Formula], Formula],
        term: Term,
        averaged: bool,
        takes: Window = window.takes,
        **look: Unpack[Look],
    ) -> Term:
        first, last = wide(takes.first[None], d.columns, 0), wide(takes.last[None], d.columns, -1)
        values, inside = term.values[:, : len(takes.first)], term.between(first, last)
        known_ones = held(~np.isnan(values), takes)
        there = known_ones > 0 if short else known_ones == takes.lengths
        kernel = window_mean if averaged else window_total
        return row(
            name,
            label,
            gather(known(inside) if short else inside),
            values=lambda: kernel(values, takes, past.scale),
            where=wide(there, d.columns, False),
            **look,
        )

    ruled = ", adjusted" if actuals.ruled else ""
    summed = rolled("trailing", f"Total, {window.words}", total, whole(sight, lines), False)
    for scenario in actuals.scenarios:
        name, label = scenario.source.figure.name, scenario.source.figure.label
        look = Look(sees_later=True, blank=f"The window is not full, or holds a period without {label}.")
        # A budget is known ahead of the as-of.
        rolled(f"trailing_{name}", f"Total of {label}", total, scenario, False, ahead, **look)
    average = rolled("trailing_mean", f"Average, {window.words}{ruled}", mean, settled(sight, lines), True)
    found = []
    for term, said in ((summed, "latest total"), (average, "latest average")):
        there = ~np.isnan(term.values[:, : past.columns])
        latest = np.where(there.any(1), past.columns - 1 - there[:, ::-1].argmax(1), -1)
        found.append(d.define(f"latest_{term.source.figure.name}", said, term.at(latest), unit=actuals.unit))
    return tuple(found)


def _trailing_sheet(d: Draft, ask: History, window: _Window) -> tuple[Item, ...]:
    most = 2 * d.grid.cycle
    span = (control(P.history.span, ask),) if d.grid.kind == "day" else ()
    ends = (
        (control(P.history.length, ask, unit=f"{ask.span}s", slides_to=max(36, ask.length)),)
        if window.spans
        else (
            control(P.history.back, ask, slides_to=max(most, ask.back)),
            control(P.history.ahead, ask, slides_to=max(most, ask.ahead)),
        )
    )
    return (
        *span,
        *ends,
        control(P.history.short, ask),
        Note(window.words.capitalize(), "head"),
        Fact("latest_trailing"),
        Fact("latest_trailing_mean"),
    )


def _trailing_finding(latest: tuple[Term, ...], series: int, words: str) -> str:
    total, mean = (float(each.values[series, 0]) for each in latest)
    if np.isnan(total):
        return f"{words}:\nnot full yet"
    return f"{words}: {compact(total)}\naverage {compact(mean)}"
