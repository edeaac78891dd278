"""Sales lines: read out of a source, set aside where they cannot be used, totalled by day and series."""

from __future__ import annotations

from collections.abc import Hashable
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass

import msgspec
import numpy as np
import polars as pl
from numpy.typing import NDArray

from oat_tide.core.calendar import Grid
from oat_tide.core.panel import Key, fits_key
from oat_tide.core.reading import COPY, Reading
from oat_tide.core.trouble import Tell, Trouble, unheard
from oat_tide.intake import judged, numbers
from oat_tide.intake.cells import Coded, Coder, Much, marked, much, when
from oat_tide.intake.keys import keyed
from oat_tide.intake.reading import Facts, reading_of
from oat_tide.intake.shapes import Shaped, shaped
from oat_tide.intake.source import COUNT, FILE, ROW, Source
from oat_tide.intake.totals import Lines, Totals, gathered, totals
from oat_tide.plan.plan import Intake

_EXACT = 2.0**53
"""Whole minor units add up exactly in doubles below this."""


@dataclass(frozen=True, eq=False)
class Sales:
    """A source understood.

    Attributes:
        stamp: the recipe: the content and how it was read.
        reading: the plain facts.
        keys: the series, sorted.
        frame: the lines, in the shape they were brought to.
        day, key, units: of each line; a key of -1 marks a line that makes no history.
        days: the sums of the lines in use.
        beside: the sums of what is kept beside, by name.
        scale: minor units in one unit.
    """

    stamp: Hashable
    reading: Reading
    keys: tuple[Key, ...]
    frame: pl.DataFrame
    day: NDArray[np.int32]
    key: NDArray[np.int32]
    units: NDArray[np.integer]
    days: Totals
    beside: dict[str, Totals]
    scale: float


def read(source: Source, ask: Intake, tell: Tell = unheard, year_start: int = 1) -> Sales:
    """Understand a source by the roles asked for.

    Args:
        year_start: the month that running figures start anew with.

    Raises:
        Trouble: a column is not there, or no line can be used.
    """
    recipe = (source.stamp, ask, year_start if ask.running else 1)
    ask = _settled(ask)
    shape = shaped(judged.mended(source, ask), ask)
    _check_roles(shape, ask)
    frame = shape.source.frame
    coder = Coder(frame)
    with ThreadPoolExecutor(1) as beside:
        # Copies take as long to find as the rest takes to understand, and nothing waits for them.
        copied = beside.submit(lambda: _repeated(_line_marks(frame, shape.source.columns)))
        return _understood(source, shape, ask, coder, copied, tell, year_start, recipe)


def _understood(
    source: Source,
    shape: Shaped,
    ask: Intake,
    coder: Coder,
    copied: Future[int],
    tell: Tell,
    year_start: int,
    recipe: Hashable,
) -> Sales:
    """The lines understood, as `read` gives them."""
    frame = coder.frame
    dated = when(frame[ask.date], ask.order, coder)
    tell(0.3)
    figures = _measure(coder, ask)
    tell(0.5)
    also = {name: much(frame[name], ask.decimal, coder) for name in ask.also}
    places = max(figures.places, *(each.places for each in also.values()), 0)
    scale = 10.0 ** min(places, numbers.MOST_DECIMALS)
    columns = tuple(name for name in ask.by if name in frame.columns)
    judgement = judged.judge(coder, ask, columns, dated, figures, scale)
    good, units = judgement.why == 0, judgement.units
    if any(each.reason == COPY and each.way == "leave copies out" for each in ask.verdicts):
        good &= pl.Series(_line_marks(frame, shape.source.columns)).is_first_distinct().to_numpy()
        units = np.where(good, units, 0)
    if not good.any():
        raise _nothing_left(source, ask, judgement)
    scenario = coder(ask.scenario) if ask.scenario else None
    used = good if scenario is None else good & scenario.spread(_is_actual(scenario.texts, ask.actual))
    if not used.any():
        raise Trouble(f"{source.name}: no line of {ask.scenario} is {ask.actual!r}. Choose what actuals are.")
    found = keyed(coder, ask, ask.by, good)
    tell(0.7)
    if ask.running:
        apart = scenario.spread(np.arange(len(scenario.texts))) if scenario else np.zeros(len(good), int)
        units = _taken_apart(units, judgement.day, found.key, good, year_start, apart)
    _check_exact(source, ask, units)
    counts = frame[COUNT].to_numpy() if COUNT in frame.columns else None
    lines = Lines(judgement.day, found.key, units, good, used, counts)
    days = totals(lines, units, used)
    beside = _beside(also, scenario, lines, scale)
    tell(0.9)
    facts = Facts(source, shape, ask, dated, judgement, found, lines, days, scale, tuple(beside))
    reading = reading_of(facts, copied.result())
    tell(1.0)
    key = found.key if used.all() else np.where(used, found.key, -1).astype(np.int32)
    return Sales(recipe, reading, found.keys, frame, judgement.day, key, units, days, beside, scale)


