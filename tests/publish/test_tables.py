"""Tables for other programs: text never runs there, figures stay figures."""

from __future__ import annotations

import csv
import io

import polars as pl

from oat_tide.publish.record import as_csv
from oat_tide.publish.tables import text, view_csv, view_of
from tests.helpers import FolderCase

RUNS = ("=1+2", "+cmd", "-2+3", "@SUM(A1)", "\t=1", "\r=1")


class Text(FolderCase):
    def test_what_a_program_could_run_is_written_as_text(self) -> None:
        for cell in RUNS:
            self.assertEqual(text(cell), "'" + cell)
        for cell in ("Oats", "2024-01-01", "a=b", "", "'x"):
            self.assertEqual(text(cell), cell)

    def test_rows_keep_their_figures(self) -> None:
        # Members and headings have no tabs or line ends in them.
        members = [cell for cell in RUNS if cell[0] not in "\t\r"]
        rows = [{"=product": cell, "value": -2.5} for cell in members]
        written = list(csv.reader(io.StringIO(as_csv(pl.DataFrame(rows)), newline="")))
        self.assertEqual(written[0], ["'=product", "value"])
        self.assertEqual(written[1:], [["'" + cell, "-2.5"] for cell in members])

    def test_a_view_of_a_file_with_such_names(self) -> None:
        rows = [f"2024-0{m}-01,{'=A' if m % 2 else 'B'},{-m}" for m in range(1, 7)]
        session = self.opened("\n".join(["date,=kind,cases", *rows]))
        written = list(csv.reader(io.StringIO(view_csv(view_of(session, "history")))))
        self.assertEqual(written[0][0], "'=kind")
        self.assertEqual([float(row[4]) for row in written[1:]], [-1, -2, -3, -4, -5, -6])
