"""Where a window does harm."""

from __future__ import annotations

import numpy as np

from oat_tide.core.language import counted, noun, nouns, phrase
from oat_tide.core.seasons.odd import find_odd
from oat_tide.core.series.panel import INCOMPLETE, LEFT_OUT, REPLACED
from oat_tide.core.smoothing.weights import left_of_cycle
from oat_tide.core.working.number_format import significant
from oat_tide.core.working.terms import Term
from oat_tide.core.working.tree import Ref
from oat_tide.plan.edits import edit
from oat_tide.plan.paths import P
from oat_tide.stages.common import listed
from oat_tide.stages.deck import Caution
from oat_tide.stages.reach import forecasts, is_window, size_of, spans, why_no_span
from oat_tide.stages.smooth.ground import Ground
from oat_tide.stages.smooth.made import Made

_LATEST = 400
"""Periods that odd ones are judged by: more would not be found within a frame."""
_STAYS = 0.1
"""What a window may leave of a cycle without a word."""


def cautions(ground: Ground, made: dict[int, Made], series: int) -> tuple[Caution, ...]:
    """What to know before trusting the smoother in hand."""
    place = ground.hand
    if ground.ask.of == "deseasonalised" and ground.season is None:
        why = ground.no_season or phrase("The history is too short, or has no season that can be found.")
        text = phrase("It is smoothed as it is, not deseasonalised. {why}", why=why)
        return (
            Caution(text, way_out=edit(P.smooth.of, "actual"), way_out_text=phrase("Smooth it as it is")),
        )
    if place not in made:
        return ()
    found = (
        _no_span(ground, place),
        _too_long(ground, place, made[place].level, series),
        _swing(ground, place, series),
        _marred(ground, place, series),
    )
    return tuple(each for each in found if each is not None)


def _no_span(ground: Ground, place: int) -> Caution | None:
    ask = ground.smoother(place)
    why = why_no_span(ask.told_in, ground.grid) if spans(ask, ground.grid) else ""
    if not why:
        return None
    path = P.smooth.smoothers[place].told_in
    return Caution(
        why,
        way_out=edit(path, "period"),
        way_out_text=phrase("Count in {kinds}", kinds=nouns(ground.grid.kind)),
    )


