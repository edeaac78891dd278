"""Prediction intervals from what a method missed from past starts.

Errors e of up to six leads, from the latest seventeen starts: their size s l^c grows with the lead l, c the
same for a method over a panel, and so does what the errors of leads share, w. Limits lie t sigma(l) to
either side of what is projected, or as far off in logarithms: in order, nested, and never of width nothing. A
definition of our own; errors from past starts after Tashman (2000), t after Student (1908).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from oat_tide.core.alike import Mask
from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import Days

STARTS, LEADS = 17, 6
"""The latest past starts, and the leads whose errors count."""
FEWEST = 3
"""Starts below which the errors of the fit one step ahead stand in for theirs."""
_AT_A_LEAD = 4
"""Starts that a lead needs to tell how errors grow, and leads that it takes."""
_LEADS_TOLD = 3
UNTOLD = 0.5
"""How errors grow with the lead, and what they share, where nothing tells."""
_LEFT = 3
"""Periods that a fit must leave to miss."""
_LEAST = 1e-9
"""What errors are at the least, of the mean size of a figure."""


@dataclass(frozen=True, eq=False, slots=True)
class Missed:
    """What a method missed.

    Attributes:
        errors: (starts, series, LEADS) actual less projected, or their logarithms so; NaN of none.
        logs: (series,) whether they are of logarithms.
    """

    errors: Values
    logs: Mask

    @property
    def starts(self) -> Values:
        """(series,) how many starts there are."""
        found: Values = (~np.isnan(self.errors)).any(2).sum(0).astype(float)
        return found


@dataclass(frozen=True, slots=True)
class Shape:
    """How the errors of a method go with the lead, over a panel.

    Attributes:
        growth: c, by which power of the lead they grow.
        shared: w, how much the errors of leads from one start share.
        series: how many series told of it.
    """

    growth: float = UNTOLD
    shared: float = UNTOLD
    series: int = 0


def starts_of(columns: int) -> Days:
    """The latest starts that have a period after them, in order."""
    return np.arange(max(columns - STARTS, 1), columns)


def allowed(starts: Days, first: Days, columns: int, cycle: int) -> Mask:
    """(starts, series) whether a start has periods enough before it.

    Args:
        starts: periods known at each.
        first: (series,) the first known column of each.
        columns: periods of the history.
        cycle: seasons in a cycle; 0 or 1 for none.
    """
    whole, held = columns - first, starts[:, None] - first
    seasonal = np.logical_and(cycle > 1, whole >= 2 * cycle + 8)
    return np.asarray(held >= np.where(seasonal, 2 * cycle + 2, 6))


def missed_of(ahead: Values, came: Values, now: Values, history: Values, there: Mask) -> Missed:
    """The errors of starts; of logarithms where all that was and all that is projected lies above zero.

    Args:
        ahead, came: (starts, series, leads) what each start projects, and what came.
        now: (series, horizon) what is projected now.
        history: (series, columns) NaN is not known.
        there: (starts, series) which starts count.
    """
    projected = np.where(there[:, :, None] & ~np.isnan(came), ahead, np.nan)
    below = np.stack(((history <= 0).any(1), (projected <= 0).any((0, 2)), (now <= 0).any(1)))
    logs = np.asarray(~below.any(0))
    with np.errstate(invalid="ignore", divide="ignore"):
        errors = np.where(logs[None, :, None], np.log(came) - np.log(projected), came - projected)
    return Missed(errors, logs)


def growth_with_lead(missed: Missed) -> Values:
    """(series,) c: the slope of ln RMS on ln lead, leads weighed by their starts, from 0 to 1; NaN untold."""
    known = ~np.isnan(missed.errors)
    many = known.sum(0).astype(float)
    squares = np.where(known, missed.errors**2, 0.0).sum(0)
    with np.errstate(invalid="ignore", divide="ignore"):
        size = np.log(squares / many) / 2
        weight = np.where((many >= _AT_A_LEAD) & (squares > 0), many, 0.0)
        size, lead = np.where(weight > 0, size, 0.0), np.log(np.arange(1.0, many.shape[1] + 1))
        total = weight.sum(1, keepdims=True)
        x = lead - (weight * lead).sum(1, keepdims=True) / total
        slope = (weight * x * size).sum(1) / (weight * x * x).sum(1)
    return np.where((weight > 0).sum(1) >= _LEADS_TOLD, np.clip(slope, 0.0, 1.0), np.nan)


def size_of(missed: Missed, growth: float, history: Values) -> Values:
    """(series,) s: the RMS of errors, each over its lead^c; NaN without a start.

    Args:
        history: (series, columns) whose mean size sets the least of it.
    """
    known = ~np.isnan(missed.errors)
    lead = np.arange(1.0, missed.errors.shape[2] + 1) ** growth
    many = known.sum((0, 2))
    squares = np.moveaxis(np.where(known, (missed.errors / lead) ** 2, 0.0), 1, 0)
    # Each series by itself: in the same order, however many there are.
    squares = squares.reshape(len(many), -1).sum(1)
    with np.errstate(invalid="ignore", divide="ignore"):
        return floored(np.sqrt(np.where(many > 0, squares / many, np.nan)), missed.logs, history)


def floored(size: Values, logs: Mask, history: Values) -> Values:
    """(series,) sizes no less than a billionth of a figure."""
    known = ~np.isnan(history)
    mean = np.where(known, np.abs(history), 0.0).sum(1) / np.maximum(known.sum(1), 1)
    mean = np.where(mean > 0, mean, 1.0)
    return np.where(np.isnan(size), np.nan, np.maximum(size, _LEAST * np.where(logs, 1.0, mean)))


def sigma(size: Values, growth: float, starts: Values, lead: Values) -> Values:
    """(series, leads) s l^c times the root of 1 + l / 2J: few starts J leave the far leads unsure."""
    found: Values = size[:, None] * lead**growth * np.sqrt(1 + lead / (2 * np.maximum(starts, 1)[:, None]))
    return found


def freedom(starts: Values) -> Values:
    """(series,) degrees of freedom of t: half the starts, and 3 at the least."""
    return np.maximum(3.0, starts / 2)


def shared_by_leads(missed: Missed, growth: float, history: Values) -> Values:
    """(series,) w, from 0 to 1, that makes the mean square of the sum of all leads come out; NaN of none.

    The errors of leads k < l correlate by w (k / l)^c.
    """
    errors, leads = missed.errors, missed.errors.shape[2]
    together = errors.sum(2)
    known = ~np.isnan(together)
    many = known.sum(0)
    size = sigma(size_of(missed, growth, history), growth, missed.starts, np.arange(1.0, leads + 1))
    own, pairs = (size**2).sum(1), pairs_of(size, growth)
    with np.errstate(invalid="ignore", divide="ignore"):
        found = (np.where(known, together**2, 0.0).sum(0) / many - own) / pairs
    return np.where((many >= FEWEST) & (pairs > 0), np.clip(found, 0.0, 1.0), np.nan)


def pairs_of(size: Values, growth: float) -> Values:
    """(series,) twice the sum over leads k < l of (k / l)^c times the sizes of both."""
    lead = np.arange(1.0, size.shape[1] + 1) ** growth
    before = np.cumsum(size * lead, axis=1) - size * lead
    found: Values = 2 * (before * size / lead).sum(1)
    return found


def of_total(size: Values, growth: float, shared: float) -> Values:
    """(series,) the standard deviation of a sum of leads whose errors have these sizes."""
    return np.asarray(np.sqrt((size**2).sum(1) + shared * pairs_of(size, growth)))


def shape_of(missed: Missed, history: Values) -> Shape:
    """How errors go with the lead: medians over series of what each of them tells."""
    each = growth_with_lead(missed)
    told = ~np.isnan(each) & (missed.starts >= FEWEST)
    growth = float(np.median(each[told])) if told.any() else UNTOLD
    own = shared_by_leads(missed, growth, history)
    own = own[told & ~np.isnan(own)]
    return Shape(growth, float(np.median(own)) if own.size else UNTOLD, int(told.sum()))


def one_step(history: Values, fitted: Values, terms: Values, back: int, logs: Mask) -> Values:
    """(series,) the RMS of what a fit missed of its own history.

    Of a method without a fit, and of a fit whose terms leave it hardly a period to miss, that of the change
    on the same period last year, else on the one before.

    Args:
        history, fitted: (series, columns) NaN is not known.
        terms: (series,) how many parameters were fitted; 0 of one-step forecasts.
        back: periods from one to the same period last year; 0 for none.
        logs: (series,) whether sizes are of logarithms.
    """
    columns = history.shape[1]
    out = np.full(len(history), np.nan)
    likes = [(fitted, terms + _LEFT)]
    for apart in (back, 1):
        like = np.full_like(history, np.nan)
        if 0 < apart < columns:
            like[:, apart:] = history[:, :-apart]
        likes.append((like, np.zeros(len(history))))
    for like, needs in likes:
        with np.errstate(invalid="ignore", divide="ignore"):
            off = np.where(logs[:, None], np.log(history) - np.log(like), history - like)
        known = np.isfinite(off)
        many = known.sum(1)
        size = np.sqrt((np.where(known, off, 0.0) ** 2).sum(1) / np.maximum(many, 1))
        out = np.where(np.isnan(out) & (many > 1) & (many >= needs), size, out)
    return floored(out, logs, history)
