"""Selling days: the figure of a period as it would be with an average number of them."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.periods.calendar import Grid, day_number, expected_weekdays
from oat_tide.core.periods.holidays import Holiday, before_holiday, selling_days
from oat_tide.core.series.reading import Reading
from oat_tide.core.working.formula import Formula, given, mean, only
from oat_tide.core.working.terms import Term, known
from oat_tide.plan.parts.evened import Evened
from oat_tide.plan.parts.seasons import Seasons
from oat_tide.stages.deck.draft import Draft

_LATEST = dt.date(2400, 1, 1)


@dataclass(frozen=True, eq=False, slots=True)
class Days:
    """What the days of each period do to its figure.

    Attributes:
        weekdays: on which one sells.
        days: (columns,) selling days.
        moving: (columns,) by what the days before moving holidays raise a period; 1 for nothing.
    """

    weekdays: tuple[int, ...]
    days: Values
    moving: Values


def days_of(
    ask: Seasons, evened: Evened, reading: Reading, grid: Grid, first: int, past: int, columns: int
) -> Days:
    """Selling days of every column, those ahead included; nothing that lies after the as-of decides them."""
    upto = grid.last_day(first + past - 1) if past else grid.first_day(first)
    expected = expected_weekdays(reading.selling[reading.selling <= upto], upto)
    weekdays = ask.weekdays or tuple(day for day in range(7) if expected[day]) or tuple(range(7))
    closed = [
        day
        for each in evened.rulings
        if each.act == "closed"
        for day in range(day_number(each.first), day_number(min(each.last, _LATEST)) + 1)
    ]
    holidays = [Holiday(each.name, each.month, each.day, each.from_easter) for each in ask.holidays]
    days = selling_days(grid, first, columns, weekdays, closed, holidays)
    moving = np.ones(columns)
    for each in ask.moving:
        moving += each.percent / 100 * before_holiday(grid, first, columns, each.from_easter, each.days)
    return Days(weekdays, days, moving)


@dataclass(frozen=True, eq=False, slots=True)
class Selling:
    """What a figure by selling day is made of.

    Attributes:
        adjusted: the figure, as it would be with the average number of selling days.
        days, average: selling days of each period, and of an average one.
        raised: by what moving holidays raise a period; None where there are none.
    """

    adjusted: Term
    days: Term
    average: Term
    raised: Term | None

    def put_back(self, figure: Formula) -> Formula:
        """A figure of an average period with the selling days and moving holidays of its own."""
        back = figure * self.days / self.average
        return back if self.raised is None else back * self.raised


def by_selling_day(d: Draft, actual: Term, held: Days, unit: str, moves: tuple[str, ...]) -> Selling:
    """The figure as it would be with the average number of selling days, and without moving holidays."""
    days = d.define(
        "days",
        phrase("Selling days"),
        given(held.days[None], phrase("weekdays that one sells on, less closed days and holidays")),
        unit="days",
    )
    average = d.define(
        "average_days",
        phrase("selling days of an average period"),
        mean(known(days.between(0, max(d.past - 1, 0)))),
    )
    raised = d.define(
        "raised",
        phrase("Raised by moving holidays"),
        given(held.moving[None], phrase("1 and the share of the days before ") + " and ".join(moves)),
        where=np.array([[bool(moves)]]),
        shown=bool(moves),
    )
    body: Formula = actual / days * average
    if moves:
        body = body / raised
    figure = d.define(
        "adjusted",
        phrase("By selling day"),
        only(days > 0, body),
        unit=unit,
        blank=phrase("It is part, not known, or has no selling day."),
    )
    return Selling(figure, days, average, raised if moves else None)
