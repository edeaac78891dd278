"""The demo: the files that ship are those that the seeded generator makes, and the example runs."""

from __future__ import annotations

import csv
import os
import subprocess
import sys
import zipfile

from oat_tide.demo import mill, plan_path, sales_path
from oat_tide.demo.make import NO_FIGURE, make_plan
from oat_tide.documents import open_document
from oat_tide.plan.edits import edit
from oat_tide.plan.paths import P
from tests.helpers import FolderCase


class Files(FolderCase):
    def test_the_generator_makes_the_lines_that_ship(self) -> None:
        made = self.folder / "again.csv"
        count = mill.write(made)
        self.assertEqual(made.read_bytes(), sales_path().read_bytes())
        self.assertTrue(58_000 < count < 62_000)

    def test_the_plan_that_ships_is_the_one_made_from_them(self) -> None:
        shipped = open_document(plan_path()).session
        made = make_plan(sales_path())
        self.assertEqual(shipped.plan, made.plan)
        self.assertTrue(shipped.source.frame.equals(made.source.frame))

    def test_the_story_is_in_the_data(self) -> None:
        session = open_document(sales_path()).session
        session.do(edit(P.intake.verdicts, NO_FIGURE))
        panel = session.panel

        def year(key: tuple[str | None, ...], year: int) -> list[float]:
            start = (year - 1970) * 12 - panel.first
            return panel.total(key).values[0, start : start + 12].tolist()

        everything = (None, None, None)
        self.assertEqual(session.grid.label(session.home), "Sep 2026")
        self.assertLess(year(everything, 2025)[1], 0.75 * year(everything, 2024)[1])
        porridge, drink = year(("Porridge oats", None, None), 2023), year(("Oat drink", None, None), 2023)
        self.assertGreater(sum(porridge[:2]), 1.5 * sum(porridge[6:8]))
        self.assertGreater(sum(drink[5:8]), 1.4 * (drink[0] + drink[1] + drink[11]))
        oatcakes = year(("Oatcakes", None, None), 2024)
        self.assertEqual(max(oatcakes), oatcakes[11])
        self.assertEqual(sum(year(("Oatcakes", "Wholesale", "Islands"), 2025)), 0)
        granola = panel.total(("Granola", None, None)).values[0]
        self.assertTrue((granola[:25] != granola[:25]).all())
        lost = ("Porridge oats", "Wholesale", "North shore")
        self.assertLess(sum(year(lost, 2025)), 0.6 * sum(year(lost, 2023)))

    def test_there_is_honest_dirt(self) -> None:
        reading = open_document(sales_path()).session.reading
        reasons = {aside.reason for aside in reading.asides}
        self.assertLessEqual(
            {"date cannot be read", "number cannot be read", "no date", "no number"}, reasons
        )
        with sales_path().open() as file:
            returns = sum(row["cases"].startswith("-") for row in csv.DictReader(file))
        self.assertGreater(returns, 20)


class Example(FolderCase):
    def test_without_a_display_it_prints_findings_and_writes_figures_and_pictures(self) -> None:
        folder = self.folder / "out"
        env = {
            name: value for name, value in os.environ.items() if name not in ("DISPLAY", "WAYLAND_DISPLAY")
        }
        ran = subprocess.run(
            [sys.executable, "-m", "oat_tide", "demo", "--folder", str(folder)],
            capture_output=True, text=True, env=env | {"HOME": str(self.folder)},
        )  # fmt: skip
        self.assertEqual(ran.returncode, 0, ran.stderr)
        for title in ("Intake", "History", "Smooth", "Project"):
            self.assertIn(f"{title}: ", ran.stdout)
            self.assertGreater((folder / f"{title.lower()}.png").stat().st_size, 20_000)
            rows = list(csv.reader((folder / f"{title.lower()}.csv").open()))
            self.assertGreater(len(rows), 60)
            self.assertEqual({len(row) for row in rows}, {len(rows[0])})
        self.assertIn(str(folder.resolve()), ran.stdout)

    def test_a_folder_that_cannot_be_made_is_said(self) -> None:
        blocked = self.file("x", "blocked")
        ran = subprocess.run(
            [sys.executable, "-m", "oat_tide", "demo", "--folder", str(blocked / "in")],
            capture_output=True,
            text=True,
        )
        self.assertEqual(ran.returncode, 2)
        self.assertIn("cannot be made", ran.stderr)
        self.assertTrue(zipfile.is_zipfile(plan_path()))
