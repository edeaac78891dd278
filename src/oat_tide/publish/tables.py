"""Figures as tables: the view at hand."""

from __future__ import annotations

import csv
import io
import math
from dataclasses import dataclass

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.periods.calendar import date_of
from oat_tide.core.series.panel import INCOMPLETE
from oat_tide.session import Session
from oat_tide.stages.deck import Deck, Figure


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


@dataclass(frozen=True, slots=True)
class View:
    """The rows of a stage as they stand; what is made anew meanwhile changes nothing of them.

    Attributes:
        values: (series, columns) of each row.
    """

    deck: Deck
    dimensions: tuple[str, ...]
    as_of: str
    rows: tuple[Figure, ...]
    values: tuple[Values, ...]


def view_of(session: Session, stage: str) -> View:
    """The rows of a stage that are in sight."""
    deck = session.shown(stage)
    as_of = date_of(session.grid.last_day(session.as_of)).isoformat()
    rows = deck.rows
    return View(deck, session.reading.dimensions, as_of, rows, tuple(row.values for row in rows))


def view_csv(view: View) -> str:
    """The rows as CSV: a line a period, a column a row of the tide table."""
    sink = io.StringIO()
    out = csv.writer(sink, lineterminator="\n")
    names = [f"{row.label} ({row.unit})" if row.unit else row.label for row in view.rows]
    out.writerow(map(text, [*view.dimensions, "period", phrase("as of"), "part", *names]))
    days = [first_day(view.deck, column) for column in range(view.deck.columns)]
    for series, key in enumerate(view.deck.keys):
        members = ["all" if member is None else text(member) for member in key]
        for column, day in enumerate(days):
            part = "part" if view.deck.flags[series, column] & INCOMPLETE else ""
            cells = [number(float(values[series, column])) for values in view.values]
            out.writerow([*members, day, view.as_of, part, *cells])
    return sink.getvalue()
