"""Periods on real calendars.

A day is the number of days since 1 January 1970. A period is a whole number as well, counted in its own
kind from the period that holds that day, so that neighbours differ by one and arithmetic on arrays is
plain. A period always knows its year: no month is ever grouped without it.
"""

from __future__ import annotations

import dataclasses
import datetime as dt
import functools
import re
from dataclasses import dataclass, field
from typing import Literal, cast, get_args

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.language import phrase
from oat_tide.core.periods import patterns

Kind = Literal["day", "week", "block", "month", "quarter", "year"]
KINDS: tuple[Kind, ...] = get_args(Kind)
Days = NDArray[np.int64]
Weekdays = tuple[bool, ...]

NONE = np.iinfo(np.int64).min
"""The period that is no period: what 29 February of a common year comes out as."""

_FIRST_TWELFTH = (patterns.FIRST_YEAR - 1970) * 12
"""The number of the first period that a calendar of whole weeks reaches back to."""

EVERY_WEEKDAY: Weekdays = (True,) * 7

MONTHS = tuple(phrase("Jan Feb Mar Apr May Jun Jul Aug Sep Oct Nov Dec").split())
MONTH_NAMES = tuple(
    phrase("January February March April May June July August September October November December").split()
)
WEEKDAYS = tuple(phrase("Monday Tuesday Wednesday Thursday Friday Saturday Sunday").split())
_CYCLE: dict[Kind, int] = {"day": 365, "week": 52, "block": 13, "month": 12, "quarter": 4, "year": 1}
_ADVERB: dict[Kind, str] = {
    "day": phrase("per day"),
    "week": phrase("per week"),
    "block": phrase("per block"),
    "month": phrase("per month"),
    "quarter": phrase("per quarter"),
    "year": phrase("per year"),
}


def day_number(date: dt.date) -> int:
    """Days from 1 January 1970 to the date."""
    return date.toordinal() - 719163


FIRST_DAY, LAST_DAY = day_number(dt.date(1900, 1, 1)), day_number(dt.date(2200, 12, 31))
"""Between what days sales can lie."""


def date_of(day: int) -> dt.date:
    """The date of a day number. Raises ValueError outside the years 1 to 9999."""
    return dt.date.fromordinal(int(day) + 719163)


def _begins_in_january(anchor: int) -> bool:
    """Whether most of a year from around this day lies in the calendar year that is nearest."""
    day = date_of(anchor)
    return (day.month, day.day) <= (1, 4) or (day.month, day.day) >= (12, 28)


def _months(days: Days) -> Days:
    return days.astype("datetime64[D]").astype("datetime64[M]").astype(np.int64)


def _first_of_month(months: Days) -> Days:
    return months.astype("datetime64[M]").astype("datetime64[D]").astype(np.int64)


