"""What can be dragged on the axis of Project: the as-of, both ends of the fit span, the horizon."""

from __future__ import annotations

import datetime as dt

from oat_tide.core.language import counted, phrase
from oat_tide.core.periods.calendar import date_of
from oat_tide.plan.paths import P, steps
from oat_tide.stages.common import as_of_handle
from oat_tide.stages.deck import Handle
from oat_tide.stages.methods.ground import MOST_YEARS, Ground


def handles(g: Ground) -> tuple[Handle, ...]:
    """The handles as they stand; each makes an edit of the column it is dragged to."""
    grid, first, last = g.grid, g.d.first, g.past - 1
    start, end = int(min(g.span.start[0, 0], max(last, 0))), g.span.end

    def begins(column: int) -> dt.date | None:
        return date_of(grid.first_day(first + column)) if column > 0 else None

    def ends(column: int) -> dt.date | None:
        return date_of(grid.last_day(first + column)) if column < last else None

    reach = steps(P.project.horizon)
    furthest = last + MOST_YEARS * grid.cycle
    span = phrase("fit span, {end}", end=counted(max(end - start + 1, 0), grid.kind))
    ahead = phrase("{horizon} ahead", horizon=counted(g.horizon, grid.kind))
    return (
        as_of_handle(g.sight),
        Handle(steps(P.project.since), "fit_from", start, 0, max(end - 2, 0), begins, says=span),
        Handle(steps(P.project.until), "fit_to", end, min(start + 2, last), last, ends),
        Handle(reach, "horizon", last + g.horizon, last + 1, furthest, lambda c: c - last, says=ahead),
    )
