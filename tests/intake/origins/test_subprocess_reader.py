"""A process of its own for files that a reader may die of: it dies in words, and the next file is read."""

from __future__ import annotations

import contextlib
import os
import re
import shutil
import signal
import tempfile
import time
import zipfile
from pathlib import Path
from unittest import mock

import numpy as np
import polars as pl

from oat_tide.core.user_error import Progress, Stopped, UserError
from oat_tide.documents import open_document, save_document
from oat_tide.intake.origins import subprocess_reader, transfer
from oat_tide.intake.source import File, Source, from_parquet, to_parquet
from oat_tide.intake.table import Table
from oat_tide.system.child import folder_to_hand_over, shelves
from tests.helpers import FolderCase, monthly

_TYPES = "http://schemas.openxmlformats.org/package/2006"
_OFFICE = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
_SHEETS = "http://schemas.openxmlformats.org/spreadsheetml/2006/main"
_OPEN = "application/vnd.openxmlformats"
_BOOK = f"{_OPEN}-officedocument.spreadsheetml"
_KINDS = (
    f'<Types xmlns="{_TYPES}/content-types"><Default Extension="xml" ContentType="application/xml"/>'
    f'<Default Extension="rels" ContentType="{_OPEN}-package.relationships+xml"/>'
    f'<Override PartName="/xl/workbook.xml" ContentType="{_BOOK}.sheet.main+xml"/>'
    '<Override PartName="/xl/worksheets/sheet1.xml" '
    f'ContentType="{_BOOK}.worksheet+xml"/></Types>'
)


def dies(progress: Progress) -> Source:
    """A reader that a file kills."""
    os.abort()


def grabs(progress: Progress) -> Source:
    """A reader that wants more memory than it may have."""
    bytearray(subprocess_reader.most_memory() + 1)
    raise AssertionError("it was given")


def hands_over_slowly(progress: Progress) -> Source:
    """A reader that has put its lines into a folder, and tells of it for a while."""
    folder = folder_to_hand_over(shelves()[0])
    (Path(folder) / "lines").write_bytes(b"x" * 100_000)
    return dawdles(progress)


def dawdles(progress: Progress) -> Source:
    """A reader that never ends."""
    while True:
        progress(0.5)


def killed(flag: str, path: str, times: int, progress: Progress) -> Source:
    """A reader that is killed from outside so many times, and then reads."""
    before = int(Path(flag).read_text() or 0) if Path(flag).exists() else 0
    if before < times:
        Path(flag).write_text(str(before + 1))
        os.kill(os.getpid(), signal.SIGKILL)
    return from_parquet(Path(path).read_bytes(), "sales", "sales", (File("sales", "CSV", 3),), progress)


