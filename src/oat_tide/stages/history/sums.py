"""Running totals and trailing totals: what has come together up to each period."""

from __future__ import annotations

from typing import Any

import numpy as np

from oat_tide.core.comparison.overlay import laid_over, overlay
from oat_tide.core.comparison.sums import running, span_starts, window_known, window_total
from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import Days, Kind
from oat_tide.core.series.panel import Panel, Sight
from oat_tide.core.working.numerals import compact, fixed
from oat_tide.core.working.tree import Given, Op, Working
from oat_tide.plan.edits import P
from oat_tide.plan.parts.history import History
from oat_tide.stages.common import as_known_now, as_of_handle, named, span
from oat_tide.stages.deck import Band, Curve, Deck, Explain, Fact, Knob, Note, knob
from oat_tide.stages.deck.draft import Draft, cell, run
from oat_tide.stages.history.years import running_working, season_axis, whole, year_curves, year_name

NAME = "history"


def running_total(sight: Sight, ask: History, lines: Deck, leaves: Panel, reading: Any, ways: Knob) -> Deck:
    """From the first period, or from each year's, quarter's or month's start; over time or years overlaid."""
    past = sight.past
    values = whole(sight)
    if ask.laid != "over time" and past.grid.kind not in ("year", "block") and past.columns:
        return _years(sight, ask, lines, ways, values)
    reset, why_not = _reset(ask, past.grid.kind)
    group = _groups(sight, reset)
    total = running(values, group, past.scale)
    d = Draft(NAME, sight)
    d.borrow(lines, "actual")
    unit = lines.figures["actual"].unit
    d.add(
        "running",
        "Running total" if reset == "never" else f"Since the {reset}'s start",
        total,
        lambda s, c: running_working(lines, values, group, s, c),
        unit=unit,
        why_blank=lambda s, c: _blank(sight, c),
    )
    if reset != "never":
        _finished(d, group, reset, unit, sight)
    curves = [Curve("running", "smoothed", label="running total")]
    if "finished" in d.figures:
        curves.insert(0, Curve("finished", "average", label=f"whole {reset}s"))
    return d.deck(
        bands=(Band(unit, tuple(curves)),),
        sheet=lambda: (
            knob(P.history.reset, ask, why_not=why_not),
            knob(P.history.laid, ask),
            Note(lambda s: f"The working of a running total is the sum of its {past.grid.kind}s.", "small"),
        ),
        handles=(as_of_handle(sight),),
        marks=lines.marks,
        ways=ways,
        title=lambda s: (
            f"{named(d.keys[s])}, running total" + ("" if reset == "never" else f" from each {reset}'s start")
        ),
        subtitle=lambda s: f"{unit} · {span(sight, 0, d.columns - 1)}{as_known_now(sight)}",
        finding=lambda s: _running_finding(d, s, reset),
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
    return fallback, f"A {kind} is no part of a {ask.reset}." if fallback == "never" else ""


def _groups(sight: Sight, reset: str) -> Days:
    """(periods,) what each period's running total started with."""
    past = sight.past
    periods = np.arange(past.first, past.first + past.columns)
    if reset == "never":
        return np.zeros(past.columns, np.int64)
    if reset == "year":
        return past.grid.years(periods)
    return past.grid.of(reset).at(past.grid.first_days(periods))  # type: ignore[arg-type]


def _blank(sight: Sight, column: int) -> str:
    if column >= sight.past.columns:
        return "It lies after the as-of."
    return "A period since the start is part, or not known."


def _finished(d: Draft, group: Days, reset: str, unit: str, sight: Sight) -> None:
    """A finished quarter's or year's total stands on through its last period, beside the running one."""
    past = sight.past
    ends = np.flatnonzero(np.append(np.diff(group) != 0, False)) if past.columns else np.zeros(0, np.int64)
    if past.columns and _group_is_over(sight, reset):
        ends = np.append(ends, past.columns - 1)
    total = d.figures["running"].values[:, : past.columns]
    out = np.full(total.shape, np.nan)
    firsts = {int(end): int(np.flatnonzero(group == group[end])[0]) for end in ends}
    whole_group = {end: start for end, start in firsts.items() if start > 0 or _begins_whole(sight, reset)}
    of_column = np.full(past.columns, -1)
    for end, start in whole_group.items():
        out[:, start : end + 1] = total[:, end : end + 1]
        of_column[start : end + 1] = end
    d.add(
        "finished",
        f"Whole {reset}",
        out,
        lambda s, c: d.cell("running", s, int(of_column[c])),
        unit=unit,
        why_blank=lambda s, c: (
            f"The {reset} is not over, or not all of it is known."
            if c < past.columns
            else "It lies after the as-of."
        ),
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


def _begins_whole(sight: Sight, reset: str) -> bool:
    """Whether the first period of the data begins a year, quarter or month."""
    grid, first = sight.past.grid, sight.past.first
    if reset == "year":
        return int(grid.years([first])[0]) != int(grid.years([first - 1])[0])
    outer = grid.of(reset)  # type: ignore[arg-type]
    start = grid.first_day(first)
    return outer.period(start) != outer.period(start - 1)


def _running_finding(d: Draft, series: int, reset: str) -> str:
    values = d.figures["running"].values[series, : d.past]
    known = values[~np.isnan(values)]
    if not known.size or np.isnan(values[-1]):
        return "the latest running\ntotal is not known"
    since = "in all" if reset == "never" else f"since the {reset}'s start"
    return f"{compact(float(values[-1]))}\n{since}"


def _years(sight: Sight, ask: History, lines: Deck, ways: Knob, values: Values) -> Deck:
    """Running totals of each year over the places of the year, from zero or from what earlier years left."""
    past = sight.past
    grid = past.grid
    over = overlay(grid, past.first, past.columns)
    carried = ask.laid == "carried on"
    group = np.zeros(past.columns, np.int64) if carried else grid.years(past.first + np.arange(past.columns))
    total = running(values, group, past.scale)
    laid = laid_over(total, over)
    d = Draft.of_axis(NAME, sight, season_axis(grid, over, sums=False))
    unit = lines.figures["actual"].unit
    for place, year in enumerate(over.years):

        def how(series: int, column: int, columns: Days = over.column[place]) -> Working:
            return running_working(lines, values, group, series, int(columns[column]))

        d.add(
            year_name(year), grid.year_label(year), laid[:, place], how, unit=unit,
            why_blank=lambda s, c: "A period since the start is part, or not known.",
        )  # fmt: skip
    said = "each from what all earlier years left" if carried else "each from zero"
    return d.deck(
        bands=(Band(unit, year_curves(over, grid, len(over.years) - 1)),),
        sheet=lambda: (
            knob(P.history.reset, ask, why_not="Years overlaid start anew with each year."),
            knob(P.history.laid, ask),
        ),
        ways=ways,
        tinted=True,
        title=lambda s: f"{named(d.keys[s])}, running totals of the years, {said}",
        subtitle=lambda s: f"{unit} · whole periods up to the as-of{as_known_now(sight)}",
        finding=lambda s: _years_finding(laid, s, grid.year_label(over.years[-1]), carried),
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


def trailing(sight: Sight, ask: History, lines: Deck, leaves: Panel, reading: Any, ways: Knob) -> Deck:
    """The total and the average of a window from any number of periods back to any number ahead."""
    past = sight.past
    grid, values = past.grid, whole(sight)
    columns = np.arange(past.columns)
    spans = grid.kind == "day" and ask.span != "periods"
    if spans:
        start = span_starts(grid, past.first, past.columns, ask.span, ask.length)  # type: ignore[arg-type]
        stop = columns + 1
        words = f"last {ask.length} {ask.span}{'' if ask.length == 1 else 's'}"
    else:
        start, stop = columns - ask.back, columns + ask.ahead + 1
        size = ask.back + ask.ahead + 1
        words = f"last {size} {grid.kind}s" if not ask.ahead else f"{ask.back} back to {ask.ahead} ahead"
    total = window_total(values, start, stop, past.scale, ask.short)
    known = window_known(values, start, stop)
    d = Draft(NAME, sight)
    d.borrow(lines, "actual")
    unit = lines.figures["actual"].unit

    def blank(series: int, column: int) -> str:
        if column >= past.columns:
            return "It lies after the as-of."
        if start[column] < 0:
            return "The window is not full yet."
        return "The window reaches beyond the as-of, or holds a period that is part or not known."

    def terms(series: int, column: int) -> Working:
        low, high = max(int(start[column]), 0), min(int(stop[column]), past.columns)
        if not np.isnan(values[series, low:high]).any():
            return run(lines, "actual", series, low, high - 1)
        held = [c for c in range(low, high) if values[series, c] == values[series, c]]
        return Op("+", tuple(cell(lines, "actual", series, c) for c in held))

    d.add(
        "trailing",
        f"Total, {words}",
        total,
        lambda s, c: Op("sum", (terms(s, c),)),
        unit=unit,
        why_blank=blank,
    )
    d.add(
        "trailing_mean",
        "Average of them",
        np.where(np.isnan(total), np.nan, total / np.maximum(known, 1)),
        lambda s, c: Op("/", (d.cell("trailing", s, c), Given(float(known[s, c]), "periods in the window"))),
        unit=unit,
        why_blank=blank,
    )
    known_total = ~np.isnan(total)
    latest = np.where(known_total.any(1), past.columns - 1 - known_total[:, ::-1].argmax(1), 0)
    for name, label in (("trailing", "latest total"), ("trailing_mean", "latest average")):
        value = np.take_along_axis(d.figures[name].values, latest[:, None], 1)
        d.add(f"latest_{name}", label, value, _latest(d, name, latest), fact=True, unit=unit)
    day = grid.kind == "day"
    averages = (
        Curve("actual", "actual", label="actual"),
        Curve("trailing_mean", "smoothed", label="average"),
    )
    ends = "short windows shown" if ask.short else "no value where a window is not full"
    return d.deck(
        bands=(
            Band(unit, (Curve("trailing", "smoothed", label="total"),)),
            Band(unit, averages, "mean"),
        ),
        sheet=lambda: (
            *((knob(P.history.span, ask),) if day else ()),
            *(
                (knob(P.history.length, ask, unit=f"{ask.span}s", slides_to=max(36, ask.length)),)
                if spans
                else (
                    knob(P.history.back, ask, slides_to=max(2 * d.grid.cycle, ask.back)),
                    knob(P.history.ahead, ask, slides_to=max(2 * d.grid.cycle, ask.ahead)),
                )
            ),
            knob(P.history.short, ask),
            Note(lambda s: words.capitalize(), "head"),
            Fact("latest_trailing"),
            Fact("latest_trailing_mean"),
        ),
        handles=(as_of_handle(sight),),
        marks=lines.marks,
        ways=ways,
        title=lambda s: f"{named(d.keys[s])}, {words}",
        subtitle=lambda s: f"{unit} · {ends}{as_known_now(sight)}",
        finding=lambda s: _trailing_finding(d, s, words),
    )


def _latest(d: Draft, name: str, latest: Days) -> Explain:
    return lambda s, c: d.cell(name, s, int(latest[s]))


def _trailing_finding(d: Draft, series: int, words: str) -> str:
    total, mean = (
        float(d.figures[f"latest_{name}"].values[series, 0]) for name in ("trailing", "trailing_mean")
    )
    if np.isnan(total):
        return f"{words}:\nnot full yet"
    return f"{words}: {compact(total)}\naverage {compact(mean)}"
