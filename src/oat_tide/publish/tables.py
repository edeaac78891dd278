"""Figures as tables: the view at hand, and projections of every series."""

from __future__ import annotations

import csv
import io
import json
import math
from collections.abc import Iterator
from typing import Any

from oat_tide.core.periods.calendar import date_of
from oat_tide.core.series.panel import PART
from oat_tide.session import Session
from oat_tide.stages.deck import Deck


def number(value: float) -> str:
    """A number at full precision, plain; empty where there is none."""
    if math.isnan(value):
        return ""
    return str(int(value)) if value == int(value) and abs(value) < 2**53 else repr(float(value))


def text(cell: str) -> str:
    """Text of the data as a cell that no program takes for a formula and runs."""
    return "'" + cell if cell.startswith(("=", "+", "-", "@", "\t", "\r")) else cell


def first_day(deck: Deck, column: int) -> str:
    """The first day of a column's period, in ISO form; the name of a column that is no period."""
    if deck.axis is not None:
        return deck.axis.full[column]
    return date_of(deck.grid.first_day(deck.first + column)).isoformat()


def view_csv(session: Session, stage: str) -> str:
    """The rows of a stage as CSV: a line a period, a column a row of the tide table."""
    deck, dimensions = session.deck(stage), session.reading.dimensions
    sink = io.StringIO()
    out = csv.writer(sink, lineterminator="\n")
    names = [f"{row.label} ({row.unit})" if row.unit else row.label for row in deck.rows]
    out.writerow(map(text, [*dimensions, "period", "as of", "part", *names]))
    as_of = date_of(session.grid.last_day(session.as_of)).isoformat()
    for series, key in enumerate(deck.keys):
        members = ["all" if member is None else text(member) for member in key]
        for column in range(deck.columns):
            part = "part" if deck.flags[series, column] & PART else ""
            cells = [number(float(row.values[series, column])) for row in deck.rows]
            out.writerow([*members, first_day(deck, column), as_of, part, *cells])
    return sink.getvalue()


def projection_rows(
    session: Session, deck: Deck, probabilities: tuple[float, ...]
) -> Iterator[dict[str, Any]]:
    """One tidy row for each series and period that is fitted or projected.

    Args:
        deck: of Project, for every series.
        probabilities: of the intervals, in percent.

    Yields:
        The key columns, period, kind, method, value, lower_80, upper_80 ..., actual; None where not known.
    """
    method = session.plan.project.method
    for series, key in enumerate(deck.keys):
        for column in range(deck.columns):
            kind = "projected" if column >= deck.past else "fitted"
            value = _known(deck, kind, series, column)
            if value is None:
                continue
            row: dict[str, Any] = dict(zip(session.reading.dimensions, key, strict=True))
            row |= {"period": first_day(deck, column), "kind": kind, "method": method, "value": value}
            for probability in probabilities:
                for side in ("lower", "upper"):
                    row[f"{side}_{probability:g}"] = _known(deck, f"{side}_{probability:g}", series, column)
            part = deck.flags[series, column] & PART
            row["actual"] = None if part else _known(deck, "actual", series, column)
            yield row


def _known(deck: Deck, figure: str, series: int, column: int) -> float | None:
    value = float(deck.figures[figure].values[series, column])
    return None if math.isnan(value) else value


def rows_csv(rows: list[dict[str, Any]]) -> str:
    """Rows of one shape as CSV, values at full precision."""
    sink = io.StringIO()
    out = csv.writer(sink, lineterminator="\n")
    out.writerow(map(text, rows[0]))
    for row in rows:
        out.writerow(
            "" if v is None else number(v) if isinstance(v, float) else text(v) for v in row.values()
        )
    return sink.getvalue()


def rows_json(rows: list[dict[str, Any]]) -> str:
    """Rows as a JSON array of objects; null where not known."""
    return json.dumps(rows, ensure_ascii=False, indent=1) + "\n"
