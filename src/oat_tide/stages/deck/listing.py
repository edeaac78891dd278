"""What is not over time: rows of values, fetched as they come in sight, sorted and searched there."""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from oat_tide.core.exact import known
from oat_tide.core.working.number_format import fixed, full
from oat_tide.plan.edits import Edit

Kind = Literal["text", "count", "number", "share", "date", "chart"]
Value = str | int | float | dt.date | tuple[float, ...] | None
"""Of a cell: a chart is the figures that are drawn in it, None and NaN are not known."""
Row = tuple[Value, ...]


@dataclass(frozen=True, slots=True)
class Column:
    """A column of a list.

    Attributes:
        name: its heading.
        kind: what its values are; numbers stand to the right.
        unit: what they count.
        decimals: of a number, how many are written; below 0 for all that it has.
        signed: whether a plus is written.
        choices: values that rows can be picked by; empty where that makes no sense.
        mended: whether its cells can be written anew.
    """

    name: str
    kind: Kind = "text"
    unit: str = ""
    decimals: int = -1
    signed: bool = False
    choices: tuple[str, ...] = ()
    mended: bool = False

    @property
    def to_the_right(self) -> bool:
        """Whether its values stand at the right."""
        return self.kind in ("count", "number", "share")

    def text(self, value: Value) -> str:
        """A value as it is written; a chart is no text."""
        if value is None or (isinstance(value, float) and not known(value)):
            return "–"
        if isinstance(value, tuple):
            return ""
        if isinstance(value, dt.date):
            return value.isoformat()
        if isinstance(value, str):
            return value
        if self.kind == "count":
            return f"{value:,}"
        if self.kind == "share":
            return f"{fixed(float(value), max(self.decimals, 1), plus=self.signed)} %"
        if self.decimals < 0 and not self.signed:
            return full(float(value))
        return fixed(float(value), max(self.decimals, 0), plus=self.signed)


@dataclass(frozen=True, slots=True)
class ListQuery:
    """How the rows of a list are wanted.

    Attributes:
        text: words that a row has to hold, in any cell and case.
        by: the column to sort by; below 0 for the order they come in.
        falling: whether the largest come first.
        only: columns with the one value that their rows are to have.
    """

    text: str = ""
    by: int = -1
    falling: bool = False
    only: tuple[tuple[int, str], ...] = ()


@dataclass(frozen=True, slots=True)
class RowAct:
    """What can be done with a row.

    Attributes:
        title: what it is called.
        edit: of a row; None where it cannot be done.
    """

    title: str
    edit: Callable[[int], Edit | None]


@dataclass(frozen=True, eq=False, slots=True)
class Listing:
    """What is not over time, fetched as it is scrolled to.

    Attributes:
        title: what is listed.
        columns: what each cell of a row is.
        count: the number of rows.
        fetch: rows from a start to before a stop.
        total: what the last column adds up to; None where nothing is added up.
        note: more to say of it.
        tab: its name among the other things that can be shown there.
        roles: where columns have roles, what each has, and what it can be.
        choose: the edit that gives a column another role.
        arrange: the rows as they are wished for, as a list of their own; None where they stand as they are.
        mend: where a column can be written anew, the edit of its row and text; None where none can.
        acts: what can be done with a row.
    """

    title: str
    columns: tuple[Column, ...]
    count: int
    fetch: Callable[[int, int], Sequence[Row]]
    total: float | None = None
    note: str = ""
    tab: str = ""
    roles: tuple[tuple[str, tuple[str, ...]], ...] = ()
    choose: Callable[[int, str], Edit] | None = None
    arrange: Callable[[ListQuery], Listing] | None = None
    mend: Callable[[int, str], Edit] | None = None
    acts: tuple[RowAct, ...] = ()

    def texts(self, start: int, stop: int) -> list[tuple[str, ...]]:
        """Rows as they are written."""
        return [
            tuple(column.text(value) for column, value in zip(self.columns, row, strict=True))
            for row in self.fetch(start, stop)
        ]


def in_memory(
    title: str,
    columns: tuple[Column, ...],
    rows: Sequence[Row],
    *,
    note: str = "",
    tab: str = "",
    mend: Callable[[int, str], Edit] | None = None,
    acts: tuple[RowAct, ...] = (),
) -> Listing:
    """A list of rows that are at hand, which can be sorted, searched and picked from.

    Args:
        mend: as of a Listing, by the place of a row among those given.
        acts: the same.
    """

    def arranged(wish: ListQuery) -> Listing:
        return of(_order(columns, rows, wish))

    def of(order: Sequence[int]) -> Listing:
        return Listing(
            title,
            columns,
            len(order),
            lambda start, stop: [rows[at] for at in order[start:stop]],
            note=note,
            tab=tab,
            arrange=arranged,
            mend=None if mend is None else lambda row, text: mend(order[row], text),
            acts=tuple(replace(act, edit=_of_row(act.edit, order)) for act in acts),
        )

    return of(range(len(rows)))


def _of_row(edit: Callable[[int], Edit | None], order: Sequence[int]) -> Callable[[int], Edit | None]:
    return lambda row: edit(order[row])


def _order(columns: tuple[Column, ...], rows: Sequence[Row], wish: ListQuery) -> list[int]:
    """The rows wished for, by their places; those without a value come last, however they are sorted."""
    words = wish.text.casefold().split()
    order = [at for at, row in enumerate(rows) if _fits(columns, row, words, wish.only)]
    if not 0 <= wish.by < len(columns):
        return order
    there = [at for at in order if _sortable(rows[at][wish.by])]
    gone = [at for at in order if not _sortable(rows[at][wish.by])]
    there.sort(key=lambda at: _key(rows[at][wish.by]), reverse=wish.falling)
    return there + gone


def _fits(columns: tuple[Column, ...], row: Row, words: list[str], only: tuple[tuple[int, str], ...]) -> bool:
    if any(columns[at].text(row[at]) != value for at, value in only):
        return False
    if not words:
        return True
    told = " ".join(column.text(value) for column, value in zip(columns, row, strict=True)).casefold()
    return all(word in told for word in words)


def _sortable(value: Value) -> bool:
    return value is not None and not (isinstance(value, float) and not known(value))


def _key(value: Value) -> tuple[int, float, str]:
    """Numbers by size, dates by time, texts by letters, charts by their last figure."""
    if isinstance(value, tuple):
        value = value[-1] if value else 0.0
    if isinstance(value, dt.date):
        return 0, value.toordinal(), ""
    return (1, 0.0, value.casefold()) if isinstance(value, str) else (0, float(value or 0), "")
