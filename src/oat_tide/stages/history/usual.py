"""Each period against what is usual at its place, and a parent's children as parts of it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.comparison.change import share
from oat_tide.core.comparison.overlay import laid_over, overlay
from oat_tide.core.comparison.usual import usual
from oat_tide.core.exact import Values
from oat_tide.core.series.odd import like_places
from oat_tide.core.series.panel import PART, Key, Panel, Sight, level
from oat_tide.core.working.numerals import fixed
from oat_tide.core.working.tree import Given, Op, Working
from oat_tide.plan.edits import P
from oat_tide.plan.parts.history import History
from oat_tide.stages.common import as_known_now, as_of_handle, named, span
from oat_tide.stages.deck import Band, Curve, Deck, Explain, Knob, Note, knob
from oat_tide.stages.deck.draft import Draft, cell, from_lines
from oat_tide.stages.history.years import MOST_YEARS, season_axis, whole, year_name

NAME = "history"
_MOST_PARTS = 7


def on_usual(sight: Sight, ask: History, lines: Deck, leaves: Panel, reading: Any, ways: Knob) -> Deck:
    """% of usual and difference from usual, usual being the mean of that month or week over all years."""
    past = sight.past
    grid, values = past.grid, whole(sight)
    place = like_places(grid, past.first, past.columns)
    mean = usual(values, place)
    percent = share(values, mean)
    d = Draft(NAME, sight)
    d.borrow(lines, "actual")
    unit = lines.figures["actual"].unit
    what = "weekday" if grid.kind == "day" else grid.kind

    def blank(series: int, column: int) -> str:
        if column >= past.columns:
            return "It lies after the as-of."
        if np.isnan(values[series, column]):
            return "The period is part, or not known."
        return "The usual is not above zero: a share of it means nothing."

    def alike(series: int, column: int) -> Working:
        same = np.flatnonzero((place == place[column]) & ~np.isnan(values[series]))
        return Op("mean", tuple(cell(lines, "actual", series, c) for c in same.tolist()))

    d.add(
        "usual", f"Usual {what}", np.where(np.isnan(values), np.nan, mean), alike, unit=unit, why_blank=blank
    )
    d.add(
        "of_usual",
        "% of usual",
        percent,
        lambda s, c: Op("/", (Op("*", (Given(100.0), cell(lines, "actual", s, c))), d.cell("usual", s, c))),
        unit="%",
        why_blank=blank,
    )
    d.add(
        "from_usual",
        "Difference from usual",
        percent - 100,
        lambda s, c: Op("-", (d.cell("of_usual", s, c), Given(100.0))),
        unit="%",
        signed=True,
        why_blank=blank,
    )
    if ask.laid != "over time" and grid.kind != "day" and past.columns:
        return _usual_by_year(d, sight, ask, ways, percent - 100, what)
    return d.deck(
        bands=(Band("% from usual", (Curve("from_usual", "bars"),)),),
        sheet=lambda: (
            _laid(ask),
            Note(lambda s: "What it says", "head"),
            Note(lambda s: _above_words(percent[s], grid.kind)),
            Note(lambda s: f"Usual is the mean of that {what} over all years up to the as-of, this one's own "
                 "included. It does not change with what is in sight.", "small"),
        ),
        handles=(as_of_handle(sight),),
        marks=lines.marks,
        ways=ways,
        title=lambda s: f"{named(d.keys[s])} against its usual {what}",
        subtitle=lambda s: f"% from usual · {span(sight, 0, max(past.columns - 1, 0))}{as_known_now(sight)}",
        finding=lambda s: _usual_finding(d, s, grid.kind),
    )  # fmt: skip


def _laid(ask: History) -> Knob:
    two = ("over time", "years overlaid")
    return knob(P.history.laid, ask, choices=two, names=two)


def _above_words(percent: Values, kind: str) -> str:
    known = percent[~np.isnan(percent)]
    if not known.size:
        return "Nothing can be held against its usual yet."
    above, below = int((known > 100).sum()), int((known < 100).sum())
    return f"{above} {kind}s stand above their usual and {below} below."


def _usual_finding(d: Draft, series: int, kind: str) -> str:
    values = d.figures["from_usual"].values[series, : d.past]
    if not values.size or np.isnan(values[-1]):
        return f"the latest {kind} has\nno usual yet"
    label = d.grid.brief(d.first + d.past - 1)
    return f"{label}\n{fixed(float(values[-1]), 1, plus=True)} % from usual"


def _usual_by_year(
    base: Draft, sight: Sight, ask: History, ways: Knob, difference: Values, what: str
) -> Deck:
    """The differences from usual with the years laid over each other; a row a year."""
    past = sight.past
    grid = past.grid
    over = overlay(grid, past.first, past.columns)
    d = Draft.of_axis(NAME, sight, season_axis(grid, over, sums=False))
    laid = laid_over(difference, over)
    curves = []
    for place, year in enumerate(over.years):
        columns = over.column[place]

        def how(series: int, column: int, columns: Any = columns) -> Working:
            at = int(columns[column])
            return Op("-", (_without_usual(base, series, at), Given(100.0)))

        label = grid.year_label(year)
        d.add(
            year_name(year), f"{label}, % from usual", laid[:, place], how, unit="%", signed=True,
            why_blank=lambda s, c: "The period is part, not known, or has no usual.",
        )  # fmt: skip
        last = place == len(over.years) - 1
        curves.append(Curve(year_name(year), "actual" if last else "year", label=label, shade=0.6))
    return d.deck(
        bands=(Band("% from usual", tuple(curves[-MOST_YEARS:])),),
        sheet=lambda: (
            _laid(ask),
            Note(lambda s: _above_words(difference[s] + 100, grid.kind)),
        ),
        ways=ways,
        tinted=True,
        title=lambda s: f"{named(d.keys[s])} against its usual {what}, year by year",
        subtitle=lambda s: f"% from usual{as_known_now(sight)}",
        finding=lambda s: _usual_finding(base, s, grid.kind),
    )


def _without_usual(base: Draft, series: int, column: int) -> Working:
    """% of usual in terms of the actuals alone: the figure of the usual stands on another axis."""
    actual = base.figures["actual"].explain(series, column)
    usual_of = base.figures["usual"].explain(series, column)
    assert actual is not None and usual_of is not None
    return Op("/", (Op("*", (Given(100.0), actual)), usual_of))


def shares(sight: Sight, ask: History, lines: Deck, leaves: Panel, reading: Any, ways: Knob) -> Deck:
    """The children of the series in sight, stacked or as % of it."""
    past, key = sight.past, sight.past.keys[0]
    open_ = tuple(name for i, name in enumerate(reading.dimensions) if key[i] is None)
    by = ask.by if ask.by in open_ else open_[0]
    at = reading.dimensions.index(by)
    children = _children(leaves, key, at, past.columns)
    d = Draft(NAME, sight)
    d.borrow(lines, "actual")
    unit = lines.figures["actual"].unit
    actual = past.values[0]
    as_share = ask.share == "% of total"
    hide = np.isnan(actual) | (past.flags[0] & PART > 0)
    below = np.zeros(past.columns)
    kind = "share" if as_share else "part"

    def blank(series: int, column: int) -> str:
        late = column >= past.columns
        return "It lies after the as-of." if late else "The period is part, or not known."

    for place, child in enumerate(children):
        own = np.where(hide, np.nan, np.nan_to_num(child.values))[None]
        how = _part(d, child, place, len(children))
        d.add(f"part_{place}", child.name, own, how, unit=unit, adds_up=True, why_blank=blank)
        if as_share:
            part = share(own, actual[None])
            how = _percent(d, f"part_{place}")
            d.add(f"share_{place}", f"{child.name}, %", part, how, unit="%", why_blank=blank)
        below = below + d.figures[f"{kind}_{place}"].values[0, : past.columns]
        how = _stacked(d, kind, place)
        d.add(f"top_{place}", f"up to {child.name}", below[None], how, shown=False)
    zero = np.where(hide, np.nan, 0.0)[None]
    d.add("zero", "zero", zero, lambda s, c: Given(0.0, "where the stack begins"), shown=False)
    layers = [
        (f"top_{place - 1}" if place else "zero", f"top_{place}", child.name, place)
        for place, child in enumerate(children)
    ]
    count = max(len(layers) - 1, 1)
    curves = tuple(
        Curve(upper, "layer", lower, label=name, shade=1 - 0.8 * place / count)
        for lower, upper, name, place in layers
    )
    return d.deck(
        bands=(Band("%" if as_share else unit, curves),),
        sheet=lambda: (
            knob(P.history.by, ask, kind="pick", choices=open_, names=open_, now=by),
            knob(P.history.share, ask),
            Note(lambda s: "What it says", "head"),
            Note(lambda s: _share_words(d, children, actual, hide)),
        ),
        handles=(as_of_handle(sight),),
        marks=lines.marks,
        ways=ways,
        title=lambda s: f"{named(key)} by {by}" + (", shares" if as_share else ""),
        subtitle=lambda s: f"{'% of ' if as_share else ''}{unit} {past.grid.a_period}{as_known_now(sight)}",
        finding=lambda s: _share_finding(children, actual, hide),
    )


@dataclass(frozen=True, eq=False, slots=True)
class _Child:
    """One part. Attributes: name; key, None for several together; values and lines up to the as-of."""

    name: str
    key: Key | None
    values: Values
    lines: NDArray[np.int64]


def _part(d: Draft, child: _Child, place: int, count: int) -> Explain:
    """The lines of a part; of several together, what the others leave."""

    def how(series: int, column: int) -> Working:
        if child.key is None:
            others = tuple(d.cell(f"part_{i}", series, column) for i in range(count) if i != place)
            return Op("-", (d.cell("actual", series, column), Op("+", others)))
        return from_lines(child.values[column], child.key, d.first + column, int(child.lines[column]))

    return how


def _percent(d: Draft, part: str) -> Explain:
    def how(series: int, column: int) -> Working:
        hundred = Op("*", (Given(100.0), d.cell(part, series, column)))
        return Op("/", (hundred, d.cell("actual", series, column)))

    return how


def _stacked(d: Draft, kind: str, place: int) -> Explain:
    names = [f"{kind}_{i}" for i in range(place + 1)]
    return lambda s, c: Op("+", tuple(d.cell(name, s, c) for name in names))


def _children(leaves: Panel, key: Key, at: int, columns: int) -> list[_Child]:
    """The members of a dimension within a series, the largest first; the smallest together where many."""
    found = []
    for member in sorted({str(own[at]) for own in leaves.keys}):
        child = tuple(member if i == at else each for i, each in enumerate(key))
        seen = level(leaves, child)
        if not np.isnan(seen.values[0, :columns]).all():
            found.append(_Child(member, child, seen.values[0, :columns], seen.lines[0, :columns]))
    found.sort(key=lambda each: -float(np.nansum(each.values)))
    if len(found) <= _MOST_PARTS:
        return found
    rest = found[_MOST_PARTS - 1 :]
    values = np.nansum(np.stack([each.values for each in rest]), axis=0)
    lines = np.sum([each.lines for each in rest], axis=0)
    return [*found[: _MOST_PARTS - 1], _Child(f"{len(rest)} others", None, values, lines)]


def _share_words(d: Draft, children: list[_Child], actual: Values, hide: Any) -> str:
    cycle = d.grid.cycle
    known = np.flatnonzero(~hide)
    if len(known) < 2 * cycle or not children:
        return "Fewer than two years: how shares moved cannot be told yet."
    now, then = known[-cycle:], known[-2 * cycle : -cycle]
    if not (actual[now].sum() > 0 and actual[then].sum() > 0):
        return "Nothing was sold in one of the last two years: shares of it mean nothing."

    def of(child: _Child, at: Any) -> float:
        return float(100 * np.nansum(child.values[at]) / actual[at].sum())

    most = max(children, key=lambda child: abs(of(child, now) - of(child, then)))
    moved = f"from {fixed(of(most, then), 1)} to {fixed(of(most, now), 1)} % of the total"
    return f"{most.name} moved most on the year before: {moved}."


def _share_finding(children: list[_Child], actual: Values, hide: Any) -> str:
    total = float(actual[~hide].sum())
    if not children or not total > 0:
        return "no parts\nto tell"
    held = 100 * float(np.nansum(children[0].values[~hide])) / total
    return f"{children[0].name}\n{fixed(held, 1)} % of the total"
