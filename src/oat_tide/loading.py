"""What plans stand on, read and totalled once: sources, the lines understood, panels."""

from __future__ import annotations

import functools
import io
from collections.abc import Hashable
from typing import Any

import numpy as np
import polars as pl
from numpy.typing import NDArray

from oat_tide.core.series.panel import Panel
from oat_tide.core.user_error import Progress, UserError, no_progress
from oat_tide.intake.origins import passwords, path_permission
from oat_tide.intake.origins.places import fetch, is_database
from oat_tide.intake.pace import memory
from oat_tide.intake.source import Source
from oat_tide.intake.totals import evened, sales
from oat_tide.latest import Latest
from oat_tide.plan.parts.sources import Sources
from oat_tide.plan.plan import Plan
from oat_tide.plan_state import even_of

_MOST_SALES, _MOST_PANELS = 3, 8
"""What is kept of plans as they were, so that undo is quick; the sources stay, for they may have changed."""


class Loaded:
    """What has been read for a plan and for those that led to it."""

    def __init__(self, source: Source | None, plan: Plan) -> None:
        self._sources: dict[Hashable, Source] = {}
        if source is not None:
            self._sources = {plan.sources: source, _asked_of(plan): source}
        self._sales = Latest[sales.Sales](_MOST_SALES)
        self._panels = Latest[Panel](_MOST_PANELS)

    def ready(self, plan: Plan) -> bool:
        """Whether nothing need be read or totalled anew."""
        read = self.understood(plan)
        return read is not None and even_of(plan, read) in self._panels

    def understood(self, plan: Plan) -> sales.Sales | None:
        """The lines as the plan has them read; None where they are not."""
        read = self._sales.get(_lines_of(plan))
        return read if read is not None and read.year_start in (0, plan.periods.year_start) else None

    def found(self, plan: Plan) -> tuple[sales.Sales, Panel]:
        """The lines and every series by period, of a plan that is ready."""
        read = self.understood(plan)
        assert read is not None, "it was just prepared"
        panel = self._panels.get(even_of(plan, read))
        assert panel is not None, "it was just prepared"
        return read, panel

    def prepare(self, plan: Plan, progress: Progress = no_progress) -> None:
        """Read and total what a plan needs; may be called from another thread.

        Raises:
            UserError: the source cannot be read with the columns chosen.
            Stopped: by way of `tell`.
        """
        read = self.understood(plan)
        if read is None:
            source = self.source(plan, lambda share: progress(0.7 * share))
            read = sales.read(
                source, plan.intake, lambda share: progress(0.7 + 0.3 * share), plan.periods.year_start
            )
            memory.give_back()
        even = even_of(plan, read)
        panel = self._panels.get(even) or evened.panel(read, even[1], even[2])
        progress(0.9)
        self._sales[_lines_of(plan)], self._panels[even] = read, panel

    def source(self, plan: Plan, progress: Progress = no_progress) -> Source:
        """What the plan's sources hold, read where that has not been done."""
        asked = _asked_of(plan)
        if asked not in self._sources:
            if plan.sources not in self._sources:
                self._sources[plan.sources] = fetch(plan.sources, progress)
            source = self._sources[plan.sources]
            if asked != plan.sources:
                from oat_tide.intake.origins import database

                source = database.totals(plan.sources.places[0], source, plan.sources, plan.intake, progress)
            self._sources[asked] = source
        return self._sources[asked]

    def forget_sample(self, plan: Plan) -> None:
        """Have a database asked for the totals of a plan: what it gave so far is a sample."""
        if _asked_of(plan) != plan.sources:
            del self._sources[_asked_of(plan)]

    def take_in(self, other: Loaded) -> None:
        """Know what another one has read, so that it need not be read again."""
        self._sources |= other._sources
        self._sales.take_in(other._sales)
        self._panels.take_in(other._panels)


def columns_of(name: str, data: bytes) -> dict[str, NDArray[Any]]:
    """The columns of large data that belong to a plan: figures as floats, anything else as objects.

    Raises:
        UserError: they are no table.
    """
    try:
        frame = pl.read_parquet(io.BytesIO(data))
    except (pl.exceptions.PolarsError, OSError) as error:
        raise UserError(
            "“{name}”, which the plan keeps, is damaged: {error}. Make it again.", name=name, error=error
        ) from error
    return {
        each.name: each.cast(pl.Float64).to_numpy()
        if each.dtype.is_numeric()
        else np.array(each.to_list(), dtype=object)
        for each in frame
    }


def _is_database(sources: Sources) -> bool:
    if len(sources.places) != 1 or sources.typed:
        return False
    place = sources.places[0]
    # What a plan alone has named is not looked into.
    return passwords.is_address(place) or (path_permission.is_asked(place) and _looked_into(place))


_looked_into = functools.lru_cache(64)(is_database)


def _asked_of(plan: Plan) -> Hashable:
    """What decides which lines are read: for a database also the roles, for it adds them up itself."""
    if _is_database(plan.sources):
        ask = plan.intake
        return plan.sources, ask.date, ask.value, ask.times, ask.scenario, ask.by, ask.also, ask.levels
    return plan.sources


def _lines_of(plan: Plan) -> Hashable:
    """What decides how lines are understood."""
    return plan.sources, plan.intake
