"""What the user writes: totals, locks, stretches and names; what cannot stand is refused in words."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from msgspec.structs import replace

from oat_tide.core.language import noun, phrase
from oat_tide.core.user_error import UserError
from oat_tide.core.working.number_format import full, number_of
from oat_tide.plan.edits import Edit, edit
from oat_tide.plan.parts.spread import Lock, SavedSpread, SpreadRequest
from oat_tide.plan.paths import P
from oat_tide.plan.plan import Plan
from oat_tide.stages.deck.called import NOT_WRITABLE, CellEdit, State, StateOf
from oat_tide.stages.spread.ground import Ground, Outcome
from oat_tide.stages.spread.stretch import stretch


def total_written(g: Ground, series: int, text: str) -> Edit:
    """The total as it is written; nothing takes it back."""
    asked = replace(g.asked[series], where=g.where(series), over=g.ask.over)
    if not text.strip():
        return edit(P.spread.asked, g.ask.with_asked(replace(asked, total=0.0)))
    value = number_of(text)
    if value is None or not np.isfinite(value):
        raise UserError("“{text}” is no figure. Write a total, such as {full}.", text=text, full=full(148000))
    if value <= 0:
        raise UserError("A total of {full} cannot be spread: write one above zero.", full=full(value))
    _whole(g, value, "total")
    now = replace(asked, total=float(value))
    _check(g, now, _locked(g, series))
    return edit(P.spread.asked, g.ask.with_asked(now))


def _locked(g: Ground, series: int) -> np.ndarray:
    found: np.ndarray = g.locked[series, g.at]
    return found


def _whole(g: Ground, value: float, what: str) -> None:
    if not g.is_whole(value):
        raise UserError(
            "{full}: figures come in {come}. Write such a {what}, or choose hundredths.",
            full=full(value),
            come=g.come,
            what=what,
        )


def _check(g: Ground, now: SpreadRequest, locked: np.ndarray) -> None:
    """Raises UserError where locks and a total do not go together."""
    if not now.total:
        return
    sum_of, free = float(np.nansum(locked)), int(np.isnan(locked).sum())
    left = now.total - sum_of
    if left < -1e-9:
        raise UserError(
            "What is fixed comes to {fixed}, more than the total of {total}: free some, or write a "
            "larger total.",
            fixed=full(sum_of),
            total=full(now.total),
        )
    if not free and left > 1e-9:
        raise UserError(
            "Every {kind} would be fixed, and {full} of the total be left: leave one free.",
            kind=noun(g.grid.kind),
            full=full(left),
        )
    if 0 < left < g.pack:
        raise UserError(
            "A pack of {pack} is more than the {full} that would be left. Write another figure.",
            pack=g.pack,
            full=full(left),
        )


def lock_written(g: Ground) -> CellEdit:
    """A period locked at a figure; an empty text unlocks it."""

    def read(series: int, column: int, text: str) -> float | None:
        if not g.first <= column <= g.last:
            raise UserError(NOT_WRITABLE)
        if not text:
            return None
        value = number_of(text)
        if value is None or not np.isfinite(value):
            raise UserError(
                "“{text}” is no figure. Write what {column} is fixed at.",
                text=text,
                column=g.label(column),
            )
        if value < 0:
            raise UserError(
                "{column} cannot be fixed below zero. Write zero or more.", column=g.label(column)
            )
        _whole(g, value, "figure")
        return float(value)

    def put(plan: Plan, series: int, cells: Mapping[int, float | None]) -> Edit:
        asked = replace(g.asked[series], where=g.where(series), over=g.ask.over)
        days = {g.days(column): value for column, value in cells.items()}
        others = tuple(each for each in asked.locks if (each.first, each.last) not in days)
        new = tuple(Lock(*each, value) for each, value in days.items() if value is not None)
        now = replace(asked, locks=(*others, *new))
        if new:
            locked = _locked(g, series).copy()
            for column, value in cells.items():
                locked[column - g.first] = np.nan if value is None else value
            _check(g, now, locked)
        return edit(P.spread.asked, g.ask.with_asked(now))

    return CellEdit(read, put)


def state_of_lock(g: Ground) -> StateOf:
    """Which periods are locked."""

    def state(series: int, column: int) -> State:
        inside = g.first <= column <= g.last
        return ("own" if not np.isnan(g.locked[series, column]) else "") if inside else "locked"

    return state


def sold_locked(g: Ground, series: int) -> tuple[Edit | None, str]:
    """Lock every period at what it has sold, so that the rest is spread anew; or why that cannot be."""
    sold = g.sold.values[series]
    columns = [column for column in range(g.first, min(g.last + 1, g.past)) if not np.isnan(sold[column])]
    if not columns:
        return None, phrase("No {kind} of it is complete yet.", kind=noun(g.grid.kind))
    if any(sold[column] < 0 for column in columns):
        return None, phrase("A period had more back than it sold: fix the others by hand.")
    asked = replace(g.asked[series], where=g.where(series), over=g.ask.over)
    locked, locks = _locked(g, series).copy(), list(asked.locks)
    for column in columns:
        first, last = g.days(column)
        figure = round(float(sold[column]) * g.scale) / g.scale
        locks = [each for each in locks if (each.first, each.last) != (first, last)]
        locks.append(Lock(first, last, figure))
        locked[column - g.first] = figure
    now = replace(asked, locks=tuple(locks))
    if now.locks == asked.locks:
        return None, phrase("What has sold is fixed already.")
    try:
        _check(g, now, locked)
    except UserError as error:
        return None, str(error)
    return edit(P.spread.asked, g.ask.with_asked(now)), ""


def unlocked(g: Ground, series: int) -> Edit | None:
    """Every period free again."""
    asked = g.asked[series]
    if not asked.locks:
        return None
    return edit(P.spread.asked, g.ask.with_asked(replace(asked, locks=())))


def over_written(g: Ground, text: str) -> Edit:
    """Another stretch, as it is written."""
    stretch(text, g.grid, g.d.first + g.sight.home)
    return edit(P.spread.over, text.strip())


def kept_as(g: Ground, outcome: Outcome, members: tuple[str, ...], parts: np.ndarray, name: str) -> Edit:
    """The spread kept under a name; one of that name gives way."""
    said, found = name.strip(), outcome.parts[0]
    if not said:
        raise UserError("The spread has no name yet. Write one to keep it under.")
    if found is None:
        raise UserError(outcome.why[0] or phrase("There is nothing to keep: write a total first."))
    days = tuple(g.days(column)[0] for column in range(g.first, g.last + 1))
    laid = SavedSpread(
        said[:200], replace(g.asked[0], where=g.where(0)), g.ask.by, g.grid.kind, days,
        tuple((found.parts / g.scale).tolist()), members, tuple(map(tuple, (parts / g.scale).tolist())),
    )  # fmt: skip
    others = tuple(each for each in g.ask.kept if each.name != laid.name)
    return edit(P.spread.kept, (*others, laid))
