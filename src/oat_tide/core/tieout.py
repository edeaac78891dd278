"""The tie-out: what the source holds against what the series hold, exact to the last minor unit."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from oat_tide.core.calendar import Days, Grid
from oat_tide.core.panel import Panel, Values
from oat_tide.core.reading import Reading

_MANY = 60


@dataclass(frozen=True, slots=True)
class YearTie:
    """One calendar year. Attributes, all in whole minor units: in the source, in the series, and the sum of
    each dimension's totals."""

    year: int
    source: int
    series: int
    levels: tuple[int, ...]


@dataclass(frozen=True, slots=True)
class TieOut:
    """Attributes:
    lines: lines read less those used, kept beside and set aside.
    years: by calendar year; empty where the periods in use do not fit into calendar years.
    source, series: over all, in whole minor units; levels, for each dimension.
    gap: what the series hold more than the source, in whole minor units.
    """

    lines: int
    years: tuple[YearTie, ...]
    source: int
    series: int
    levels: tuple[int, ...]

    @property
    def gap(self) -> int:
        """What the series or a level hold more than the source; the largest of them."""
        gaps = [each - self.source for each in (self.series, *self.levels)]
        return max(gaps, key=abs)

    @property
    def ties(self) -> bool:
        """Whether all of it comes out."""
        return (
            not self.lines
            and not self.gap
            and all(
                each.source == each.series == level
                for each in self.years
                for level in (each.series, *each.levels)
            )
        )


def tie_out(reading: Reading, panel: Panel) -> TieOut:
    """Hold what the source says against the panel, and against the totals of every member.

    The sums of the source are added up line by line when it is read; those here from the finished panel.
    """
    units = np.rint(np.where(np.isnan(panel.values), 0.0, panel.values) * panel.scale).astype(np.int64)
    of_levels = [_of_level(panel, place, members) for place, members in enumerate(reading.members)]
    source = sum(file.units for file in reading.files)
    lines = sum(file.read - file.used - file.beside - file.aside for file in reading.files)
    years: list[YearTie] = []
    if panel.grid.kind in ("day", "month") and not panel.grid.pattern:
        of_year = Grid("year").at(panel.grid.first_days(np.arange(panel.columns) + panel.first)) + 1970
        for year, told in reading.years:
            at = of_year == year
            years.append(
                YearTie(year, told, int(units[:, at].sum()), tuple(_sum(each, at) for each in of_levels))
            )
    every = np.ones(panel.columns, bool)
    return TieOut(
        lines, tuple(years), source, int(units.sum()), tuple(_sum(each, every) for each in of_levels)
    )


def _of_level(panel: Panel, place: int, members: tuple[str, ...]) -> Values:
    """The totals of every member of a dimension; while they are few, added up as the stages add them."""
    width = len(panel.keys[0])
    if len(members) > _MANY:
        rows = {member: row for row, member in enumerate(members)}
        out = np.zeros((len(members), panel.columns))
        at = [rows[str(key[place])] for key in panel.keys]
        np.add.at(out, at, np.rint(np.nan_to_num(panel.values) * panel.scale))
        return out
    keys = [tuple(member if at == place else None for at in range(width)) for member in members]
    return np.concatenate([panel.total(key).values for key in keys]) * panel.scale


def _sum(units: Values, at: Days) -> int:
    return int(np.rint(np.nansum(units[:, at], axis=1)).astype(np.int64).sum())
