"""Like weekdays: the last Tuesdays, say, each against the one 52 weeks earlier."""

from __future__ import annotations

from functools import partial

import numpy as np

from oat_tide.core.language import phrase
from oat_tide.core.periods.calendar import MONTHS, WEEKDAYS, Days, Grid, date_of, day_number
from oat_tide.core.series.panel import Sight
from oat_tide.core.working.formula import mean, percent
from oat_tide.core.working.number_format import compact
from oat_tide.core.working.terms import Term, known
from oat_tide.plan.paths import P
from oat_tide.stages.common import as_known_now
from oat_tide.stages.deck import Axis, Band, Curve, Deck, Fact, Note, control
from oat_tide.stages.deck.draft import Draft
from oat_tide.stages.history import NAME
from oat_tide.stages.history.context import HistoryContext
from oat_tide.stages.history.years import settled, whole
from oat_tide.stages.published import actuals_of

_YEAR_OF_WEEKS = 364


def same_weekday(context: HistoryContext) -> Deck:
    """The last like weekdays up to the as-of day or a day picked, each against 52 weeks earlier."""
    sight, ask, lines = context.sight, context.ask, context.lines
    past = sight.past
    last = past.first + past.columns - 1
    day = min(day_number(ask.weekday), last) if ask.weekday else last
    days = np.array([day - 7 * back for back in range(ask.likes - 1, -1, -1)])
    name = WEEKDAYS[(day + 3) % 7]
    d = Draft(NAME, sight)
    d.lay("days", _axis(past.grid, days))
    d.show_on("days")
    unit = actuals_of(lines).unit
    average = _rows(d, sight, lines, days - past.first, name)
    curves = Curve("before", "average", label=phrase("52 weeks earlier")), Curve("own", "actual", label=name)
    return d.deck(
        bands=(Band(unit, curves),),
        sheet=lambda: (
            control(P.history.likes, ask, slides_to=max(60, ask.likes)),
            control(P.history.weekday, ask, lo=past.first, hi=last),
            Note(phrase("The last {likes} {name}s", likes=ask.likes, name=name), "head"),
            Fact("mean"),
        ),
        arrangements=context.arrangements,
        title=lambda series: phrase("the last {likes} {name}s", likes=ask.likes, name=name),
        subtitle=lambda series: phrase(
            "{unit} per day · up to {day}{as_known_now}",
            unit=unit,
            day=past.grid.label(day),
            as_known_now=as_known_now(sight),
        ),
        finding=lambda series: _finding(float(average.values[series, 0]), ask.likes, name),
    )


def _axis(grid: Grid, days: Days) -> Axis:
    """The days themselves."""
    dates = [date_of(int(day)) for day in days]
    full = [
        f"{WEEKDAYS[date.weekday()][:3]} {grid.label(int(day))}"
        for date, day in zip(dates, days, strict=True)
    ]
    short = tuple(f"{date.day} {MONTHS[date.month - 1]}" for date in dates)
    return Axis(short, short, tuple(full), "week")


def _rows(d: Draft, sight: Sight, lines: Deck, columns: Days, name: str) -> Term:
    """The like days and those 52 weeks earlier, the change, and the mean of the like days as ruled."""
    actual, ruled, unit = whole(sight, lines), settled(sight, lines), actuals_of(lines).unit
    day = partial(d.define, unit=unit, blank=phrase("The day is not known, or lies before the data."))
    own = day("own", f"{name}s", actual.like(columns))
    before = day("before", phrase("52 weeks earlier"), actual.like(columns - _YEAR_OF_WEEKS))
    difference = day("difference", phrase("Difference"), own - before, signed=True)
    d.define(
        "difference_share",
        phrase("% on 52 weeks earlier"),
        percent(difference, before),
        unit="%",
        signed=True,
        blank=phrase("One of the two days is not known, or nothing sold 52 weeks earlier."),
    )
    picked = np.zeros((1, sight.columns), bool)
    picked[0, columns[(columns >= 0) & (columns < sight.columns)]] = True
    return d.define(
        "mean", phrase("mean of the {name}s", name=name), mean(known(ruled.among(picked))), unit=unit
    )


def _finding(mean: float, likes: int, name: str) -> str:
    return (
        phrase("no {name}\nis known", name=name)
        if np.isnan(mean)
        else phrase("{likes} {name}s,\nmean {mean}", likes=likes, name=name, mean=compact(mean))
    )