def _too_long(ground: Ground, place: int, level: Term, series: int) -> Caution | None:
    """A window that is nowhere full."""
    ask, reach = ground.smoother(place), ground.reaches[place]
    if reach is None or not np.isnan(level.values[series]).all():
        return None
    known = int((~np.isnan(ground.values[series])).sum())
    kind, longest = ground.grid.kind, int(reach.windows[0].lengths.max(initial=0))
    if not known:
        return Caution(
            phrase("No {kind} up to the as-of is complete: there is nothing to smooth.", kind=noun(kind))
        )
    if ask.kind == "trimmed" and size_of(ask) < 2 * ask.trim + 1:
        return Caution(
            phrase(
                "Without the {trim} lowest and the {trim} highest nothing is left of {size_of}. "
                "Widen the window, or trim fewer.",
                trim=ask.trim,
                size_of=counted(size_of(ask), kind),
            )
        )
    if longest <= known:
        return Caution(
            phrase(
                "Every window of {longest} holds a {kind} that is not known. Set missing periods to "
                "skipped, or choose a shorter window.",
                longest=counted(longest, kind),
                kind=noun(kind),
            )
        )
    shorter = max(2, min(ground.grid.cycle, known // 3))
    fixed_length = ask.place != "from-to" and not (ask.kind == "weighted" and isinstance(ask.weights, tuple))
    return Caution(
        phrase(
            "The window of {longest} is longer than the history, {known}: it is nowhere full.",
            longest=counted(longest, kind),
            known=counted(known, kind),
        ),
        way_out=edit(P.smooth.smoothers[place].window, shorter) if fixed_length else None,
        way_out_text=phrase("Take {shorter}", shorter=counted(shorter, kind)) if fixed_length else "",
    )


def _swing(ground: Ground, place: int, series: int) -> Caution | None:
    """A window that is no multiple of the cycle, over a strong season."""
    ask, reach, grid = ground.smoother(place), ground.reaches[place], ground.grid
    if reach is None or not reach.weights or ask.place == "from-to":
        return None
    cycle, swing = (7, phrase("weekly")) if grid.kind == "day" else (grid.cycle, phrase("yearly"))
    if cycle < 2 or ground.presence.said(series) != "yes" or not _strong(ground.values[series], cycle):
        return None
    left = left_of_cycle(reach.weights, cycle)
    if left <= _STAYS:
        return None
    lag = reach.lag
    late = (
        phrase(
            ", {lag} {kind} late",
            lag=significant(lag, 2).removesuffix(".0"),
            kind=noun(grid.kind) if lag == 1 else nouns(grid.kind),
        )
        if lag > 0
        else ""
    )
    own = ask.kind in ("mean", "total") and not spans(ask, grid)
    return Caution(
        phrase(
            "{left:.0f} % of the {swing} swing stays{late}: the window is no multiple of "
            "{cycle}, and the season is strong (the same {like} is closer than the {kind} "
            "before).",
            left=100 * left,
            swing=swing,
            late=late,
            cycle=counted(cycle, grid.kind),
            like=_like(grid.kind),
            kind=noun(grid.kind),
        ),
        (Ref(ground.d.stage, f"lag_{place}", series),) if lag > 0 else (),
        way_out=edit(P.smooth.smoothers[place].window, cycle) if own else None,
        way_out_text=phrase("Take {cycle}", cycle=counted(cycle, grid.kind)) if own else "",
    )


def _like(kind: str) -> str:
    return (
        phrase("weekday of the week before")
        if kind == "day"
        else phrase("{kind} of the year before", kind=noun(kind))
    )


def _strong(values: np.ndarray, cycle: int) -> bool:
    """Whether the period a cycle earlier lies nearer than the one before."""
    if len(values) < 2 * cycle + 1:
        return False
    like, before = np.abs(values[cycle:] - values[:-cycle]), np.abs(np.diff(values))[cycle - 1 :]
    both = ~np.isnan(like) & ~np.isnan(before)
    return bool(both.any() and like[both].mean() < before[both].mean())


def _odd_columns(ground: Ground, series: int, first: int) -> list[int]:
    """The odd periods from a column on, judged by the latest periods."""
    past = ground.sight.past
    start = max(min(first, past.columns - _LATEST), 0)
    values = np.where(past.whole, past.values, np.nan)[series : series + 1, start:]
    odd = find_odd(values, past.grid, past.first + start).odd[0]
    return [start + int(column) for column in np.flatnonzero(odd) if start + column >= first]


def _marred(ground: Ground, place: int, series: int) -> Caution | None:
    """A part, ruled or odd period inside the latest window."""
    ask, reach = ground.smoother(place), ground.reaches[place]
    if not is_window(ask) or reach is None or not ground.d.past or ask.place == "around":
        return None
    last = ground.d.past - 1
    first = max(int(reach.windows[0].first[last]), 0)
    grid, start = ground.grid, ground.d.first
    said = []
    flags = ground.sight.past.flags[series, first : last + 1]
    for flag, words in (
        (INCOMPLETE, phrase("part")),
        (LEFT_OUT, phrase("left out")),
        (REPLACED, phrase("replaced by what was expected")),
    ):
        at = np.flatnonzero(flags & flag)
        if at.size:
            said.append(f"{listed([grid.named(start + first + int(c)) for c in at])} {words}")
    ruled = flags & (LEFT_OUT | REPLACED) > 0
    at_odd = [column for column in _odd_columns(ground, series, first) if not ruled[column - first]]
    if at_odd:
        said.append(phrase("{start} odd (see Intake)", start=listed([grid.named(start + c) for c in at_odd])))
    if not said:
        return None
    what = phrase("its forecast") if forecasts(ask) else phrase("its latest figure")
    column = at_odd[0] if at_odd else first
    return Caution(
        phrase(
            "Inside the latest window: {said}. Check it before you use {what}.",
            said="; ".join(said),
            what=what,
        ),
        (Ref(ground.d.stage, "actual", series, column),) if at_odd else (),
    )
