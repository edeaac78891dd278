"""A parent's children as parts of it: stacked, or as % of the total."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.periods.calendar import Days
from oat_tide.core.series.coded import Key
from oat_tide.core.series.panel import INCOMPLETE, Panel, parted_by
from oat_tide.core.user_error import Progress, no_progress
from oat_tide.core.working.formula import Formula, Mask, added_up, given, percent
from oat_tide.core.working.number_format import fixed
from oat_tide.core.working.terms import Term, wide
from oat_tide.plan.paths import P
from oat_tide.stages.common import as_known_now, as_of_handle
from oat_tide.stages.deck import Band, Curve, Deck, Explanation, Look, Note, control
from oat_tide.stages.deck.draft import Draft, from_lines
from oat_tide.stages.history import NAME
from oat_tide.stages.history.context import HistoryContext

_MOST_PARTS = 7
_AT_ONCE = 500
_ADDED_UP = phrase("Its parts are being added up.")


def shares(context: HistoryContext) -> Deck:
    """The children of the series in sight, stacked or as % of it."""
    sight, ask, lines = context.sight, context.ask, context.lines
    past, key = sight.past, sight.past.keys[0]
    open_ = tuple(name for i, name in enumerate(context.reading.dimensions) if key[i] is None)
    by = ask.by if ask.by in open_ else open_[0]
    at = context.reading.dimensions.index(by)
    # A few are found within a frame; of many the chart is empty for a moment.
    find = (
        partial(largest, progress=no_progress)
        if len(context.leaves.keys) <= _AT_ONCE
        else partial(context.late, largest)
    )
    found = find(context.leaves, key, at, sight.columns, past.columns)
    children = found or []
    d = Draft(NAME, sight)
    whole = d.borrow(lines, "actual")
    as_share = ask.share == "% of total"
    none = np.isnan(sight.values[0])
    # A stack that ends in a few days of a month would seem to fall.
    complete = np.flatnonzero(~none & (sight.flags[0] & INCOMPLETE == 0))
    drawn_to = int(complete[-1]) + 1 if complete.size else 0
    curves = _layers(d, whole, children, none, as_share, drawn_to)
    hide = np.isnan(past.values[0]) | ~past.whole[0]
    unit, actual = whole.source.figure.unit, past.values[0]
    return d.deck(
        bands=(Band("%" if as_share else unit, curves),),
        sheet=lambda: (
            control(P.history.by, ask, kind="pick", choices=open_, names=open_, now=by),
            control(P.history.share, ask),
            Note(phrase("Finding"), "head"),
            Note(_share_words(d, children, actual, hide) if found is not None else _ADDED_UP),
        ),
        handles=(as_of_handle(sight),),
        marks=lines.marks,
        arrangements=context.arrangements,
        title=lambda series: phrase("by {by}, shares", by=by) if as_share else phrase("by {by}", by=by),
        subtitle=lambda series: (
            (phrase("% of {unit}", unit=unit) if as_share else unit)
            + f" {past.grid.per_period}{as_known_now(sight)}"
        ),
        finding=lambda series: (
            _share_finding(children, actual, hide) if found is not None else phrase("parts\n…")
        ),
    )


@dataclass(frozen=True, eq=False, slots=True)
class _Child:
    """One part of a parent.

    Attributes:
        name: of the member.
        key: its series; None for several together.
        values: (columns,) its figures, those after the as-of too.
        lines: (columns,) the lines that make them.
    """

    name: str
    key: Key | None
    values: Values
    lines: NDArray[np.int64]


def _layers(
    d: Draft, whole: Term, children: list[_Child], hide: Mask, as_share: bool, drawn_to: int
) -> tuple[Curve, ...]:
    """A row for each child, where asked also as % of them all, and the layers that they are drawn as.

    Args:
        whole: what they are parts of.
        drawn_to: the column before which the layers end.
    """
    hidden, below, curves = partial(d.define, shown=False, sees_later=True), "zero", []
    parts: list[Term] = []
    drawn: list[Term] = []
    for place, child in enumerate(children):
        parts.append(_part(d, whole, child, place, hide, parts))
        drawn.append(_share(d, child, place, percent(parts[-1], whole)) if as_share else parts[-1])
        top = f"top_{place}"
        hidden(top, phrase("up to {name}", name=child.name), added_up(drawn))
        shade = 1 - 0.8 * place / max(len(children) - 1, 1)
        curves.append(Curve(top, "layer", below, label=child.name, stop=drawn_to, shade=shade))
        below = top
    zero = given(np.zeros((1, d.columns)), phrase("where the stack begins"))
    hidden("zero", phrase("zero"), zero, where=_told(d, hide))
    return tuple(curves)


def _part(d: Draft, whole: Term, child: _Child, place: int, hide: Mask, others: list[Term]) -> Term:
    """The row of one child: its lines; of several together, what the others leave."""
    look = Look(unit=whole.source.figure.unit, adds_up=True, sees_later=True, blank=_NO_PART)
    name, own = f"part_{place}", np.where(hide, np.nan, np.nan_to_num(child.values))[None]
    if child.key is None:
        left = whole - added_up(others)
        return d.define(name, child.name, left, values=own, where=_told(d, hide), **look)
    return d.add(name, child.name, own, _lines_of(d.first, child, child.key), **look)


def _share(d: Draft, child: _Child, place: int, share: Formula) -> Term:
    """The row of one child as % of all."""
    return d.define(f"share_{place}", f"{child.name}, %", share, unit="%", sees_later=True, blank=_NO_PART)


def _told(d: Draft, hide: Mask) -> Mask:
    """(1, columns) the periods that have parts."""
    return wide(~hide[None], d.columns, False)


def _lines_of(first: int, child: _Child, key: Key) -> Explanation:
    return lambda series, column: from_lines(
        float(child.values[column]), key, first + column, int(child.lines[column])
    )


_NO_PART = phrase("Nothing of the period is known.")


def largest(leaves: Panel, key: Key, at: int, columns: int, past: int, progress: Progress) -> list[_Child]:
    """The members of a dimension within a series, the largest first; the smallest together where many.

    Args:
        columns: how many there are; past: those up to the as-of, by which members are ordered.
    """
    seen = parted_by(leaves, key, at)
    progress(0.9)
    values, lines = seen.values[:, :columns], seen.lines[:, :columns]
    there = np.flatnonzero(~np.isnan(values).all(1))
    order = there[np.argsort(-np.nansum(values[there, :past], axis=1), kind="stable")]
    few = len(order) <= _MOST_PARTS
    shown, rest = (order, order[:0]) if few else (order[: _MOST_PARTS - 1], order[_MOST_PARTS - 1 :])
    found = [_Child(str(seen.keys[row][at]), seen.keys[row], values[row], lines[row]) for row in shown]
    if few:
        return found
    others = np.nansum(values[rest], axis=0), lines[rest].sum(axis=0)
    return [*found, _Child(phrase("{rest} others", rest=len(rest)), None, *others)]


def _share_words(d: Draft, children: list[_Child], actual: Values, hide: Mask) -> str:
    cycle = d.grid.cycle
    known = np.flatnonzero(~hide)
    if len(known) < 2 * cycle or not children:
        return phrase("Fewer than two years: it is too early to say how shares moved.")
    now, then = known[-cycle:], known[-2 * cycle : -cycle]
    if not (actual[now].sum() > 0 and actual[then].sum() > 0):
        return phrase("Nothing was sold in one of the last two years: shares of it mean nothing.")

    def of(child: _Child, at: Days) -> float:
        return float(100 * np.nansum(child.values[at]) / actual[at].sum())

    most = max(children, key=lambda child: abs(of(child, now) - of(child, then)))
    moved = phrase(
        "from {before} % to {after} % of the total",
        before=fixed(of(most, then), 1),
        after=fixed(of(most, now), 1),
    )
    return phrase("{name} moved most on the year before: {moved}.", name=most.name, moved=moved)


def _share_finding(children: list[_Child], actual: Values, hide: Mask) -> str:
    total = float(actual[~hide].sum())
    if not children or not total > 0:
        return phrase("no parts\nto show")
    held = 100 * float(np.nansum(children[0].values[: len(hide)][~hide])) / total
    return phrase("{name}:\n{held} % of the total", name=children[0].name, held=fixed(held, 1))
