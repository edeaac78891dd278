"""What broken files have brought to light: each is now a source that ties, or a plain message."""

from __future__ import annotations

import datetime as dt
import os
import sqlite3
import zipfile
from pathlib import Path
from unittest import mock

import msgspec

from oat_tide.core.user_error import Unasked, UserError
from oat_tide.documents import open_document, save_document
from oat_tide.intake.origins import path_permission
from oat_tide.intake.totals import evened
from oat_tide.plan.container import load, save
from oat_tide.plan.edits import edit, put
from oat_tide.plan.paths import P, steps
from oat_tide.plan.plan import Plan
from oat_tide.refresh import look_again
from oat_tide.session import Session
from tests.helpers import FolderCase, daily, monthly, wavy

MONTHS = "Year,Jan,Feb,Mar,Apr,May,Jun,Jul,Aug,Sep,Oct,Nov,{last}\n2023,1,2,3,4,5,6,7,8,9,10,11,12\n"


class Texts(FolderCase):
    def held(self, text: str, name: str = "sales.csv") -> Session:
        """A session that ties, and is the same when it is saved and opened."""
        session = self.opened(text, name)
        self.assertTrue(session.tie.ties)
        save_document(session, "intake", self.folder / "plan.oattide")
        again = open_document(self.folder / "plan.oattide").session
        self.assertTrue(session.source.frame.equals(again.source.frame))
        self.assertEqual(session.plan, again.plan)
        return session

    def test_a_month_of_another_language_among_the_columns(self) -> None:
        session = self.held(MONTHS.format(last="Dez"))
        self.assertEqual(session.reading.total_used, sum(range(1, 13)))
        self.assertEqual(session.grid.label(session.home), "Dec 2023")

    def test_digits_of_other_scripts_and_numbers_of_any_length(self) -> None:
        for odd in ("6٣٤", "12" + "9" * 60, "9" * 30, "1" * 5000, "0." + "3" * 400, "1e-400"):
            with self.subTest(odd[:20]):
                session = self.held(f"day,cases\n2024-01-01,3\n2024-01-02,{odd}\n2024-01-03,4\n")
                self.assertGreaterEqual(session.reading.used, 2)

    def test_parts_of_a_year_with_numbers_of_any_length(self) -> None:
        for odd in ("1" + "0" * 400, "1" * 20_001):
            for head in ("year,month,cases", "year,quarter,cases", "month,cases", "year,cases"):
                cells = head.count(",") - 1
                rows = "".join(f"2023,{n},5\n" if cells else f"{n},5\n" for n in range(1, 5))
                text = f"{head}\n{rows}" + (f"2023,{odd},7\n" if cells else f"{odd},7\n")
                with self.subTest(head=head, odd=len(odd)):
                    try:
                        self.held(text)
                    except UserError as error:
                        self.assertIn("sales.csv", str(error))

    def test_a_torn_line_that_is_the_only_one(self) -> None:
        session = self.held("product,area,Jan-24,Feb-24,Mar-24\nOats,North,1,2,3\nBra")
        self.assertIn("not as many fields as the header", {each.reason for each in session.reading.asides})

    def test_a_date_that_would_ask_for_more_figures_than_there_is_room_for(self) -> None:
        text = daily(40, wavy) + "1901-01-01,Bran,North,3\n"
        with mock.patch.object(evened, "MOST_CELLS", 10_000), self.assertRaises(UserError) as caught:
            session = self.opened(text)
            session.do(edit(P.periods.kind, "day"))
            session.prepare()
        self.assertRegex(str(caught.exception), r"3 series by 4[45],\d{3} days, 1 Jan 1901 to .* 2024")


class Archives(FolderCase):
    def test_archives_that_cannot_be_listed(self) -> None:
        path = self.folder / "book.zip"
        with zipfile.ZipFile(path, "w") as archive:
            archive.writestr("notes.txt", "nothing " * 20)
        whole = path.read_bytes()
        at = whole.rindex(b"PK\x01\x02")
        for name, place, value in (("magic", at, 0x51), ("version", at + 6, 0xFF), ("name", at + 46, 0xFF)):
            data = bytearray(whole)
            data[place] = value
            if name == "name":
                data[at + 9] |= 8
            for suffix in (".ods", ".xlsx", ".csv", ".oattide"):
                with self.subTest(name + suffix), self.assertRaises(UserError) as caught:
                    open_document(self.file(bytes(data), f"sales{suffix}"))
                self.assertIn(f"sales{suffix}", str(caught.exception))

    def test_xml_that_is_not_closed_as_it_was_opened(self) -> None:
        path = self.folder / "sales.ods"
        with zipfile.ZipFile(path, "w") as archive:
            archive.writestr("content.xml", "<a><table:table></tabl:table></a>")
        with self.assertRaises(UserError) as caught:
            open_document(path)
        self.assertIn("sales.ods is damaged", str(caught.exception))


