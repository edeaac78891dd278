"""Sales lines: read out of a source, set aside where they cannot be used, totalled by day and series."""

from __future__ import annotations

import math
from collections.abc import Hashable
from concurrent.futures import Future
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Any

import msgspec
import numpy as np
import polars as pl
from numpy.typing import NDArray

from oat_tide.core.language import phrase
from oat_tide.core.periods.calendar import Grid
from oat_tide.core.series.coded import Key
from oat_tide.core.series.panel import fits_key
from oat_tide.core.series.reading import COPY, TOTAL, Reading
from oat_tide.core.user_error import Progress, UserError, no_progress
from oat_tide.intake.cells import numbers
from oat_tide.intake.cells.columns import Beside, Coded, Coder, Exact, Much, much, when
from oat_tide.intake.meaning import judged, roles
from oat_tide.intake.meaning.keys import Keyed, keyed
from oat_tide.intake.meaning.shapes import COLUMN, Shaped, shaped
from oat_tide.intake.pace.stretches import Numbers, at_hand
from oat_tide.intake.source import Source
from oat_tide.intake.table import COUNT, FILE, ROW, Table
from oat_tide.intake.totals.copies import Marks, copies
from oat_tide.intake.totals.facts import ASIDE, BESIDE, TOTAL_ROW, Facts, reading_of
from oat_tide.intake.totals.sum_members import half_of_all, may_hold_sums, sum_members
from oat_tide.intake.totals.sums import LineArrays, Totals, totals
from oat_tide.intake.totals.whole import Cells, figures_of
from oat_tide.plan.parts.intake import Intake

_EXACT, _WHOLE = 2.0**53, 2.0**62
"""Whole minor units add up exactly in doubles below the first, and in whole numbers below the second."""


@dataclass(frozen=True, eq=False)
class Sales:
    """A source understood.

    Attributes:
        stamp: the recipe: the content and how it was read.
        reading: the plain facts.
        keys: the series, sorted.
        table: the lines, in the shape they were brought to.
        day: of each line.
        key: of each line, the place of its series; -1 for a line that makes no history.
        units: of each line, whole minor units.
        rest: of each line, what they leave in units; None for nothing.
        days: the sums of the lines in use.
        unread: the lines whose figure cannot be read, by day and series; None where there are none.
        undated: the series of which lines lie in no period for their date.
        beside: the sums of what is kept beside, by name.
        scale: minor units in one unit.
        year_start: the month that the reading of the lines depends on; 0 where it does not.
    """

    stamp: Hashable
    reading: Reading
    keys: tuple[Key, ...]
    table: Table
    day: Numbers
    key: Numbers
    units: Numbers
    rest: NDArray[np.float64] | None
    days: Totals
    unread: Totals | None
    undated: frozenset[Key]
    beside: dict[str, Totals]
    scale: float
    year_start: int = 0

    @property
    def figures(self) -> NDArray[np.float64]:
        """The figure of each line, in units."""
        return at_hand(self.units) / self.scale + (0.0 if self.rest is None else self.rest)


@dataclass(frozen=True, eq=False, slots=True)
class _Task:
    """What is to be understood, and by which roles.

    Attributes:
        source: as it was read.
        shape: brought to one line a figure.
        ask: the roles, as they are lived by.
        whole: the same with the cells that were written anew.
        coder: the columns of the lines, by their distinct texts.
        cells: those of the table as it stands.
        year_start: the month that running figures start anew with.
        members: (column, text) of those that hold the sum of all others.
    """

    source: Source
    whole: Source
    shape: Shaped
    ask: Intake
    coder: Coder
    cells: Coder
    year_start: int
    members: tuple[tuple[str, str], ...] = ()


@dataclass(frozen=True, eq=False, slots=True)
class _Chosen:
    """The lines that make the history, with their figures.

    Attributes:
        good: lines that can be used.
        used: those of them that are actuals.
        unread: lines of the history without a figure that can be read.
        units: whole minor units.
        rest: what they leave, in units; None for nothing.
        scenario: the column that tells actuals from budgets; None for none.
    """

    good: NDArray[np.bool_]
    used: NDArray[np.bool_]
    unread: NDArray[np.bool_]
    units: Numbers
    rest: NDArray[np.float64] | None
    scenario: Coded | None


