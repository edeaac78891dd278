"""The season of a history by its indices: taken out, and put back into what is projected without it.

Source: Makridakis, Wheelwright and Hyndman, Forecasting: Methods and Applications (1998), 3/4.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.alike import Mask
from oat_tide.core.exact import Values
from oat_tide.core.methods.shape import Fitted, How, SeasonBy, last_known
from oat_tide.core.periods.calendar import Days
from oat_tide.core.seasons import loess
from oat_tide.core.seasons.classical import Classical, classical, season_of, simple, without_season
from oat_tide.core.seasons.indices import in_use_or_none, scaled
from oat_tide.core.seasons.swing import judged


@dataclass(frozen=True, eq=False, slots=True)
class Season:
    """The season of each series.

    Attributes:
        multiplies: (series,) whether it is a factor.
        indices: (series, cycle) NaN of none.
        over: (series, periods) the season of each period.
    """

    multiplies: NDArray[np.bool_]
    indices: Values
    over: Values

    def without(self, values: Values) -> Values:
        """(series, periods) a history with its season taken out."""
        product, total = (without_season(values, self.over, each) for each in (True, False))
        return np.where(self.multiplies[:, None], product, total)

    def with_season(self, values: Values, season: Values) -> Values:
        """(series, periods) values put in season."""
        return np.where(self.multiplies[:, None], values * season, values + season)


def season(values: Values, how: How) -> Season:
    """What repeats in a history of at least two cycles, as Seasons is asked.

    Args:
        values: (series, periods); NaN is not known.
    """
    cycle, past, by = how.cycle, values.shape[1], how.season
    place = how.place[:past]
    if not cycle or past < 2 * cycle:
        none = np.full((len(values), max(cycle, 1)), np.nan)
        return Season(np.zeros(len(values), np.bool_), none, np.full(values.shape, np.nan))
    found = judged(values, place, cycle)
    if by.counts != "suggested":
        found = replace(found, multiplies=np.full(len(values), by.counts == "multiplicative"))
    products = found.multiplies
    if by.method == "loess":
        return _local(values, products, place, how)
    scaled_ones = np.full((len(values), cycle), np.nan)
    for each in (True, False):
        rows = products == each
        if rows.any():
            scaled_ones[rows] = _taken(values, rows, each, found.plain, how).indices
    indices, _ = _in_use(scaled_ones, products, by)
    return Season(products, indices, season_of(indices, place))


def _taken(values: Values, rows: Mask, products: bool, plain: Values, how: How) -> Classical:
    """Simple averages or the centred average, of the ratios that count."""
    by, past = how.season, values.shape[1]
    place = how.place[:past]
    counted = None if by.gone is None else ~by.gone[rows, :past]
    if by.method == "simple":
        return simple(values[rows], place, how.cycle, how.years[:past], products, counted)
    return classical(values[rows], place, how.cycle, products, by.joined, counted, trend=plain[rows])


def _in_use(own: Values, products: Mask, by: SeasonBy) -> tuple[Values, Values]:
    """The indices in use, and (series, 1) what the others were scaled or shifted by for those by hand."""
    if by.hand is None:
        return own, np.full((len(own), 1), np.nan)
    return in_use_or_none(own, np.where(products[:, None], by.hand[1], by.hand[0]), products)


def _local(values: Values, products: Mask, place: Days, how: How) -> Season:
    """By local regression each year has a season of its own; what lies ahead has that of the latest."""
    by, cycle = how.season, how.cycle
    odd = tuple(np.flatnonzero(np.diff(place, prepend=-1) == 0).tolist())
    _, over = loess.of_each(values, products, odd, cycle, by.years, by.span, by.robust)
    latest = np.stack([last_known(over[:, place == each])[0] for each in range(cycle)], axis=1)
    indices = np.where(products[:, None], scaled(latest, True), scaled(latest, False))
    if by.hand is None:
        return Season(products, indices, over)
    indices, factor = _in_use(indices, products, by)
    moved = np.where(products[:, None], over * factor, over + factor)
    over = np.where(np.isnan(factor), over, moved)
    set_by_hand = ~np.isnan(np.where(products[:, None], by.hand[1], by.hand[0]))
    return Season(products, indices, np.where(set_by_hand[:, place], indices[:, place], over))


def in_season(found: Season, ahead: Values, fitted: Fitted, how: How, past: int) -> tuple[Values, Fitted]:
    """What was projected and fitted without a season, put back in it."""
    stop = past + ahead.shape[1]
    to_come = season_of(found.indices, how.place[past:stop]) if how.cycle else ahead * np.nan
    return found.with_season(ahead, to_come), lambda: found.with_season(fitted(), found.over)
