"""Dates and numbers out of text, and the columns that hold them."""

from __future__ import annotations

import datetime as dt
import unittest

import polars as pl
from hypothesis import given, settings
from hypothesis import strategies as st

from oat_tide.core.user_error import UserError
from oat_tide.intake.cells import dates, numbers
from oat_tide.intake.meaning.roles import guess
from oat_tide.intake.origins.delimited import open_delimited
from tests.helpers import FolderCase


def read_dates(cells: list[str | None], day_first: bool | None = None) -> list[object]:
    read = dates.day("c", day_first, dates.months_written(cells))
    return pl.DataFrame({"c": cells}, schema={"c": pl.String}).select(read.alias("c"))["c"].to_list()


def read_numbers(cells: list[str], comma: bool = False) -> list[object]:
    return pl.DataFrame({"c": cells}).select(numbers.number("c", comma))["c"].to_list()


class Dates(unittest.TestCase):
    def test_every_pattern(self) -> None:
        wanted = dt.date(2024, 3, 5)
        cells = [
            "2024-03-05", "2024/3/5", "20240305", "2024-03-05T10:11:00Z", "2024-03-05 10:11", "5 Mar 24",
            "05-Mar-2024", "5 March 2024", " 2024-03-05 ",
        ]  # fmt: skip
        self.assertEqual(read_dates(list(cells)), [wanted] * len(cells))
        self.assertEqual(
            read_dates(["2024-03", "Mar 2024", "Mar-24", "2024"]),
            [dt.date(2024, 3, 1)] * 3 + [dt.date(2024, 1, 1)],
        )
        self.assertEqual({dates.written_as(cell) for cell in cells}, {dates.DAY})
        self.assertEqual(
            [dates.written_as(c) for c in ("Mar-24", "2024", "wk 9")], [dates.MONTH, dates.YEAR, None]
        )

    @given(st.lists(st.from_regex(r"\A(?:0000|1899|1900|19\d\d|2\d{3})-[01]\d-[0-3]\d\Z"), max_size=30))
    @settings(deadline=None)
    def test_days_written_alike_are_read_as_by_the_patterns(self, cells: list[str]) -> None:
        whole = dates.whole_days(pl.Series(cells, dtype=pl.String))
        assert whole is not None
        self.assertEqual(whole.to_list(), read_dates(list(cells)))

    def test_a_column_written_otherwise_goes_by_the_patterns(self) -> None:
        for other in ("", "2024-3-5", "2024-03-05 ", "wk 3", None):
            self.assertIsNone(dates.whole_days(pl.Series(["2024-03-05", other])))

    def test_quarters_weeks_and_american_order(self) -> None:
        for cell, date, how in (
            ("2024 Q2", "2024-04-01", dates.QUARTER),
            ("2024Q4", "2024-10-01", dates.QUARTER),
            ("Q1 24", "2024-01-01", dates.QUARTER),
            ("2024-W09", "2024-02-26", dates.WEEK),
            ("2020 W53", "2020-12-28", dates.WEEK),
            ("9. KW 2024", "2024-02-26", dates.WEEK),
            ("1. kw. 2024", "2024-01-01", dates.QUARTER),
            ("Mar 5, 2024", "2024-03-05", dates.DAY),
            ("March 5 2024", "2024-03-05", dates.DAY),
        ):
            with self.subTest(cell):
                self.assertEqual(read_dates([cell]), [dt.date.fromisoformat(date)])
                self.assertEqual(dates.written_as(cell), how)
                found = (
                    pl.DataFrame({"c": [cell]})
                    .select(p=dates.precision("c", dates.months_written([cell])))["p"]
                    .to_list()
                )
                self.assertEqual(found, [how])
        self.assertEqual(read_dates(["2021-W53", "2024 Q5", "Smarch 5 2024"]), [None] * 3)

    def test_what_is_no_date(self) -> None:
        cells = ["", "n/a", "wk 23", "2024-02-30", "31/31/2024", "12.5", "0001-01-01", "9999-12-31", None]
        self.assertEqual(read_dates(list(cells)), [None] * len(cells))

    def test_day_or_month_first_is_settled_by_evidence(self) -> None:
        frame = pl.DataFrame({"c": ["05/03/2024", "25/03/2024", "07/07/2024"]})
        self.assertEqual(dates.order_of(frame, "c"), dates.Order(True, 1, 0, 1))
        frame = pl.DataFrame({"c": ["05/03/2024", "03/25/2024"]})
        self.assertIs(dates.order_of(frame, "c").day_first, False)
        frame = pl.DataFrame({"c": ["05/03/2024"]})
        self.assertIsNone(dates.order_of(frame, "c").day_first)

    def test_without_evidence_only_cells_with_one_reading_are_read(self) -> None:
        cells = ["05/03/2024", "25/03/2024", "03/25/2024", "07/07/2024"]
        self.assertEqual(
            read_dates(list(cells)),
            [None, dt.date(2024, 3, 25), dt.date(2024, 3, 25), dt.date(2024, 7, 7)],
        )
        self.assertEqual(read_dates(["05/03/24"], True), [dt.date(2024, 3, 5)])
        self.assertEqual(read_dates(["05/03/24"], False), [dt.date(2024, 5, 3)])

    @settings(deadline=None, max_examples=60)
    @given(st.dates(dt.date(1950, 1, 1), dt.date(2150, 1, 1)))
    def test_a_date_written_is_the_date_read(self, date: dt.date) -> None:
        written = [f"{date}", f"{date:%d.%m.%Y}", f"{date:%d %b %Y}"]
        self.assertEqual(read_dates(list(written), True), [date] * 3)


