"""What the user writes into the indices: an index by hand, and a year's ratio left out."""

from __future__ import annotations

import re
from collections.abc import Mapping

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.seasons.indices import in_use
from oat_tide.core.user_error import UserError
from oat_tide.core.working.number_format import fixed, full, number_of
from oat_tide.core.working.terms import Term
from oat_tide.plan.edits import Edit, edit
from oat_tide.plan.parts.seasons import LeftOutRatio, ManualIndex
from oat_tide.plan.paths import P
from oat_tide.plan.plan import Plan
from oat_tide.stages.common import where_of
from oat_tide.stages.deck.called import CellEdit, State, StateOf
from oat_tide.stages.seasons.ground import Ground, gone_of, hands_of, kind_of


def said_of_hand(ground: Ground, series: int) -> str:
    """Why an index stands as it does; the reason of a cell is asked for by series alone."""
    notes = [f"{ground.season(each.place)}: {each.note}" for each in hands_of(ground, series) if each.note]
    return phrase("set by hand") + (f" ({'; '.join(notes)})" if notes else "")


def state_of_hand(hand: Values) -> StateOf:
    """Which indices are set by hand."""

    def state(series: int, column: int) -> State:
        return "" if np.isnan(hand[series, column]) else "own"

    return state


def mend_hand(ground: Ground, scaled: Term) -> CellEdit:
    """An index written in, with a note behind it; an empty text takes it back."""

    def read(series: int, column: int, text: str) -> ManualIndex | None:
        if not text:
            return None
        value, note = _figure_and_note(text)
        if value is None:
            raise UserError(
                "“{text}” does not begin with a figure. Write an index, such as {full}.",
                text=text,
                full=full(1.28),
            )
        kind = kind_of(ground, series)
        if kind == "multiplicative" and not value > 0:
            raise UserError(
                "{value}: an index that multiplies is above zero. Write one such as {full}.",
                value=fixed(value, 2),
                full=full(1.28),
            )
        where = where_of(ground.dimensions, ground.d.keys[series])
        return ManualIndex(where, ground.cycle.length, kind, column, value, note[:500])

    def put(plan: Plan, series: int, cells: Mapping[int, ManualIndex | None]) -> Edit:
        mine = {each.place: each for each in hands_of(ground, series, plan.seasons)}
        gone = {id(mine[place]) for place in cells if place in mine}
        left = tuple(each for each in plan.seasons.by_hand if id(each) not in gone)
        new = tuple(each for each in cells.values() if each is not None)
        if new:
            kept = tuple(each for place, each in mine.items() if place not in cells)
            _check(ground, scaled, series, (*kept, *new))
        return edit(P.seasons.by_hand, (*left, *new))

    return CellEdit(read, put)


def _figure_and_note(text: str) -> tuple[float | None, str]:
    """A figure and what stands behind it."""
    first = re.split(r"[\s;:]+", text, maxsplit=1)
    return number_of(first[0]), first[1].strip() if len(first) > 1 else ""


def _check(ground: Ground, scaled: Term, series: int, hands: tuple[ManualIndex, ...]) -> None:
    """Raises UserError where indices by hand leave nothing for the others, or all average something else."""
    hand = np.full((1, ground.cycle.length), np.nan)
    for each in hands:
        hand[0, each.place] = each.value
    try:
        in_use(scaled.values[series : series + 1], hand, bool(ground.multiplies[series]))
    except ValueError as error:
        neutral = "1" if ground.multiplies[series] else "0"
        raise UserError(
            "This index cannot be used: {error}. All must average {neutral}: write another, or remove one.",
            error=error,
            neutral=neutral,
        ) from error


LeftOut = tuple[dict[tuple[int, int], LeftOutRatio], ...]
"""By series, what is left out of it by year and season."""


def left_out(ground: Ground) -> LeftOut:
    """What is left out of every series."""
    many = range(len(ground.d.keys))
    return tuple({(each.year, each.place): each for each in gone_of(ground, series)} for series in many)


def mend_ratio(ground: Ground, year: int) -> CellEdit:
    """A year's ratio left out, with a note where words are written; an empty text takes it back or out."""

    def read(series: int, column: int, text: str) -> str:
        if number_of(text.split(" ", maxsplit=1)[0] if text else "") is not None:
            raise UserError(
                "A ratio is what the lines come to. Delete leaves it out or restores it. A note "
                "typed leaves it out with that note."
            )
        return text[:500]

    def put(plan: Plan, series: int, cells: Mapping[int, str]) -> Edit:
        mine = {each.place: each for each in gone_of(ground, series, plan.seasons) if each.year == year}
        touched = {id(mine[place]) for place in cells if place in mine}
        left = tuple(each for each in plan.seasons.left_out if id(each) not in touched)
        where, length = where_of(ground.dimensions, ground.d.keys[series]), ground.cycle.length
        new = tuple(
            LeftOutRatio(where, length, year, place, note)
            for place, note in cells.items()
            if note or place not in mine
        )
        return edit(P.seasons.left_out, (*left, *new))

    return CellEdit(read, put)


def state_of_ratio(year: int, gone: LeftOut) -> StateOf:
    """Which ratios of a year are left out."""
    return lambda series, column: "out" if (year, column) in gone[series] else ""