def _settled(ask: Intake) -> Intake:
    """Roles as they are lived by: a column with another role no longer tells series apart."""
    taken = {ask.date, ask.value, ask.times, ask.scenario, *ask.also}
    by = tuple(name for name in ask.by if name not in taken)
    also = tuple(name for name in ask.also if name not in (ask.date, ask.value, ask.scenario))
    times = "" if ask.times in (ask.date, ask.value) else ask.times
    return msgspec.structs.replace(ask, by=by, also=also, times=times)


def _check_roles(shape: Shaped, ask: Intake) -> None:
    levels = {level.name for level in ask.levels}
    columns = shape.source.frame.columns
    asked = (
        ask.date,
        ask.value,
        ask.times,
        ask.scenario,
        *ask.also,
        *ask.by,
        *(level.of for level in ask.levels),
    )
    for name in asked:
        if name and name not in columns and name not in levels:
            raise Trouble(
                f"{shape.source.name} has no column {name!r}. "
                f"Its columns: {', '.join(shape.source.columns[:20])}. Choose one of them."
            )
    if not ask.date or not ask.value:
        raise Trouble(f"{shape.source.name}: choose the column of the date and that of the measure.")
    if ask.date == ask.value or len(set(ask.by)) < len(ask.by):
        raise Trouble(
            f"{shape.source.name}: date, measure and series must be different columns. Choose them anew."
        )


def _measure(coder: Coder, ask: Intake) -> Much:
    """The figures of the lines; with a second measure, their product."""
    frame = coder.frame
    one = much(frame[ask.value], ask.decimal, coder)
    if not ask.times:
        return one
    other = much(frame[ask.times], ask.decimal, coder)
    with np.errstate(over="ignore", invalid="ignore"):
        product = one.spread(one.number) * other.spread(other.number)
    return Much(None, product, one.spread(one.blank) | other.spread(other.blank), one.places + other.places)


def _nothing_left(source: Source, ask: Intake, judgement: judged.Judged) -> Trouble:
    reasons = np.bincount(judgement.why, minlength=2)
    worst = judgement.reasons[int(reasons[1:].argmax()) + 1] if len(judgement.reasons) > 1 else "copies"
    return Trouble(
        f"{source.name}: none of its {len(judgement.why):,} lines can be used; most often: {worst}. "
        f"Choose other columns than {ask.date} for the date and {ask.value} for the measure."
    )


def _is_actual(texts: pl.Series, actual: str) -> NDArray[np.bool_]:
    return (texts.fill_null("").str.strip_chars() == actual).to_numpy()


def _line_marks(frame: pl.DataFrame, columns: list[str]) -> NDArray[np.uint64]:
    """A number a line that only lines alike share; with 64 bits, others hardly ever."""
    if COUNT in frame.columns:
        return np.arange(frame.height, dtype=np.uint64)
    looked_up, hashes = [], []
    for place, name in enumerate(columns):
        cells = frame[name]
        if cells.dtype == pl.Categorical:
            # Every text has a number of its own; the sum of them tells the line.
            codes, size = marked(cells)
            looked_up.append((_scattered(np.arange(size, dtype=np.uint64) + np.uint64(place << 32)), codes))
        else:
            hashes.append(cells.hash(place).to_numpy())
    marks = gathered(*looked_up) if looked_up else np.zeros(frame.height, np.uint64)
    for each in hashes:
        marks += each
    return marks


