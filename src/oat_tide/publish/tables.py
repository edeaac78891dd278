"""Figures as tables: the view at hand."""

from __future__ import annotations

import csv
import io
import math

from oat_tide.core.periods.calendar import date_of
from oat_tide.core.series.panel import PART
from oat_tide.session import Session
from oat_tide.stages.deck import Deck


def number(value: float) -> str:
    """A number at full precision, plain; empty where there is none."""
    if math.isnan(value):
        return ""
    if value == int(value) and abs(value) < 2**53:
        return str(int(value))
    # Fifteen digits are all that a double holds for certain; what follows is noise of the reckoning.
    return repr(float(f"{value:.15g}"))


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
    deck, dimensions = session.shown(stage), session.reading.dimensions
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
