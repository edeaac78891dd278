"""What reading sources again brought: against what was projected, restated, unseen, silent."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from oat_tide.core.exact import Values, known
from oat_tide.core.language import phrase
from oat_tide.core.periods.calendar import date_of, expected_weekdays
from oat_tide.core.series.coded import Key
from oat_tide.core.series.panel import INCOMPLETE, PROVISIONAL, Panel
from oat_tide.core.user_error import UserError
from oat_tide.plan.edits import edit, put
from oat_tide.plan.paths import P
from oat_tide.session import Session
from oat_tide.stages.common import named, where_of
from oat_tide.stages.deck import Column, Listing, RowAct, in_memory

OUTSIDE, UNSEEN, SILENT, GONE = (
    phrase("outside what was projected"),
    phrase("never seen before"),
    phrase("no line since"),
    phrase("not there any more"),
)
RESTATED, MISSING, INSIDE = (
    phrase("restated, closed before"),
    phrase("no line on a usual day"),
    phrase("inside what was projected"),
)
NEW, REVISED = "new", phrase("revised, provisional before")
_ORDER = (OUTSIDE, UNSEEN, GONE, SILENT, RESTATED, MISSING, INSIDE, NEW, REVISED)
"""What is said first."""
_MOST_PROJECTED = 20_000
_RECENT = 6
"""Periods of which half must hold a line for a series to be one that falls silent."""
NOT_KNOWN = float("nan")


@dataclass(frozen=True, slots=True)
class Change:
    """One figure of one series that is not what it was; NaN stands for not known.

    Attributes:
        key: the series.
        period: the period.
        before: the figure as it was.
        now: the figure as it is.
    """

    key: Key
    period: int
    before: float
    now: float


@dataclass(frozen=True, slots=True)
class News:
    """What is new of a series.

    Attributes:
        what: as in OUTSIDE and the others.
        key: the series; none of a dimension for all.
        when: the period or day, in words.
        projected: what was projected for it, NaN for nothing.
        before, now: its figure as it was and as it is.
    """

    what: str
    key: Key
    when: str
    projected: float = NOT_KNOWN
    before: float = NOT_KNOWN
    now: float = NOT_KNOWN

    @property
    def difference(self) -> float:
        """What is now less what was projected, or else what was before."""
        return self.now - (self.projected if known(self.projected) else self.before)


@dataclass(frozen=True, eq=False, slots=True)
class _Projected:
    """What the plan as it was projects for every series.

    Attributes:
        first: the first period; values, lower, upper: (series, periods).
    """

    first: int
    row: dict[Key, int]
    values: Values
    lower: Values
    upper: Values

    def at(self, key: Key, period: int) -> tuple[float, float, float]:
        """The figure of a series and period with its limits, NaN where there is none."""
        row, column = self.row.get(key), period - self.first
        if row is None or not 0 <= column < self.values.shape[1]:
            return NOT_KNOWN, NOT_KNOWN, NOT_KNOWN
        return tuple(float(each[row, column]) for each in (self.values, self.lower, self.upper))  # type: ignore[return-value]


def news(old: Session, new: Session, changes: Sequence[Change]) -> tuple[News, ...]:
    """What is new, the most telling first, and the largest difference first of those alike.

    Args:
        old, new: the plan on the sources as they were, and as they are.
        changes: every figure that is not what it was.
    """
    found = [*_figures(old, new, changes), *_names(old, new), *_silent(old, new), *_days(old, new)]
    found.sort(key=lambda each: (_ORDER.index(each.what), -abs(np.nan_to_num(each.difference))))
    return tuple(found)


def _figures(old: Session, new: Session, changes: Sequence[Change]) -> Iterator[News]:
    """Figures of periods that are complete now, against what was projected; and those that were restated."""
    projected = _project(old)
    grid, home = new.grid, old.home
    rows_before = {key: row for row, key in enumerate(old.panel.keys)}
    unseen = set(new.panel.keys) - set(rows_before)
    for each in changes:
        when = grid.label(each.period)
        if each.key in unseen:
            continue
        if home < each.period:
            if each.period > new.home:
                continue
            figure, lower, upper = projected.at(each.key, each.period)
            what = NEW
            if known(figure):
                what = INSIDE if lower <= each.now <= upper else OUTSIDE
            yield News(what, each.key, when, figure, each.before, each.now)
        elif known(each.before) or known(each.now):
            what = (
                REVISED
                if _was_open(old.panel, rows_before.get(each.key), each.period)
                else RESTATED
                if known(each.before)
                else NEW
            )
            yield News(what, each.key, when, NOT_KNOWN, each.before, each.now)


def _was_open(panel: Panel, row: int | None, period: int) -> bool:
    column = period - panel.first
    if row is None or not 0 <= column < panel.columns:
        return False
    return bool(panel.flags[row, column] & (PROVISIONAL | INCOMPLETE))


def _project(old: Session) -> _Projected:
    """What was projected, from the last complete period that there was; nothing where that cannot be told."""
    none = _Projected(0, {}, *(np.zeros((0, 0)) for _ in range(3)))
    if len(old.panel.keys) > _MOST_PROJECTED:
        return none
    every = Session(None, put(old.plan, ("as_of",), None), every=True)
    every.share(old)
    try:
        deck = every.deck("project")
    except UserError:
        return none
    names = ("projected", "lower_80", "upper_80")
    if not all(name in deck.figures for name in names):
        return none
    rows = {key: row for row, key in enumerate(deck.keys)}
    return _Projected(deck.first, rows, *(deck.figures[name].values for name in names))


def _names(old: Session, new: Session) -> Iterator[News]:
    """Series that were not there."""
    there = set(old.panel.keys)
    for row, key in enumerate(new.panel.keys):
        if key not in there:
            held = np.flatnonzero(new.panel.lines[row])
            when = new.grid.label(new.panel.first + int(held[0])) if held.size else ""
            yield News(UNSEEN, key, when, now=float(np.nansum(new.panel.values[row])))


def _silent(old: Session, new: Session) -> Iterator[News]:
    """Series that had lines period after period and have none in those that are complete now."""
    grid, rows = new.grid, {key: row for row, key in enumerate(new.panel.keys)}
    for row, key in enumerate(old.panel.keys):
        held = np.flatnonzero(old.panel.lines[row])
        if key not in rows:
            yield News(GONE, key, "", before=float(np.nansum(old.panel.values[row])))
            continue
        last = old.home - old.panel.first
        recent = old.panel.lines[row, max(last - _RECENT + 1, 0) : last + 1] > 0
        since = slice(old.home + 1 - new.panel.first, new.home + 1 - new.panel.first)
        lines = new.panel.lines[rows[key], since]
        if lines.size and not lines.any() and held.size and 2 * recent.sum() >= _RECENT:
            yield News(SILENT, key, grid.label(old.panel.first + int(held[-1])))


def _days(old: Session, new: Session) -> Iterator[News]:
    """Days since then without any line, of the weekdays on which there usually are some."""
    if new.reading.kind != "day":
        return
    usual = expected_weekdays(old.reading.selling, old.reading.upto)
    sold = set(new.reading.selling.tolist())
    none = tuple(None for _ in new.reading.dimensions)
    for day in range(old.reading.upto + 1, new.reading.upto + 1):
        if usual[(day + 3) % 7] and day not in sold:
            yield News(MISSING, none, f"{date_of(day):%Y-%m-%d}")


def listing(found: tuple[News, ...], session: Session, title: str) -> Listing:
    """What is new as a list; a row leads to its series."""
    unit, places = session.reading.unit, session.reading.decimals
    rows = [
        (each.what, named(each.key), each.when, each.projected, each.before, each.now, each.difference)
        for each in found
    ]
    columns = (
        Column(phrase("what is new"), choices=tuple(dict.fromkeys(each.what for each in found))),
        Column("series"),
        Column("period"),
        Column(phrase("{unit} projected", unit=unit), "number", decimals=places),
        Column(phrase("{unit} before", unit=unit), "number"),
        Column(phrase("{unit} now", unit=unit), "number"),
        Column("difference", "number", decimals=places, signed=True),
    )
    dimensions = session.reading.dimensions
    show = RowAct(phrase("Show"), lambda row: edit(P.where, where_of(dimensions, found[row].key)))
    return in_memory(title, columns, rows, tab=phrase("What is new"), acts=(show,))
