"""How periods make a cycle of seasons."""

from __future__ import annotations

import functools
from dataclasses import dataclass

import numpy as np

from oat_tide.core.comparison.overlay import overlay
from oat_tide.core.language import noun, phrase
from oat_tide.core.periods.calendar import Days, Grid
from oat_tide.core.series.like import like_places
from oat_tide.core.working.formula import Either, Formula, Mask
from oat_tide.core.working.terms import Columns, Find
from oat_tide.plan.parts.seasons import Seasons
from oat_tide.stages.places import leap_place


def laid(groups: Days, count: int) -> Columns:
    """(count, many) the places at which each group stands, -1 beyond those it has.

    Args:
        groups: (places,) the group of each, from 0; below 0 for none.
    """
    there = np.flatnonzero(groups >= 0)
    own = groups[there]
    many = np.bincount(own, minlength=count)
    held = np.full((count, int(many.max(initial=0))), -1)
    order = np.argsort(own, kind="stable")
    within = np.arange(len(own)) - np.repeat(np.cumsum(many) - many, many)
    held[own[order], within] = there[order]
    return held


def finding(held: Columns) -> Find:
    """The places of each column of another axis."""
    return lambda columns: held[columns]


@dataclass(frozen=True, eq=False, slots=True)
class Cycle:
    """How periods make a cycle.

    Attributes:
        length: seasons in it; 0 where the periods have none.
        place: (columns,) the season of each column, from 0, those ahead included.
        years: (columns,) the fiscal year of each.
    """

    length: int
    place: Days
    years: Days

    def find(self, past: int) -> Find:
        """The columns of the past that stand in each season."""
        return finding(_seasons(self, past))

    def in_stretch(self, begin: int, end: int) -> Columns:
        """(seasons, many) the columns of a stretch, up to before its end, that stand in each season."""
        return _in_stretch(self, begin, end)

    def stretches(self, past: int) -> tuple[Days, Days, Days]:
        """The years of the past, with the column that each begins with, and the one after its last."""
        own = self.years[:past]
        # They follow one another: where one begins is where the number changes.
        begins = np.flatnonzero(np.diff(own, prepend=own[:1] - 1))
        return own[begins], begins, np.append(begins[1:], past)[: len(begins)]

    def of_years(self, past: int) -> tuple[Days, Find]:
        """The years of the past, and the columns that stand in each."""
        years, begins, ends = self.stretches(past)
        held = begins[:, None] + np.arange(int((ends - begins).max(initial=0)))
        return years, finding(np.where(held < ends[:, None], held, -1))


@functools.lru_cache(64)
def _in_stretch(cycle: Cycle, begin: int, end: int) -> Columns:
    held = laid(cycle.place[begin:end], cycle.length)
    return np.where(held < 0, -1, held + begin)


@functools.lru_cache(8)
def _seasons(cycle: Cycle, past: int) -> Columns:
    return laid(cycle.place[:past], cycle.length)


def usual_cycle(grid: Grid) -> int:
    """The cycle of a kind of period, of days the week; 0 for none."""
    seasons = 7 if grid.kind == "day" else grid.cycle
    return seasons if seasons > 1 else 0


def year_of(grid: Grid, cycle: int) -> int:
    """Periods in a year; of blocks and years a cycle."""
    return cycle if grid.kind in ("block", "year") else grid.cycle


def by_kind(multiplies: Mask, product: Formula, total: Formula, columns: int) -> Formula:
    """One formula of the series whose season is a factor and another of those that add it.

    Args:
        multiplies: (series,) whether it is a factor.
    """
    if multiplies.all():
        return product
    if not multiplies.any():
        return total
    mask = np.repeat(multiplies[:, None], columns, axis=1)
    return Either(mask, product, total, product.fact and total.fact)


def no_season(grid: Grid, how: Seasons) -> str:
    """Why no season can be taken out whatever the history; empty where it can."""
    if not (how.cycle or usual_cycle(grid)):
        return phrase("A {kind} has no seasons.", kind=noun(grid.kind))
    if how.per == "selling day" and grid.kind != "day":
        return phrase("Seasons takes it apart by selling day. Have it take it as it is first.")
    return ""


def cycle_of(ask: Seasons, grid: Grid, first: int, columns: int) -> Cycle:
    """The cycle asked for, or that of the kind of period: of days the week."""
    none = np.zeros(columns, np.int64)
    usual = usual_cycle(grid)
    length = ask.cycle or usual
    if not columns or not length:
        return Cycle(length, none, none)
    return _cycle(grid, first, columns, length, length == usual)


@functools.lru_cache(32)
def _cycle(grid: Grid, first: int, columns: int, length: int, usual: bool) -> Cycle:
    periods = np.arange(first, first + columns)
    years = grid.years(periods)
    if grid.kind == "day" and length == grid.cycle:
        place = overlay(grid, first, columns).place
        return Cycle(length, place - (place >= leap_place(grid)), years)
    if usual and grid.kind != "block":
        return Cycle(length, like_places(grid, first, columns) - (grid.kind != "day"), years)
    return Cycle(length, periods % length, years)