@dataclass(frozen=True, slots=True)
class Grid:
    """One way to cut time into periods.

    Attributes:
        kind: the length of a period.
        week_start: the weekday that weeks begin on, 0 for Monday to 6 for Sunday.
        year_start: the month that the fiscal year begins with, 1 to 12. Quarters follow it.
        pattern: "4-4-5" and its kin for years of whole weeks; empty for months of the calendar.
        anchor: a day on which such a year, or a block, begins, as a day number.
        long_period: the period of such a year that week 53 goes to.
        days: the length of a block.
    """

    kind: Kind = "month"
    week_start: int = 0
    year_start: int = 1
    pattern: str = ""
    anchor: int = 0
    long_period: int = 12
    days: int = 28

    def of(self, kind: Kind) -> Grid:
        """Return the same calendar divided into periods of another kind."""
        return dataclasses.replace(self, kind=kind)

    @property
    def cycle(self) -> int:
        """Periods in a year, the odd day or week left out."""
        return max(round(365.25 / self.days), 1) if self.kind == "block" else _CYCLE[self.kind]

    @property
    def per_period(self) -> str:
        """The words "per month" and the like."""
        return phrase("per {days} days", days=self.days) if self.kind == "block" else _ADVERB[self.kind]

    @property
    def _steps(self) -> int:
        """Months of the calendar, or twelfths of a year of weeks, in one period."""
        return {"month": 1, "quarter": 3, "year": 12}[self.kind]

    @property
    def _first_weekday(self) -> int:
        return (self.anchor + 3) % 7 if self.pattern else self.week_start

    def at(self, days: Days | list[int]) -> Days:
        """The periods that hold the days; same shape."""
        d = np.asarray(days, np.int64)
        if self.kind == "day":
            return d
        if self.kind == "week":
            return (d + 3 - self._first_weekday) // 7
        if self.kind == "block":
            return (d - self.anchor) // self.days
        if self.pattern:
            starts = patterns.period_starts(self.anchor, self.pattern, self.long_period)
            place = np.searchsorted(starts, d, "right") - 1
            return (place + _FIRST_TWELFTH) // self._steps
        months = _months(d)
        return months if self.kind == "month" else (months - (self.year_start - 1)) // self._steps

    def first_days(self, periods: Days | list[int]) -> Days:
        """The first day of each period; same shape."""
        p = np.asarray(periods, np.int64)
        if self.kind == "day":
            return p
        if self.kind == "week":
            return p * 7 - 3 + self._first_weekday
        if self.kind == "block":
            return p * self.days + self.anchor
        if self.pattern:
            starts = patterns.period_starts(self.anchor, self.pattern, self.long_period)
            return starts[p * self._steps - _FIRST_TWELFTH]
        return _first_of_month(p * self._steps + (self.year_start - 1 if self.kind != "month" else 0))

    def period(self, day: int) -> int:
        """The period that holds the day."""
        return _period(self, day)

    def first_day(self, period: int) -> int:
        """The first day of the period."""
        return _first_day(self, period)

    def last_day(self, period: int) -> int:
        """The last day of the period."""
        return self.first_day(period + 1) - 1

    def years(self, periods: Days | list[int]) -> Days:
        """The fiscal year of each period, named by the calendar year it begins in.

        A week belongs to the year that holds its fourth day; for weeks from Monday and years from
        January that is the ISO 8601 week year. Years of whole weeks are named by the year of their start
        nearest to the anchor's month and day.
        """
        days = self.first_days(periods)
        if self.pattern and self.kind != "block":
            starts = patterns.year_starts(self.anchor)
            return np.searchsorted(starts, days, "right") - 1 + patterns.FIRST_YEAR
        days = days + (3 if self.kind == "week" else 0)
        return (_months(days) - (self.year_start - 1)) // 12 + 1970

    def year_first(self, year: int) -> int:
        """The first period of a fiscal year; of blocks, the first that begins in it."""
        if self.pattern and self.kind != "block":
            return self.period(int(patterns.year_starts(self.anchor)[year - patterns.FIRST_YEAR]))
        day = day_number(dt.date(year, self.year_start, 1))
        if self.kind == "block":
            return self.period(day - 1) + 1
        return self.period(day + 3 if self.kind == "week" else day)

    def places(self, periods: Days | list[int]) -> Days:
        """The place of each period in its year, from 1: the week number, the month of the fiscal year."""
        p = np.asarray(periods, np.int64)
        years = self.years(p)
        firsts = {int(y): self.year_first(int(y)) for y in np.unique(years)}
        return p - np.array([firsts[int(y)] for y in years.ravel()], np.int64).reshape(p.shape) + 1

    def year_before(self, periods: Days | list[int]) -> Days:
        """The like period of the year before; NONE where there is none.

        Days go by month and day (29 February has none); weeks lie 52 weeks back (week 53 has none); blocks
        lie 364 days back where that is a whole number of them.
        """
        p = np.asarray(periods, np.int64)
        if self.kind == "week":
            return np.where(self.places(p) == 53, NONE, p - 52)
        if self.kind == "block":
            return p - 364 // self.days if 364 % self.days == 0 else np.full_like(p, NONE)
        if self.kind != "day":
            return p - self.cycle
        months = _months(p)
        within = p - _first_of_month(months)
        back = _first_of_month(months - 12) + within
        return np.where(_months(back) == months - 12, back, NONE)

    def label(self, period: int) -> str:
        """The period in full: "5 Mar 2026", "W9 2026", "Mar 2026", "Q1 2026", "2026"."""
        first = date_of(self.first_day(period))
        if self.kind in ("day", "block"):
            many = phrase("{days} days from ", days=self.days) if self.kind == "block" else ""
            return f"{many}{first.day} {MONTHS[first.month - 1]} {first.year}"
        if self.kind == "month" and not self.pattern:
            return f"{MONTHS[first.month - 1]} {first.year}"
        year = self.year_label(int(self.years([period])[0]))
        if self.kind == "year":
            return year
        place = int(self.places([period])[0])
        if self.kind == "week":
            return f"W{place} {year}"
        return f"{'Q' if self.kind == 'quarter' else 'P'}{place} {year}"

    def named(self, period: int) -> str:
        """The period within a sentence: its label, of a block "the block of 5 Oct 2026"."""
        return self.label(period).replace(f"{self.days} days from ", "the block of ")

    def when(self, period: int) -> str:
        """The period as a time: "in Mar 2026", "on 5 Mar 2026", "in the block of 5 Oct 2026"."""
        name = self.named(period)
        return phrase("on {name}", name=name) if self.kind == "day" else phrase("in {name}", name=name)

    def year_label(self, year: int) -> str:
        """ "2026", or "2026/27" where years do not begin in January."""
        in_january = self.year_start == 1 if not self.pattern else _begins_in_january(self.anchor)
        return str(year) if in_january else f"{year}/{(year + 1) % 100:02d}"

    def short(self, period: int, room: int = 3) -> str:
        """The period within its year, in one or in at most three letters."""
        first = date_of(self.first_day(period))
        if self.kind in ("day", "block"):
            return str(first.day)
        if self.kind == "month" and not self.pattern:
            return MONTHS[first.month - 1][: 1 if room < 3 else 3]
        place = int(self.places([period])[0])
        if self.kind == "week":
            return f"W{place}" if room >= 3 else str(place)
        if self.kind == "month":
            return f"P{place}" if room >= 3 else str(place)
        return f"Q{place}" if self.kind == "quarter" else self.year_label(int(self.years([period])[0]))


