"""Whether the values of a column go on from period to period, as items do, or come once, as invoices do."""

from __future__ import annotations

import numpy as np
import polars as pl

from oat_tide.core.periods.calendar import Grid
from oat_tide.intake.cells.columns import NO_DAY, Coder, when
from oat_tide.intake.source import Source
from oat_tide.intake.table import Table

_VALUES, _LINES, _LINES_EACH = 400, 40_000, 40
_FEWEST_PERIODS = 3
UNKNOWN = float("nan")


def lasting(source: Source, name: str, date: str, distinct: int) -> float:
    """The share of a column's values that come in more than one period, 0 to 1; UNKNOWN within a single one.

    All lines of some of the values are looked at, so that it does not depend on how long the source is. The
    periods are months, in a source of less than three of them days.

    Args:
        distinct: values in a sample of the column.
    """
    traced = (source.traced or {}).get(name)
    table = traced if traced is not None else _some_lines(source.table, name, date, distinct)
    if not table.height:
        return UNKNOWN
    coder = Coder(table)
    days = when(date, "by evidence", coder)
    day = days.cells.spread(days.day).astype(np.int64)
    values = coder(name)
    value = values.spread(np.arange(len(values.texts)))
    known = (day != NO_DAY) & values.spread(values.texts.is_not_null())
    if not known.any():
        return UNKNOWN
    periods = Grid("month").at(day[known])
    if len(np.unique(periods)) < _FEWEST_PERIODS:
        periods = day[known]
    if len(np.unique(periods)) < 2:
        return UNKNOWN
    pairs = np.unique(np.stack((value[known], periods)), axis=1)
    return float(np.mean(np.unique(pairs[0], return_counts=True)[1] > 1))


def _some_lines(table: Table, name: str, date: str, distinct: int) -> Table:
    """Every line of some of a column's values; where they are few, lines of all of them."""
    if distinct <= _VALUES:
        at = np.arange(0, table.height, table.height // (_LINES_EACH * distinct) + 1)
    else:
        cells = table[name]
        marks = cells.to_physical() if cells.dtype == pl.Categorical else cells
        # Of many different values a share, told by a hash: all lines of those that have it.
        few = marks.hash(7) % max(1, table.height // _LINES) == 0
        at = (few & cells.is_not_null()).arg_true().to_numpy().astype(np.int64)
        at = at[:: len(at) // _LINES + 1]
    if table.torn is not None:
        at = at[~table.torn[at]]
    return Table.of(table.lines(at, (name, date)))