class Plans(FolderCase):
    def saved(self) -> Path:
        """A plan on a few months."""
        path = self.folder / "plan.oattide"
        save_document(self.opened(monthly([3, 4, 5, 6])), "intake", path)
        return path

    def test_lines_that_are_not_those_that_the_plan_tells_of(self) -> None:
        contents = load(self.saved())
        name, form, _ = contents.head.files[0]
        head = msgspec.structs.replace(contents.head, files=((name, form, 97_532),))
        path = self.folder / "other.oattide"
        save(path, msgspec.structs.replace(contents, head=head))
        with self.assertRaises(UserError) as caught:
            open_document(path)
        self.assertIn("other.oattide: what it holds are not sales lines", str(caught.exception))

    def naming(self, place: str, folder: Path) -> Path:
        """A plan in a folder that names a place."""
        contents = load(self.saved())
        plan = put(contents.head.plan, (*steps(P.sources), "places"), (place,))
        head = msgspec.structs.replace(contents.head, plan=plan)
        path = folder / "other.oattide"
        save(path, msgspec.structs.replace(contents, head=head))
        return path

    def test_places_that_no_file_can_have(self) -> None:
        for place in ("x" * 5000, "a\0b", "/" + "y/" * 3000):
            with self.subTest(place[:9]):
                document = open_document(self.naming(place, self.folder))
                self.assertIn("not where it was", document.notice)
                self.assertLess(len(document.notice), 400)

    def test_a_pipe_that_a_plan_names_is_not_opened(self) -> None:
        os.mkfifo(self.folder / "sales")
        session = open_document(self.naming("sales", self.folder)).session
        with self.assertRaises(UserError) as caught:
            look_again(session)
        self.assertIn("sales is a pipe", str(caught.exception))

    def test_nothing_outside_the_folder_of_a_plan_is_opened(self) -> None:
        outside = self.folder / "outside.sqlite"
        line = sqlite3.connect(outside)
        line.execute("CREATE TABLE sales AS SELECT '2020-01-01' AS month, 7 AS cases")
        line.commit()
        line.close()
        inside = self.folder / "in"
        inside.mkdir()
        path, opened, real = self.naming(str(outside), inside), list[str](), Path.open

        def noted(own: Path, *args: str, **more: str) -> object:
            opened.append(str(own))
            return real(own, *args, **more)

        with mock.patch.object(Path, "open", noted):
            session = open_document(path).session
            session.do(edit(P.intake.upto, dt.date(2020, 3, 31)))
            session.prepare()
            self.assertNotIn(str(outside), opened)
            self.assertRaises(Unasked, look_again, session)
            self.assertNotIn(str(outside), opened)
            path_permission.chosen([str(outside)])
            self.assertEqual(look_again(session).session.reading.total_used, 7)
            self.assertIn(str(outside), opened)

    def test_figures_that_cannot_be_written_down_are_refused(self) -> None:
        for value in (float("nan"), float("inf"), -float("inf")):
            with self.subTest(value), self.assertRaises(UserError) as caught:
                put(Plan(), steps(P.project.ceiling), value)
            self.assertIn("cannot be used", str(caught.exception))

    def test_days_far_out(self) -> None:
        session = self.opened(daily(200, wavy))
        session.do(edit(P.periods.weeks, "4-4-5"))
        for day in (dt.date.min, dt.date.max):
            session.do(edit(P.as_of, day))
            self.assertTrue(session.panel.first <= session.as_of <= session.home)
        with self.assertRaises(UserError) as caught:
            session.do(edit(P.intake.upto, dt.date.max))
        self.assertIn("Data end on: “9999-12-31” cannot be used", str(caught.exception))
        self.assertIn("1900 to 2200", str(caught.exception))
