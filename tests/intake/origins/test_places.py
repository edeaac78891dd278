"""Folders, several files as one source, typed figures, and the ways of reading that can be chosen."""

from __future__ import annotations

import shutil

from oat_tide.core.user_error import UserError
from oat_tide.core.working.tree import Ref, SalesLines
from oat_tide.documents import open_document, open_sources, save_document
from oat_tide.plan.edits import edit
from oat_tide.plan.parts.sources import Sources
from oat_tide.plan.paths import P
from oat_tide.session import Session
from tests.helpers import FolderCase, daily, wavy
from tests.intake.test_awkward import FOLDER, session_of


def typed(text: str) -> Session:
    """A plan on typed figures."""
    return open_sources(Sources(typed=text)).session


class Together(FolderCase):
    def yearly(self) -> tuple[int, int]:
        """A file a year in a folder; how many lines each holds."""
        inside = self.folder / "years"
        inside.mkdir()
        for year, days in ((2023, 365), (2024, 366)):
            (inside / f"sales-{year}.csv").write_text(daily(days, wavy, start=f"{year}-01-01"))
        (inside / "readme.md").write_text("no sales")
        return 365 * 3, 366 * 3

    def test_a_folder_is_one_source_file_by_file(self) -> None:
        first, second = self.yearly()
        session = open_document(self.folder / "years").session
        reading = session.reading
        self.assertEqual([file.read.lines for file in reading.files], [first, second])
        self.assertEqual(reading.source, "years, 2 files")
        self.assertEqual(sum(float(file.used.amount) for file in reading.files), reading.total_used)
        working = session.explain(Ref("intake", "actual", 0, 3))
        assert isinstance(working, SalesLines)
        listing = session.lines(working)
        self.assertEqual(listing.columns[0].name, "file")

    def test_a_folder_is_read_again_as_it_grows(self) -> None:
        self.yearly()
        session = open_document(self.folder / "years").session
        (self.folder / "years" / "sales-2025.csv").write_text(daily(30, wavy, start="2025-01-01"))
        session.do(edit(P.sources.taken, 1))
        session.prepare()
        self.assertEqual(len(session.reading.files), 3)
        session.undo()
        self.assertEqual(len(session.reading.files), 2)

    def test_files_of_another_shape_are_refused_by_name(self) -> None:
        self.yearly()
        (self.folder / "years" / "x.csv").write_text("a,b\n1,2\n")
        with self.assertRaises(UserError) as caught:
            open_document(self.folder / "years")
        self.assertIn("x.csv has other columns than sales-2023.csv", str(caught.exception))

    def test_a_column_that_one_file_lacks_is_empty_there(self) -> None:
        one = self.file("date,product,cases\n2024-01-01,Bran,3\n2024-01-02,Oats,4\n", "one.csv")
        two = self.file("date,cases\n2024-02-01,5\n2024-02-02,6\n", "two.csv")
        session = open_sources(Sources(places=(str(one), str(two)))).session
        self.assertEqual(session.reading.total_used, 18)
        self.assertEqual(session.reading.members, (("(blank)", "Bran", "Oats"),))

    def test_what_is_not_there(self) -> None:
        (self.folder / "empty").mkdir()
        for place, word in (("gone.csv", "does not exist"), ("empty", "holds no sales files")):
            with self.assertRaises(UserError) as caught:
                open_document(self.folder / place)
            self.assertIn(word, str(caught.exception))

    def test_a_plan_finds_the_files_beside_it_and_says_when_they_are_gone(self) -> None:
        self.file(daily(40, wavy))
        session = open_document(self.folder / "sales.csv").session
        save_document(session, "intake", self.folder / "p.oattide")
        moved = self.folder / "elsewhere"
        moved.mkdir()
        shutil.move(self.folder / "p.oattide", moved)
        gone = open_document(moved / "p.oattide")
        self.assertIn("sales.csv: not where it was", gone.notice)
        self.assertEqual(gone.session.reading.used, 120)
        shutil.move(self.folder / "sales.csv", moved)
        self.assertEqual(open_document(moved / "p.oattide").notice, "")


