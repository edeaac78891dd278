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
from oat_tide.core.language import counted, noun, nouns, phrase
from oat_tide.core.periods.calendar import Days, Kind
from oat_tide.core.series.panel import Sight
from oat_tide.core.smoothing.sums import window_mean, window_total
from oat_tide.core.smoothing.windows import Window, held, placed, spanning
from oat_tide.core.working.formula import Formula, mean, total
from oat_tide.core.working.number_format import compact, fixed
from oat_tide.core.working.terms import Term, known, wide
from oat_tide.plan.parts.history import History
from oat_tide.plan.paths import P, steps
from oat_tide.stages.common import as_known_now, as_of_handle, span
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

LAID = (phrase("over time"), phrase("years overlaid"), phrase("overlaid, not reset"))
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
        phrase("Running total")
        if reset == "never"
        else phrase("Since the {reset}'s start", reset=noun(reset)),
        total(known(parts.actual.between(wide(parts.starts, d.columns, 0), columns))),
        values=parts.values,
        where=wide(~np.isnan(parts.values), d.columns, False),
        sees_later=True,
        unit=unit,
        blank=phrase("Nothing since the start is known yet."),
        remark=parts.remark,
    )
    curves = [Curve("running", "smoothed", label=phrase("running total"))]
    if reset != "never":
        _finished(d, unit, running, parts, group[: past.columns], reset, sight)
        curves.insert(0, Curve("finished", "average", label=phrase("totals of {reset}s", reset=noun(reset))))
    budgets = _running_scenarios(d, sight, lines, running, reset)
    return d.deck(
        bands=(Band(unit, (*budgets, *curves)),),
        sheet=lambda: (
            control(P.history.reset, ask, why_not=why_not),
            control(P.history.laid, ask, names=LAID),
            Note(
                phrase(
                    "The working of a running total is the sum of its {kinds}.", kinds=nouns(past.grid.kind)
                ),
                "small",
            ),
        ),
        handles=(as_of_handle(sight),),
        marks=lines.marks,
        arrangements=context.arrangements,
        title=lambda series: (
            phrase("running total")
            + ("" if reset == "never" else phrase(" from each {reset}'s start", reset=noun(reset)))
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
    why_not = phrase(
        "With {kinds} a running total cannot restart each {reset}.", kinds=nouns(kind), reset=ask.reset
    )
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
            phrase("{said}, running total", said=said),
            total(known(scenario.between(starts, columns))),
            values=sums,
            where=~np.isnan(sums) & (columns <= last[:, None]),
            blank=phrase("No {said} since the start is known.", said=said),
        )
        row(
            f"running_less_{name}",
            phrase("Running total less {said}", said=said),
            running - so_far,
            signed=True,
            blank=phrase("The running total or that of {said} is not known.", said=said),
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
        phrase("Total of the {reset}", reset=noun(reset)),
        running.like(end_of),
        unit=unit,
        blank=lambda series, column: (
            phrase("The {reset} is not over, or nothing of it is known.", reset=noun(reset))
            if column < past.columns
            else phrase("After the as-of.")
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
        return phrase("the latest running\ntotal is not known")
    past = sight.past
    last = past.first + past.columns - 1
    said = f"{compact(float(values[-1]))} {unit}"
    if reset == "never":
        return phrase("{said}\nin all", said=said)
    if reset == "year":
        return phrase(
            "{said}\nin {year_label} so far",
            said=said,
            year_label=past.grid.year_label(int(past.grid.years([last])[0])),
        )
    outer = past.grid.of(reset)  # type: ignore[arg-type]
    return phrase(
        "{said}\nin {period} so far", said=said, period=outer.label(outer.period(past.grid.last_day(last)))
    )


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
    said = phrase("each from what all earlier years left") if carried else phrase("each from zero")
    return d.deck(
        bands=(Band(unit, year_curves(over, grid, len(over.years) - 1)),),
        sheet=lambda: (
            control(P.history.reset, ask, why_not=phrase("Years overlaid restart each year.")),
            control(P.history.laid, ask, names=LAID),
        ),
        arrangements=arrangements,
        tinted=True,
        title=lambda series: phrase("running totals of the years, {said}", said=said),
        subtitle=lambda series: phrase(
            "{unit}{by_place} · up to the as-of{marked}{as_known_now}",
            unit=unit,
            by_place=by_place(grid),
            marked=marked(parts, series),
            as_known_now=as_known_now(sight),
        ),
        finding=lambda series: _years_finding(totals, series, grid.year_label(over.years[-1]), carried),
    )


def _years_finding(laid: Values, series: int, year: str, carried: bool) -> str:
    now = laid[series, -1]
    known = np.flatnonzero(~np.isnan(now))
    if not known.size:
        return phrase("{year} is\nnot known", year=year)
    value = float(now[known[-1]])
    before = float(laid[series, -2, known[-1]]) if laid.shape[1] > 1 else float("nan")
    if carried or not before > 0:
        return f"{year}: {compact(value)}\n{phrase('in all') if carried else phrase('so far')}"
    growth = fixed(100 * (value / before - 1), 1, plus=True)
    return phrase(
        "{year} so far {value},\n{growth} % on year before", year=year, value=compact(value), growth=growth
    )


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
        return _Window(takes, True, phrase("last {length}", length=counted(ask.length, ask.span)))
    size = ask.back + ask.ahead + 1
    words = (
        phrase("{back} back to {ahead} ahead", back=ask.back, ahead=ask.ahead)
        if ask.ahead
        else phrase("last {size} {kinds}", size=size, kinds=nouns(grid.kind))
    )
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
        Curve("actual", "actual", label=phrase("actual")),
        Curve("trailing_mean", "smoothed", label=phrase("average")),
    )
    ends = phrase("short windows shown") if ask.short else phrase("no value where a window is not full")
    elsewhere = (
        Word(phrase("Of any kind, weighted or by a median")),
        Word(phrase("in Smooth"), steps(P.smooth.smoothers)),
    )
    return d.deck(
        bands=(
            Band(
                phrase("total, {unit}", unit=unit),
                (*budgets, Curve("trailing", "smoothed", label=phrase("total"))),
            ),
            Band(phrase("average, {unit}", unit=unit), averages, "mean"),
        ),
        sheet=lambda: _trailing_sheet(d, ask, window),
        handles=(as_of_handle(sight),),
        sentence=elsewhere,
        marks=lines.marks,
        arrangements=context.arrangements,
        title=lambda series: window.words,
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
            return phrase("After the as-of.")
        if window.takes.first[column] < 0:
            return phrase("The window is not full yet.")
        return phrase(
            "The window reaches beyond the as-of, or holds a period that is part, not known or left out."
        )

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

    ruled = phrase(", adjusted") if actuals.ruled else ""
    summed = rolled(
        "trailing", phrase("Total, {words}", words=window.words), total, whole(sight, lines), False
    )
    for scenario in actuals.scenarios:
        name, label = scenario.source.figure.name, scenario.source.figure.label
        look = Look(
            sees_later=True,
            blank=phrase("The window is not full, or holds a period without {label}.", label=label),
        )
        # A budget is known ahead of the as-of.
        rolled(
            f"trailing_{name}", phrase("Total of {label}", label=label), total, scenario, False, ahead, **look
        )
    average = rolled(
        "trailing_mean",
        phrase("Average, {words}{ruled}", words=window.words, ruled=ruled),
        mean,
        settled(sight, lines),
        True,
    )
    found = []
    for term, said in ((summed, phrase("latest total")), (average, phrase("latest average"))):
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
        return phrase("{words}:\nnot full yet", words=words)
    return phrase("{words}: {total},\naverage {mean}", words=words, total=compact(total), mean=compact(mean))
