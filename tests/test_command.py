"""Commands: each option through its parser, words of before, plans as saved, what was written read back."""

from __future__ import annotations

import csv
import datetime as dt
import io
from pathlib import Path

import numpy as np
import polars as pl

from oat_tide.command.call import OLD_WORDS, part_of
from oat_tide.core.periods.calendar import day_number
from oat_tide.demo import sales_path
from oat_tide.documents import open_document, save_document
from oat_tide.plan.edits import edit
from oat_tide.plan.options import Option, all_options
from oat_tide.plan.parts.evened import Ruled
from oat_tide.plan.parts.intake import Level
from oat_tide.plan.parts.seasons import ManualIndex, Seasons
from oat_tide.plan.paths import P
from tests.helpers import FolderCase, daily, wavy
from tests.test_cli import run

COMMANDS = "project", "fit", "smooth", "seasons", "spread"
VALUES = {
    "--method": "line-season", "--horizon": 3, "--interval": 70, "--confidence": 90, "--last": 6, "--rate": 4,
    "--ceiling": 9000, "--half": 12, "--waves": 2, "--window": 4, "--back": 2, "--ahead": 1, "--trim": 1,
    "--weights": "3,2,1",
    "--alpha": 0.4, "--beta": 0.2, "--phi": 0.9, "--cycle": 12, "--season-span": 9, "--span": 15,
    "--pack": 1, "--detail-by": "product", "--over": 2027, "--total": 5000, "--fixed": "2027-02=500",
    "--against": "same-period",
}  # fmt: skip
"""A value that makes sense of each option that is no choice."""
BESIDE = {
    ("smooth", "--trim"): ("--kind", "trimmed"),
    ("smooth", "--unit"): ("--period", "day"),
    ("spread", "--detail-rule"): ("--detail-by", "product"),
    ("spread", "--fixed"): ("--over", "2027"),
    ("project", "--ceiling"): ("--method", "logistic"),
    ("fit", "--ceiling"): ("--method", "logistic"),
}
"""What an option makes sense with."""


def months(products: tuple[str, ...] = ("Bran", "Oat drink")) -> str:
    """Five years of two products that grow and swing."""
    rows = ["month,product,area,cases"]
    for m in range(60):
        for n, product in enumerate(products):
            for area in ("North", "South"):
                cases = round(200 + 3 * m + 40 * n + 60 * np.sin(2 * np.pi * m / 12) + (37 * m) % 11)
                rows.append(f"{2022 + m // 12}-{m % 12 + 1:02d}-01,{product},{area},{cases}")
    return "\n".join(rows)