class Typed(FolderCase):
    def test_short_lists_become_a_series(self) -> None:
        for text, total, first, kind in (
            ("2019 1200, 2020 1340, 2021 1,500", 4040, "2019", "year"),
            ("2019: 1200\n2020: 1300\n2021: 1450.5", 3950.5, "2019", "year"),
            ("1200 1340 1290", 3830, "2020", "year"),
            ("Jan\t10\nFeb\t12\nMar\t14", 36, "Jan 2020", "month"),
            ("month\tcases\n2024-01\t5\n2024-02\t6\n", 11, "Jan 2024", "month"),
            ("2024-01;5,5\n2024-02;6,25", 11.75, "Jan 2024", "month"),
            ("2023 Q1 10\n2023 Q2 12\n2023 Q3 9", 31, "Q1 2023", "quarter"),
        ):
            with self.subTest(text):
                session = typed(text)
                self.assertEqual(session.reading.total_used, total)
                self.assertEqual(session.grid.label(session.panel.first), first)
                self.assertEqual(session.grid.kind, kind)

    def test_a_first_year_can_be_told(self) -> None:
        session = typed("1200 1340 1290")
        self.assertTrue(session.reading.asks_year)
        session.do(edit(P.intake.first_year, 2017))
        self.assertEqual(session.grid.label(session.panel.first), "2017")
        self.assertFalse(session.reading.asks_year)

    def test_what_holds_no_figures_is_refused(self) -> None:
        for text in ("hello", "   \n ", "one two three"):
            with self.subTest(text), self.assertRaises(UserError):
                typed(text)

    def test_it_is_saved_with_the_plan(self) -> None:
        save_document(typed("2019 5, 2020 6"), "intake", self.folder / "p.oattide")
        again = open_document(self.folder / "p.oattide")
        self.assertEqual((again.notice, again.session.reading.total_used), ("", 11))


class Chosen(FolderCase):
    def test_encoding_and_delimiter_can_be_set_against_the_guess(self) -> None:
        path = self.file("date;goods;cases\n2024-01-02;Müsli, fine;3\n".encode("cp1252"))
        place = (str(path),)
        session = open_sources(Sources(places=place)).session
        self.assertIn("Windows-1252, separated by semicolons", session.reading.files[0].form)
        session.do(edit(P.sources.delimiter, "commas"))
        with self.assertRaises(UserError):
            session.prepare()
        session.undo()
        session.do(edit(P.sources.encoding, "Windows-1252"))
        session.prepare()
        self.assertEqual(session.reading.used, 1)
        with self.assertRaises(UserError) as caught:
            open_sources(Sources(places=place, encoding="UTF-16"))
        self.assertIn("sales.csv", str(caught.exception))

    def test_quotes_can_be_plain_marks(self) -> None:
        text = 'date,size,cases\n2024-01-02,"5,3\n2024-01-03,7",4\n2024-01-04,9",5\n'
        path = self.file(text)
        session = open_sources(Sources(places=(str(path),), quotes="no quoting")).session
        self.assertEqual((session.reading.used, session.reading.total_used), (3, 12))

    def test_the_decimal_mark_can_be_set(self) -> None:
        session = self.opened("month;cases\n2024-01;1.234\n2024-02;2.500\n")
        self.assertEqual(session.reading.total_used, 3734)
        session.do(edit(P.intake.decimal, "point"))
        self.assertAlmostEqual(session.reading.total_used, 3.734)

    def test_figures_that_run_on_are_recognised_and_taken_apart(self) -> None:
        session = session_of("to-date.csv")
        self.assertTrue(session.reading.may_run_on)
        session.do(edit(P.intake.running, True))
        # 2022 gives 10 a month and 2023 gives 11.
        self.assertEqual(session.panel.values[0].tolist(), [10.0] * 12 + [11.0] * 12)
        self.assertEqual(session.reading.total_used, 12 * 21)

    def test_a_table_can_be_left_as_it_stands(self) -> None:
        self.assertEqual(session_of("year-month.csv").plan.intake.date, "year + month")
        session = session_of("year-month.csv")
        session.do(edit(P.intake.shape, "as it stands"))
        reading = session.reading
        self.assertEqual((reading.date, reading.grid.kind), ("year", "year"))
        session.do(edit(P.intake.date, "when"))
        with self.assertRaises(UserError) as caught:
            session.prepare()
        self.assertIn("no column “when”", str(caught.exception))

    def test_the_folder_of_awkward_files_is_no_single_source(self) -> None:
        with self.assertRaises(UserError):
            open_document(FOLDER)
