"""Errors from past starts: everything made anew from what lies before each (Tashman, 2000).

Source: Tashman, Out-of-sample tests of forecasting accuracy: an analysis and review (2000).
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Protocol

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import Days
from oat_tide.core.regression import t_quantile


class Ahead(Protocol):
    """What a method says."""

    @property
    def ahead(self) -> Values:
        """(starts, series, horizon) what each start projects."""


Method = Callable[[Values, Values, Days, int, Any], Ahead]
"""(values, weights, starts, horizon, how) -> what each start projects (`core/methods/shape`)."""
_APART = 0.75
"""Errors that count for less than this part of their number hang together: quantiles tell too little."""
MOST_STARTS = 60
"""Past starts at the most: the latest, of which two in three may be needed at a lead."""


def past_starts(columns: int, fewest: int, most: int = MOST_STARTS) -> Days:
    """The latest starts that have a period after them, in order.

    Args:
        columns: periods of the history.
        fewest: periods that a start needs before it.
    """
    return np.arange(max(fewest, columns - most), columns)


def from_starts(
    kernel: Method, values: Values, weights: Values, starts: Days, horizon: int, how: Any
) -> tuple[Values, Values]:
    """(starts, series, horizon) what each start projects, and what came; NaN where that is not known.

    What is not in the fit is not known.

    Args:
        values, weights: (series, periods) as of the methods.
    """
    ahead = kernel(values, weights, starts, horizon, how).ahead
    own = np.where(weights > 0, values, np.nan)
    padded = np.concatenate((own, np.full((len(own), horizon), np.nan)), axis=1)
    at = np.asarray(starts)[:, None] + np.arange(horizon)
    return ahead, np.moveaxis(padded[:, at], 0, 1)


def errors(ahead: Values, came: Values, by_share: bool = False) -> Values:
    """(starts, series, horizon) actual less projected, or that as a share of it where it is above 0.

    Args:
        ahead, came: of `from_starts`, or of `together`.
    """
    if not by_share:
        return np.asarray(came - ahead)
    return (came - ahead) / np.where(ahead > 0, ahead, np.nan)


def root_mean_square(missed: Values) -> tuple[Values, Values]:
    """(series, horizon) of the errors about zero, NaN of none; and (series, horizon) how many there are.

    Args:
        missed: (starts, series, horizon) of `errors`.
    """
    known = ~np.isnan(missed)
    many = known.sum(0).astype(float)
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.where(many > 0, np.sqrt(np.where(known, missed**2, 0.0).sum(0) / many), np.nan), many


def enough_for(level: float) -> int:
    """Errors that an interval at a level needs to be read off them: 40 for 95 %.

    Args:
        level: between 0 and 1.
    """
    return round(2 / (1 - level))


def as_now(missed: Values, weights: Values, starts: Days, total_of: int = 0) -> Values:
    """(starts, series, horizon) errors of a curve on time, each brought to what is known by now.

    An early start knows its curve less well than the last: its error varies by 1 and the leverage of the
    period ahead, of a total of m by m and m² times that of their middle (Draper and Smith, 1998, chapter 3),
    here as a line has it. So each is taken times the root of that now over that at its start.

    Args:
        missed: (starts, series, horizon) of `errors`, or (starts, series, 1) of `together`.
        weights: (series, periods) 0 for a period that is not in the fit; now is after the last of them.
        total_of: the periods of a total; 0 for single periods.
    """
    if not len(starts):
        # Without a period in the fit there is neither a start nor a now.
        return missed
    lead = np.array([(total_of - 1) / 2]) if total_of else np.arange(missed.shape[2], dtype=float)
    many = max(total_of, 1)
    with np.errstate(invalid="ignore", divide="ignore"):
        then, now = (
            1 + many * _leverage(weights, at, lead)
            for at in (np.asarray(starts), np.array([weights.shape[1]]))
        )
        return np.asarray(missed * np.sqrt(now / then))


def _leverage(weights: Values, starts: Days, lead: Values) -> Values:
    """(starts, series, leads) so far after each start, of a line through the periods before it."""
    used = (weights > 0).astype(float)
    t = np.arange(weights.shape[1], dtype=float)
    sums = [np.cumsum(used * t**power, axis=1)[:, starts - 1].T[..., None] for power in range(3)]
    n, middle = sums[0], sums[1] / sums[0]
    return np.asarray(1 / n + (starts[:, None, None] + lead - middle) ** 2 / (sums[2] - n * middle**2))


def together(ahead: Values, came: Values) -> tuple[Values, Values]:
    """(starts, series, 1) the totals of all leads; NaN where one of either is not known.

    Args:
        ahead, came: (starts, series, horizon) of `from_starts`.
    """
    return ahead.sum(-1, keepdims=True), came.sum(-1, keepdims=True)


def effective(missed: Values, leads: Days | None = None) -> Values:
    """(series, horizon) how many errors that do not hang together tell as much as these.

    Errors of starts that are fewer periods apart than their lead share some of what was missed. n over
    1 + 2 sum of (1 - k / lead) r(k), with r the autocorrelation about zero over starts, but n at
    the most (Bartlett, 1946; Newey and West, 1987).

    Args:
        missed: (starts, series, horizon) of `errors`.
        leads: (horizon,) how many periods each error reaches over; None for 1, 2, 3 and so on.
    """
    starts, series, horizon = missed.shape
    known = ~np.isnan(missed)
    off = np.where(known, missed, 0.0)
    squares = (off**2).sum(0)
    inflation = np.ones((series, horizon))
    lead = np.arange(1, horizon + 1) if leads is None else leads
    for apart in range(1, min(int(lead.max(initial=1)), starts)):
        both = known[apart:] & known[:-apart]
        products = np.where(both, off[apart:] * off[:-apart], 0.0).sum(0)
        with np.errstate(invalid="ignore", divide="ignore"):
            echo = np.where(squares > 0, products / squares, 0.0)
        inflation += 2 * np.where(lead > apart, (1 - apart / lead) * echo, 0.0)
    return np.asarray(known.sum(0) / np.maximum(inflation, 1.0))


def margins(missed: Values, level: float, leads: Days | None = None) -> tuple[Values, Values]:
    """What to add to a projection for the lower and the upper limit of its interval.

    Where a lead has errors enough that hardly hang together they are quantiles of them (Hyndman and Fan,
    1996, type 6: of so many errors as often beyond as the level says). Else they are the quantile of t, with
    as many degrees of freedom as errors that do not hang together, times their root mean square about zero.

    Args:
        missed: (starts, series, horizon) of `errors`.
        level: between 0 and 1.
        leads: (horizon,) how many periods each error reaches over; None for 1, 2, 3 and so on.

    Returns:
        (series, horizon) and (series, horizon); NaN of fewer than two errors.
    """
    size, many = root_mean_square(missed)
    own = np.maximum(effective(missed, leads), 1.0)
    half = np.where(many > 1, t_quantile(level, own) * size, np.nan)
    lower, upper = -half, half
    rich = (own >= enough_for(level)) & (own >= _APART * many)
    if rich.any():
        tail = (1 - level) / 2
        with np.errstate(invalid="ignore"):
            found = np.nanquantile(missed[:, rich], (tail, 1 - tail), axis=0, method="weibull")
        lower[rich], upper[rich] = found
    return lower, upper
