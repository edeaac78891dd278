"""Projections of every series as a table, against a plain rule that goes row by row."""

from __future__ import annotations

import csv
import datetime as dt
import io
import json
import math
from collections.abc import Iterator

import polars as pl

from oat_tide.core.series.panel import INCOMPLETE
from oat_tide.plan.edits import edit
from oat_tide.plan.paths import P
from oat_tide.publish.record import as_csv, record, write_text
from oat_tide.publish.tables import first_day, number, text
from oat_tide.session import Session
from oat_tide.stages import STAGES
from tests.helpers import FolderCase, daily, wavy


def projections(session: Session) -> pl.DataFrame:
    """The record of Project."""
    kept = STAGES["project"].record
    assert kept is not None
    return record(session.deck("project"), session.plan.project, kept, session.reading.dimensions)


def as_json(frame: pl.DataFrame) -> str:
    file = io.StringIO()
    write_text(iter([frame]), "json", file)
    return file.getvalue()


def row_by_row(session: Session) -> Iterator[list[str]]:
    """The rows as a reader would write them down from the deck."""
    deck, figures = session.deck("project"), session.deck("project").figures
    bounds = [f"{side}_{each:g}" for each in session.plan.project.intervals for side in ("lower", "upper")]
    yield [
        text(name)
        for name in (*session.reading.dimensions, "period", "kind", "method", "value", *bounds, "actual")
    ]
    for series, key in enumerate(deck.keys):
        for column in range(deck.columns):
            kind = "projected" if column >= deck.past else "fitted"
            value = float(figures[kind].values[series, column])
            if math.isnan(value):
                continue
            more = [number(float(figures[name].values[series, column])) for name in bounds]
            actual = float(figures["actual"].values[series, column])
            part = bool(deck.flags[series, column] & INCOMPLETE)
            yield [
                *(text(str(member)) for member in key),
                first_day(deck, column),
                kind,
                session.plan.project.method,
                number(value),
                *more,
                "" if part else number(actual),
            ]


class Projections(FolderCase):
    def every(self, source: str) -> Session:
        first = self.opened(source)
        session = Session(first.source, first.plan, every=True)
        session.share(first)
        return session

    def test_the_same_as_row_by_row(self) -> None:
        session = self.every(daily(460, wavy, start="2024-01-10"))
        for edits in (
            [],
            [edit(P.as_of, dt.date(2024, 11, 30)), edit(P.project.method, "growth")],
            [edit(P.project.intervals, (50.0, 99.5)), edit(P.project.horizon, 2)],
            [edit(P.periods.kind, "week")],
        ):
            for each in edits:
                session.do(each)
            written = list(csv.reader(io.StringIO(as_csv(projections(session)))))
            wanted = list(row_by_row(session))
            self.assertEqual(written[0], wanted[0])
            self.assertEqual(len(written), len(wanted))
            for one, other in zip(written[1:], wanted[1:], strict=True):
                places = len(session.reading.dimensions) + 3
                self.assertEqual(one[:places], other[:places])
                for found, exact in zip(one[places:], other[places:], strict=True):
                    self.assertEqual(bool(found), bool(exact))
                    self.assertTrue(not found or math.isclose(float(found), float(exact), rel_tol=1e-14))
                    self.assertLessEqual(len(found.strip("-0.").replace(".", "")), 15, "noise")

    def test_whole_figures_are_plain_and_names_are_no_formulas(self) -> None:
        rows = [f"2024-{month:02d}-01,=1+{item},{month * 10}" for month in range(1, 7) for item in (1, 2)]
        session = self.every("\n".join(["month,=item,cases", *rows]))
        written = as_csv(projections(session)).splitlines()
        self.assertTrue(written[0].startswith("'=item,period,kind,method,value,lower_80"))
        self.assertTrue(written[1].startswith("'=1+1,2024-01-01,fitted,line,10,,"), written[1])
        self.assertTrue(written[1].endswith(",10"))

    def test_json_holds_null_where_nothing_is_known(self) -> None:
        session = self.every(daily(460, wavy))
        objects = json.loads(as_json(projections(session)))
        self.assertEqual(objects[0]["kind"], "fitted")
        self.assertIsNone(objects[0]["lower_80"])
        self.assertEqual(len(objects), len(list(row_by_row(session))) - 1)
