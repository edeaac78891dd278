"""What is no file, or no honest one: a plain message, or a source that ties; never a hang."""

from __future__ import annotations

import os
from pathlib import Path

from oat_tide.core.trouble import Trouble
from oat_tide.documents import open_document
from tests.helpers import FolderCase


class OddFiles(FolderCase):
    def refused(self, path: Path, said: str) -> None:
        with self.subTest(said), self.assertRaises(Trouble) as caught:
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
        strange = os.fsencode(self.folder) + b"/caf\xe9.csv"
        Path(os.fsdecode(strange)).write_text("day,cases\n2024-01-01,3\n2024-01-02,4\n")
        self.refused(Path(os.fsdecode(strange)), "a plan cannot keep such a name")

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
