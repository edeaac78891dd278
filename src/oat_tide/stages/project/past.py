"""A method from its past starts: what it missed, and how its errors go with the lead over the panel."""

from __future__ import annotations

import functools
from dataclasses import dataclass
from zlib import crc32

import numpy as np

from oat_tide.core.accuracy import past_errors, rolling
from oat_tide.core.accuracy.past_errors import FEWEST, LEADS, Missed, Shape
from oat_tide.core.alike import Mask
from oat_tide.core.exact import Values
from oat_tide.core.methods.shape import How
from oat_tide.core.methods.table import METHODS
from oat_tide.core.series.panel import Panel
from oat_tide.core.user_error import Progress
from oat_tide.core.working.terms import wide
from oat_tide.plan.parts.project import Project
from oat_tide.plan.parts.seasons import Seasons
from oat_tide.plan.parts.smooth import Smooth
from oat_tide.stages.cycle import cycle_of
from oat_tide.stages.fitted import spent_by
from oat_tide.stages.methods.ground import Span, how_of, span_of

MOST_SERIES = 200
"""Series that tell how the errors of a method go with the lead: those whose keys have the lowest CRC-32."""


@dataclass(frozen=True, eq=False, slots=True)
class Past:
    """What a method missed from past starts.

    Attributes:
        size: (series,) of errors one period ahead.
        starts: (series,) how many starts there are.
        logs: (series,) whether errors are of logarithms.
        few: (series,) whether the fit's own errors stand in for too few starts.
        shape: how errors go with the lead, over the panel.
    """

    size: Values
    starts: Values
    logs: Mask
    few: Mask
    shape: Shape


def past_of(
    past: Panel,
    leaves: Panel,
    dimensions: tuple[str, ...],
    method: str,
    ask: Project,
    seasonal: Seasons,
    smoothing: Smooth | None,
    horizon: int,
    progress: Progress,
) -> Past:
    """What a method missed from past starts; takes its time."""
    run = past_run(past, dimensions, method, ask, seasonal, smoothing, horizon)
    history, missed = run.history, run.missed
    shape = _shape(leaves, dimensions, past.first + past.columns, method, ask, seasonal, smoothing)
    starts = missed.starts
    few = starts < FEWEST
    size = past_errors.size_of(missed, shape.growth, history)
    if few.any():
        terms = _terms_of(method, run.how, seasonal, history)
        own = past_errors.one_step(history, run.fitted, terms, run.how.back, missed.logs)
        size = np.where(few, own, size)
    return Past(size, starts, missed.logs, few, shape)


def _terms_of(method: str, how: How, seasonal: Seasons, history: Values) -> Values:
    """(series,) how many parameters a method fits to a history; 0 of what is carried forward."""
    own = METHODS[method]
    terms = float(own.parameters if own.regression is None else len(own.regression.names(how)))
    by_index = own.by_indices and how.cycle > 0
    return terms + (spent_by(seasonal, how.cycle, history) if by_index else np.zeros(len(history)))


@functools.lru_cache(64)
def _shape(
    leaves: Panel,
    dimensions: tuple[str, ...],
    stop: int,
    method: str,
    ask: Project,
    seasonal: Seasons,
    smoothing: Smooth | None,
) -> Shape:
    """How the errors of a method go with the lead, told by a few hundred series of the panel."""
    known = _told_by(leaves)
    panel = known.cut(0, min(max(stop - known.first, 0), known.columns))
    if not panel.columns:
        return Shape()
    run = past_run(panel, dimensions, method, ask, seasonal, smoothing, LEADS)
    return past_errors.shape_of(run.missed, run.history)


@functools.lru_cache(4)
def _told_by(leaves: Panel) -> Panel:
    """The series whose keys have the lowest CRC-32: the same whatever else is in sight."""
    if len(leaves.keys) <= MOST_SERIES:
        return leaves
    hashes = np.array([crc32("\x1f".join(map(str, key)).encode()) for key in leaves.keys])
    lowest = np.sort(np.argsort(hashes, kind="stable")[:MOST_SERIES]).tolist()
    return leaves.totals(tuple(leaves.keys[row] for row in lowest))


@dataclass(frozen=True, eq=False, slots=True)
class Run:
    """A method run from the as-of and from past starts.

    Attributes:
        history: (series, columns) what is fitted; NaN out of the fit.
        missed: what past starts missed.
        fitted: (series, columns) what it makes of its own history.
        how: what it goes by.
    """

    history: Values
    missed: Missed
    fitted: Values
    how: How


def past_run(
    past: Panel,
    dimensions: tuple[str, ...],
    method: str,
    ask: Project,
    seasonal: Seasons,
    smoothing: Smooth | None,
    horizon: int,
) -> Run:
    """Run a method from now and from its past starts, everything made anew at each."""
    reach = max(horizon, LEADS)
    how = how_of(ask, seasonal, smoothing, past, past.columns + reach, dimensions)
    span = span_of(past, ask, past.columns)
    values, weights = past.judged, span.used
    history = np.where(weights > 0, values, np.nan)
    kernel = METHODS[method].kernel
    stop = span.end + 1
    ahead_now, fitted = from_now(past, method, how, span, reach)
    starts = past_errors.starts_of(stop)
    ahead, came = rolling.from_starts(kernel, values, weights, starts, LEADS, how)
    cycle = cycle_of(seasonal, past.grid, past.first, past.columns).length
    there = past_errors.allowed(starts, span.start[:, 0].astype(np.int64), stop, cycle)
    missed = past_errors.missed_of(ahead, came, ahead_now[:, :horizon], history, there)
    return Run(history, missed, fitted, how)


def from_now(past: Panel, method: str, how: How, span: Span, horizon: int) -> tuple[Values, Values]:
    """(series, horizon) what a method projects after the as-of, and (series, columns) what of before.

    It goes on from the end of the fit, but for what stands on Seasons, which goes by all of the past.
    """
    at = past.columns if METHODS[method].by_indices else span.end + 1
    gap = past.columns - at
    run = METHODS[method].kernel(past.judged[:, :at], span.used[:, :at], np.array([at]), gap + horizon, how)
    return run.ahead[0][:, gap:], wide(run.fitted(), past.columns, np.nan)
