"""What is no file, or no honest one: a plain message, or a source that ties; never a hang."""

from __future__ import annotations

import datetime as dt
import os
import sqlite3
from pathlib import Path

import polars as pl

from oat_tide.core.user_error import UserError
from oat_tide.documents import open_document, save_document
from oat_tide.refresh import look_again
from tests.helpers import FolderCase


class OddFiles(FolderCase):
    def refused(self, path: Path, said: str) -> None:
        with self.subTest(said), self.assertRaises(UserError) as caught:
            open_document(path)
        self.assertIn(said, str(caught.exception))

    def test_what_waits_or_never_ends_is_not_opened(self) -> None:
        for name in ("sales.csv", "plan.oattide"):
            os.mkfifo(self.folder / name)
            self.refused(self.folder / name, f"{name} is a pipe, a device or a socket")
        self.refused(Path("/dev/zero"), "zero is a pipe, a device or a socket")
        # In a folder they are passed by.
        self.file("day,cases\n2024-01-01,3\n2024-01-02,4\n", "more.csv")
        self.assertEqual(open_document(self.folder).session.reading.used, 2)

    def test_names_that_no_file_can_have_or_no_plan_can_keep(self) -> None:
        self.refused(Path(f"{self.folder}/sales\0.csv"), "cannot be opened")
        self.refused(Path("/" + "s" * 5000), "File name too long")

    def test_names_that_are_not_utf_8_are_saved_and_read_again(self) -> None:
        frame = pl.DataFrame({"day": [dt.date(2024, 1, 1), dt.date(2024, 1, 2)], "cases": [3, 4]})
        for folder in (b"", b"/\xe9t\xe9"):
            home = os.fsdecode(os.fsencode(self.folder) + folder)
            Path(home).mkdir(exist_ok=True)
            for name in (b"caf\xe9.csv", b"caf\xe9.parquet", b"caf\xe9.sqlite"):
                path = Path(home) / os.fsdecode(name)
                if path.suffix == ".csv":
                    path.write_bytes(frame.write_csv().encode())
                elif path.suffix == ".parquet":
                    frame.write_parquet(self.folder / "plain")
                    (self.folder / "plain").rename(path)
                else:
                    line = sqlite3.connect(os.fsencode(path))
                    line.execute("CREATE TABLE sales AS SELECT '2024-01-01' AS day, 7 AS cases")
                    line.commit()
                    line.close()
                with self.subTest(name):
                    session = open_document(path).session
                    self.assertIn("caf\N{REPLACEMENT CHARACTER}", session.reading.source)
                    plan = Path(home) / "plan.oattide"
                    save_document(session, "intake", plan)
                    again = open_document(plan)
                    self.assertEqual(again.notice, "")
                    self.assertEqual(again.session.plan, session.plan)
                    look_again(again.session)
                    path.unlink()
                    self.assertIn("not where it was", open_document(plan).notice)

    def test_very_long_lines_figures_and_headings(self) -> None:
        long = "9" * 100_000
        path = self.file(f"day,cases\n2024-01-01,{long}\n2024-01-02,3\n2024-01-03,4\n")
        reading = open_document(path).session.reading
        self.assertEqual((reading.read, reading.used, reading.aside), (3, 2, 1))
        wide = ",".join(f"c{place}" for place in range(20_000))
        self.refused(self.file(f"{wide}\n{wide}\n", "wide.csv"), "at most 2,000 can be read")
        self.refused(self.file(" " * 2_000_000, "blanks.csv"), "blanks.csv is empty")
        self.refused(self.file("\n" * 2_000_000, "lines.csv"), "lines.csv is empty")

    def test_years_past_9999_are_no_dates(self) -> None:
        rows = "".join(f"2024-01-{day:02d},3\n" for day in range(1, 20))
        path = self.file(f"day,cases\n{rows}10000-01-01,5\n99999-12-31,5\n")
        reading = open_document(path).session.reading
        self.assertEqual((reading.used, reading.aside), (19, 2))