class Options(FolderCase):
    def typed(self, option: Option) -> tuple[list[object], ...]:
        """An option with each value that it is tried with."""
        if option.kind is bool:
            return ([option.flag],)
        values = option.choices or (VALUES[option.flag],)
        return tuple([option.flag, value] for value in values)

    def test_every_option_of_every_command_takes_a_value(self) -> None:
        path = self.file(months())
        days = self.file(daily(400, wavy), "days.csv")
        for command in COMMANDS:
            part = part_of(command)
            for option in all_options(part):
                for words in self.typed(option):
                    with self.subTest(command, words=words):
                        needed = ["--total", 9000] if command == "spread" and "--total" not in words else []
                        more = [*needed, *BESIDE.get((command, option.flag), ())]
                        file = days if "day" in more else path
                        code, out, err = run(command, file, *more, *words)
                        if code == 2 and command == "fit" and "only a regression" in err.lower():
                            continue
                        if words in (["--unit", "week"], ["--unit", "quarter"], ["--unit", "year"]):
                            self.assertIn(code, (0, 2), err)
                            continue
                        self.assertEqual(code, 0, err)
                        self.assertGreater(out.count("\n"), 1)

    def test_what_an_option_says_has_a_subject_and_no_empty_default(self) -> None:
        for command in COMMANDS:
            for option in all_options(part_of(command)):
                with self.subTest(command, option=option.flag):
                    self.assertRegex(option.says, r"^(a|an|the|how|what|where|which|[a-z])")
                    self.assertNotRegex(option.help, r"default: (False|0\.0|95\.0)")

    def test_a_word_of_before_is_refused_with_that_of_now(self) -> None:
        path = self.file(months())
        for words, now in (
            (("project", path, "--level", 80), "--level is --interval now"),
            (("project", path, "--not-below-zero"), "--not-below-zero needs no asking now"),
            (("project", path, "--season", "classical"), "--season classical is --indices classical now"),
            (("project", path, "--numbered", "from 1"), "--numbered from 1 is --numbered counter now"),
            (("seasons", path, "--method", "loess"), "--method is --indices now"),
            (("seasons", path, "--seasonal", 9), "--seasonal is --season-span now"),
            (("smooth", path, "--on", 3), "--on is --horizon now"),
            (("spread", path, "--total", 9, "--by", "even"), "--by is --rule now"),
            (("spread", path, "--total", 9, "--lock=2027-01=3"), "--lock is --fixed now"),
            (("spread", path, "--total", 9, "--children", "product"), "--children is --detail-by now"),
            (("spread", path, "--total", 9, "--baseline", "line"), "--baseline is --against now"),
        ):
            with self.subTest(now):
                code, out, err = run(*words)
                self.assertEqual((code, out), (2, ""))
                self.assertIn(now, err)
                self.assertEqual(err.count("\n"), 1)
        self.assertTrue(all(word.startswith("--") for word in OLD_WORDS.values()))

    def test_a_pack_of_one_is_single_units_and_detail_has_its_projection(self) -> None:
        path = self.file(months())
        words = ("spread", path, "--total", 20_001, "--over", 2027)
        _, plain, _ = run(*words)
        _, packed, _ = run(*words, "--pack", 1)
        self.assertEqual(plain, packed)
        code, out, err = run(*words, "--detail-by", "product", "--against", "same-period")
        self.assertEqual(code, 0, err)
        rows = list(csv.DictReader(io.StringIO(out)))
        told = {(row["product"], row["period"]): float(row["baseline"]) for row in rows}
        _, ahead, _ = run("project", path, "--by", "product", "--method", "same-period", "--horizon", 12)
        for row in csv.DictReader(io.StringIO(ahead)):
            if row["kind"] == "projected":
                self.assertEqual(told[row["product"], row["period"]], float(row["value"]))