class Numbers(unittest.TestCase):
    def test_with_a_decimal_point(self) -> None:
        self.assertEqual(
            read_numbers(["12", "-3", "+4.50", "1,234.5", "12,345,678", "1e3", "−7", "1 234"]),
            [12, -3, 4.5, 1234.5, 12345678, 1000, -7, 1234],
        )

    def test_with_a_decimal_comma(self) -> None:
        self.assertEqual(read_numbers(["1.234,56", "0,5", "-12"], comma=True), [1234.56, 0.5, -12])

    def test_the_mark_is_found_in_the_column(self) -> None:
        for cells, point, comma, open_ in (
            (["1,5", "1.234,56"], 0, 2, 0),
            (["1.5", "1,234.56", "1.234"], 2, 0, 1),
            (["0.500", "1.234.567", "12"], 1, 1, 0),
            (["1,234", "1.234", "12", "n/a", None], 0, 0, 2),
        ):
            with self.subTest(cells):
                told = numbers.evidence(pl.DataFrame({"c": cells}), "c")
                self.assertEqual((told.point, told.comma, told.open), (point, comma, open_))

    def test_currency_brackets_trailing_minus_and_percent(self) -> None:
        for cell, value in {
            "£1,234.50": 1234.5,
            "$ 5": 5,
            "12 €": 12,
            "EUR 9.5": 9.5,
            "9.5 GBP": 9.5,
            "-$3": -3,
            "$-3": -3,
            "(1,250)": -1250,
            "($12.50)": -12.5,
            "$(12.50)": -12.5,
            "12-": -12,
            "1,234.5 -": -1234.5,
            "– 7": -7,
            "25%": 0.25,
            "12.5 %": 0.125,
            "(5%)": -0.05,
            "1\N{NO-BREAK SPACE}234": 1234,
        }.items():
            with self.subTest(cell):
                self.assertEqual(read_numbers([cell]), [value])
                self.assertTrue(numbers.is_number(cell))
        self.assertEqual(read_numbers(["€ 1.234,56", "(0,5)"], comma=True), [1234.56, -0.5])

    def test_percent_needs_two_more_decimals_to_stay_exact(self) -> None:
        frame = pl.DataFrame({"c": ["12.5%", "3.10", "7", "1e-3", "£2.50"]})
        self.assertEqual(frame.select(d=numbers.decimals("c", False))["d"].to_list(), [3, 1, 0, 3, 1])

    def test_a_dash_stands_for_nothing(self) -> None:
        frame = pl.DataFrame({"c": ["-", "–", " — ", "", None, "-1", "n/a"]})
        self.assertEqual(frame.select(numbers.is_blank("c"))["c"].to_list(), [True] * 5 + [False] * 2)

    def test_what_is_no_number(self) -> None:
        cells = [
            "",
            "n/a",
            "inf",
            "nan",
            "12 cases",
            "1.2.3",
            "--1",
            "(5",
            "5)",
            "(-5)",
            "$",
            "%",
            "EUR",
            "A12",
        ]
        self.assertEqual(read_numbers(cells), [None] * len(cells))
        self.assertFalse(any(numbers.is_number(cell) for cell in cells))

    @settings(deadline=None, max_examples=60)
    @given(st.decimals(-(10**6), 10**6, places=2))
    def test_a_number_written_is_the_number_read(self, value: object) -> None:
        self.assertEqual(read_numbers([f"{value:,.2f}"]), [float(str(value))])


class Roles(FolderCase):
    def test_roles_are_found_by_content_and_by_name_between_equals(self) -> None:
        rows = [
            f"{1000 + i},2024-01-{1 + i % 28:02d},{('Bran', 'Oats')[i % 2]},{3 + i % 7},{9.5 + i % 3}"
            for i in range(60)
        ]
        path = self.file("\n".join(["line no,when,goods,qty,price", *rows]))
        found = guess(open_delimited(path))
        self.assertEqual((found.date, found.value, found.by), ("when", "qty", ("goods",)))

    def test_free_text_and_empty_columns_are_left_out(self) -> None:
        rows = [f"2024-01-{1 + i % 28:02d},note {i},,{('Bran', 'Oats')[i % 2]},{i}" for i in range(60)]
        found = guess(open_delimited(self.file("\n".join(["date,remark,spare,goods,cases", *rows]))))
        self.assertEqual(found.by, ("goods",))

    def test_without_dates_or_numbers_the_columns_are_named(self) -> None:
        for text, word in (
            ("a,b\nx,1\ny,2\n", "no column holds dates"),
            ("a,b\n2024-01-01,x\n2024-01-02,y\n", "no column holds numbers"),
        ):
            with self.subTest(word), self.assertRaises(UserError) as caught:
                guess(open_delimited(self.file(text)))
            self.assertIn(word, str(caught.exception))
            self.assertIn("such as", str(caught.exception))
