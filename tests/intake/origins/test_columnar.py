"""Parquet files as sources."""

from __future__ import annotations

import csv
import datetime as dt
import io
from contextlib import redirect_stdout
from pathlib import Path
from unittest import mock

import numpy as np
import polars as pl

from oat_tide.cli import main
from oat_tide.core.user_error import Stopped, UserError
from oat_tide.documents import open_document
from oat_tide.intake.cells.numbers import TYPED
from oat_tide.intake.origins import columnar
from oat_tide.intake.origins.columnar import _told, open_parquet
from oat_tide.intake.table import ROW
from oat_tide.session import Session
from tests.helpers import FolderCase, daily, wavy


class Reading(FolderCase):
    def test_the_same_lines_give_the_same_panel_as_csv(self) -> None:
        text = self.file(daily(300, wavy))
        frame = pl.read_csv(text, try_parse_dates=True).with_columns(pl.col("area").cast(pl.Categorical))
        frame.write_parquet(self.folder / "sales.parquet")
        one, other = open_document(text).session, open_document(self.folder / "sales.parquet").session
        self.assertEqual(one.plan.intake, other.plan.intake)
        self.assertEqual(one.panel.keys, other.panel.keys)
        self.assertEqual(one.panel.values.tolist(), other.panel.values.tolist())
        self.assertEqual(other.reading.files[0].form, "Parquet")

    def test_every_plain_kind_is_told_as_text(self) -> None:
        path = self.folder / "kinds.parquet"
        pl.DataFrame(
            {
                "day": [dt.date(2024, 1, 2), None],
                "time": [dt.datetime(2024, 1, 2, 3, 4, 5), None],
                "money": [1234.5, float("nan")],
                "cases": [12.0, float("inf")],
                "much": pl.Series([10, None], dtype=pl.UInt64),
                "price": pl.Series(["3.10", None]).cast(pl.Decimal(10, 2)),
                "list": [[1], [2]],
                "took": [dt.timedelta(hours=3), None],
                "nothing": [None, None],
            }
        ).write_parquet(path)
        source = open_parquet(path)
        self.assertEqual(source.columns, ["day", "time", "money", "cases", "much", "price"])
        first = source.frame.row(0)[3:]
        self.assertEqual(
            (first[0], first[1][:19], *first[2:]),
            ("2024-01-02", "2024-01-02T03:04:05", "1234.5", "12", "10", "3.10" + TYPED),
        )
        self.assertEqual(set(source.frame.row(1)[3:]), {None})
        self.assertEqual(source.frame[ROW].to_list(), [1, 2])
        self.assertIn("3 columns that are no plain values", source.form)

    def test_numbers_of_every_kind_are_those_of_the_file(self) -> None:
        rng = np.random.default_rng(5)
        edges = {
            pl.Int8: (-128, 127), pl.UInt8: (0, 255), pl.Int16: (-30_000, 30_000), pl.UInt16: (0, 65_535),
            pl.Int32: (-(2**31), 60_000 - 2**31), pl.UInt32: (2**32 - 60_000, 2**32 - 1),
            pl.Int64: (2**63 - 3_000, 2**63 - 1), pl.UInt64: (2**64 - 3_000, 2**64 - 1),
            pl.Float64: (-30_000, 30_000), pl.Float32: (-300, 300), pl.Date: (-719_162, -700_000),
        }  # fmt: skip
        for kind, (low, high) in edges.items():
            few = [low, high, *(low + int(more) for more in rng.integers(0, high - low, 40))]
            near = [few[at] for at in rng.integers(0, len(few), 500)]
            column = pl.Series("number", near, pl.Int64 if kind.is_float() else kind, strict=False)
            parts = column.cast(kind) / 100 if kind.is_float() else column
            # The first lines come in runs, those after them do not.
            mixed = pl.concat((parts.sort(), parts)).cast(kind)
            path = self.folder / "numbers.parquet"
            pl.DataFrame([mixed]).write_parquet(path)
            found = open_parquet(path).table["number"].cast(pl.String).to_list()
            texts = mixed.to_frame().select(_told("number", kind())).to_series().to_list()
            with self.subTest(kind):
                self.assertTrue(found == texts)
                if kind.is_integer():
                    self.assertTrue([int(text) for text in found if text] == mixed.to_list())

    def test_figures_that_are_no_hundredths_are_those_of_the_file_too(self) -> None:
        odd = [0.1 + 0.2, -0.0, 0.005, 1e300, float("inf"), float("nan"), None, 655.36, -655.36, 1 / 3]
        for late in odd:
            # The first lines are coded as hundredths, before another figure comes.
            figures = pl.Series("figure", [0.01 * at for at in range(50)] * 20, pl.Float64).round(2)
            column = pl.concat((figures, pl.Series("figure", [late] * 9, pl.Float64), figures))
            path = self.folder / "figures.parquet"
            pl.DataFrame([column]).write_parquet(path)
            with self.subTest(late), mock.patch.multiple(columnar, _AT_ONCE=500, _SAMPLED=400):
                found = open_parquet(path).table["figure"].cast(pl.String).to_list()
                texts = column.to_frame().select(_told("figure", pl.Float64())).to_series().to_list()
                self.assertTrue(found == texts)

    def test_empty_text_and_nothing_are_one_and_lines_with_either_are_copies(self) -> None:
        names = ["product", "route", "area"]
        rng = np.random.default_rng(2)
        cells = {name: [(f"{name} 1", "", None)[at] for at in rng.integers(0, 3, 600)] for name in names}
        frame = pl.DataFrame({"day": [dt.date(2024, 1, 1 + at // 200) for at in range(600)], **cells})
        frame = frame.with_columns(cases=pl.int_range(pl.len()) % 7)
        path = self.folder / "empty.parquet"
        frame.write_parquet(path)
        found = open_parquet(path).table
        self.assertEqual(set(found.meant), set(names))
        rows = frame.with_columns(pl.col(names).replace("", None)).rows()
        session = open_document(path).session
        self.assertEqual(session.reading.copies, len(rows) - len(set(rows)))

    def test_the_command_line_reads_it_too(self) -> None:
        frame = pl.read_csv(self.file(daily(200, wavy)), try_parse_dates=True)
        frame.write_parquet(self.folder / "sales.parquet")
        out = io.StringIO()
        with redirect_stdout(out):
            code = main(["project", str(self.folder / "sales.parquet"), "--by", "product", "--horizon", "2"])
        self.assertEqual(code, 0)
        self.assertEqual(
            {row["product"] for row in csv.DictReader(io.StringIO(out.getvalue()))}, {"Bran", "Oat drink"}
        )


class Refused(FolderCase):
    def test_each_says_which_file_and_what_to_do(self) -> None:
        empty, nested = self.folder / "empty.parquet", self.folder / "nested.parquet"
        pl.DataFrame({"day": pl.Series([], dtype=pl.Date)}).write_parquet(empty)
        pl.DataFrame({"lists": [[1, 2]]}).write_parquet(nested)
        cut = self.file(empty.read_bytes()[:40], "cut.parquet")
        for path, word in ((empty, "no lines"), (nested, "no columns of"), (cut, "damaged")):
            with self.subTest(path.name), self.assertRaises(UserError) as caught:
                open_document(path)
            self.assertIn(path.name, str(caught.exception))
            self.assertIn(word, str(caught.exception))

    def test_it_stops_when_it_is_told_to(self) -> None:
        pl.DataFrame({"day": [dt.date(2024, 1, 2)]}).write_parquet(self.folder / "one.parquet")

        def progress(share: float) -> None:
            raise Stopped

        with self.assertRaises(Stopped):
            open_parquet(self.folder / "one.parquet", progress)


class Odd(FolderCase):
    BASE = pl.DataFrame(
        {
            "date": [dt.date(2024, 1, 1) + dt.timedelta(days=i) for i in range(200)],
            "product": ["Oats", "Bran"] * 100,
            "cases": [i % 17 for i in range(200)],
        }
    )

    def opened_frame(self, frame: pl.DataFrame) -> Session:
        path = self.folder / "odd.parquet"
        frame.write_parquet(path)
        return open_document(path).session

    def test_a_date_beyond_the_calendar_in_another_column_does_not_matter(self) -> None:
        total = self.BASE["cases"].sum()
        for kind, far in (
            (pl.Date, 2**31 - 1),
            (pl.Datetime("ms"), 2**62),
            (pl.Datetime("us", "UTC"), 2**62),
        ):
            with self.subTest(str(kind)):
                numbers = pl.Series([far] + [0] * 199, dtype=pl.Int32 if kind == pl.Date else pl.Int64)
                session = self.opened_frame(self.BASE.with_columns(far=numbers.cast(kind)))
                self.assertEqual((session.reading.used, session.reading.total_used), (200, total))

    def test_one_in_the_column_of_dates_is_a_line_set_aside(self) -> None:
        days = pl.Series([2**31 - 1, *range(19000, 19199)], dtype=pl.Int32).cast(pl.Date)
        reading = self.opened_frame(self.BASE.with_columns(date=days)).reading
        self.assertEqual((reading.used, reading.list_aside(0, 9)[0][1:3]), (199, (1, "date cannot be read")))

    def test_names_that_are_blank_double_or_patterns_are_made_unique_and_said(self) -> None:
        one = pl.lit("x")
        names = ("", "  ", " cases", "^date$", "*", "a\nb", "a b")
        source = open_parquet(self.written(self.BASE.with_columns(one.alias(name) for name in names)))
        self.assertEqual(
            source.columns,
            [
                "date",
                "product",
                "cases",
                "column 4",
                "column 5",
                "cases (2)",
                "column 7",
                "column 8",
                "a b",
                "a b (2)",
            ],
        )
        self.assertIn("called column 4, column 5, cases (2)", source.files[0].form)

    def written(self, frame: pl.DataFrame) -> Path:
        path = self.folder / "names.parquet"
        frame.write_parquet(path)
        return path

    def test_a_panic_of_the_engine_is_a_message(self) -> None:
        path = self.written(self.BASE)
        panic = pl.exceptions.PanicException("the engine gave up")
        with mock.patch("polars.scan_parquet", side_effect=panic), self.assertRaises(UserError) as caught:
            open_parquet(path)
        self.assertIn("names.parquet is damaged", str(caught.exception))