class Plans(FolderCase):
    def plan(self) -> Path:
        """A plan with a level, a ruling, an index by hand and settings, beside its sales."""
        session = open_document(self.file(months())).session
        pairs = (("Bran", "dry"), ("Oat drink", "wet"))
        session.do(edit(P.intake.levels, (Level("family", "product", pairs),)))
        session.do(edit(P.intake.by, ("product", "area", "family")))
        ruled = Ruled((), dt.date(2024, 3, 1), dt.date(2024, 3, 31), "expected", 900.0)
        session.do(edit(P.evened.rulings, (ruled,)))
        session.do(edit(P.project.method, "line-season"))
        session.do(edit(P.project.horizon, 4))
        session.do(
            edit(
                P.seasons,
                Seasons(season="multiplicative", by_hand=(ManualIndex((), 12, "multiplicative", 2, 1.4),)),
            )
        )
        session.do(edit(P.as_of, dt.date(2026, 6, 30)))
        save_document(session, "project", self.folder / "plan.oattide")
        return self.folder / "plan.oattide"

    def test_a_plan_is_taken_as_it_was_saved(self) -> None:
        path = self.plan()
        code, out, err = run("project", path)
        self.assertEqual(code, 0, err)
        rows = list(csv.DictReader(io.StringIO(out)))
        self.assertEqual({row["family"] for row in rows}, {"dry", "wet"})
        ahead = [row for row in rows if row["kind"] == "projected"]
        self.assertEqual({row["method"] for row in rows}, {"line-season"})
        self.assertEqual({row["period"] for row in ahead}, {f"2026-{m:02d}-01" for m in (7, 8, 9, 10)})
        session = open_document(path).session
        session.do(edit(P.where, (("product", "Bran"), ("area", "North"), ("family", "dry"))))
        deck = session.deck("project")
        column = session.grid.period(day_number(dt.date(2026, 7, 1))) - session.panel.first
        (july,) = (
            row
            for row in ahead
            if (row["product"], row["area"], row["period"]) == ("Bran", "North", "2026-07-01")
        )
        self.assertAlmostEqual(float(july["value"]), deck.figures["projected"].values[0, column], 9)

    def test_options_stand_over_its_settings(self) -> None:
        path = self.plan()
        _, out, _ = run("project", path, "--method", "mean", "--horizon", 2, "--by", "product")
        rows = list(csv.DictReader(io.StringIO(out)))
        self.assertNotIn("area", rows[0])
        ahead = [row for row in rows if row["kind"] == "projected"]
        self.assertEqual({row["method"] for row in ahead}, {"mean"})
        self.assertEqual(len(ahead), 2 * 2)
        _, out, _ = run("project", path, "--as-of", "2026-03")
        first = min(row["period"] for row in csv.DictReader(io.StringIO(out)) if row["kind"] == "projected")
        self.assertEqual(first, "2026-04-01")

    def test_every_command_takes_one(self) -> None:
        path = self.plan()
        for words in (("smooth",), ("seasons",), ("fit",), ("spread", "--total", 9000)):
            with self.subTest(words):
                code, out, err = run(words[0], path, *words[1:])
                self.assertEqual(code, 0, err)
                self.assertGreater(out.count("\n"), 4)

    def test_what_is_no_plan_is_said(self) -> None:
        (self.folder / "bad.oattide").write_bytes(b"no plan")
        code, out, err = run("project", self.folder / "bad.oattide")
        self.assertEqual((code, out), (2, ""))
        self.assertIn("bad.oattide", err)


class ReadBack(FolderCase):
    def test_what_a_command_wrote_opens_with_its_keys_as_series_and_its_kinds_as_scenarios(self) -> None:
        path = self.file(months())
        for form in ("csv", "parquet"):
            with self.subTest(form):
                out = self.folder / f"back.{form}"
                words = ("--by", "product", "--method", "line", "--method", "same-period", "--horizon", 3)
                run("project", path, *words, "--format", form, "--output", out)
                reading = open_document(out).session.reading
                self.assertEqual((reading.date, reading.value), ("period", "value"))
                self.assertEqual(reading.dimensions, ("product", "method"))
                self.assertEqual((reading.scenarios, reading.history), (("fitted", "projected"), "fitted"))
                uses = {each.name: each.use for each in reading.figures}
                self.assertEqual(uses["lower_80"], "beside")
                self.assertEqual(reading.figures_in("no series"), ())

    def test_the_period_of_parquet_is_a_date(self) -> None:
        path = self.file(months())
        for words in (("project",), ("smooth",), ("spread", "--total", 9000)):
            out = self.folder / "back.parquet"
            run(words[0], path, *words[1:], "--format", "parquet", "--output", out)
            self.assertEqual(pl.read_parquet_schema(out)["period"], pl.Date, words)


class Reasons(FolderCase):
    def test_a_method_with_season_gives_the_reason_of_seasons(self) -> None:
        year = "month,cases\n" + "".join(f"2024-{m:02d},{100 + m}\n" for m in range(1, 13))
        for command in ("project", "seasons"):
            words = ("--method", "line-season") if command == "project" else ()
            code, out, err = run(command, self.file(year), *words)
            self.assertEqual((code, out), (2, ""))
            self.assertIn(
                "A season takes two full cycles, 24 months; 12 are known and 12 more are needed.", err
            )

    def test_a_fit_of_thousands_of_days_is_not_told_that_it_has_too_few(self) -> None:
        words = ("--period", "day", "--indices", "simple", "--method", "line-season")
        code, _, err = run("project", sales_path(), *words)
        self.assertEqual(code, 2)
        self.assertIn(
            "There is no seasonal index, so this method cannot be fitted. There is no ratio for", err
        )
        self.assertNotIn("three complete periods", err)
