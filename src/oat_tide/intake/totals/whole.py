"""The whole of a source: what every cell that holds a figure is, and its own totals against what is used."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from decimal import Decimal

import numpy as np
import polars as pl
from numpy.typing import NDArray

from oat_tide.core.language import phrase
from oat_tide.core.series.reading import Figures, OwnTotal, Use
from oat_tide.intake.cells import numbers
from oat_tide.intake.cells.columns import NO_DAY, Beside, Coder, Much, much
from oat_tide.intake.meaning import names, roles
from oat_tide.intake.meaning.shapes import Shaped
from oat_tide.intake.meaning.sum_rows import Row
from oat_tide.intake.source import Source
from oat_tide.intake.table import FILE, ROW, Table
from oat_tide.plan.parts.intake import Intake


@dataclass(frozen=True, eq=False, slots=True)
class Cells:
    """The columns of a source as it stands, read as figures when they are asked for.

    Attributes:
        source: before its table was brought to another shape.
        coder: its columns by their distinct texts.
        comma: the decimal mark of the measure, where a column's own figures do not tell it.
        known: columns that have been read.
    """

    source: Source
    coder: Coder
    comma: bool
    known: Mapping[str, Much]

    def figures(self, name: str) -> Much:
        """A column as figures, by the mark that its own cells speak for."""
        if name in self.known:
            return self.known[name]
        found = much(name, self.coder, Beside("by content"))
        if found.mark.asks:
            found = much(name, self.coder, Beside("comma" if self.comma else "point"))
        return found

    def added(
        self, names: Sequence[str], used: NDArray[np.bool_] | None = None
    ) -> dict[str, tuple[int, Decimal]]:
        """Return count and sum of the figures of each column; columns of one kind are read together.

        Args:
            used: the lines that count; None for all.
        """
        lines = self.source.table.height
        if len(names) == 1:
            found, which = self.figures(names[0]), np.zeros(lines, np.int64)
        else:
            texts = [self.source.table[name].cast(pl.String).alias("cell") for name in names]
            coder = Coder(Table.of(pl.concat(texts).to_frame()))
            found = much("cell", coder, Beside("comma" if self.comma else "point"))
            which = np.repeat(np.arange(len(names)), lines)
        if used is not None:
            # What does not count is a group of its own, behind all others.
            which = np.where(np.tile(used, len(names)), which, len(names))
        counts, sums = _grouped(found, which, len(names))
        return dict(zip(names, zip(counts, sums, strict=True), strict=True))


def _grouped(found: Much, which: NDArray[np.int64], groups: int) -> tuple[list[int], list[Decimal]]:
    """How many figures each group of lines holds, and their exact sums."""
    known = np.isfinite(found.number) & (np.abs(found.number) < numbers.LARGEST)
    if not which.any() and groups == 1:
        counts = known if found.cells is None else known * found.cells.counts
        return [int(counts.sum())], found.exact(None, 1)
    counted = np.bincount(which, found.spread(known), groups + 1)[:groups]
    with np.errstate(over="ignore"):
        units = np.rint(np.where(known, found.number, 0.0) * 10.0**found.places)
    of_lines = found.spread(units)
    if np.abs(of_lines).sum() < 2.0**53:
        sums = np.rint(np.bincount(which, of_lines, groups + 1)[:groups]).astype(np.int64)
        amounts = [Decimal(each).scaleb(-found.places) for each in sums.tolist()]
    else:
        amounts = found.exact(which, groups + 1)[:groups]
    return [int(each) for each in counted], amounts


_beside = ThreadPoolExecutor(1)


def figures_of(cells: Cells, shape: Shaped, ask: Intake) -> Future[tuple[Figures, ...]]:
    """Every column of the source that holds figures, with what they are; told while lines are understood."""
    return _beside.submit(_every_figure, cells, shape, ask)


def _every_figure(cells: Cells, shape: Shaped, ask: Intake) -> tuple[Figures, ...]:
    if cells.source.sample is not None:
        return tuple(_of_server(cells, ask))
    return tuple(_figures_of(cells, shape, ask))


def _figures_of(cells: Cells, shape: Shaped, ask: Intake) -> Iterator[Figures]:
    asked = {each.name: each.meant for each in shape.beside.asked}
    totals = {each.name for each in shape.beside.totals}
    looks = [look for look in roles.look(cells.source) if look.numbers]
    across = [look.name for look in looks if look.name in shape.across]
    held = cells.added(across) if across else {}
    for look in looks:
        use, why = _use(look, shape, ask)
        if look.name in asked:
            use, why = "asked", phrase("may be a period")
        elif look.name in totals:
            use, why = "beside", phrase("a total of the source")
        many, amount = (held if look.name in held else cells.added((look.name,)))[look.name]
        yield Figures(look.name, use, why, many, amount, asked.get(look.name, ()))


def _of_server(cells: Cells, ask: Intake) -> Iterator[Figures]:
    """Return the sums that a server computed: of the measure, and of other columns."""
    source = cells.source
    assert source.sample is not None
    if not ask.times:
        yield Figures(ask.value, "used", "", source.lines, cells.added((ask.value,))[ask.value][1])
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
        return "beside", phrase("a further measure")
    if name in (ask.date, ask.scenario, *ask.by, *shape.spent) or look.dates >= roles.ENOUGH:
        return "key", ""
    if roles.is_text_or_code(look):
        return "key", "left out"
    if names.suited(name) == "mean":
        return "beside", phrase("a price or a rate, which adds up to nothing")
    if names.is_limit(name):
        return "beside", phrase("a limit of an interval")
    if names.is_total(name):
        return "beside", phrase("a total of the source")
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
        within: of each line, what stands in its other columns of text, the one that calls it a total apart.
    """

    file: NDArray[np.integer]
    row: NDArray[np.integer]
    day: NDArray[np.integer]
    figure: NDArray[np.float64]
    total: NDArray[np.bool_]
    good: NDArray[np.bool_]
    dated: bool
    within: NDArray[np.int64]


def row_totals(rows: Rows, called: list[str]) -> tuple[OwnTotal, ...]:
    """The total rows against what they stand for, those of one name together.

    A total row stands for the lines since the total row before it, for all lines above it, for all of its
    file, or for those of its period: for whichever comes to the same. Where none does, it stands for those
    of its period where it names one, for all above it at the end of its file, else for those since the one
    before.

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
            if (rows.within[alike] == rows.within[first]).any():
                default = float(rows.figure[alike & (rows.within == rows.within[first])].sum())
                candidates.insert(0, default)
        else:
            default = above if not rows.total[stop:end].any() and not rows.good[stop:end].any() else since
        near = 1e-9 * max(abs(amount), 1e-3)
        against = next((each for each in candidates if abs(each - amount) <= near), default)
        found.setdefault(name, []).append((amount, float(against), int(rows.row[first])))
        start = stop
    return tuple(
        OwnTotal(
            phrase("row “{name}”", name=name)
            if len(each) == 1
            else phrase("{each:,} rows “{name}”", each=len(each), name=name),
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
        many, amount = cells.added((total.name,), used)[total.name]
        against = sum((each for _, each in cells.added(total.of, used).values()), Decimal(0))
        found.append(OwnTotal(phrase("column “{name}”", name=total.name), many, amount, against))
    return tuple(found)
