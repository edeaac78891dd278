"""Running totals and totals of years: all that is known, and what each lacks or holds in part."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from oat_tide.core.comparison.sums import running, running_count, running_starts
from oat_tide.core.exact import Values
from oat_tide.core.language import counted, noun, nouns, phrase
from oat_tide.core.periods.calendar import Days
from oat_tide.core.series.panel import INCOMPLETE, Panel, Sight
from oat_tide.core.working.formula import Mask
from oat_tide.core.working.terms import Term
from oat_tide.stages.deck import Deck
from oat_tide.stages.published import actuals_of


@dataclass(frozen=True, eq=False, slots=True)
class Together:
    """Running totals, of the past or of all that is known.

    Attributes:
        actual: what they add up: every period, part ones included.
        kind: of period.
        starts: (series, periods) the column that each starts from.
        values: (series, periods).
        lacks: (series, periods) periods not known from the start on, or from the series' first line.
        parts: (series, periods) part periods in it.
    """

    actual: Term
    kind: str
    starts: Days
    values: Values
    lacks: Days
    parts: Days

    @property
    def whole(self) -> Mask:
        """(series, periods) which lack nothing and hold no part period."""
        whole: Mask = (self.lacks == 0) & (self.parts == 0)
        return whole

    def remark(self, series: int, column: int) -> str:
        """What the running total of a column lacks, or holds in part; empty for neither."""
        if not 0 <= column < self.lacks.shape[1]:
            return ""
        lacks, parts = int(self.lacks[series, column]), int(self.parts[series, column])
        said = [phrase("lacks {lacks}", lacks=counted(lacks, self.kind))] if lacks else []
        if parts:
            kind = noun(self.kind) if parts == 1 else nouns(self.kind)
            said.append(phrase("holds {parts:,} part {kind}", parts=parts, kind=kind))
        return phrase("It {said}.", said=phrase(" and ").join(said)) if said else ""


def years_of(past: Panel, columns: int | None = None) -> Days:
    """(periods,) the year that each lies in, of the past or of so many columns."""
    return past.grid.years(past.first + np.arange(past.columns if columns is None else columns))


def all_known(sight: Sight) -> int:
    """How many columns there are up to the last in which anything is known; at least those of the past."""
    known = np.flatnonzero((~np.isnan(sight.values)).any(0))
    return max(sight.past.columns, int(known[-1]) + 1 if known.size else 0)


def together(sight: Sight, lines: Deck, group: Days) -> Together:
    """The running totals of as many columns as there are groups: of the past, or of what came later as well.

    Args:
        group: (periods,) what they start anew with, in runs.
    """
    past, columns = sight.past, len(group)
    actual = actuals_of(lines).actual.seeing(np.arange(sight.columns)[None] < columns)
    values = actual.values[:, :columns]
    known = ~np.isnan(values)
    born = np.cumsum(known, axis=1) > 0
    return Together(
        actual,
        past.grid.kind,
        running_starts(values, group),
        running(values, group, past.scale),
        running_count(born & ~known, group),
        running_count(known & (sight.flags[:, :columns] & INCOMPLETE > 0), group),
    )


def marked(parts: Together, series: int) -> str:
    """What the subtitle says where some running totals are marked."""
    said = []
    if parts.lacks[series].any():
        said.append(phrase("lack a {kind}", kind=noun(parts.kind)))
    if parts.parts[series].any():
        said.append(phrase("hold a part {kind}", kind=noun(parts.kind)))
    return phrase(" · underlined: totals that {said}", said=phrase(" or ").join(said)) if said else ""
