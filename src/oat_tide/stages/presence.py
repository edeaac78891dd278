"""Is there a season, and which form has it? One answer for all stages, by `core/seasons`."""

from __future__ import annotations

import functools
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from typing import Literal

import numpy as np

from oat_tide.core.alike import Mask
from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import Days
from oat_tide.core.seasons import presence, swing
from oat_tide.core.seasons.presence import FEWEST_CYCLES, SeasonTest
from oat_tide.core.seasons.swing import Judged
from oat_tide.core.series.panel import Panel
from oat_tide.core.user_error import Progress
from oat_tide.plan.parts.seasons import Seasons
from oat_tide.stages.cycle import Cycle
from oat_tide.stages.deck import LateWork

_SOON = 60_000
"""Periods times the square of the terms that are told of within a frame."""
_TERMS = 3
"""Terms of a trend, about."""

Said = Literal["yes", "no", "too short", ""]
"""Whether there is a season; "" while it is reckoned, and where nothing varies or it is far too short."""


@dataclass(frozen=True, eq=False, slots=True)
class SeasonPresence:
    """What tells whether each series has a season.

    Attributes:
        find: what it is told by, reckoned when it is first looked at.
        cycles: (series,) whole cycles known.
        limits: what 95 % limit by chance by rho, of each length asked for; None while it is reckoned.
        lengths: (series,) the length that each goes by.
    """

    find: Callable[[], SeasonTest | None]
    cycles: Days
    limits: dict[int, tuple[float, ...] | None]
    lengths: Days

    @property
    def told(self) -> SeasonTest:
        """What it is told by; NaN while it is reckoned, and of too short a history."""
        found = self.find()
        none = np.full(len(self.cycles), np.nan)
        return found if found is not None else SeasonTest(none, none, none, none, none)

    @property
    def chance(self) -> Values:
        """(series,) what 95 % limit by chance in F."""
        told, out = self.told, np.full(len(self.cycles), np.nan)
        for length, by_rho in self.limits.items():
            if by_rho is not None:
                at = self.lengths == length
                out[at] = presence.limit_of(told, by_rho)[at]
        return out

    def said(self, series: int) -> Said:
        """Whether one series has a season."""
        f, chance = float(self.told.f[series]), float(self.chance[series])
        if np.isnan(chance) or np.isnan(f):
            return ""
        if f > chance:
            return "yes"
        return "no" if self.cycles[series] >= FEWEST_CYCLES else "too short"


def judged(ask: Seasons, values: Values, cycle: Cycle, scale: float) -> Judged:
    """Whether each series' season is a factor, as asked or as is likelier."""
    past = values.shape[1]
    found = swing.judged(values, cycle.place[:past], cycle.length, scale)
    if ask.season == "suggested":
        return found
    return replace(found, multiplies=np.full(len(values), ask.season == "multiplicative"))


def presence_of(past: Panel, how: Seasons, cycle: Cycle, late: LateWork) -> SeasonPresence:
    """Ask whether each series of a panel has a season, as Seasons does."""
    values = past.judged
    multiplies = judged(how, values, cycle, past.scale).multiplies
    return season_presence(values, cycle.place[: past.columns], cycle.length, multiplies, late)


def season_presence(
    values: Values, place: Days, cycle: int, multiplies: Mask, late: LateWork
) -> SeasonPresence:
    """Ask whether each series has a season; long histories are told of late.

    Args:
        values: (series, periods) of what is taken apart; NaN is not known.
        place: (periods,) the season of each, from 0.
        multiplies: (series,) whether the season is a factor.
    """
    known = (~np.isnan(values)).sum(1)
    lengths = np.array([presence.whole_halves(int(each), max(cycle, 1)) for each in known], np.int64)
    asked = sorted({int(each) for each in lengths if cycle and each >= 2 * cycle})
    limits = {length: late(limits_of, length, cycle) for length in asked}
    cycles = known // max(cycle, 1)
    if not asked:
        return SeasonPresence(lambda: None, cycles, {}, lengths)
    small = values.shape[1] * (cycle + _TERMS) ** 2 <= _SOON
    own = partial(tell_of, values, place, cycle, multiplies)
    if small or len(values) > 1:
        return SeasonPresence(functools.cache(own), cycles, limits, lengths)
    # As bytes: a row that is not known everywhere is a question that equals itself, too.
    row, seasons = values[0].astype(float).tobytes(), place.astype(np.int64).tobytes()
    answer = late(told_late, row, seasons, cycle, bool(multiplies[0]))
    return SeasonPresence(lambda: answer, cycles, limits, lengths)


def limits_of(periods: int, cycle: int, progress: Progress) -> tuple[float, ...]:
    """What 95 % limit by chance by rho; takes its time."""
    return presence.limits(periods, cycle)


def told_late(row: bytes, place: bytes, cycle: int, products: bool, progress: Progress) -> SeasonTest:
    """What tells of one long history; takes its time.

    Args:
        row, place: of `season_told`, as bytes.
    """
    values, seasons = np.frombuffer(row, float)[None], np.frombuffer(place, np.int64)
    return tell_of(values, seasons, cycle, np.array([products]))


def tell_of(values: Values, place: Days, cycle: int, multiplies: Mask) -> SeasonTest:
    """What tells of a season: of one that multiplies on logarithms."""
    with np.errstate(invalid="ignore", divide="ignore"):
        logs = np.log(np.where(values > 0, values, np.nan))
    return presence.progress(np.where(multiplies[:, None], logs, values), place, cycle)
