"""How far first figures have moved, by the age that they were seen at."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from oat_tide.core.exact import known
from oat_tide.core.periods.calendar import day_number
from oat_tide.core.series.panel import PROVISIONAL, Sight
from oat_tide.plan.parts.evened import FirstPublished


def movements(firsts: tuple[FirstPublished, ...], sight: Sight) -> Iterator[tuple[int, float]]:
    """How far first figures of the series in sight have moved: age in periods when first seen, and %."""
    past = sight.past
    grid = past.grid
    for each in firsts:
        if tuple(member for _, member in each.where) != tuple(m for m in past.keys[0] if m is not None):
            continue
        column = grid.period(day_number(each.first)) - past.first
        exact = grid.first_day(column + past.first) == day_number(each.first)
        if not (0 <= column < past.columns and exact and each.value > 0):
            continue
        now = float(past.values[0, column])
        if known(now) and not past.flags[0, column] & PROVISIONAL:
            age = max(grid.period(day_number(each.known)) - column - past.first, 0)
            yield age, 100 * (now / each.value - 1)


def by_age(moved: Iterable[tuple[int, float]]) -> dict[int, list[float]]:
    """Movements in %, by the age that figures were first seen at."""
    out: dict[int, list[float]] = {}
    for age, share in moved:
        out.setdefault(age, []).append(share)
    return out
