"""The tie-out: what the source holds against what the series hold, exact to the last minor unit.

What the source holds is added up as decimals from its texts when it is read; what the series hold, as whole
minor units from the finished panel. The two meet only here.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from decimal import Context, Decimal, localcontext

import numpy as np

from oat_tide.core.exact import Values, parted
from oat_tide.core.periods.calendar import Grid
from oat_tide.core.series.coded import Key, with_member
from oat_tide.core.series.panel import Panel
from oat_tide.core.series.reading import Reading

DIGITS, _ENOUGH_DIGITS = 15, 12
"""What doubles hold, and to how many digits sums that cannot be exact must agree."""


@dataclass(frozen=True, slots=True)
class YearTie:
    """One calendar year of the tie-out.

    Attributes:
        year: the year.
        used: what the lines used come to.
        series: what the series hold.
        levels: the sum of each dimension's totals.
    """

    year: int
    used: Decimal
    series: Decimal
    levels: tuple[Decimal, ...]


@dataclass(frozen=True, slots=True)
class TieOut:
    """What the source holds, and what the series hold of it.

    Attributes:
        lines: lines read less those used, kept beside, set aside, and total rows.
        source: all figures of the source that can be read.
        used: those of the lines used.
        beside: those kept beside the history.
        aside: those of lines set aside.
        totals: those of total rows.
        series: what the series hold.
        withheld: what lines come to in periods that are not known.
        levels: what the totals of each dimension hold, with what is withheld.
        years: by calendar year; empty where the periods in use do not fit into calendar years.
        digits: to how many the sums can agree; 0 where they are exact.
    """

    lines: int
    source: Decimal
    used: Decimal
    beside: Decimal
    aside: Decimal
    totals: Decimal
    series: Decimal
    withheld: Decimal
    levels: tuple[Decimal, ...]
    years: tuple[YearTie, ...]
    digits: int

    @property
    def gap(self) -> Decimal:
        """What the series or a level hold more than the lines used of the source; the largest of them."""
        left = self.source - self.beside - self.aside - self.totals
        gaps = [each - left for each in (self.used, self.series + self.withheld, *self.levels)]
        return max(gaps, key=abs)

    @property
    def ties(self) -> bool:
        """Whether all of it comes out."""
        whole = not self.lines and self.same(self.gap, Decimal(0), self.source)
        return whole and all(self.year_ties(year) for year in self.years)

    def year_ties(self, year: YearTie) -> bool:
        """Whether one year comes out."""
        return all(self.same(year.used, each, year.used) for each in (year.series, *year.levels))

    def same(self, one: Decimal, other: Decimal, size: Decimal) -> bool:
        """Whether two sums agree: to the last unit, or where that cannot be to most digits of a size."""
        if not self.digits:
            return one == other
        return abs(one - other) <= abs(size).scaleb(-_ENOUGH_DIGITS, Context(prec=60))


def tie_out(reading: Reading, panel: Panel) -> TieOut:
    """Hold what the source says against the panel, and against the totals of every member."""
    with localcontext(Context(prec=400)):
        return _tied(reading, panel)


def _tied(reading: Reading, panel: Panel) -> TieOut:
    amounts, withheld, scale = np.nan_to_num(panel.amounts), panel.withheld, panel.scale
    of_levels = [_of_level(panel, place, members) for place, members in enumerate(reading.members)]
    years: list[YearTie] = []
    if panel.grid.kind in ("day", "month") and not panel.grid.pattern:
        of_year = Grid("year").at(panel.grid.first_days(np.arange(panel.columns) + panel.first)) + 1970
        for year, used in reading.years:
            at = of_year == year
            held = _sum(amounts[:, at], scale) + _sum(withheld[:, at], scale)
            years.append(YearTie(year, used, held, tuple(_sum(each[:, at], scale) for each in of_levels)))
    return TieOut(
        lines=sum(file.left_over for file in reading.files),
        source=reading.added("read"),
        used=reading.added("used"),
        beside=reading.added("beside"),
        aside=reading.added("aside"),
        totals=reading.added("totals"),
        series=_sum(amounts, scale),
        withheld=_sum(withheld, scale),
        levels=tuple(_sum(each, scale) for each in of_levels),
        years=tuple(years),
        digits=0 if reading.exact else DIGITS,
    )


def _of_level(panel: Panel, place: int, members: tuple[str, ...]) -> Values:
    """What every member of a dimension holds, added up as the stages add them."""
    none: Key = (None,) * len(panel.keys[0])
    totals = panel.totals(tuple(with_member(none, place, member) for member in members))
    return np.concatenate([np.nan_to_num(totals.amounts), totals.withheld])


def _sum(values: Values, scale: float) -> Decimal:
    """The sum of all of them: whole minor units as such, and what they leave."""
    whole, rest = parted(values, scale)
    total = Decimal(int(whole.sum()))
    if rest is not None:
        total += Decimal(math.fsum(rest.ravel().tolist()))
    return total.scaleb(-round(math.log10(scale)))
