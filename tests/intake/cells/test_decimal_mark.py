"""The decimal mark: by what can be read in one way only, else by what stands beside it, else it is asked."""

from __future__ import annotations

import datetime as dt
from decimal import Decimal
from pathlib import Path
from typing import Any

import polars as pl
import xlsxwriter
from hypothesis import given, settings
from hypothesis import strategies as st

from oat_tide.core.series.reading import DecimalMark
from oat_tide.documents import Document, open_document, save_document
from oat_tide.intake.cells.columns import Beside, Coder, much
from oat_tide.intake.cells.numbers import TYPED
from oat_tide.intake.table import Table
from oat_tide.plan.edits import edit
from oat_tide.plan.paths import P
from oat_tide.session import Session
from oat_tide.stages.deck import Choice, Note
from tests.helpers import FolderCase, ods


def read(cells: list[str], beside: Beside = Beside("by content")) -> tuple[list[float], DecimalMark]:  # noqa: B008
    """The figures of a column, and how they were read."""
    frame = pl.DataFrame({"c": cells}, schema={"c": pl.String})
    found = much("c", Coder(Table.of(frame)), beside)
    return found.spread(found.number).tolist(), found.mark


class Deciding(FolderCase):
    def test_a_cell_with_one_reading_decides_for_those_with_two(self) -> None:
        for cells, figures in (
            (["174.896", "188.591", "187.63"], [174.896, 188.591, 187.63]),
            (["14,763", "15,2"], [14.763, 15.2]),
            (["1.234", "1.234.567"], [1234, 1234567]),
            (["1,234", "1,234.56"], [1234, 1234.56]),
            (["1.234", "0.500"], [1.234, 0.5]),
            (["1,234", "1.234,5"], [1.234, 1234.5]),
        ):
            with self.subTest(cells):
                found, mark = read(cells)
                self.assertEqual(found, figures)
                self.assertEqual(mark.by, "column")

    def test_a_cell_with_one_reading_is_read_so_whatever_the_others_say(self) -> None:
        found, mark = read(["15,2", "14,9", "1.234", "187.63"])
        self.assertEqual(found, [15.2, 14.9, 1234, 187.63])
        self.assertEqual((mark.comma, mark.against), (True, 1))

    def test_other_columns_speak_before_what_stands_between_the_fields(self) -> None:
        for text, figure, by in (
            ("day;cases;price\n2024-01-01;1.234;2.50\n2024-01-02;1.180;2.75", 1.234, "other columns"),
            ("day;cases;price\n2024-01-01;1.234;2,50\n2024-01-02;1.180;2,75", 1234, "other columns"),
            ("day;cases\n2024-01-01;1.234\n2024-01-02;1.180", 1234, "separator"),
            ('day,cases\n2024-01-01,"1,234"\n2024-01-02,"1,180"', 1234, "separator"),
            ("day,cases\n2024-01-01,1.234\n2024-01-02,1.180", 1.234, "separator"),
        ):
            with self.subTest(text):
                session = self.opened(text)
                mark = session.reading.mark
                self.assertEqual((mark.value, mark.by, mark.asks), (figure, by, False))

    def test_where_nothing_settles_it_it_is_asked_with_both_readings_and_nothing_ties(self) -> None:
        session = self.opened("day\tcases\n2024-01-01\t174.896\n2024-01-02\t188.591\n")
        mark = session.reading.mark
        self.assertEqual((mark.text, mark.value, mark.other, mark.asks), ("174.896", 174.896, 174896, True))
        deck = session.deck("intake")
        self.assertIn("decimal mark?", deck.finding(0))
        self.assertNotIn("tie", deck.title(0))
        asked = next(item for item in deck.sheet() if isinstance(item, Choice))
        self.assertIn("“174.896” read as 174.896 and not as 174,896", asked.text)
        for (_, way), figure in zip(asked.outcomes, (174.896, 174896), strict=True):
            assert way is not None
            session.do(way)
            self.assertEqual(session.reading.mark.value, figure)
            self.assertFalse(session.reading.mark.asks)
            self.assertIn("2 lines tie", session.deck("intake").finding(0))

    def test_bare_figures_beside_open_ones_speak_for_thousands(self) -> None:
        self.assertEqual(read(["1.234", "980", "2.011"])[0], [1234, 980, 2011])
        self.assertEqual(read(["1,234", "980", "2,011"])[0], [1234, 980, 2011])
        self.assertEqual(read(["1.234", "2.011"])[0], [1.234, 2.011])

    @settings(deadline=None, max_examples=60)
    @given(st.lists(st.integers(0, 10**9), min_size=2, max_size=12), st.integers(0, 5), st.booleans())
    def test_figures_written_with_grouping_are_read_back(
        self, units: list[int], places: int, comma: bool
    ) -> None:
        group, mark = (".", ",") if comma else (",", ".")
        swap = str.maketrans(",.", group + mark)
        cells = [f"{Decimal(unit).scaleb(-places):,}".translate(swap) for unit in units]
        asked = Beside("comma" if comma else "point")
        self.assertEqual(read(cells, asked)[0], [float(Decimal(unit).scaleb(-places)) for unit in units])


