"""Lines used and set aside, and the panels they are totalled into."""

from __future__ import annotations

import datetime as dt
from unittest import mock

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from oat_tide.core.periods.calendar import Grid, day_number
from oat_tide.core.series.panel import FILLED, INCOMPLETE
from oat_tide.core.series.tie_out import tie_out
from oat_tide.core.user_error import UserError
from oat_tide.intake.meaning import keys
from oat_tide.intake.origins.delimited import open_delimited
from oat_tide.intake.totals import sales
from oat_tide.intake.totals.evened import panel as panel_of
from oat_tide.plan.parts.intake import Intake
from tests.helpers import HEAD, FolderCase, daily, monthly, wavy

WRITTEN_DATES = st.one_of(
    st.dates(dt.date(2020, 1, 1), dt.date(2023, 12, 31)).map(str), st.sampled_from(["", "wk 3"])
)
WRITTEN_NUMBERS = st.one_of(
    st.integers(-99999, 99999).map(lambda cents: f"{cents / 100:.2f}"), st.sampled_from(["n/a", ""])
)
ASK = Intake(date="date", value="cases", by=("product", "area"))


class SetAside(FolderCase):
    def test_every_line_is_used_or_listed_with_its_row_and_reason(self) -> None:
        lines = [f"2024-01-{d:02d},Bran,North,5" for d in range(1, 29)]
        bad = {
            "wk 5,Bran,North,1": "date cannot be read",
            ",Bran,North,1": "no date",
            "2024-02-01,Bran,North,n/a": "number cannot be read",
            "2024-02-01,Bran,North,": "no number",
            "2024-02-01,Bran,North": "not as many fields as the header",
            "2024,Bran,North,1": "names a year where others name a day",
            "2024-02-01,Bran,North,1e400": "number too large",
            "05/03/2024,Bran,North,1": "day and month could be swapped",
        }
        read = sales.read(open_delimited(self.file("\n".join([HEAD, *lines, *bad]))), ASK)
        self.assertEqual((read.reading.read, read.reading.used), (36, 28))
        self.assertEqual({row: why for _, row, why, _ in read.reading.list_aside(0, 99)},
                         dict(zip(range(30, 38), bad.values(), strict=True)))  # fmt: skip
        self.assertEqual(sum(aside.count for aside in read.reading.asides), 8)
        self.assertIn("wk 5 | Bran", read.reading.list_aside(0, 1)[0][3])

    def test_what_stands_above_the_header_and_totals_are_no_sales(self) -> None:
        table = [HEAD, *(f"2024-01-{d:02d},Bran,North,5" for d in range(1, 29))]
        below = ["TOTAL 2024,,,140", "2024-01-28,Grand total,North,140", ",Subtotal:,,9"]
        for above in (
            ["Sales of the mill", "made on 3 Feb 2024", ""],
            ["Sales of the mill,,,", ",,made on 3 Feb 2024,", ",,,"],
            ['"Sales, all of them"', ""],
        ):
            with self.subTest(above):
                read = sales.read(open_delimited(self.file("\n".join([*above, *table, *below]))), ASK)
                reasons = {text: why for _, _, why, text in read.reading.list_aside(0, 99)}
                self.assertEqual(read.reading.used, 28)
                self.assertEqual(read.reading.total_used, 140)
                self.assertEqual(read.keys, (("Bran", "North"),))
                titles = [text for text, why in reasons.items() if why == "above the header"]
                self.assertTrue(titles and "Sales" in titles[0])
                self.assertEqual(list(reasons.values()).count("a total, not a sale"), 3)

    def test_when_nothing_can_be_used_the_columns_are_named(self) -> None:
        source = open_delimited(self.file("date,product,cases\n2024-01-01,Bran,3\n2024-01-02,Oats,4\n"))
        with self.assertRaises(UserError) as caught:
            sales.read(source, Intake(date="date", value="product"))
        self.assertIn("product", str(caught.exception))
        with self.assertRaises(UserError):
            sales.read(source, Intake(date="product", value="cases"))
        with self.assertRaises(UserError):
            sales.read(source, Intake(date="when", value="cases"))

    @settings(deadline=None, max_examples=40)
    @given(
        st.lists(
            st.tuples(
                WRITTEN_DATES,
                st.sampled_from(["Bran", "Oats", ""]),
                st.sampled_from(["North", "South"]),
                WRITTEN_NUMBERS,
            ),
            min_size=1, max_size=60,
        )
    )  # fmt: skip
    def test_the_tie_out_holds(self, rows: list[tuple[str, str, str, str]]) -> None:
        rows.append(("2021-05-05", "Bran", "North", "1.25"))
        source = open_delimited(self.file("\n".join([HEAD, *map(",".join, rows)])))
        read = sales.read(source, ASK)
        reading = read.reading
        self.assertEqual(reading.read, len(rows))
        self.assertEqual(reading.used + len(reading.list_aside(0, 999)), len(rows))
        used = [r for r in rows if r[0][:2] == "20" and r[3] not in ("", "n/a")]
        cents = sum(round(float(r[3]) * 100) for r in used)
        self.assertEqual(round(reading.total_used * 100), cents)
        for kind in ("day", "week", "month", "quarter", "year"):
            panel = panel_of(read, Grid(kind))  # type: ignore[arg-type]
            self.assertEqual(round(100 * (np.nansum(panel.values) + panel.withheld.sum())), cents)
            whole = panel.total((None, None))
            self.assertEqual(round(100 * (np.nansum(whole.values) + whole.withheld.sum())), cents)
            self.assertEqual(panel.lines.sum(), len(used))
            self.assertTrue(tie_out(reading, panel).ties)

    @settings(deadline=None, max_examples=40)
    @given(st.lists(st.tuples(*[st.sampled_from("ABC")] * 4, st.integers(0, 2)), min_size=1, max_size=60))
    def test_series_of_many_dimensions_and_copies_are_those_of_a_plain_loop(
        self, rows: list[tuple[str, str, str, str, int]]
    ) -> None:
        lines = [f"2024-01-01,{','.join(map(str, row))}" for row in rows]
        source = open_delimited(self.file("\n".join(["date,a,b,c,d,cases", *lines])))
        wanted: dict[tuple[str, ...], int] = {}
        for *key, cases in rows:
            wanted[tuple(key)] = wanted.get(tuple(key), 0) + cases  # type: ignore[arg-type]
        # Few places at a time: dimensions are packed together as they are where there are thousands.
        for most in (1, 9, 10**6):
            with mock.patch.object(keys, "_MOST_AT_ONCE", most):
                read = sales.read(source, Intake(date="date", value="cases", by=("a", "b", "c", "d")))
            self.assertEqual(read.keys, tuple(sorted(wanted)))
            sums = panel_of(read, Grid("day")).values[:, 0].tolist()
            self.assertEqual(sums, [wanted[key] for key in read.keys])
            self.assertEqual(read.reading.copies, len(rows) - len(set(rows)))

    def test_totals_agree_between_periods_that_nest(self) -> None:
        read = sales.read(open_delimited(self.file(daily(800, wavy))), ASK)
        months, quarters, years = (
            panel_of(read, Grid(kind)).total((None, None)).values[0]  # type: ignore[arg-type]
            for kind in ("month", "quarter", "year")
        )
        self.assertEqual(months[:3].sum(), quarters[0])
        self.assertEqual(months[12:24].sum(), years[1])