@functools.lru_cache(1 << 13)
def _period(grid: Grid, day: int) -> int:
    return int(grid.at([day])[0])


@functools.lru_cache(1 << 13)
def _first_day(grid: Grid, period: int) -> int:
    return int(grid.first_days([period])[0])


Closed = frozenset[int]
"""Days given as closed, as day numbers: nothing is expected to sell on them."""


@dataclass(frozen=True, slots=True)
class Habit:
    """When in a period lines come, where they come on few of its days; in days from the first of a period.

    Attributes:
        last: where nine tenths of the periods had their last line.
        soonest: where a tenth had.
        first: where nine tenths had their first line.
        days: how many days of a period usually hold a line.
    """

    last: int
    soonest: int
    first: int
    days: int


_FEW, _ENOUGH_PERIODS = 1 / 3, 2
"""The share of a period's days that are few, and the earlier periods that it takes to tell a habit."""


def habit(grid: Grid, selling: Days, upto: int) -> Habit | None:
    """When in a period lines come; None where they come on many days, or there is too little to tell.

    Args:
        selling: (days,) sorted days that hold at least one line of any series.
        upto: what lies after this day decides nothing.
    """
    if grid.kind in ("day", "week"):
        return None
    seen = selling[selling <= upto]
    if not seen.size:
        return None
    periods = grid.at(seen)
    own, starts, days = np.unique(periods, return_index=True, return_counts=True)
    lengths = grid.first_days(own + 1) - grid.first_days(own)
    places = seen - grid.first_days(periods)
    # The first period may have begun earlier, and the last may go on.
    firsts, lasts = places[starts[1:]], places[(starts + days - 1)[own < grid.period(upto)]]
    few = np.median(days / lengths) <= _FEW
    if not few or min(len(firsts), len(lasts)) < _ENOUGH_PERIODS:
        return None
    return Habit(
        last=_quantile(lasts, 0.9),
        soonest=_quantile(lasts, 0.1),
        first=_quantile(firsts, 0.9),
        days=int(np.median(days)),
    )


def _quantile(places: Days, share: float) -> int:
    """The least place that this share of them do not lie behind."""
    return int(np.quantile(places, share, method="inverted_cdf"))


@dataclass(frozen=True, slots=True)
class Whole:
    """What tells whether periods are whole.

    Attributes:
        expected: the weekdays on which there usually are sales.
        closed: days on which nothing could be sold.
        habit: when in a period lines come, where they come on few days.
        selling: sorted days that hold a line.
    """

    expected: Weekdays = EVERY_WEEKDAY
    closed: Closed = frozenset()
    habit: Habit | None = None
    selling: Days = field(default_factory=lambda: np.zeros(0, np.int64), compare=False)


