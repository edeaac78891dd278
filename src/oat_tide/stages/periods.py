"""What decides how time is cut, as it is offered in Intake and where the period is chosen."""

from __future__ import annotations

from collections.abc import Iterator

from oat_tide.core.language import phrase
from oat_tide.core.periods.calendar import MONTHS, WEEKDAYS, Kind
from oat_tide.plan.parts.periods import Periods
from oat_tide.plan.paths import P
from oat_tide.stages.deck import Control, control


def period_controls(periods: Periods, source: Kind, kind: Kind) -> Iterator[Control]:
    """The start of the fiscal year; of days also the start of weeks, the calendar, and blocks.

    Args:
        source: the periods that the source has rows for.
        kind: those in use.
    """
    yield control(P.periods.year_start, periods, kind="pick", choices=tuple(range(1, 13)), names=MONTHS)
    if source != "day":
        return
    yield control(P.periods.week_start, periods, kind="pick", choices=tuple(range(7)), names=WEEKDAYS)
    yield control(
        P.periods.weeks,
        periods,
        names=(
            phrase("of the calendar"),
            phrase("4-4-5 weeks"),
            phrase("4-5-4 weeks"),
            phrase("5-4-4 weeks"),
        ),
    )
    if periods.weeks != "calendar" or kind == "block":
        yield control(P.periods.anchor, periods)
    if periods.weeks != "calendar":
        yield control(P.periods.long_period, periods)
    if kind == "block":
        yield control(P.periods.block, periods)