def read(source: Source, ask: Intake, progress: Progress = no_progress, year_start: int = 1) -> Sales:
    """Understand a source by the roles asked for.

    Args:
        year_start: the month that running figures start anew with, and fiscal periods count from.

    Raises:
        UserError: a column is not there, or no line can be used.
    """
    recipe = (source.stamp, ask, year_start)
    ask = _settled(ask)
    whole = judged.mended(source, ask)
    shape = shaped(whole, ask)
    ask = _fitted(source, shape, ask)
    _check_roles(shape, ask)
    table = shape.source.table
    coder = Coder(table)
    cells = coder if shape.source is whole else Coder(whole.table)
    task = _Task(source, whole, shape, ask, coder, cells, year_start)
    # Copies take as long to find as the rest takes to understand, and nothing waits for them.
    copied = copies(table)
    return _understood(task, copied, progress, recipe)


def _understood(task: _Task, copied: Future[int], progress: Progress, recipe: Hashable) -> Sales:
    """The lines understood, as `read` gives them."""
    ask, coder, table = task.ask, task.coder, task.coder.table
    dated = when(ask.date, ask.order, coder, task.year_start)
    progress(0.3)
    figures, also = _figures(task.source, task.shape, ask, coder)
    known = {ask.value: figures, **also} if task.cells is coder and not ask.times else {}
    cells = Cells(task.whole, task.cells, figures.mark.comma, known)
    every_figure = figures_of(cells, task.shape, ask)
    progress(0.5)
    scale, exact = _scale((figures, *also.values()))
    columns = tuple(name for name in ask.by if name in table.columns)
    judgement = judged.judge(coder, ask, columns, _suspects(task), dated, figures, scale)
    chosen = _chosen(task, judgement)
    good, used, unread = chosen.good, chosen.used, chosen.unread
    found = keyed(coder, ask, ask.by, good | unread if unread.any() else good)
    progress(0.7)
    units, rest, amounts = chosen.units, chosen.rest, figures.exact
    if ask.running:
        runs = _runs(task, judgement, found, chosen)
        units, rest = runs.taken_apart(at_hand(units)), None if rest is None else runs.taken_apart(rest)
        amounts = _closing(figures, runs)
    counts = table[COUNT].to_numpy() if COUNT in table.columns else None
    lines = LineArrays(judgement.day, found.key, units, good, used, counts, rest)
    days = totals(lines, used)
    if not task.members and (members := _sum_members(task, lines, days, found)):
        return _understood(replace(task, members=members), copied, progress, recipe)
    not_read = totals(lines, unread) if unread.any() else None
    beside = _beside(also, chosen.scenario, lines, scale)
    progress(0.9)
    facts = Facts(
        source=task.source,
        whole=cells,
        shape=task.shape,
        ask=ask,
        dated=dated,
        figures=figures,
        judgement=judgement,
        found=found,
        lines=lines,
        days=days,
        unread=not_read,
        status=_status(judgement, good, used),
        scale=scale,
        exact=exact,
        members=frozenset(member for _, member in task.members),
        every_figure=every_figure,
    )
    reading = reading_of(facts, amounts, copied.result())
    progress(1.0)
    return Sales(
        stamp=recipe,
        reading=reading,
        keys=found.keys,
        table=table,
        day=judgement.day,
        key=found.key if used.all() else np.where(used, at_hand(found.key), -1).astype(np.int32),
        units=units,
        rest=rest,
        days=days,
        unread=not_read,
        undated=_undated(coder, ask, judgement, chosen),
        beside=beside,
        scale=scale,
        year_start=task.year_start if ask.running or dated.fiscal else 0,
    )


def _undated(coder: Coder, ask: Intake, judgement: judged.Judged, chosen: _Chosen) -> frozenset[Key]:
    """The series that lines of the history without a date belong to."""
    lines = judgement.undated
    if chosen.scenario is not None:
        lines = lines & chosen.scenario.spread(_is_actual(chosen.scenario.texts, ask.actual))
    if not lines.any():
        return frozenset()
    found = keyed(coder, ask, ask.by, lines)
    return frozenset(found.keys)


