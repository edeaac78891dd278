"""The whole of a source: what every cell that holds a figure is, and its own totals against what is used."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from decimal import Decimal

import numpy as np
import polars as pl
from numpy.typing import NDArray

from oat_tide.core.series.reading import Figures, OwnTotal, Use
from oat_tide.intake.cells import numbers
from oat_tide.intake.cells.columns import NO_DAY, Beside, Coder, Much, much
from oat_tide.intake.meaning import names, roles
from oat_tide.intake.meaning.shapes import Shaped
from oat_tide.intake.meaning.sum_rows import Row
from oat_tide.intake.source import Source
from oat_tide.intake.table import FILE, ROW
from oat_tide.plan.parts.intake import Intake


@dataclass(frozen=True, eq=False, slots=True)
class Cells:
    """The columns of a source as it stands, read as figures when they are asked for.

    Attributes:
        source: before its table was brought to another shape.
        coder: its columns by their distinct texts.
        comma: the decimal mark of the measure, where a column's own figures do not tell it.
    """

    source: Source
    coder: Coder
    comma: bool

    def figures(self, name: str) -> Much:
        """A column as figures, by the mark that its own cells speak for."""
        first = self.coder.first(name).cast(pl.String)
        texts = first if self.coder.text(name) is not None else self.coder(name).texts
        told = numbers.evidence(texts.to_frame(name), name)
        comma = told.comma > told.point if told.comma != told.point else self.comma
        return much(name, self.coder, Beside("comma" if comma else "point"))

    def added(self, name: str, mask: NDArray[np.bool_] | None = None) -> tuple[int, Decimal]:
        """How many figures a column holds, and what they come to, of all lines or some."""
        found = self.figures(name)
        known = np.isfinite(found.number) & (np.abs(found.number) < numbers.LARGEST)
        if mask is None:
            counts = np.ones(len(known), np.int64) if found.cells is None else found.cells.counts
            return int(counts[known].sum()), found.exact(None, 1)[0]
        return int((found.spread(known) & mask).sum()), found.exact((~mask).astype(np.int64), 2)[0]


def figures_of(cells: Cells, shape: Shaped, ask: Intake) -> tuple[Figures, ...]:
    """Every column of the source that holds figures, with what they are."""
    if cells.source.sample is not None:
        return tuple(_of_server(cells, ask))
    return tuple(_figures_of(cells, shape, ask))


def _figures_of(cells: Cells, shape: Shaped, ask: Intake) -> Iterator[Figures]:
    asked = {each.name: each.meant for each in shape.beside.asked}
    totals = {each.name for each in shape.beside.totals}
    for look in roles.look(cells.source):
        if not look.numbers:
            continue
        use, why = _use(look, shape, ask)
        if look.name in asked:
            use, why = "asked", "may be a period"
        elif look.name in totals:
            use, why = "beside", "a total of the source"
        many, amount = cells.added(look.name)
        yield Figures(look.name, use, why, many, amount, asked.get(look.name, ()))


def _of_server(cells: Cells, ask: Intake) -> Iterator[Figures]:
    """Of what a server added up: the measure, and the columns that it was not asked for, with its sums of them."""
    source = cells.source
    assert source.sample is not None
    if not ask.times:
        yield Figures(ask.value, "used", "", source.lines, cells.added(ask.value)[1])
    for look in roles.look(source.sample):
        if look.name in source.left and look.numbers:
            use, why = _use(look, Shaped(source), ask)
            many, amount = source.left[look.name]
            yield Figures(look.name, use, why, many, amount)


def _use(look: roles.Look, shape: Shaped, ask: Intake) -> tuple[Use, str]:
    """What the figures of a column are, by its role, its name and its cells."""
    name = look.name
    if name in (ask.value, ask.times, *shape.across):
        return "used", ""
    if name in ask.also:
        return "beside", "a further measure"
    if name in (ask.date, ask.scenario, *ask.by, *shape.spent) or look.dates >= roles.ENOUGH:
        return "key", ""
    if roles.is_text_or_code(look):
        return "key", "left out"
    if names.suited(name) == "mean":
        return "beside", "a price or a rate, which adds up to nothing"
    if names.is_total(name):
        return "beside", "a total of the source"
    return "no series", ""


@dataclass(frozen=True, eq=False, slots=True)
class Rows:
    """The lines in their order, for the total rows among them.

    Attributes:
        file, row: where each line stands.
        day: of each line.
        figure: of each line, total rows included.
        total: which are total rows.
        good: which make the history or are kept beside it.
        dated: whether a row is of one period, and not of several side by side.
    """

    file: NDArray[np.integer]
    row: NDArray[np.integer]
    day: NDArray[np.integer]
    figure: NDArray[np.float64]
    total: NDArray[np.bool_]
    good: NDArray[np.bool_]
    dated: bool


def row_totals(rows: Rows, called: list[str]) -> tuple[OwnTotal, ...]:
    """The total rows against what they stand for, those of one name together.

    A total row stands for the lines since the total row before it, for all lines above it, for all of its
    file, or for
    those of its period: for whichever comes to the same; where none does, for those of its period where it
        names one,
    for all above it at the end of its file, else for those since the one before.

    Args:
        called: what each total row is called, in the order of the lines.
    """
    found: dict[str, list[tuple[float, float, int]]] = {}
    sums = np.concatenate(([0.0], np.cumsum(np.where(rows.good, rows.figure, 0.0))))
    start = 0
    for name, (first, stop) in zip(called, total_runs(rows), strict=True):
        file = rows.file[first]
        begin, end = np.searchsorted(rows.file, file), np.searchsorted(rows.file, file, side="right")
        amount = float(rows.figure[first:stop].sum())
        since, above = sums[first] - sums[max(start, begin)], sums[first] - sums[begin]
        candidates = [since, above, sums[end] - sums[begin]]
        if rows.dated and rows.day[first] != NO_DAY:
            alike = rows.good & (rows.day == rows.day[first]) & (rows.file == file)
            candidates.insert(0, float(rows.figure[alike].sum()))
            default = candidates[0]
        else:
            default = above if not rows.total[stop:end].any() and not rows.good[stop:end].any() else since
        near = 1e-9 * max(abs(amount), 1e-3)
        against = next((each for each in candidates if abs(each - amount) <= near), default)
        found.setdefault(name, []).append((amount, float(against), int(rows.row[first])))
        start = stop
    return tuple(
        OwnTotal(
            f"row “{name}”" if len(each) == 1 else f"{len(each):,} rows “{name}”",
            len(each),
            _tidy(math.fsum(amount for amount, _, _ in each)),
            _tidy(math.fsum(against for _, against, _ in each)),
            next(
                (
                    row
                    for amount, against, row in each
                    if abs(amount - against) > 1e-9 * max(abs(amount), 1e-3)
                ),
                0,
            ),
        )
        for name, each in found.items()
    )


def total_runs(rows: Rows) -> list[tuple[int, int]]:
    """The total rows, each from its first line to after its last: wide tables have a line a period."""
    at = np.flatnonzero(rows.total)
    new = np.ones(len(at), bool)
    new[1:] = (
        (np.diff(at) > 1) | (np.diff(rows.row[at]) != 0) | (np.diff(rows.file[at].astype(np.int64)) != 0)
    )
    starts = np.flatnonzero(new)
    stops = np.append(starts[1:], len(at))
    return [(int(at[a]), int(at[b - 1]) + 1) for a, b in zip(starts, stops, strict=True)]


def _tidy(amount: float) -> Decimal:
    """A sum of figures as a decimal, to the fifteen digits that it has."""
    return Decimal(f"{amount:.15g}")


def own_totals(cells: Cells, shape: Shaped, total_rows: frozenset[Row]) -> tuple[OwnTotal, ...]:
    """The total columns of the source against the columns that they add up.

    Args:
        total_rows: rows that are totals themselves.
    """
    table = cells.source.table
    used: NDArray[np.bool_] | None = None
    if shape.beside.totals and total_rows:
        lines = table.lines(np.arange(table.height), (FILE, ROW))
        used = np.array([each not in total_rows for each in lines.rows()], bool)
    found = []
    for total in shape.beside.totals:
        many, amount = cells.added(total.name, used)
        against = sum((cells.added(name, used)[1] for name in total.of), Decimal(0))
        found.append(OwnTotal(f"column “{total.name}”", many, amount, against))
    return tuple(found)
