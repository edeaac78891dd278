"""The command line: one tidy row for each series and period, and one clear line for bad input."""

from __future__ import annotations

import csv
import io
import json
import subprocess
import sys
import unittest
from contextlib import redirect_stderr, redirect_stdout

import numpy as np

from oat_tide.cli import main
from oat_tide.demo import sales_path
from tests.helpers import FolderCase, daily, monthly, wavy


def run(*words: object) -> tuple[int, str, str]:
    """Exit code, standard output and standard error."""
    out, err = io.StringIO(), io.StringIO()
    with redirect_stdout(out), redirect_stderr(err):
        try:
            code = main([str(word) for word in words])
        except SystemExit as leaving:
            code = int(leaving.code or 0)
    return code, out.getvalue(), err.getvalue()


class Projecting(FolderCase):
    def test_the_call_of_the_handbook(self) -> None:
        output = self.folder / "out.csv"
        code, _, err = run(
            "project", sales_path(), "--date", "date", "--value", "cases", "--by", "product", "--by", "area",
            "--period", "month", "--as-of", "2026-03", "--horizon", 6, "--method", "line",
            "--level", 80, "--level", 95, "--format", "csv", "--output", output,
        )  # fmt: skip
        self.assertEqual(code, 0)
        self.assertEqual(
            err,
            "oat-tide: skerrybank.csv: 150 of 59,985 lines set aside (61 date cannot be read, "
            "40 number cannot be read, 22 no date, 18 no number, 9 not as many fields as the header); "
            "6 total rows not added; 51 periods of series not known, for lines without a figure; "
            "1 month of series without a line taken as nothing sold.\n",
        )
        rows = list(csv.DictReader(output.open()))
        columns = "product area period kind method value lower_80 upper_80 lower_95 upper_95 actual"
        self.assertEqual(" ".join(rows[0]), columns)
        self.assertEqual(len({(row["product"], row["area"]) for row in rows}), 15)
        ahead = [
            row
            for row in rows
            if row["kind"] == "projected" and (row["product"], row["area"]) == ("Oat drink", "Islands")
        ]
        self.assertEqual([row["period"] for row in ahead], [f"2026-{m:02d}-01" for m in range(4, 10)])
        for row in ahead:
            edges = [float(row[name]) for name in ("lower_95", "lower_80", "value", "upper_80", "upper_95")]
            self.assertEqual(edges, sorted(edges))
        # A line of August has no figure: that month is not known.
        self.assertEqual([bool(row["actual"]) for row in ahead], [True] * 4 + [False, True])
        fitted = [row for row in rows if row["kind"] == "fitted"]
        self.assertEqual({row["lower_80"] for row in fitted}, {""})
        self.assertEqual(max(row["period"] for row in fitted), "2026-03-01")

    def test_values_are_those_of_a_line_fitted_by_hand(self) -> None:
        values = [100, 120, 90, 150, 160, 130, 170, 180]
        code, out, _ = run("project", self.file(monthly(values)), "--as-of", "2020-06", "--horizon", 2)
        self.assertEqual(code, 0)
        slope, intercept = np.polyfit(range(1, 7), values[:6], 1)
        rows = list(csv.DictReader(io.StringIO(out)))
        self.assertEqual([row["kind"] for row in rows], ["fitted"] * 6 + ["projected"] * 2)
        for t, row in enumerate(rows, 1):
            self.assertAlmostEqual(float(row["value"]), intercept + slope * t, places=9)
            self.assertEqual(float(row["actual"]), values[t - 1])
        self.assertEqual(next(iter(rows[0])), "period")

    def test_json_gives_the_same(self) -> None:
        path = self.file(daily(300, wavy))
        words = ("project", path, "--by", "product", "--horizon", 3, "--method", "growth")
        _, table, _ = run(*words)
        _, text, _ = run(*words, "--format", "json")
        rows = list(csv.DictReader(io.StringIO(table)))
        objects = json.loads(text)
        self.assertEqual(len(rows), len(objects))
        for row, each in zip(rows, objects, strict=True):
            self.assertEqual(list(row), list(each))
            for name, cell in row.items():
                value = each[name]
                same = (
                    value is None
                    if cell == ""
                    else cell == value
                    if isinstance(value, str)
                    else float(cell) == value
                )
                self.assertTrue(same, (name, cell, value))

    def test_part_periods_have_no_actual_and_levels_can_be_chosen(self) -> None:
        path = self.file(daily(200, wavy))
        code, out, _ = run("project", path, "--horizon", 2, "--level", 50)
        rows = list(csv.DictReader(io.StringIO(out)))
        self.assertEqual(code, 0)
        self.assertIn("lower_50", rows[0])
        self.assertNotIn("lower_80", rows[0])
        self.assertEqual([row["actual"] for row in rows[-2:]], ["", ""])

    def test_a_series_that_cannot_be_fitted_is_told_and_the_others_written(self) -> None:
        text = monthly([5, 6, 7, 9], header="month,cases").replace("cases", "product,cases", 1)
        rows = [line.replace(",", ",Bran,", 1) if "-" in line else line for line in text.strip().splitlines()]
        rows += [f"2020-0{m}-01,Oats,{m - 2}" for m in (1, 2, 3, 4)]
        code, out, err = run(
            "project", self.file("\n".join(rows)), "--by", "product", "--method", "growth", "--horizon", 1
        )
        self.assertEqual(code, 0)
        self.assertIn("Oats: A growth curve needs values above zero. Not above zero: Jan 2020, Feb 2020", err)
        self.assertEqual({row["product"] for row in csv.DictReader(io.StringIO(out))}, {"Bran"})