class Panels(FolderCase):
    def test_nothing_sold_and_not_known_differ(self) -> None:
        rows = [
            "2024-01-10,Bran,North,5",
            "2024-04-11,Bran,North,7",
            "2024-03-20,Oats,North,2",
            "2024-01-02,Oats,South,2",
            "2024-06-30,Oats,South,1",
        ]
        panel = panel_of(sales.read(open_delimited(self.file("\n".join([HEAD, *rows]))), ASK), Grid("month"))
        self.assertEqual(panel.keys, (("Bran", "North"), ("Oats", "North"), ("Oats", "South")))
        np.testing.assert_array_equal(panel.values[0], [5, 0, 0, 7, 0, 0])
        np.testing.assert_array_equal(panel.values[1], [np.nan, np.nan, 2, 0, 0, 0])
        self.assertTrue(panel.flags[0, 1] & FILLED)
        self.assertFalse(panel.flags[1, 0] & FILLED)

    def test_returns_are_negative_lines_and_stay(self) -> None:
        text = "\n".join(
            [HEAD, "2024-01-10,Bran,North,5", "2024-01-11,Bran,North,-2", "2024-01-31,Bran,North,1"]
        )
        panel = panel_of(sales.read(open_delimited(self.file(text)), ASK), Grid("month"))
        self.assertEqual(panel.values[0, 0], 4)

    def test_part_periods_at_both_ends_are_marked(self) -> None:
        text = daily(45, wavy, start="2024-01-10")
        panel = panel_of(sales.read(open_delimited(self.file(text)), ASK), Grid("month"))
        self.assertEqual((panel.flags & INCOMPLETE).any(0).tolist(), [True, True])
        longer = panel_of(sales.read(open_delimited(self.file(daily(91, wavy))), ASK), Grid("month"))
        self.assertEqual((longer.flags & INCOMPLETE).any(0).tolist(), [False, False, False])

    def test_the_data_to_date_can_be_set(self) -> None:
        source = open_delimited(self.file(daily(80, wavy)))
        late = Intake(date="date", value="cases", by=("product", "area"), upto=dt.date(2024, 3, 31))
        before, after = (panel_of(sales.read(source, ask), Grid("month")) for ask in (ASK, late))
        self.assertTrue(before.flags[0, -1] & INCOMPLETE)
        self.assertFalse(after.flags[0, -1] & INCOMPLETE)

    def test_lines_behind_a_figure_tie_to_it(self) -> None:
        read = sales.read(open_delimited(self.file(daily(60, wavy))), ASK)
        grid = Grid("week")
        panel = panel_of(read, grid)
        for key in ((None, None), ("Oat drink", None), ("Bran", "North")):
            level = panel.total(key)
            for column in range(panel.columns):
                lines = sales.lines_of(read, grid, key, panel.first + column)
                self.assertEqual(lines["value"].sum(), level.values[0, column])
                self.assertEqual(lines.height, level.lines[0, column])