def wholeness(grid: Grid, selling: Days, upto: int, closed: Closed = frozenset()) -> Whole:
    """What lines up to a day tell of whole periods; later ones decide nothing."""
    seen = selling[selling <= upto]
    return Whole(expected_weekdays(selling, upto), closed, habit(grid, selling, upto), seen)


def complete(grid: Grid, period: int, upto: int, by: Whole = Whole()) -> bool:
    """Whether no expected selling day of the period lies after the day `upto`.

    A month whose last day is a closed Sunday is complete on the Saturday before. Where lines come on few
    days, a period is complete once `upto` has reached the place where nine tenths of earlier ones had their
    last line, or where a tenth had and it holds as many days with lines as they usually do.
    """
    first, last = grid.first_day(period), grid.last_day(period)
    if upto >= last:
        return True
    if by.habit is not None and upto >= first:
        place = min(by.habit.last, last - first)
        held = int(np.count_nonzero((by.selling >= first) & (by.selling <= upto)))
        if upto - first >= place or (upto - first >= by.habit.soonest and held >= by.habit.days):
            return True
    return not _expects(max(upto + 1, first), last, by.expected, by.closed)


def begun_whole(grid: Grid, period: int, since: int, by: Whole = Whole()) -> bool:
    """Whether no expected selling day of the period lies before the day `since`.

    Where lines come on few days: whether `since` lies no later than where nine tenths had their first line.
    """
    first = grid.first_day(period)
    if by.habit is not None and since - first <= by.habit.first:
        return True
    return not _expects(first, min(since - 1, grid.last_day(period)), by.expected, by.closed)


def _expects(first: int, last: int, expected: Weekdays, closed: Closed) -> bool:
    if not closed:
        return any(expected[(day + 3) % 7] for day in range(first, min(last, first + 6) + 1))
    return any(expected[(day + 3) % 7] and day not in closed for day in range(first, last + 1))


def last_complete(grid: Grid, upto: int, by: Whole = Whole()) -> int:
    """The last period that is complete on the day `upto`."""
    period = grid.period(upto)
    return period if complete(grid, period, upto, by) else period - 1


def expected_weekdays(selling: Days, upto: int) -> Weekdays:
    """The weekdays on which there usually are sales: on half of their dates or more.

    Args:
        selling: (days,) sorted days that hold at least one line of any series.
        upto: what lies after this day decides nothing; the 364 days that end with it decide.

    Returns:
        Seven marks, Monday first; all set where sales are too rare to tell.
    """
    recent = selling[(selling > upto - 364) & (selling <= upto)]
    if not recent.size:
        return EVERY_WEEKDAY
    first = max(int(selling[0]), upto - 363)
    had = np.bincount((recent + 3) % 7, minlength=7)
    could = np.bincount((np.arange(first, upto + 1) + 3) % 7, minlength=7)
    usual = tuple(bool(h and 2 * h >= c) for h, c in zip(had, could, strict=True))
    return usual if any(usual) else EVERY_WEEKDAY


_SPOKEN = (
    (re.compile(r"(\d{4})-(\d{2})-(\d{2})"), "day"),
    (re.compile(r"(\d{4})-?W(\d{1,2})"), "week"),
    (re.compile(r"(\d{4})[- ]?Q([1-4])"), "quarter"),
    (re.compile(r"(\d{4})-(\d{1,2})"), "month"),
    (re.compile(r"(\d{4})"), "year"),
)


def spoken(text: str, week_start: int = 0, year_start: int = 1) -> tuple[dt.date, dt.date]:
    """The first and last day of what is written: 2026-03-31, 2026-03, 2026Q1, 2026-W09 or 2026.

    Raises:
        ValueError: the text is none of these, or there is no such date.
    """
    for pattern, name in _SPOKEN:
        if not (found := pattern.fullmatch(text.strip())):
            continue
        kind = cast(Kind, name)
        grid = Grid(kind, week_start, year_start)
        year, *more = map(int, found.groups())
        if kind in ("day", "month"):
            period = grid.period(day_number(dt.date(year, *more, *([1] if kind == "month" else []))))
        else:
            period = grid.year_first(year) + (more[0] - 1 if more else 0)
            if grid.years([period])[0] != year:
                raise ValueError(f"{text} is no {kind} of {year}")
        return date_of(grid.first_day(period)), date_of(grid.last_day(period))
    raise ValueError(f"“{text}” is not a date, month, quarter, week or year")
