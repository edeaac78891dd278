"""Projections of every series as one tidy table, by way of the data-frame engine."""

from __future__ import annotations

import numpy as np
import polars as pl

from oat_tide.core.exact import Values
from oat_tide.core.series.panel import PART
from oat_tide.publish.tables import first_day
from oat_tide.session import Session

_RUNS = r"^[=+\-@\t\r]"
"""What a program may take for a formula at the start of a cell."""
_WHOLE = 2.0**53


def projections(session: Session) -> pl.DataFrame:
    """One row for each series and period that is fitted or projected, in this order.

    Returns:
        The key columns, period, kind, method, value, lower_80, upper_80 ..., actual; null where not known.
    """
    deck, project = session.deck("project"), session.plan.project
    figures, past = deck.figures, deck.past
    value = np.where(np.arange(deck.columns) < past, figures["fitted"].values, figures["projected"].values)
    series, column = np.nonzero(~np.isnan(value))
    actual = np.where(deck.flags & PART, np.nan, figures["actual"].values)
    members = [pl.Series([str(key[place]) for key in deck.keys]) for place in range(len(deck.keys[0]))]
    told = dict(zip(session.reading.dimensions, (each.gather(series) for each in members), strict=True))
    periods = pl.Series([first_day(deck, each) for each in range(deck.columns)])
    kinds = pl.Series(["fitted", "projected"])
    known: dict[str, Values] = {"value": value}
    for probability in project.intervals:
        for side in ("lower", "upper"):
            known[f"{side}_{probability:g}"] = figures[f"{side}_{probability:g}"].values
    known["actual"] = actual
    return pl.DataFrame(
        {
            **told,
            "period": periods.gather(column),
            "kind": kinds.gather((column >= past).astype(np.int64)),
            "method": pl.repeat(project.method, len(column), eager=True),
            **{name: pl.Series(values[series, column], nan_to_null=True) for name, values in known.items()},
        }
    )


def as_csv(frame: pl.DataFrame) -> str:
    """A table as CSV: figures at full precision, whole ones plain, and text that no program runs."""
    texts = [name for name, kind in frame.schema.items() if kind == pl.String]
    numbers = [name for name, kind in frame.schema.items() if kind == pl.Float64]
    written = frame.with_columns(
        *(pl.col(name).str.replace(_RUNS, "'$0") for name in texts), *(_number(name) for name in numbers)
    )
    safe = {name: pl.Series([name]).str.replace(_RUNS, "'$0")[0] for name in frame.columns}
    return written.rename(safe).write_csv()


def _number(name: str) -> pl.Expr:
    value = pl.col(name)
    whole = (value == value.floor()) & (value.abs() < _WHOLE)
    return (
        pl.when(whole)
        .then(value.cast(pl.Int64, strict=False).cast(pl.String))
        .otherwise(value.cast(pl.String))
    )


def as_json(frame: pl.DataFrame) -> str:
    """A table as a JSON array of objects; null where not known."""
    return frame.write_json() + "\n"