def _sum_members(task: _Task, lines: LineArrays, days: Totals, found: Keyed) -> tuple[tuple[str, str], ...]:
    """Members that hold the sum of others, of the dimensions and of other columns of text."""
    ask, coder = task.ask, task.coder
    if not may_hold_sums(ask) or lines.counts is not None:
        return ()
    levels = frozenset(level.name for level in ask.levels)
    members = list(sum_members(days, found.keys, ask.by, levels)) if ask.by else []
    for name in _suspects(task).columns:
        if name not in ask.by and coder.text(name) is None and half_of_all(coder(name), lines):
            alone = keyed(coder, ask, (name,), lines.used)
            members += sum_members(totals(replace(lines, key=alone.key), lines.used), alone.keys, (name,))
    return tuple(members)


def _suspects(task: _Task) -> judged.Suspects:
    """What may be a total: told from all columns of text, whether or not they tell series apart."""
    looks = roles.look(task.shape.source)
    ask = task.ask
    texts = tuple(
        each.name
        for each in looks
        if each.cells
        and each.name in task.coder.table.columns
        and each.name not in (ask.date, ask.value, ask.times, *ask.also)
        and (each.numbers < roles.ENOUGH or each.name in ask.by)
    )
    return judged.Suspects(texts, task.shape.sums, task.members)


def _chosen(task: _Task, judgement: judged.Judged) -> _Chosen:
    """The lines that make the history: those that can be used, copies and other scenarios apart."""
    ask, coder = task.ask, task.coder
    good, units, rest = _without_copies(coder.table, ask, judgement)
    if not good.any():
        raise _nothing_left(task.source, ask, judgement)
    if not ask.scenario:
        return _Chosen(good, good, judgement.unread, units, rest, None)
    scenario = coder(ask.scenario)
    actual = scenario.spread(_is_actual(scenario.texts, ask.actual))
    used = good & actual
    if not used.any():
        none = phrase(
            "no line of {scenario} is “{actual}”. Choose what actuals are.",
            scenario=ask.scenario,
            actual=ask.actual,
        )
        raise UserError(f"{task.source.name}: {none}")
    return _Chosen(good, used, judgement.unread & actual, units, rest, scenario)


def _runs(task: _Task, judgement: judged.Judged, found: Keyed, chosen: _Chosen) -> _Runs:
    """Figures that run on from the start of each year, by series and scenario."""
    scenario, lines = chosen.scenario, len(chosen.good)
    apart = scenario.spread(np.arange(len(scenario.texts))) if scenario else np.zeros(lines, int)
    return _Runs(at_hand(judgement.day), at_hand(found.key), chosen.good, task.year_start, apart)


def _figures(source: Source, shape: Shaped, ask: Intake, coder: Coder) -> tuple[Much, dict[str, Much]]:
    """The measure, and what is kept beside it, by name."""
    looks = roles.look(shape.source)
    others = tuple(each.name for each in looks if each.numbers >= roles.ENOUGH and each.name != ask.date)
    beside = Beside(ask.decimal, others, source.separator)
    return _measure(coder, ask, beside), {name: much(name, coder, beside) for name in ask.also}


def _without_copies(
    table: Table, ask: Intake, judgement: judged.Judged
) -> tuple[NDArray[np.bool_], Numbers, NDArray[np.float64] | None]:
    """The lines that count with their figures, exact copies left out where that is asked."""
    good, units, rest = judgement.why == 0, judgement.units, judgement.rest
    if any(each.reason == COPY and each.outcome == "leave copies out" for each in ask.verdicts):
        good &= pl.Series(Marks(table).all()).is_first_distinct().to_numpy()
        units = np.where(good, at_hand(units), 0)
        rest = None if rest is None else np.where(good, rest, 0.0)
    return good, units, rest


def _scale(measures: tuple[Much, ...]) -> tuple[float, bool]:
    """Minor units in one unit, and whether all sums of them are exact.

    They have as many decimals as the figures need, while they add up exactly. Where that is fewer, what the
    minor units leave of each figure is kept and added as well.
    """
    needed = max(each.places for each in measures)
    largest = max(_size(each) for each in measures)
    exact = math.floor(math.log10(_EXACT / largest)) if largest else needed
    kept = exact if largest >= _WHOLE else max(exact, 0)
    return 10.0 ** min(needed, kept), exact >= needed