class OneRowAPeriod(FolderCase):
    def reading(self, text: str) -> object:
        source = open_delimited(self.file(text))
        from oat_tide.intake.meaning.roles import guess

        return sales.read(source, guess(source)).reading

    def test_month_totals_are_whole_to_their_last_row(self) -> None:
        first = self.reading(monthly([10, 20, 30, 40]))
        last = self.reading("month,cases\n2024-01-31,10\n2024-02-29,20\n2024-03-31,30\n")
        for found, upto in ((first, "2020-04-30"), (last, "2024-03-31")):
            self.assertEqual(found.kind, "month")  # type: ignore[attr-defined]
            self.assertEqual(found.upto, day_number(dt.date.fromisoformat(upto)))  # type: ignore[attr-defined]

    def test_year_totals_by_date_or_bare_year(self) -> None:
        for text in (
            "year,cases\n2020,10\n2021,20\n2022,30\n",
            "year,cases\n2020-12-31,10\n2021-12-31,20\n2022-12-31,30\n",
        ):
            found = self.reading(text)
            self.assertEqual(found.kind, "year")  # type: ignore[attr-defined]
            self.assertEqual(found.upto, day_number(dt.date(2022, 12, 31)))  # type: ignore[attr-defined]

    def test_fiscal_years_quarters_and_weeks(self) -> None:
        fiscal = self.reading("year end,cases\n2020-03-31,1\n2021-03-31,2\n2022-03-31,3\n")
        self.assertEqual((fiscal.kind, fiscal.grid.year_start), ("year", 4))  # type: ignore[attr-defined]
        quarters = self.reading("q,cases\n2023-01-01,1\n2023-04-01,2\n2023-07-01,3\n2023-10-01,3\n")
        self.assertEqual(quarters.kind, "quarter")  # type: ignore[attr-defined]
        for text, kind, upto in (
            ("q,cases\n2023 Q1,1\n2023 Q2,2\n2023 Q3,3\n", "quarter", dt.date(2023, 9, 30)),
            ("wk,cases\n2024-W01,1\n2024-W02,2\n2024-W03,3\n", "week", dt.date(2024, 1, 21)),
        ):
            found = self.reading(text)
            self.assertEqual((found.kind, found.upto), (kind, day_number(upto)))  # type: ignore[attr-defined]
        weeks = self.reading("wk,cases\n2024-01-06,1\n2024-01-13,2\n2024-01-20,3\n2024-01-27,3\n")
        self.assertEqual((weeks.kind, weeks.grid.week_start), ("week", 6))  # type: ignore[attr-defined]