class BadInput(FolderCase):
    def assert_says(self, words: tuple[object, ...], *said: str) -> None:
        code, out, err = run(*words)
        self.assertEqual((code, out), (2, ""), err)
        self.assertEqual(err.count("\n"), 1, err)
        for word in said:
            self.assertIn(word, err)

    def test_one_clear_line_and_exit_code_2(self) -> None:
        good = self.file(daily(200, wavy))
        months = self.file(monthly([3, 4, 5, 6]), "months.csv")
        for words, said in (
            (("project", self.folder / "gone.csv"), "gone.csv is not there"),
            (("project", self.file("", "empty.csv")), "empty.csv is empty"),
            (("project", good, "--value", "litres"), "no column 'litres'"),
            (("project", good, "--value", "product"), "product"),
            (("project", good, "--by", "colour"), "no column 'colour'"),
            (("project", good, "--by", "area", "--by", "area"), "different columns"),
            (("project", good, "--as-of", "soon"), "--as-of"),
            (("project", good, "--as-of", "2031-01"), "the data end on 2024-07-18"),
            (("project", good, "--as-of", "2001-01"), "the data begin with Jan 2024"),
            (("project", good, "--horizon", "121"), "choose 1 to 120 months"),
            (("project", good, "--horizon", "0"), "choose 1 to 120 months"),
            (("project", good, "--horizon", "six"), "invalid int value"),
            (("project", good, "--level", "100"), "--level"),
            (("project", good, "--method", "magic"), "invalid choice"),
            (("project", good, "--period", "decade"), "invalid choice"),
            (("project", months, "--period", "day"), "one row a month"),
            (("project", good, "--output", self.folder / "no" / "out.csv"), "out.csv was not written"),
            (("project", good, "--wrong"), "unrecognized"),
            (("project", self.folder / "a.oattide"), "is a plan"),
            (("project", self.file(monthly([-1, 2, 3]), "minus.csv"), "--method", "growth"), "above zero"),
        ):
            with self.subTest(said):
                self.assert_says(words, said)

    def test_no_display_is_said(self) -> None:
        env = {"PATH": "/usr/bin:/bin", "HOME": str(self.folder)}
        ran = subprocess.run([sys.executable, "-m", "oat_tide"], env=env, capture_output=True, text=True)
        self.assertEqual(ran.returncode, 2)
        self.assertIn("no display", ran.stderr)


class Answers(unittest.TestCase):
    def test_help_and_version_load_neither_qt_nor_polars(self) -> None:
        for words in (["--help"], ["--version"], ["project", "--help"]):
            code = (
                "import sys; from oat_tide.cli import main\n"
                f"try:\n    main({words!r})\nexcept SystemExit:\n    pass\n"
                "loaded = {name.partition('.')[0] for name in sys.modules}\n"
                "print('heavy', sorted(loaded & {'PyQt6', 'polars', 'scipy', 'numpy'}))"
            )
            ran = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
            self.assertIn("heavy []", ran.stdout)
        self.assertIn("oat-tide 0.1.0", run("--version")[1])