class TypedCells(FolderCase):
    def book(self, rows: list[tuple[object, object]]) -> Path:
        """A sheet of months and figures: numbers are number cells, texts are text."""
        path = self.folder / "book.xlsx"
        book: Any = xlsxwriter.Workbook(path)
        sheet = book.add_worksheet("S")
        dated = book.add_format({"num_format": "yyyy-mm-dd"})
        sheet.write_row(0, 0, ["month", "kg"])
        for place, (month, figure) in enumerate(rows, 1):
            sheet.write_datetime(place, 0, month, dated)
            (sheet.write_number if isinstance(figure, float) else sheet.write_string)(place, 1, figure)
        book.close()
        return path

    @staticmethod
    def months(count: int) -> list[dt.datetime]:
        """The first of some months."""
        return [dt.datetime(2024, month, 1) for month in range(1, count + 1)]

    def assert_months(self, session: Session, figures: list[float]) -> None:
        self.assertEqual(session.panel.values[0].tolist(), figures)
        self.assertTrue(session.tie.ties)

    def test_number_cells_are_numbers(self) -> None:
        figures = [174.896, 188.591, 187.63, 190.0]
        rows = list(zip(self.months(4), figures, strict=True))
        self.assert_months(open_document(self.book(rows)).session, figures)  # type: ignore[arg-type]
        path = ods(self.folder / "b.ods", [["month", "kg"], *([m.date(), f] for m, f in rows)])
        self.assert_months(open_document(path).session, figures)

    def test_a_text_cell_beside_them_is_read_on_its_own(self) -> None:
        months = self.months(5)
        cells: list[object] = [174.896, 1.5, "2.345", "14,5", "1.234,5"]
        session = open_document(self.book(list(zip(months, cells, strict=True)))).session
        # The texts speak for the comma; the number cells stay what they are.
        self.assert_months(session, [174.896, 1.5, 2345, 14.5, 1234.5])
        self.assertEqual(session.reading.preview[0][1], "174.896")
        lines = [["month", "kg"], *([m.date(), c] for m, c in zip(months, cells, strict=True))]
        self.assert_months(
            open_document(ods(self.folder / "b.ods", lines)).session, [174.896, 1.5, 2345, 14.5, 1234.5]
        )

    def test_they_stay_numbers_in_a_saved_plan(self) -> None:
        cells: list[object] = [174.896, 1.5, "14,5"]
        session = open_document(self.book(list(zip(self.months(3), cells, strict=True)))).session
        path = self.folder / "kept.oattide"
        save_document(session, "intake", path)
        again: Document = open_document(path)
        self.assert_months(again.session, [174.896, 1.5, 14.5])

    def test_what_a_workbook_stores_beyond_fifteen_digits_is_noise(self) -> None:
        from oat_tide.intake.origins.cell_types import Corner

        frame = pl.DataFrame({"0": ["34.379999999999995", "0.30000000000000004", "2.5", "7"]})
        told = Corner(1, 0, {}, None).typed(frame)["0"].to_list()
        self.assertEqual(told, [f"34.38{TYPED}", f"0.3{TYPED}", f"2.5{TYPED}", "7"])

    def test_number_columns_of_parquet_and_databases_are_numbers(self) -> None:
        frame = pl.DataFrame({"month": [m.date() for m in self.months(3)], "kg": [174.896, 188.591, 187.631]})
        path = self.folder / "kg.parquet"
        frame.write_parquet(path)
        self.assert_months(open_document(path).session, [174.896, 188.591, 187.631])
        frame.with_columns(pl.col("kg").cast(pl.Decimal(9, 3))).write_parquet(path)
        self.assert_months(open_document(path).session, [174.896, 188.591, 187.631])


class Decimals(FolderCase):
    def test_all_decimals_are_kept(self) -> None:
        session = self.opened("month,kg\n2024-01,0.12345678\n2024-02,1.00000001\n2024-03,2\n")
        self.assertEqual(session.panel.values[0].tolist(), [0.12345678, 1.00000001, 2])
        self.assertEqual((session.panel.scale, session.reading.exact), (1e8, True))
        self.assertEqual(session.tie.source, Decimal("3.12345679"))

    def test_where_they_cannot_be_exact_the_tie_out_says_so(self) -> None:
        session = self.opened("month,kg\n2024-01,900719925474099.5\n2024-02,0.001\n2024-03,0.002\n")
        self.assertEqual(session.panel.values[0].tolist(), [900719925474099.5, 0.001, 0.002])
        self.assertFalse(session.reading.exact)
        self.assertTrue(session.tie.ties)
        notes = [item.text(0) for item in session.deck("intake").sheet() if isinstance(item, Note)]
        words = " ".join(notes)
        self.assertIn("They tie to 15 digits", words)

    def test_a_sum_beyond_whole_units_is_no_reason_to_refuse(self) -> None:
        for large in ("4e20", "12345678901234567", "9007199254740993"):
            with self.subTest(large):
                session = self.opened(f"month,kg\n2024-01,{large}\n2024-02,7\n2024-03,5\n")
                self.assertEqual(session.panel.values[0].tolist(), [float(large), 7, 5])
                self.assertEqual((session.reading.exact, session.tie.ties), (False, True))

    def test_the_mark_can_be_set_on_the_plan(self) -> None:
        session = self.opened("day;cases\n2024-01-01;1.234\n2024-01-02;1.180")
        session.do(edit(P.intake.decimal, "point"))
        self.assertEqual(session.reading.total_used, 2.414)
