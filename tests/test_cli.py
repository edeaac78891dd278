"""The command line: one tidy row for each series and period, and one clear line for bad input."""

from __future__ import annotations

import csv
import datetime as dt
import io
import json
import math
import subprocess
import sys
import unittest
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path

import numpy as np
import polars as pl

from oat_tide.cli import main
from oat_tide.core.methods.table import METHODS
from oat_tide.demo import sales_path
from tests.helpers import FolderCase, daily, monthly, wavy
from tests.stages.test_examples import QUARTERS, quarters


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
            "--interval", 80, "--interval", 95, "--format", "csv", "--output", output,
        )  # fmt: skip
        self.assertEqual(code, 0)
        self.assertEqual(
            err,
            "oat-tide: skerrybank.csv: 150 of 59,985 lines set aside (61 date cannot be read, "
            "40 number cannot be read, 22 no date, 18 no number, 9 not as many fields as the header); "
            "6 total rows not added; 51 periods of series not known, for lines without a figure; "
            "1 series-month without a line taken as not known.\n",
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
        code, out, _ = run("project", path, "--horizon", 2, "--interval", 50)
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


class Methods(FolderCase):
    """Every method by name, several at once, and the regression table."""

    def quarters(self) -> Path:
        return self.file(quarters(QUARTERS), "quarters.csv")  # type: ignore[arg-type]

    def rows(self, *words: object) -> list[dict[str, str]]:
        code, out, err = run(*words)
        self.assertEqual(code, 0, err)
        return list(csv.DictReader(io.StringIO(out)))

    def test_every_method_by_name_and_several_at_once(self) -> None:
        names = list(METHODS)
        words = [word for name in names for word in ("--method", name)]
        rows = self.rows("project", self.quarters(), "--horizon", 2, "--rate", 4, *words)
        ahead = [row for row in rows if row["kind"] == "projected"]
        told = {name: [float(row["value"]) for row in ahead if row["method"] == name] for name in names}
        # The history rises throughout: it tells no ceiling.
        self.assertEqual({name for name, values in told.items() if not values} - {"logistic"}, set())
        self.assertEqual(told["last"], [110, 110])
        self.assertEqual(told["same-period"], [98, 140])
        self.assertAlmostEqual(told["rate"][0], 110 * 1.04**0.25, places=9)
        for row in ahead:
            if row["method"] in ("line", "line-season", "indicators"):
                self.assertLess(float(row["lower_95"]), float(row["value"]))

    def test_the_smoother_that_runs_on(self) -> None:
        words = "project", self.quarters(), "--method", "smoothed", "--horizon", 1
        ahead = float(self.rows(*words, "--window", 2)[-1]["value"])
        self.assertEqual(ahead, (172 + 110) / 2)
        self.assertNotEqual(float(self.rows(*words, "--smoother", "trend")[-1]["value"]), ahead)

    def test_a_total_spread(self) -> None:
        words = "spread", self.quarters(), "--total", 1000, "--over", 2023, "--season", "multiplicative"
        rows = self.rows(*words)
        self.assertEqual(list(rows[0]), ["period", "spread", "fixed", "last_year", "baseline"])
        self.assertEqual([row["spread"] for row in rows], ["199", "273", "322", "206"])
        self.assertEqual([row["last_year"] for row in rows], ["98", "140", "172", "110"])
        rows = self.rows(*words, "--fixed", "2023-Q2=300", "--pack", 12)
        self.assertEqual([row["fixed"] for row in rows], ["", "300", "", ""])
        self.assertEqual(sum(int(row["spread"]) for row in rows), 1000)
        self.assertEqual(len(self.rows(*words[:-4], "--over", "2023-H2", "--rule", "even")), 2)

    def test_a_total_spread_over_children(self) -> None:
        text = "month,product,cases\n" + "".join(
            f"{2022 + i // 12}-{i % 12 + 1:02d}-01,{product},{level + i % 5}\n"
            for i in range(24)
            for product, level in (("Oats", 50), ("Bran", 20), ("Rye", 7))
        )
        file = self.file(text, "children.csv")
        words = (
            "spread",
            file,
            "--total",
            1001,
            "--over",
            2024,
            "--rule",
            "last-year",
            "--detail-by",
            "product",
        )
        for more in ((), ("--detail-rule", "own season"), ("--pack", 7)):
            rows = self.rows(*words, *more)
            self.assertEqual([row["product"] for row in rows[::12]], ["Bran", "Oats", "Rye"])
            self.assertEqual(sum(int(row["spread"]) for row in rows), 1001)
        # The same whatever the order of the lines is.
        head, *lines = text.splitlines()
        back = self.file("\n".join([head, *reversed(lines)]), "back.csv")
        self.assertEqual(self.rows("spread", back, *words[2:]), self.rows(*words))

    def test_a_total_that_cannot_be_spread(self) -> None:
        words = "spread", self.quarters(), "--over", 2023
        for more, said in (
            ((), "--total: give what is to be spread"),
            (("--total", 0), "--total 0.0: only a total above zero can be spread"),
            (("--total", 9, "--fixed", "2023-Q1=10"), "The fixed figures are 1 more than the total of 9"),
            (("--total", 9, "--fixed", "2023-01=10"), "--fixed: no quarter begins on 2023-01-01"),
            (("--total", 9, "--fixed", "soon"), "--fixed soon: write a period and its figure"),
            (("--total", 9, "--pack", 10), "A pack of 10 is more than the 9 cases that are left"),
            (("--total", 9, "--over", "soon"), "“soon” is no range of periods"),
        ):
            with self.subTest(said):
                code, out, err = run(*words, *more)
                self.assertEqual((code, out), (2, ""))
                self.assertIn(said, err)
                self.assertEqual(len(err.splitlines()), 1)

    def test_what_cannot_be_laid_is_not_written_under_its_name(self) -> None:
        years = self.file("year,cases\n" + "\n".join(f"{2018 + i},{10 + i}" for i in range(6)), "years.csv")
        code, out, err = run("project", years, "--method", "same-period")
        self.assertEqual((code, out), (2, ""))
        self.assertIn("years.csv: there is nothing to write. A year has no match last year.", err)
        code, out, err = run("project", years, "--method", "same-period", "--method", "last")
        self.assertEqual(code, 0)
        self.assertIn("oat-tide: same-period: A year has no match last year.", err)
        self.assertEqual({row["method"] for row in csv.DictReader(io.StringIO(out))}, {"last"})
        code, _, err = run("project", self.quarters(), "--method", "smoothed", "--smoother", "total")
        self.assertEqual(code, 2)
        self.assertIn("A rolling total forecasts nothing", err)
        self.assertEqual(run("fit", years, "--method", "indicators")[0], 2)

    def test_how_indices_are_taken(self) -> None:
        words = "project", self.quarters(), "--method", "line-season"
        ways = ("classical", "simple", "loess")
        found = {way: self.rows(*words, "--indices", way)[-1]["value"] for way in ways}
        self.assertEqual(len(set(found.values())), 3)
        self.assertEqual(self.rows(*words)[-1]["value"], found["classical"])

    def test_the_regression_table(self) -> None:
        text = "year,cases\n" + "\n".join(
            f"{2018 + i},{value}" for i, value in enumerate((210, 225, 232, 248, 310, 268, 275, 291))
        )
        rows = self.rows("fit", self.file(text, "years.csv"), "--method", "line")
        table = {row["term"]: row for row in rows}
        self.assertEqual(
            list(rows[0])[-7:],
            ["term", "coefficient", "standard_error", "t", "p", "lower", "upper"],
        )
        for term, heading, value in (
            ("slope", "coefficient", 11.75),
            ("slope", "standard_error", 3.180577),
            ("slope", "p", 0.010157),
            ("intercept", "coefficient", 204.5),
            ("r2", "coefficient", 0.694623),
            ("s", "coefficient", 20.612496),
            ("durbin_watson", "coefficient", 2.159826),
            ("n", "coefficient", 8),
        ):
            self.assertAlmostEqual(float(table[term][heading]), value, places=5, msg=term)
        ends = [float(table["slope"][heading]) for heading in ("lower", "coefficient", "upper")]
        narrow = self.rows("fit", self.file(text, "years.csv"), "--confidence", 80)
        inner = next(row for row in narrow if row["term"] == "slope")
        self.assertLess(float(inner["upper"]) - float(inner["lower"]), ends[2] - ends[0])
        self.assertEqual(set(table) - {"intercept", "slope"}, {
            "r2", "adjusted_r2", "s", "f", "aicc", "durbin_watson", "n",
        })  # fmt: skip

    def test_what_has_no_table_says_so_and_the_others_stand(self) -> None:
        code, _, err = run("fit", self.quarters(), "--method", "last")
        self.assertEqual(code, 2)
        self.assertIn("Only a regression has a table", err)
        rows = self.rows("fit", self.quarters(), "--method", "last", "--method", "quadratic")
        self.assertEqual({row["method"] for row in rows}, {"quadratic"})

    def test_a_ceiling_below_the_data_is_said(self) -> None:
        code, _, err = run("project", self.quarters(), "--method", "logistic", "--ceiling", 100)
        self.assertEqual(code, 2)
        self.assertIn("is below what has sold, 172", err)


class Smoothing(FolderCase):
    A = (12, 15, 11, 18, 20, 16, 22, 25)

    def rows(self, *words: object) -> tuple[list[dict[str, str]], str]:
        code, out, err = run("smooth", self.file(monthly(list(self.A))), *words)
        self.assertEqual(code, 0, err)
        return list(csv.DictReader(io.StringIO(out))), err

    def test_weights_are_newest_first_and_said_again_with_their_periods(self) -> None:
        rows, err = self.rows("--weights", "3,2,1")
        self.assertEqual(" ".join(rows[0]), "period smoother actual smoothed forecast error")
        self.assertEqual({row["smoother"] for row in rows}, {"weighted 3-2-1"})
        self.assertIn("weights, newest first: 3 × Aug 2020, 2 × Jul 2020, 1 × Jun 2020; together 6.", err)
        # The next period is a row of its own; reversed weights would give 19.5 for it.
        self.assertEqual((rows[8]["period"], rows[8]["forecast"]), ("2020-09-01", "22.5"))
        self.assertEqual((rows[8]["actual"], rows[8]["smoothed"], rows[8]["error"]), ("", "", ""))
        self.assertEqual((rows[3]["forecast"], rows[3]["error"]), ("12.5", "5.5"))

    def test_what_is_given_says_of_what_kind_it_is(self) -> None:
        self.assertEqual(self.rows("--alpha", 0.5)[0][1]["smoothed"], "13.5")
        self.assertEqual(self.rows("--back", 1, "--ahead", 1)[0][1]["smoothed"], "12.6666666666667")
        centred = self.rows("--place", "centred", "--window", 4)[0]
        self.assertEqual([row["smoothed"] for row in centred[2:6]], ["15", "16.125", "17.625", "19.875"])
        # A total forecasts nothing: the columns are there all the same.
        self.assertEqual({row["forecast"] for row in self.rows("--kind", "total", "--window", 2)[0]}, {""})

    def test_months_on_days_and_parquet(self) -> None:
        output = self.folder / "out.parquet"
        path = self.file(daily(70, wavy))
        code, _, err = run(
            "smooth", path, "--by", "product", "--unit", "month", "--window", 1, "--period", "day",
            "--format", "parquet", "--output", output,
        )  # fmt: skip
        self.assertEqual(code, 0, err)
        frame = pl.read_parquet(output)
        self.assertEqual(frame.columns[:3], ["product", "period", "smoother"])
        one = frame.filter(pl.col("product") == frame["product"][0])
        # The 60th day is 29 February: the days after 29 January up to it.
        self.assertEqual(one["period"][59], dt.date(2024, 2, 29))
        self.assertAlmostEqual(one["smoothed"][59], one["actual"][29:60].mean())

    def test_what_cannot_be_is_refused_by_the_name_of_its_option(self) -> None:
        path = self.file(monthly(list(self.A)))
        for words, said in (
            (("--unit", "week"), "--unit week: A month is longer than a week"),
            (
                ("--window", 731),
                "--window: Smoother 1: window length: “731” is too high. The highest is 730.",
            ),
            (("--window", 1), "--window 1: a window of one is the series itself; give 2 or more."),
            (("--weights", "3,x"), "--weights: “3,x” holds what is no number. Write them as in 3,2,1."),
            (("--weights", "0,0"), "must add up to more than zero"),
            (("--weights", "-1,2"), "--weights"),
            (
                ("--kind", "trimmed", "--window", 4, "--trim", 2),
                "--trim 2: nothing is left of a window of 4.",
            ),
            (("--alpha", 2), "--alpha"),
            (("--format", "parquet"), "Name a file with --output."),
            (("--place", "centred", "--unit", "quarter"), "--unit quarter: only a plain trailing window"),
        ):
            with self.subTest(words):
                code, out, err = run("smooth", path, *words)
                self.assertEqual((code, out), (2, ""))
                self.assertIn(said, err)
                self.assertEqual(err.count("\n"), 1)


class Seasons(FolderCase):
    def rows(self, text: str, *words: object) -> tuple[list[dict[str, str]], str]:
        code, out, err = run("seasons", self.file(text), *words)
        self.assertEqual(code, 0, err)
        return list(csv.DictReader(io.StringIO(out))), err

    def test_indices(self) -> None:
        rows, _ = self.rows(quarters(QUARTERS), "--what", "indices", "--season", "multiplicative")
        self.assertEqual([row["season"] for row in rows], ["Q1", "Q2", "Q3", "Q4"])
        found = [float(row["index"]) for row in rows]
        np.testing.assert_allclose(found, [0.795980, 1.092578, 1.289581, 0.821861], rtol=1e-6)
        self.assertEqual({row["ratios"] for row in rows}, {"2"})
        rows, _ = self.rows(
            quarters(QUARTERS), "--what", "indices", "--indices", "simple", "--season", "multiplicative"
        )
        np.testing.assert_allclose(float(rows[0]["index"]), 90 / 117.5)

    def test_a_series_too_short_for_a_season_is_told_and_not_counted(self) -> None:
        months = [f"{2021 + month // 12}-{month % 12 + 1:02d}-01" for month in range(36)]
        lines = [f"{when},Bran,{50 + place % 12}" for place, when in enumerate(months)]
        lines += [f"{when},Oats,{90 + place}" for place, when in enumerate(months[-9:])]
        rows, err = self.rows("\n".join(["month,product,cases", *lines]), "--by", "product")
        self.assertEqual({row["product"] for row in rows}, {"Bran"})
        self.assertIn("Oats: A season takes two full cycles", err)
        self.assertIn("1 season taken as", err)

    def test_the_parts_read_back_give_the_actual(self) -> None:
        text = daily(900, wavy)
        for words in (
            ("--period", "day"),
            ("--period", "day", "--indices", "loess", "--robust"),
            ("--period", "week", "--cycle", 13, "--season", "multiplicative"),
            ("--period", "month", "--indices", "simple", "--season", "additive"),
            ("--period", "month", "--indices", "loess", "--season", "multiplicative"),
        ):
            with self.subTest(words):
                rows, err = self.rows(text, "--by", "product", *words)
                self.assertEqual(
                    " ".join(rows[0]), "product period actual trend season remainder deseasonalised"
                )
                products = "multiplicative" in words
                tried = 0
                for row in rows:
                    parts = [row[name] for name in ("trend", "season", "remainder")]
                    if "" in parts:
                        continue
                    values = [float(part) for part in parts]
                    back = math.prod(values) if products else sum(values)
                    self.assertAlmostEqual(back / float(row["actual"]), 1, delta=1e-10)
                    tried += 1
                self.assertGreater(tried, 10)
                self.assertEqual("season" in err, "--season" not in words)

    def test_what_cannot_be_taken_apart_says_why(self) -> None:
        path = self.file(monthly([5, 6, 7, 9] * 4))
        for words, said in (
            ((), "A season takes two full cycles, 24 months; 16 are known and 8 more are needed."),
            (("--cycle", 1), "a cycle has two periods or more; 0 for that of the kind of period"),
            (
                ("--indices", "loess", "--season-span", 8),
                "--season-span: Seasonal smoothing: “8” cannot be used: an odd number of cycles",
            ),
            (("--period", "year"), "A year has no seasons."),
            (("--season", "both"), "--season"),
        ):
            with self.subTest(words):
                code, out, err = run("seasons", path, *words)
                self.assertEqual((code, out), (2, ""), err)
                self.assertIn(said, err)

    def test_a_series_that_has_none_is_told_and_the_others_written(self) -> None:
        rows = [f"2020-{m % 12 + 1:02d}-01,Bran,{5 + m % 4}" for m in range(12)]
        rows += [f"2020-{m % 12 + 1:02d}-01,Oats,{m % 4}" for m in range(12)]
        path = self.file("month,product,cases\n" + "\n".join(rows) + "\n")
        code, out, err = run(
            "seasons", path, "--by", "product", "--cycle", 4, "--season", "multiplicative",
            "--what", "indices",
        )  # fmt: skip
        self.assertEqual(code, 0, err)
        self.assertIn("Oats: A season that multiplies needs figures above zero: Jan 2020, May 2020", err)
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
            (("project", self.folder / "gone.csv"), "gone.csv does not exist"),
            (("project", self.file("", "empty.csv")), "empty.csv is empty"),
            (("project", good, "--value", "litres"), "no column “litres”"),
            (("project", good, "--value", "product"), "product"),
            (("project", good, "--by", "colour"), "no column “colour”"),
            (("project", good, "--by", "area", "--by", "area"), "different columns"),
            (("project", good, "--as-of", "soon"), "--as-of"),
            (("project", good, "--as-of", "2031-01"), "the data end on 2024-07-18"),
            (("project", good, "--as-of", "2001-01"), "the data begin with Jan 2024"),
            (("project", good, "--horizon", "121"), "choose 1 to 120 months"),
            (("project", good, "--horizon", "six"), "invalid int value"),
            (("project", good, "--interval", "100"), "--interval"),
            (("project", good, "--method", "magic"), "invalid choice"),
            (("project", good, "--period", "decade"), "invalid choice"),
            (("project", months, "--period", "day"), "one row per month"),
            (("project", good, "--output", self.folder / "no" / "out.csv"), "out.csv was not written"),
            (("project", good, "--wrong"), "unrecognized"),
            (("project", self.folder / "a.oattide"), "a.oattide does not exist"),
            (("project", self.file(monthly([-1, 2, 3]), "minus.csv"), "--method", "growth"), "above zero"),
        ):
            with self.subTest(said):
                self.assert_says(words, said)

    def test_no_display_is_said(self) -> None:
        env = {"PATH": "/usr/bin:/bin", "HOME": str(self.folder)}
        ran = subprocess.run([sys.executable, "-m", "oat_tide"], env=env, capture_output=True, text=True)
        self.assertEqual(ran.returncode, 2)
        self.assertIn("no display", ran.stderr)


class LateAnswers(unittest.TestCase):
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
