"""Terms of a formula: a figure at its own column or another, or a stretch of one."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, Protocol, TypeVar

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.series.panel import Reach
from oat_tide.core.working.formula import Cells, Formula, Mask, given, pick
from oat_tide.core.working.tree import FACT, Cell, Given, Op, Ref, Run, Working

Columns = NDArray[np.integer[Any]]
Find = Callable[[Columns], Columns]
"""(columns,) to (columns, many): the columns of a figure that stand for each; below 0 for none."""
_Many = TypeVar("_Many", bound=Formula)


class Figured(Protocol):
    """What a term needs of a figure."""

    name: str
    label: str
    unit: str
    fact: bool

    @property
    def values(self) -> Values:
        """(series, columns), or (series, 1) for a fact; NaN where there is none."""


class Source:
    """A figure as a formula sees it; its cells are cited as they stand.

    Attributes:
        stage: whose it is.
        figure: the figure itself.
        seen: (series, columns) the cells that may be seen; None for all.
        rows: (series,) for each series at hand, its row in the figure, such as a parent's; None for its own.
        reach: which series the deck of the figure holds.
    """

    __slots__ = ("_cells", "_values", "figure", "reach", "rows", "seen", "stage")

    def __init__(
        self,
        stage: str,
        figure: Figured,
        seen: Mask | None = None,
        rows: Columns | None = None,
        reach: Reach = "",
    ) -> None:
        self.stage, self.figure, self.seen, self.rows, self.reach = stage, figure, seen, rows, reach
        self._values: Values | None = None
        self._cells: Cells | None = None

    @property
    def cells(self) -> Cells:
        """The cells that are seen and known."""
        if self._cells is None:
            self._cells = Cells(~np.isnan(self.values))
        return self._cells

    @property
    def values(self) -> Values:
        """(series, columns) what may be seen of it."""
        if self._values is None:
            own = self.figure.values
            if self.seen is not None:
                own = np.where(wide(self.seen, own.shape[1], False), own, np.nan)
            self._values = own if self.rows is None else own[self.rows]
        return self._values

    def ref(self, series: int, column: int) -> Ref:
        """The address of a cell."""
        row = series if self.rows is None else int(self.rows[series])
        return Ref(self.stage, self.figure.name, row, column, self.reach)

    def cell(self, series: int, column: int) -> Cell:
        """A cell as a leaf of a working."""
        ref = self.ref(series, column)
        return Cell(float(self.figure.values[ref.series, max(column, 0)]), ref)

    def run(self, series: int, first: int, last: int) -> Run:
        """A stretch, both ends included, as a leaf of a working."""
        ref = self.ref(series, first)
        upto = min(last, self.figure.values.shape[1] - 1)
        return Run(self.figure.values[ref.series, first : upto + 1], ref, upto)

    def runs(self, run: Run, series: int) -> tuple[Working, ...]:
        """A stretch as it is, or parted where it holds cells that are known and may not be seen."""
        first = run.ref.column
        gone = np.isnan(self.values[series, first : first + len(run.values)])
        if (gone == np.isnan(run.values)).all():
            return (run,)
        edges = np.flatnonzero(np.diff(np.concatenate(([True], gone, [True])))) + first
        return tuple(
            self.run(series, int(a), int(b) - 1) for a, b in zip(edges[::2], edges[1::2], strict=True)
        )


class Term(Formula):
    """A figure at its own column, or so many columns on; of a fact, its one value."""

    __slots__ = ("by", "fact", "source")

    def __init__(self, source: Source, by: int = 0) -> None:
        self.source, self.by, self.fact = source, by, source.figure.fact

    @property
    def values(self) -> Values:
        """(series, columns) what is seen of the figure."""
        return self.source.values

    def compute(self, at: slice) -> Any:
        values = self.source.values
        return values if self.fact else _stretch(values, at.start + self.by, at.stop + self.by)

    def cells(self, at: slice) -> Cells:
        if not self.by and (self.fact or (at.start, at.stop) == (0, self.source.values.shape[1])):
            return self.source.cells
        return Formula.cells(self, at)

    def bind(self, series: int, column: int) -> Working:
        return self.source.cell(series, FACT if self.fact else column + self.by)

    def seeing(self, seen: Mask) -> Term:
        """Return the term with only some of its cells (series, columns) visible."""
        own = self.source
        return Term(Source(own.stage, own.figure, seen, own.rows, own.reach), self.by)

    def shift(self, by: int) -> Term:
        """So many columns on: shift(-1) is the period before."""
        return Term(self.source, by)

    def like(self, columns: Columns) -> Like:
        """The column that stands for each: (columns,), below 0 for none. The like period of another axis."""
        return Like(self.source, columns)

    def likes(self, find: Find) -> Likes:
        """Take all the columns that a lookup gives, such as the same month of every year."""
        return Likes(self.source, find)

    def at(self, columns: Columns) -> At:
        """One value a series: (series,) the column of each, below 0 for none."""
        return At(self.source, columns)

    def over(self, first: int, last: int) -> Over:
        """From `first` to `last` columns on, both included: over(-11, 0) is a trailing year of months."""
        return Over(self.source, first, last)

    def between(self, first: int | Columns, last: int | Columns) -> Between:
        """From one column to another; numbers, or (series, columns) of them, either may be 1."""
        return Between(self.source, first, last)

    def among(self, mask: Mask) -> Among:
        """The columns of each series that a mask (series, columns) picks."""
        return Among(self.source, mask)


@dataclass(eq=False, slots=True)
class Like(Formula):
    """A figure in the column that a map gives for each."""

    source: Source
    columns: Columns
    fact: bool = False
    _all: Values | None = field(default=None, init=False, repr=False)

    @property
    def values(self) -> Values:
        """(series, columns) in all columns; several figures may ask for them."""
        if self._all is None:
            self._all = _taken(self.source.values, self.columns)
        return self._all

    def compute(self, at: slice) -> Any:
        return self.values[:, at]

    def bind(self, series: int, column: int) -> Working:
        return self.source.cell(series, int(self.columns[column]))


@dataclass(eq=False, slots=True)
class At(Formula):
    """One value of a figure a series."""

    source: Source
    columns: Columns
    fact: bool = True

    def compute(self, at: slice) -> Any:
        values = self.source.values
        there = (self.columns >= 0) & (self.columns < values.shape[1])
        if not values.shape[1]:
            return np.full((len(values), 1), np.nan)
        taken = np.take_along_axis(values, np.where(there, self.columns, 0)[:, None], axis=1)
        return np.where(there[:, None], taken, np.nan)

    def bind(self, series: int, column: int) -> Working:
        return self.source.cell(series, int(self.columns[series]))


class Stretch(Formula):
    """Columns of a figure that follow one another, told as a stretch."""

    source: Source

    def bind(self, series: int, column: int) -> Run:
        """The whole stretch."""
        raise NotImplementedError

    def bound(self, series: int, column: int) -> tuple[Working, ...]:
        return self.source.runs(self.bind(series, column), series)


@dataclass(eq=False, slots=True)
class Over(Stretch):
    """A stretch of a figure that goes along with the column, by offsets."""

    source: Source
    first: int
    last: int
    skips: bool = False
    many: bool = True
    fact: bool = False

    def compute(self, at: slice) -> Any:
        around = _stretch(self.source.values, at.start + self.first, at.stop + self.last)
        return sliding_window_view(around, self.last - self.first + 1, axis=1)

    def bind(self, series: int, column: int) -> Run:
        return self.source.run(series, max(column + self.first, 0), column + self.last)


@dataclass(eq=False, slots=True)
class Lagged(Formula):
    """A row of weights times the periods of a window, added up; the newest first.

    Attributes:
        ahead: columns after its own that the window takes in.
        skips: whether periods not known are left out.
    """

    source: Source
    weights: tuple[float, ...]
    ahead: int = 0
    skips: bool = False
    fact: bool = False

    def compute(self, at: slice) -> Any:
        values = self.source.values
        if self.skips:
            values = np.nan_to_num(values, nan=0.0)
        outside = 0.0 if self.skips else np.nan
        return sum(
            weight * _stretch(values, at.start + self.ahead - age, at.stop + self.ahead - age, outside)
            for age, weight in enumerate(self.weights)
        )

    def bind(self, series: int, column: int) -> Working:
        products = (
            Op("*", (Given(self.weights[age], "weight"), self.source.cell(series, at)))
            for age, at in self.places(series, column)
        )
        return Op("+", tuple(products))

    def places(self, series: int, column: int) -> list[tuple[int, int]]:
        """The ages of the weights that count in a cell, and the columns that they stand at."""
        found = [(age, column + self.ahead - age) for age in range(len(self.weights))]
        if not self.skips:
            return found
        row = self.source.values[series]
        return [(age, at) for age, at in found if 0 <= at < len(row) and not np.isnan(row[at])]


@dataclass(eq=False, slots=True)
class HeldWeights(Formula):
    """The sum of the weights of a window that stand at periods that are known."""

    lagged: Lagged
    fact: bool = False

    def compute(self, at: slice) -> Any:
        holds = (~np.isnan(self.lagged.source.values)).astype(np.float64)
        low, high = at.start + self.lagged.ahead, at.stop + self.lagged.ahead
        share = sum(
            weight * _stretch(holds, low - age, high - age, 0.0)
            for age, weight in enumerate(self.lagged.weights)
        )
        return np.where(share > 0, share, np.nan)

    def bind(self, series: int, column: int) -> Working:
        weights = (self.lagged.weights[age] for age, _ in self.lagged.places(series, column))
        return Op("+", tuple(Given(weight, "weight") for weight in weights))


@dataclass(eq=False, slots=True)
class Trimmed(Formula):
    """Many values less so many of the lowest and as many of the highest that are known in each cell.

    Attributes:
        fewest: with fewer known than that none is left out.
    """

    body: Formula
    trim: int
    fewest: int = 0
    skips: bool = True
    many: bool = True
    fact: bool = False

    def compute(self, at: slice) -> Any:
        cells, inside = self.body.compute(at), self.body.inside(at)
        cells = cells if inside is None else np.where(inside, cells, np.nan)
        order = np.argsort(cells, axis=-1, kind="stable")
        place = np.empty_like(order)
        np.put_along_axis(place, order, np.broadcast_to(np.arange(order.shape[-1]), order.shape), axis=-1)
        known = (~np.isnan(cells)).sum(-1, keepdims=True)
        trim = np.where(known < self.fewest, 0, self.trim)
        return np.where((place >= trim) & (place < known - trim), cells, np.nan)

    def bound(self, series: int, column: int) -> tuple[Working, ...]:
        cells: list[Working] = []
        for run in self.body.bound(series, column):
            if isinstance(run, Cell):
                cells.append(run)
                continue
            assert isinstance(run, Run)
            cells += (
                Cell(float(value), replace(run.ref, column=run.ref.column + place))
                for place, value in enumerate(run.values)
                if not np.isnan(value)
            )
        # What is equal goes in the order of time, as the stable sort has it.
        order = sorted(range(len(cells)), key=lambda at: (cells[at].value, at))  # type: ignore[union-attr]
        trim = self.trim if len(cells) >= self.fewest else 0
        kept = sorted(order[trim : len(order) - trim])
        return tuple(cells[at] for at in kept)


@dataclass(eq=False, slots=True)
class Between(Stretch):
    """A stretch of a figure from one column to another, both included; it is empty where it ends first.

    Columns that the figure does not have are not known.
    """

    source: Source
    first: int | Columns
    last: int | Columns
    skips: bool = False
    many: bool = True

    @property
    def fact(self) -> bool:  # type: ignore[override]
        # Asked for by every call that it stands in, many times a frame.
        first, last = self.first, self.last
        if isinstance(first, np.ndarray) and first.shape[1] != 1:
            return False
        return not isinstance(last, np.ndarray) or last.shape[1] == 1

    @property
    def _ends(self) -> tuple[int, int]:
        if np.size(self.first) and np.size(self.last):
            return int(np.min(self.first)), int(np.max(self.last))
        return 0, -1

    def inside(self, at: slice) -> Mask | None:
        if not (isinstance(self.first, np.ndarray) or isinstance(self.last, np.ndarray)):
            return None
        low, high = self._ends
        place = np.arange(low, high + 1)
        found: Mask = (place >= _edge(self.first, at)) & (place <= _edge(self.last, at))
        return found

    def compute(self, at: slice) -> Any:
        low, high = self._ends
        return _stretch(self.source.values, low, high + 1)[:, None]

    def bind(self, series: int, column: int) -> Run:
        first, last = (int(pick(each, series, column)) for each in (self.first, self.last))  # type: ignore[arg-type]
        return self.source.run(series, max(first, 0), last)


@dataclass(eq=False, slots=True)
class Likes(Formula):
    """A figure in all the columns that stand for each; those known are told one by one."""

    source: Source
    find: Find
    skips: bool = False
    many: bool = True
    fact: bool = False

    def inside(self, at: slice) -> Mask | None:
        found: Mask = (self._found(at) >= 0)[None]
        return found

    def compute(self, at: slice) -> Any:
        return _taken(self.source.values, self._found(at))

    def _found(self, at: slice) -> Columns:
        return self.find(np.arange(at.start, at.stop))

    def bound(self, series: int, column: int) -> tuple[Working, ...]:
        return _known_cells(self.source, series, self.find(np.array([column]))[0])


@dataclass(eq=False, slots=True)
class Among(Formula):
    """The columns of a figure that a mask picks, told one by one."""

    source: Source
    mask: Mask
    skips: bool = False
    many: bool = True
    fact: bool = True

    def inside(self, at: slice) -> Mask | None:
        return self.mask[:, None]

    def compute(self, at: slice) -> Any:
        return _stretch(self.source.values, 0, self.mask.shape[1])[:, None]

    def bound(self, series: int, column: int) -> tuple[Working, ...]:
        row = self.mask[series if len(self.mask) > 1 else 0]
        return _known_cells(self.source, series, np.flatnonzero(row))


def known(many: _Many) -> _Many:
    """Keep only the known values. With none of them the sum is 0, and everything else is not known."""
    return replace(many, skips=True)  # type: ignore[type-var]


def weighted_mean(of: Term, weights: Sequence[float], ahead: int = 0, skips: bool = False) -> Formula:
    """The weighted mean over a window; the weights are the newest first.

    Args:
        ahead: columns after its own that the window takes in.
        skips: whether periods not known are left out, with their weights.
    """
    products = Lagged(of.source, tuple(weights), ahead, skips)
    return products / (HeldWeights(products) if skips else given(sum(weights), phrase("sum of the weights")))


def trimmed(many: Formula, trim: int, fewest: int = 0) -> Formula:
    """Many values less so many of the lowest and as many of the highest, from so many known on."""
    return Trimmed(many, trim, fewest)


def same_place(place: Columns) -> Find:
    """Return a lookup of all columns at the same place of their cycle.

    Args:
        place: (columns,) of each column; below 0 for none.
    """

    def find(columns: Columns) -> Columns:
        own = np.where(columns >= 0, place[np.maximum(columns, 0)], -1)
        at = [np.flatnonzero(place == each) if each >= 0 else np.zeros(0, np.int64) for each in own]
        out = np.full((len(own), max(map(len, at), default=0)), -1)
        for row, found in zip(out, at, strict=True):
            row[: len(found)] = found
        return out

    return find


def wide(values: NDArray[Any], columns: int, blank: float) -> NDArray[Any]:
    """The values over at least so many columns, blank where there were none."""
    if values.shape[1] >= columns:
        return values
    out = np.full((len(values), columns), blank, values.dtype)
    out[:, : values.shape[1]] = values
    return out


def _edge(of: int | Columns, at: slice) -> Any:
    """One end of a stretch, for each cell: (series, columns, 1), either may be 1."""
    if not isinstance(of, np.ndarray):
        return np.full((1, 1, 1), of)
    return (of if of.shape[1] == 1 else of[:, at])[..., None]


def _stretch(values: Values, start: int, stop: int, outside: float = np.nan) -> Values:
    """The columns from start to before stop; NaN, or what is given, where there are none."""
    if 0 <= start <= stop <= values.shape[1]:
        return values[:, start:stop]
    out = np.full((len(values), max(stop - start, 0)), outside)
    low, high = min(max(start, 0), values.shape[1]), min(max(stop, 0), values.shape[1])
    if low < high:
        out[:, low - start : high - start] = values[:, low:high]
    return out


def _taken(values: Values, at: Columns) -> Values:
    """The columns that a map points at; NaN where it points nowhere."""
    there = (at >= 0) & (at < values.shape[1])
    if not values.shape[1]:
        return np.full((len(values), *at.shape), np.nan)
    return np.where(there, values[:, np.where(there, at, 0)], np.nan)


def _known_cells(source: Source, series: int, columns: Columns) -> tuple[Working, ...]:
    row = source.values[series]
    return tuple(source.cell(series, int(c)) for c in columns if 0 <= c < len(row) and not np.isnan(row[c]))
