"""Workbooks: sheets and blocks, real and written dates, errors, and what is no honest workbook."""

from __future__ import annotations

import datetime as dt
import re
import time
import zipfile
from pathlib import Path
from typing import Any
from unittest import mock

import xlsxwriter

from oat_tide.core.user_error import Stopped, UserError
from oat_tide.documents import open_document, open_sources
from oat_tide.intake.origins import workbook
from oat_tide.intake.origins.workbook import open_workbook
from oat_tide.intake.table import ROW
from oat_tide.plan.edits import edit
from oat_tide.plan.parts.sources import Sources
from oat_tide.plan.paths import P
from tests.helpers import FolderCase, ods


class Books(FolderCase):
    def book(self, name: str = "book.xlsx") -> Path:
        """A sheet a year with a title, real and written dates, a day number and an error; and others."""
        path = self.folder / name
        book: Any = xlsxwriter.Workbook(path)
        dated = book.add_format({"num_format": "yyyy-mm-dd"})
        for year in (2023, 2024):
            sheet = book.add_worksheet(str(year))
            sheet.write(1, 1, f"Sales of {year}")
            sheet.write_row(4, 2, ["date", "product", "cases"])
            for i in range(20):
                day = dt.datetime(year, 1, 1) + dt.timedelta(days=9 * i)
                sheet.write_datetime(5 + i, 2, day, dated)
                sheet.write_row(5 + i, 3, [("Bran", "Oats")[i % 2], 3.5 + i])
            sheet.write_formula(9, 4, "=1/0", None, "#DIV/0!")
            sheet.write(10, 2, 45300)
            sheet.write(11, 2, f"17/03/{year}")
            sheet.write_row(40, 8, ["day", "cases"])
            sheet.write_row(41, 8, ["2024-05-01", 7])
            sheet.write_row(42, 8, ["2024-05-02", 8])
        book.add_worksheet("remarks").write(0, 0, "nothing to add up")
        hidden = book.add_worksheet("prices")
        hidden.write_row(0, 0, ["product", "price"])
        hidden.write_row(1, 0, ["Bran", 3])
        hidden.hide()
        book.close()
        return path

    def test_sheets_of_one_shape_are_one_source(self) -> None:
        session = open_document(self.book()).session
        reading = session.reading
        self.assertEqual([file.name for file in reading.files], ["book.xlsx · 2023", "book.xlsx · 2024"])
        self.assertEqual((reading.read, reading.used, reading.aside), (40, 38, 2))
        # 3.5 to 22.5 by ones, without the fifth, in both years.
        self.assertEqual(reading.total_used, 2 * (sum(3.5 + i for i in range(20)) - 7.5))
        self.assertEqual(reading.offers.sheets, ("2023", "2024", "remarks", "prices"))
        self.assertEqual(reading.offers.hidden, ("prices",))
        self.assertIn("Hidden sheets: prices.", reading.notes)
        shown = {pattern.shown: pattern.count for pattern in reading.patterns}
        self.assertEqual(shown, {"2024-03-05": 36, "45356, a day number": 2, "05/03/2024": 2})

    def test_rows_are_numbered_as_in_the_workbook_and_errors_say_what_they_are(self) -> None:
        source = open_workbook(self.book(), Sources(sheets=("2024",)))
        self.assertEqual(source.frame[ROW].to_list(), list(range(6, 26)))
        session = open_document(self.folder / "book.xlsx").session
        asides = session.reading.list_aside(0, 9)
        self.assertEqual(asides[0][:3], ("book.xlsx · 2023", 10, "number cannot be read"))
        self.assertIn("#DIV/0!", asides[0][3])

    def test_another_sheet_and_another_block_by_edits_of_the_plan(self) -> None:
        session = open_document(self.book()).session
        session.do(edit(P.sources.sheets, ("2024",)))
        session.prepare()
        self.assertEqual(session.reading.read, 20)
        self.assertEqual(session.reading.files[0].form, "workbook, block 1 of 2")
        session.do(edit(P.sources.block, 2))
        with self.assertRaises(UserError):
            session.prepare()
        second = open_sources(Sources(places=(str(self.folder / "book.xlsx"),), sheets=("2024",), block=2))
        self.assertEqual(second.session.reading.total_used, 15)
        for ask, word in (
            (Sources(sheets=("gone",)), "no sheet “gone”"),
            (Sources(sheets=("2024",), block=5), "2 blocks"),
            (Sources(sheets=("remarks",)), "no table"),
        ):
            with self.assertRaises(UserError) as caught:
                open_workbook(self.folder / "book.xlsx", ask)
            self.assertIn(word, str(caught.exception))
            self.assertIn("book.xlsx", str(caught.exception))

    def test_a_table_goes_on_below_an_empty_row(self) -> None:
        path = self.folder / "gaps.xlsx"
        book: Any = xlsxwriter.Workbook(path)
        sheet = book.add_worksheet("s")
        sheet.write_row(0, 0, ["month", "cases"])
        for row, month in enumerate(("2024-01", "2024-02", "", "2024-03", "2024-04"), 1):
            if month:
                sheet.write_row(row, 0, [month, row])
        book.close()
        session = open_document(path).session
        self.assertEqual(session.reading.total_used, 1 + 2 + 4 + 5)
        self.assertEqual(session.source.frame[ROW].to_list(), [2, 3, 5, 6])

    def test_ods(self) -> None:
        days = [dt.date(2024, 1, 1) + dt.timedelta(days=i) for i in range(40)]
        rows = [["date", "product", "cases"], *([day, "Bran", i] for i, day in enumerate(days))]
        path = ods(self.folder / "sales.ods", rows)
        session = open_document(path).session
        self.assertEqual(session.reading.total_used, sum(range(40)))
        self.assertEqual(session.source.frame[ROW][0], 5)
        self.assertEqual(session.reading.files[0].name, "sales.ods · Sheet one")

    def test_cells_far_apart_are_read_with_the_rows_that_they_stand_in(self) -> None:
        path = self.folder / "far.xlsx"
        book: Any = xlsxwriter.Workbook(path)
        sheet = book.add_worksheet("s")
        sheet.write(0, 16_383, "a stray word")
        at = [7, 8, 9, 700_000, 1_048_575]
        sheet.write_row(at[0], 800, ["month", "cases"])
        for place, row in enumerate(at[1:], 1):
            sheet.write_row(row, 800, [f"2024-0{place}", 1.125 * place])
        book.close()
        session = open_document(path).session
        self.assertEqual(session.source.frame[ROW].to_list(), [row + 1 for row in at[1:]])
        self.assertEqual(session.reading.total_used, 1.125 * (1 + 2 + 3 + 4))
        self.assertTrue(session.tie.ties)

    def test_cells_that_say_they_stand_beyond_any_sheet_do_not_hold_it_up(self) -> None:
        for place in (b"DXFD3", b"ABCDEFG3", b"B99999999"):
            path = self.folder / "beyond.xlsx"
            book: Any = xlsxwriter.Workbook(path)
            sheet = book.add_worksheet("s")
            sheet.write_row(0, 0, ["month", "cases"])
            for row in range(1, 9):
                sheet.write_row(row, 0, [f"2024-0{row}", row])
            book.close()
            with zipfile.ZipFile(path) as archive:
                parts = {name: archive.read(name) for name in archive.namelist()}
            with zipfile.ZipFile(path, "w") as archive:
                for name, data in parts.items():
                    archive.writestr(name, data.replace(b'r="B3"', b'r="' + place + b'"'))
            begun = time.monotonic()
            self.assertEqual(open_document(path).session.reading.total_used, sum(range(1, 9)) - 2)
            self.assertLess(time.monotonic() - begun, 10)

    def test_an_ods_with_rows_and_columns_left_out_is_read_in_the_same_way(self) -> None:
        days = [dt.date(2024, 1, 1) + dt.timedelta(days=i) for i in range(9)]
        rows = [["date", "product", "cases"], *([day, "Bran", 1.5 * i] for i, day in enumerate(days))]
        path = ods(self.folder / "sales.ods", rows)
        with zipfile.ZipFile(path) as archive:
            held = archive.read("content.xml").decode()
        before, last, after = held.rpartition("<table:table-row>")
        far = '<table:table-row table:number-rows-repeated="900000"><table:table-cell/></table:table-row>'
        stray = '<table:table-cell table:number-columns-repeated="16000"/><table:table-cell'
        stray += ' office:value-type="string"><text:p>x</text:p></table:table-cell>'
        with zipfile.ZipFile(path, "w") as archive:
            archive.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
            text = before + far + last + after.replace("</table:table-row>", stray + "</table:table-row>", 1)
            archive.writestr("content.xml", text)
            archive.writestr("META-INF/manifest.xml", "<manifest/>")
        session = open_document(path).session
        self.assertEqual(session.reading.total_used, 1.5 * sum(range(9)))
        self.assertEqual(session.source.frame[ROW].to_list(), [*range(5, 13), 900_013])

    def test_elements_with_a_prefix_of_their_own(self) -> None:
        path = self.book()
        with zipfile.ZipFile(path) as archive:
            held = {name: archive.read(name) for name in archive.namelist()}
        for name, data in held.items():
            if "worksheets/sheet" in name:
                text = re.sub(rb"<(/?)(?=[a-zA-Z])", rb"<\1x:", data)
                held[name] = text.replace(b" xmlns=", b" xmlns:x=")
        other = self.folder / "prefixed.xlsx"
        with zipfile.ZipFile(other, "w") as archive:
            for name, data in held.items():
                archive.writestr(name, data)
        one, two = open_workbook(path).frame, open_workbook(other).frame
        self.assertEqual(one.rows(), two.rows())

    def test_damaged_locked_and_hostile_ones_are_refused_in_words(self) -> None:
        whole = self.book().read_bytes()
        cases = {
            "cut.xlsx": (whole[: len(whole) // 2], "damaged"),
            "text.xlsx": (b"PK\x03\x04 no workbook", "damaged"),
            "locked.xlsx": (b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1" + bytes(600), "password"),
        }
        for name, (data, word) in cases.items():
            with self.subTest(name), self.assertRaises(UserError) as caught:
                open_document(self.file(data, name))
            self.assertIn(word, str(caught.exception))
            self.assertIn(name, str(caught.exception))
        with mock.patch.object(workbook, "MOST_UNPACKED", 3000), self.assertRaises(UserError) as caught:
            open_workbook(self.folder / "book.xlsx")
        self.assertIn("unpacks to more than", str(caught.exception))

    def test_reading_can_be_stopped(self) -> None:
        def progress(share: float) -> None:
            raise Stopped

        with self.assertRaises(Stopped):
            open_workbook(self.book(), progress=progress)
