"""What the user has ruled of periods: left out of fits, put in their place, taken as whole."""

from __future__ import annotations

import functools
from dataclasses import dataclass

import numpy as np

from oat_tide.core.series.coded import Key
from oat_tide.core.series.panel import INCOMPLETE, LEFT_OUT, REPLACED, TOUCHED, Panel, fits_key


@dataclass(frozen=True, slots=True)
class Ruling:
    """What was ruled of some days of a series, by day numbers.

    Attributes:
        key: the series it is for; those within it share what is not about one figure.
        first: the first day that it covers.
        last: the last day that it covers.
        act: "keep", "leave out", "expected", "whole", "note", "closed" or "no stock".
        value: the expected figure.
        note: why, in the user's words.
    """

    key: Key
    first: int
    last: int
    act: str
    value: float = 0.0
    note: str = ""


@functools.lru_cache(24)
def ruled(panel: Panel, rulings: tuple[Ruling, ...]) -> Panel:
    """The panel with the rulings heeded: flags are set, and `settled` holds expected figures.

    A ruling counts for every period within its days and every series within its key; an expected figure
    only for exactly that period and series. Wider periods and series are marked as touched.
    """
    if not rulings:
        return panel
    flags, settled = panel.flags.copy(), panel.settled.copy()
    firsts = panel.grid.first_days(np.arange(panel.columns + 1) + panel.first)
    starts, ends = firsts[:-1], firsts[1:] - 1
    for each in rulings:
        within, around = (of(each.key)[:, None] for of in (panel.coded.within, panel.coded.around))
        inside = (starts >= each.first) & (ends <= each.last)
        overlap = (starts <= each.last) & (ends >= each.first)
        if each.act == "leave out":
            flags[within & inside] |= LEFT_OUT
        elif each.act == "whole":
            flags[within & inside] &= ~np.uint8(INCOMPLETE)
        elif each.act == "expected":
            exact = within & around & (starts == each.first) & (ends == each.last)
            flags[exact] |= REPLACED
            settled[exact] = each.value
        if each.act not in ("keep", "whole"):
            flags[(within | around) & overlap] |= TOUCHED
    return panel.with_rulings((panel.stamp, rulings), flags, settled)


def at(rulings: tuple[Ruling, ...], key: Key, first: int, last: int) -> tuple[Ruling, ...]:
    """The rulings that touch a period of a series, by the days that it holds."""
    return tuple(
        each
        for each in rulings
        if (fits_key(key, each.key) or fits_key(each.key, key)) and each.first <= last and each.last >= first
    )