class Apart(FolderCase):
    def workbook(self, stray: str = "") -> Path:
        """Two lines of sales, and a cell somewhere else."""
        rows = [("date", "cases"), ("2024-01-01", "3"), ("2024-01-02", "4")]
        cells = [
            (f"{letter}{row}", text)
            for row, own in enumerate(rows, 1)
            for letter, text in zip("AB", own, strict=True)
        ]
        cells += [(stray, "x")] if stray else []
        by_row: dict[int, str] = {}
        for place, text in cells:
            row = int(re.sub(r"\D", "", place))
            cell = f'<c r="{place}" t="inlineStr"><is><t>{text}</t></is></c>'
            by_row[row] = by_row.get(row, "") + cell
        data = "".join(f'<row r="{row}">{own}</row>' for row, own in by_row.items())
        path = self.folder / f"sales{stray}.xlsx"
        with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as book:
            book.writestr("[Content_Types].xml", _KINDS)
            book.writestr("_rels/.rels", _leads("officeDocument", "xl/workbook.xml"))
            book.writestr(
                "xl/workbook.xml",
                f'<workbook xmlns="{_SHEETS}" xmlns:r="{_OFFICE}"><sheets><sheet name="Sales" sheetId="1" '
                'r:id="one"/></sheets></workbook>',
            )
            book.writestr("xl/_rels/workbook.xml.rels", _leads("worksheet", "worksheets/sheet1.xml"))
            sheet = f'<worksheet xmlns="{_SHEETS}"><sheetData>{data}</sheetData></worksheet>'
            book.writestr("xl/worksheets/sheet1.xml", sheet)
        return path

    def read(self, path: Path) -> int:
        return open_document(path).session.reading.used

    def test_a_stray_cell_costs_what_it_holds(self) -> None:
        for stray in ("", "XFD1048576", "D4000", "XFD2"):
            path = self.workbook(stray)
            self.assertLess(path.stat().st_size, 2000)
            begun = time.monotonic()
            self.assertEqual(self.read(path), 2)
            self.assertLess(time.monotonic() - begun, 5, stray)

    def test_a_reader_that_dies_or_wants_too_much_is_told_in_words(self) -> None:
        for reader in (dies, grabs):
            with self.subTest(reader.__name__), self.assertRaises(UserError) as caught:
                subprocess_reader.read_apart("sales.parquet", reader)
            self.assertIn("sales.parquet could not be read", str(caught.exception))
        self.assertEqual(self.read(self.workbook()), 2)

    def test_a_reader_killed_from_outside_is_begun_again_and_not_told_as_a_damaged_file(self) -> None:
        path = self.folder / "lines.parquet"
        path.write_bytes(to_parquet(open_document(self.file(monthly([1, 2, 3]))).session.source))
        for times in (1, 2):
            flag = str(self.folder / f"flag {times}")
            args = "sales.parquet", killed, flag, str(path), times
            with self.subTest(times):
                if times == 1:
                    self.assertEqual(subprocess_reader.read_apart(*args).lines, 3)
                    continue
                with self.assertRaises(UserError) as caught:
                    subprocess_reader.read_apart(*args)
                self.assertIn("was ended from outside", str(caught.exception))
                self.assertNotIn("damaged", str(caught.exception))
        self.assertEqual(self.read(self.workbook()), 2)

    def test_a_stop_while_lines_are_handed_over_leaves_nothing(self) -> None:
        def ours() -> set[Path]:
            places = (Path(shelf or tempfile.gettempdir()) for shelf in shelves())
            return {each for place in places for each in place.glob("oat-tide-lines-*")}

        before = ours()
        for seed in range(4):
            begun = time.monotonic()

            def progress(share: float, begun: float = begun, seed: int = seed) -> None:
                if time.monotonic() - begun > 0.15 * (seed + 1):
                    raise Stopped

            with contextlib.suppress(Stopped):
                subprocess_reader.read_apart("sales.xlsx", hands_over_slowly, progress=progress)
        self.assertEqual(ours() - before, set())

    def test_a_reader_is_stopped_with_its_job(self) -> None:
        def progress(share: float) -> None:
            if share:
                raise Stopped

        with self.assertRaises(Stopped):
            subprocess_reader.read_apart("sales.parquet", dawdles, progress=progress)
        self.assertEqual(self.read(self.workbook()), 2)

    def test_damaged_parquet_gives_lines_or_words_in_a_plan_as_well(self) -> None:
        lines = self.folder / "sales.parquet"
        days = pl.date_range(pl.date(2024, 1, 1), pl.date(2024, 3, 1), eager=True)
        pl.DataFrame({"day": days, "cases": np.arange(len(days)) % 7}).write_parquet(lines)
        good, rng = lines.read_bytes(), np.random.default_rng(17)
        refused = 0
        for _ in range(60):
            bad = bytearray(good)
            for at in rng.integers(4, len(bad), 6):
                bad[at] = int(rng.integers(0, 256))
            lines.write_bytes(bytes(bad))
            try:
                open_document(lines)
            except UserError as error:
                self.assertIn("sales.parquet", str(error))
                refused += 1
        self.assertGreater(refused, 5)
        session = open_document(self.file(monthly([3, 4, 5]))).session
        path = self.folder / "plan.oattide"
        save_document(session, "intake", path)
        with zipfile.ZipFile(path) as plan:
            parts = {name: plan.read(name) for name in plan.namelist()}
        for _ in range(20):
            bad = bytearray(parts["lines.parquet"])
            for at in rng.integers(4, len(bad), 6):
                bad[at] = int(rng.integers(0, 256))
            with zipfile.ZipFile(path, "w") as plan:
                for name, data in (parts | {"lines.parquet": bytes(bad)}).items():
                    plan.writestr(name, data)
            try:
                self.assertEqual(open_document(path).session.reading.read, 3)
            except UserError as error:
                self.assertIn("plan.oattide", str(error))

    def test_lines_that_find_no_room_on_the_shelf_go_elsewhere_or_are_refused_in_words(self) -> None:
        source = open_document(self.file(monthly([1, 2, 3, 4]), "sales.csv")).session.source
        whole, tried = transfer.hand_over, list[Path]()

        def full(places: int) -> mock._patch[mock.MagicMock]:
            """Hand over only after so many places were full."""
            tried.clear()

            def hand_over(table: Table, folder: Path) -> None:
                tried.append(folder)
                if len(tried) <= places:
                    (folder / "some").write_bytes(b"of it")
                    raise OSError(28, "No space left on device")
                whole(table, folder)

            return mock.patch.object(transfer, "hand_over", side_effect=hand_over)

        with full(1):
            folder = Path(subprocess_reader._handed(source))
        self.assertEqual(folder.parent, Path(tempfile.gettempdir()))
        self.assertTrue(transfer.taken_over(folder).frame.equals(source.frame))
        shutil.rmtree(folder)
        with full(2), self.assertRaises(UserError) as caught:
            subprocess_reader._handed(source)
        self.assertIn("sales.csv", str(caught.exception))
        self.assertIn("Make room", str(caught.exception))
        self.assertEqual([folder for folder in tried if folder.exists()], [])


def _leads(kind: str, target: str) -> str:
    return (
        f'<Relationships xmlns="{_TYPES}/relationships"><Relationship Id="one" Type="{_OFFICE}/{kind}" '
        f'Target="{target}"/></Relationships>'
    )