def _scattered(numbers: NDArray[np.uint64]) -> NDArray[np.uint64]:
    """Numbers spread over all of 64 bits; the finalizer of SplitMix64 (Steele, Lea and Flood, 2014)."""
    with np.errstate(over="ignore"):
        mixed = (numbers + np.uint64(1)) * np.uint64(0x9E3779B97F4A7C15)
        mixed = (mixed ^ (mixed >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
        mixed = (mixed ^ (mixed >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
    return mixed ^ (mixed >> np.uint64(31))


def _repeated(marks: NDArray[np.uint64]) -> int:
    """How many lines are like an earlier one; the marks are sorted in place."""
    marks.sort()
    return int(np.count_nonzero(marks[1:] == marks[:-1]))


def _taken_apart(
    units: NDArray[np.integer],
    day: NDArray[np.int32],
    key: NDArray[np.int32],
    good: NDArray[np.bool_],
    year_start: int,
    scenario: NDArray[np.int64],
) -> NDArray[np.int64]:
    """Running figures as what each adds to the one before it in its year and series."""
    at = np.flatnonzero(good)
    years = Grid("year", year_start=year_start).at(day[at].astype(np.int64))
    which = scenario[at]
    order = np.lexsort((day[at], years, key[at], which))
    at, years, which = at[order], years[order], which[order]
    starts = np.ones(len(at), bool)
    starts[1:] = (key[at][1:] != key[at][:-1]) | (np.diff(years) != 0) | (np.diff(which) != 0)
    out = units.astype(np.int64)
    steps = np.diff(out[at], prepend=0)
    out[at] = np.where(starts, units[at], steps)
    return out


def _check_exact(source: Source, ask: Intake, units: NDArray[np.integer]) -> None:
    largest = max(float(units.max()), -float(units.min()))
    if largest * len(units) < _EXACT:
        return
    if float(np.abs(units.astype(np.float64)).sum()) >= _EXACT:
        at = int(np.abs(units).argmax())
        row = source.frame[ROW][min(at, source.frame.height - 1)]
        raise Trouble(
            f"{source.name}: {ask.value} adds up to more than can be added exactly; the largest stands "
            f"in row {row:,}. Choose another measure, or mend it."
        )


def _beside(also: dict[str, Much], scenario: Coded | None, lines: Lines, scale: float) -> dict[str, Totals]:
    """What is kept beside the history: other scenarios, and further measures."""
    found: dict[str, Totals] = {}
    if scenario is not None:
        names = [" ".join((text or "").split()) or "(blank)" for text in scenario.texts]
        others = lines.good & ~lines.used
        for name in sorted(set(names)):
            mask = others & scenario.spread(np.array([each == name for each in names]))
            if mask.any():
                found[name] = totals(lines, lines.units, mask)
    for name, kept in also.items():
        figures = kept.spread(kept.number)
        mask = lines.used & np.isfinite(figures)
        if mask.any():
            added = np.zeros(len(figures), np.int64)
            added[mask] = np.rint(figures[mask] * scale)
            found[name] = totals(lines, added, mask)
    return found


def lines_of(sales: Sales, grid: Grid, key: Key, period: int) -> pl.DataFrame:
    """The lines behind one figure: FILE, ROW, day, key and value, in the order of the source."""
    fits = np.array([fits_key(own, key) for own in sales.keys], bool)
    first, last = grid.first_day(period), grid.last_day(period)
    at = np.flatnonzero((sales.key >= 0) & (sales.day >= first) & (sales.day <= last))
    at = at[fits[sales.key[at]]]
    held: pl.DataFrame = sales.frame.select(FILE, ROW)[at]
    return held.with_columns(
        pl.Series("day", sales.day[at], pl.Int32).cast(pl.Date),
        pl.Series("key", sales.key[at]),
        pl.Series("value", sales.units[at] / sales.scale),
    )