def _size(measure: Much) -> float:
    """The sum of the figures without their signs."""
    sizes = np.abs(measure.number)
    counts = 1 if measure.cells is None else measure.cells.counts
    return float(np.sum(np.where(sizes < numbers.LARGEST, sizes, 0.0) * counts))


def _status(judgement: judged.Judged, good: NDArray[np.bool_], used: NDArray[np.bool_]) -> NDArray[np.int8]:
    """What became of each line: USED to TOTAL_ROW."""
    status = np.zeros(len(used), np.int8)
    if not used.all():
        status[~used] = BESIDE
        status[~good] = ASIDE
    if TOTAL in judgement.reasons:
        status[judgement.why == judgement.reasons.index(TOTAL)] = TOTAL_ROW
    return status


def _closing(figures: Much, runs: _Runs) -> Exact:
    """Sums of figures that run on: the last one of each year and series stands for all before it."""
    whole = figures.exact

    def exact(groups: NDArray[np.integer] | None, size: int) -> list[Decimal]:
        kept = np.zeros(len(runs.good), np.int64) if groups is None else groups.astype(np.int64)
        return whole(np.where(runs.superseded, size, kept), size + 1)[:size]

    return exact


def _settled(ask: Intake) -> Intake:
    """Roles as they are lived by: a column with another role no longer tells series apart."""
    taken = {ask.date, ask.value, ask.times, ask.scenario, *ask.also}
    by = tuple(name for name in ask.by if name not in taken)
    also = tuple(name for name in ask.also if name not in (ask.date, ask.value, ask.scenario))
    times = "" if ask.times in (ask.date, ask.value) else ask.times
    return msgspec.structs.replace(ask, by=by, also=also, times=times)


def _fitted(source: Source, shape: Shaped, ask: Intake) -> Intake:
    """The roles for the shape at hand: those that belong to another one are found anew."""
    columns = shape.source.table.columns
    gone = [name for name in (ask.date, ask.value, *ask.by) if name and name not in columns]
    gone = [name for name in gone if name not in {level.name for level in ask.levels}]
    if not gone:
        return ask
    other = shaped(source, Intake(shape="as it stands" if shape.said else "by content"))
    if not all(name in (*source.columns, *other.source.columns, COLUMN) for name in gone):
        return ask
    found = roles.guess(source, ask.shape)
    by = tuple(name for name in ask.by if name not in gone)
    return msgspec.structs.replace(
        ask,
        date=found.date if ask.date in gone else ask.date,
        value=found.value if ask.value in gone else ask.value,
        by=by if by == ask.by else (*by, *(name for name in found.by if name not in by)),
    )


def _check_roles(shape: Shaped, ask: Intake) -> None:
    levels = {level.name for level in ask.levels}
    columns = shape.source.table.columns
    single = (name for name in (ask.date, ask.value, ask.times, ask.scenario) if name)
    # Only what tells series apart can be a level.
    dimensions = (name for name in ask.by if name not in levels)
    of = (level.of for level in ask.levels)
    for name in (*single, *ask.also, *dimensions, *of):
        if name not in columns:
            raise UserError(
                "{name} has no column “{column}”. Its columns: {columns}. Choose one of them.",
                name=shape.source.name,
                column=name,
                columns=", ".join(shape.source.columns[:20]),
            )
    if not ask.date or not ask.value:
        raise UserError(
            "{name}: choose the column of the date and that of the measure.", name=shape.source.name
        )
    if ask.date == ask.value or len(set(ask.by)) < len(ask.by):
        raise UserError(
            "{name}: date, measure and series must be different columns. Choose them again.",
            name=shape.source.name,
        )


def _measure(coder: Coder, ask: Intake, beside: Beside) -> Much:
    """The figures of the lines; with a second measure, their product."""
    one = much(ask.value, coder, beside)
    if not ask.times:
        return one
    other = much(ask.times, coder, beside)
    with np.errstate(over="ignore", invalid="ignore"):
        product = one.spread(one.number) * other.spread(other.number)
    places = one.places + other.places

    def exact(groups: NDArray[np.integer] | None, size: int) -> list[Decimal]:
        known = np.isfinite(product)
        at = np.zeros(len(product), np.int8) if groups is None else groups
        sums = [math.fsum(product[known & (at == group)].tolist()) for group in range(size)]
        return [Decimal(repr(round(each, places))) for each in sums]

    blank = one.spread(one.blank) | other.spread(other.blank)
    return Much(None, product, blank, places, one.mark, exact)


def _nothing_left(source: Source, ask: Intake, judgement: judged.Judged) -> UserError:
    reasons = np.bincount(judgement.why, minlength=2)
    worst = (
        judgement.reasons[int(reasons[1:].argmax()) + 1] if len(judgement.reasons) > 1 else phrase("copies")
    )
    return UserError(
        "{name}: none of its {why:,} lines can be used; most often: {worst}. Choose other "
        "columns than {date} for the date and {value} for the measure.",
        name=source.name,
        why=len(judgement.why),
        worst=worst,
        date=ask.date,
        value=ask.value,
    )


def _is_actual(texts: pl.Series, actual: str) -> NDArray[np.bool_]:
    return (texts.fill_null("").str.strip_chars() == actual).to_numpy()


class _Runs:
    """Running figures in the order of their days, by series, scenario and year.

    Attributes:
        good: the lines that count.
        superseded: those after which their year goes on.
    """

    def __init__(
        self,
        day: NDArray[np.int32],
        key: NDArray[np.int32],
        good: NDArray[np.bool_],
        year_start: int,
        scenario: NDArray[np.int64],
    ) -> None:
        self.good = good
        at = np.flatnonzero(good)
        years = Grid("year", year_start=year_start).at(day[at].astype(np.int64))
        order = np.lexsort((day[at], years, key[at], scenario[at]))
        self._at = at[order]
        years, which = years[order], scenario[at][order]
        self._starts = np.ones(len(at), bool)
        same_key = key[self._at][1:] == key[self._at][:-1]
        self._starts[1:] = ~same_key | (np.diff(years) != 0) | (np.diff(which) != 0)
        self.superseded = np.zeros(len(good), bool)
        self.superseded[self._at[:-1]] = ~self._starts[1:]

    def taken_apart(self, running: NDArray[Any]) -> NDArray[Any]:
        """What each figure adds to the one before it in its year and series."""
        out = running.astype(np.float64 if running.dtype.kind == "f" else np.int64)
        steps = np.diff(out[self._at], prepend=0)
        out[self._at] = np.where(self._starts, out[self._at], steps)
        return out


def _beside(
    also: dict[str, Much], scenario: Coded | None, lines: LineArrays, scale: float
) -> dict[str, Totals]:
    """What is kept beside the history: other scenarios, and further measures."""
    found: dict[str, Totals] = {}
    if scenario is not None:
        names = [" ".join((text or "").split()) or "(blank)" for text in scenario.texts]
        others = lines.good & ~lines.used
        for name in sorted(set(names)):
            mask = others & scenario.spread(np.array([each == name for each in names]))
            if mask.any():
                found[name] = totals(lines, mask)
    for name, kept in also.items():
        figures = kept.spread(kept.number)
        mask = lines.used & np.isfinite(figures)
        if mask.any():
            known = np.where(mask, figures, 0.0)
            whole = np.rint(known * scale).astype(np.int64)
            left = known - whole / scale if math.log10(scale) < kept.places else None
            found[name] = totals(replace(lines, units=whole, rest=left), mask)
    return found


def lines_of(sales: Sales, grid: Grid, key: Key, period: int) -> pl.DataFrame:
    """The lines behind one figure: FILE, ROW, day, key and value, in the order of the source.

    Where the last day of a period stands for it, the lines of that day.
    """
    fits = np.array([fits_key(own, key) for own in sales.keys], bool)
    first, last = grid.first_day(period), grid.last_day(period)
    day = at_hand(sales.day)
    at = np.flatnonzero((at_hand(sales.key) >= 0) & (day >= first) & (day <= last))
    at = at[fits[sales.key[at]]]
    if sales.reading.totalled == "last":
        latest = np.full(len(sales.keys), first - 1)
        np.maximum.at(latest, sales.key[at], sales.day[at])
        at = at[sales.day[at] == latest[sales.key[at]]]
    return sales.table.lines(at, (FILE, ROW)).with_columns(
        pl.Series("day", sales.day[at], pl.Int32).cast(pl.Date),
        pl.Series("key", sales.key[at]),
        pl.Series("value", sales.units[at] / sales.scale + (0.0 if sales.rest is None else sales.rest[at])),
    )
