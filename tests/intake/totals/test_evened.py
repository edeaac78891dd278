"""Making it even: nothing sold or not known, provisional, closed days, other calendars, budgets."""

from __future__ import annotations

import datetime as dt

import numpy as np

from oat_tide.core.periods.calendar import day_number
from oat_tide.core.series.panel import FILLED, INCOMPLETE, LACKING, LEFT_OUT, PROVISIONAL, REPLACED
from oat_tide.core.working.tree import SalesLines
from oat_tide.documents import open_sources
from oat_tide.plan.edits import edit
from oat_tide.plan.parts.evened import Ruled
from oat_tide.plan.parts.intake import Verdict
from oat_tide.plan.parts.sources import Sources
from oat_tide.plan.paths import P
from oat_tide.session import Session
from oat_tide.stages.deck import Choice, Note
from oat_tide.stages.intake.edits import FOREVER
from tests.helpers import HEAD, FolderCase, daily, monthly, wavy

SOLD = (("A", range(1, 13), 4), ("B", (2, 3, 7), 2))
GAPS = "\n".join([HEAD, *(f"2024-{m:02d}-01,{p},N,{c}" for p, months, c in SOLD for m in months)])


class Undated(FolderCase):
    """Lines whose date cannot be read make no zeros."""

    def session(self, strange: str) -> Session:
        """Two years of one product each month but November 2023, and of another now and then."""
        months = [(2023 + n // 12, n % 12 + 1) for n in range(24)]
        days = [(y, m, d) for y, m in months for d in (5, 19) if (y, m) != (2023, 11)]
        rows = [f"{y}-{m:02d}-{d:02d},A,{10 + m}" for y, m, d in days]
        rows += [f"{y}-{m:02d}-06,B,3" for y, m in months if m % 5 == 2]
        return self.opened("\n".join(["date,product,cases", *rows, strange]))

    def figure(self, session: Session, product: str) -> float:
        """November 2023 of a product."""
        panel = session.panel
        row = panel.keys.index((product,))
        return float(panel.values[row, session.grid.period(day_number(dt.date(2023, 11, 1))) - panel.first])

    def test_a_month_without_lines_is_not_known_until_they_are_ruled(self) -> None:
        session = self.session("2023-13-45,A,21")
        self.assertTrue(np.isnan(self.figure(session, "A")))
        # The other series has no such line, and sells now and then: a month without a line is 0.
        self.assertEqual(self.figure(session, "B"), 0)
        session.do(edit(P.intake.verdicts, (Verdict(reason="date cannot be read", outcome="leave out"),)))
        self.assertEqual(self.figure(session, "A"), 0)
        session.do(edit(P.intake.verdicts, ()))
        november = Ruled((("product", "A"),), dt.date(2023, 11, 1), dt.date(2023, 11, 30), "nothing sold")
        session.do(edit(P.evened.rulings, (november,)))
        self.assertEqual(self.figure(session, "A"), 0)

    def test_of_a_series_that_sells_now_and_then_it_stays_nothing_sold(self) -> None:
        session = self.session("2023-13-45,B,21")
        self.assertEqual((self.figure(session, "A"), self.figure(session, "B")), (0, 0))

    def test_a_line_without_a_figure_leaves_no_other_period_open(self) -> None:
        self.assertEqual(self.figure(self.session("2023-13-45,A,"), "A"), 0)

    def test_by_days_its_usual_weekdays_tell(self) -> None:
        days = [dt.date(2024, 1, 1) + dt.timedelta(days=n) for n in range(120)]
        sold = [day for day in days if day.weekday() < 5 and day != dt.date(2024, 3, 6)]
        rows = [f"{day},A,{cases}" for day in sold for cases in (5, 6)]
        session = self.opened("\n".join(["date,product,cases", *rows, "06-xx-2024,A,5"]))
        session.do(edit(P.periods.kind, "day"))
        values, first = session.panel.values[0], session.panel.first
        # A Wednesday among 17 is not known; a Sunday is no day that it sells on.
        self.assertTrue(np.isnan(values[day_number(dt.date(2024, 3, 6)) - first]))
        self.assertEqual(values[day_number(dt.date(2024, 3, 10)) - first], 0)


class Gaps(FolderCase):
    def test_nothing_sold_or_not_known_for_the_plan_or_one_series(self) -> None:
        session = self.opened(GAPS)
        session.do(edit(P.where, (("product", "B"),)))

        def values() -> list[float]:
            return session.sight().past.values[0].tolist()

        nan = np.nan
        np.testing.assert_array_equal(values(), [nan, 2, 2, 0, 0, 0, 2, 0, 0, 0, 0, 0])
        whole_year = (dt.date(2024, 1, 1), dt.date(2024, 12, 31))
        session.do(edit(P.evened.rulings, (Ruled((("product", "B"),), *whole_year, "not known"),)))
        np.testing.assert_array_equal(values(), [nan, 2, 2, nan, nan, nan, 2, nan, nan, nan, nan, nan])
        session.do(edit(P.evened.rulings, (Ruled((), *whole_year, "nothing sold"),)))
        np.testing.assert_array_equal(values(), [0, 2, 2, 0, 0, 0, 2, 0, 0, 0, 0, 0])
        session.do(edit(P.evened.rulings, ()))
        session.do(edit(P.evened.gaps, "not known"))
        self.assertEqual(int(np.isnan(values()).sum()), 9)
        self.assertTrue(session.tie.ties)

    def test_a_withdrawn_series_is_not_known_from_then_on(self) -> None:
        session = self.opened(GAPS)
        withdrawn = Ruled((("product", "B"),), dt.date(2024, 8, 1), FOREVER, "withdrawn")
        session.do(edit(P.evened.rulings, (withdrawn,)))
        row = session.panel.keys.index(("B",))
        np.testing.assert_array_equal(np.isnan(session.panel.values[row, 6:]), [False] + [True] * 5)
        said = session.deck("intake").coverage().said[1]  # type: ignore[misc]
        self.assertIn((6, "withdrawn after Jul 2024"), said)

    def test_what_is_said_of_an_end_heeds_a_period_taken_as_complete(self) -> None:
        first = dt.date(2024, 1, 1)
        days = [(first + dt.timedelta(days=n)).isoformat() for n in range(131)]
        lines = [f"{day},A,2" for day in days] + [f"{day},B,1" for day in days if day < "2024-04-01"]
        session = self.opened("date,product,cases\n" + "\n".join(lines) + "\n")
        # May ends on the 10th: only April has gone by as a whole since B sold last.
        self.assertEqual(session.deck("intake").coverage().said[1], ())  # type: ignore[misc]
        may = Ruled((), dt.date(2024, 5, 1), dt.date(2024, 5, 31), "whole")
        session.do(edit(P.evened.rulings, (may,)))
        said = session.deck("intake").coverage().said[1]  # type: ignore[misc]
        self.assertEqual(said, ((2, "last sold Mar 2024"),))


class ByContent(FolderCase):
    """Whether a period without a line is nothing sold or not known, told by what the lines are like."""

    def values(self, text: str) -> list[float]:
        return self.opened(text).panel.values[0].tolist()

    def test_a_missing_row_is_not_known_where_nine_tenths_are_there(self) -> None:
        rows = [f"{2022 + m // 12}-{m % 12 + 1:02d},{10 + m}" for m in range(24) if m not in (5, 20)]
        values = self.values("\n".join(["month,cases", *rows]))
        self.assertEqual([m for m, value in enumerate(values) if value != value], [5, 20])
        # 21 of 24 are fewer than nine tenths.
        values = self.values("\n".join(["month,cases", *(r for r in rows if "2022-03" not in r)]))
        self.assertEqual([m for m, value in enumerate(values) if value == 0], [2, 5, 20])

    def test_several_lines_a_period_make_a_missing_one_nothing_sold(self) -> None:
        rows = [
            f"{2022 + m // 12}-{m % 12 + 1:02d}-{d:02d},{10}" for m in range(24) if m != 5 for d in (3, 9)
        ]
        self.assertEqual(self.values("\n".join(["day,cases", *rows]))[5], 0)

    def test_each_series_is_judged_by_its_own_lines(self) -> None:
        rows = [f"2024-{m:02d},A,{m}" for m in range(1, 13) if m != 4]
        rows += [f"2024-{m:02d},B,{m}" for m in (1, 3, 4, 8, 12)]
        session = self.opened("\n".join(["month,product,cases", *rows]))
        dense, sparse = session.panel.values
        self.assertEqual([m + 1 for m in range(12) if dense[m] != dense[m]], [4])
        self.assertEqual([m + 1 for m in range(12) if sparse[m] == 0], [2, 5, 6, 7, 9, 10, 11])
        # Their total adds what is known, and is marked where something is missing.
        level = session.panel.total((None,))
        self.assertEqual(level.values[0, 3], 4)
        self.assertEqual(np.flatnonzero(level.flags[0] & LACKING).tolist(), [3])
        words = " ".join(item.text(0) for item in session.deck("intake").sheet() if isinstance(item, Note))
        self.assertIn("7 months of series without a line: taken as nothing sold.", words)
        self.assertIn("1 month of series without a line: taken as not known.", words)

    def test_a_quarter_that_lacks_a_month_is_the_sum_of_the_others_and_part(self) -> None:
        rows = [f"{2022 + m // 12}-{m % 12 + 1:02d},{10 + m}" for m in range(24) if m != 7]
        session = self.opened("\n".join(["month,cases", *rows]))
        session.do(edit(P.periods.kind, "quarter"))
        self.assertEqual(session.panel.values[0, 2], 16 + 18)
        self.assertEqual(np.flatnonzero(session.panel.flags[0] & INCOMPLETE).tolist(), [2])
        self.assertEqual(np.flatnonzero(session.panel.flags[0] & LACKING).tolist(), [2])
        self.assertTrue(session.tie.ties)
        days = (dt.date(2022, 8, 1), dt.date(2022, 8, 31))
        session.do(edit(P.evened.rulings, (Ruled((), *days, "nothing sold"),)))
        self.assertEqual(session.panel.values[0, 2], 16 + 18)
        self.assertFalse((session.panel.flags & (INCOMPLETE | LACKING)).any())

    def test_a_total_is_part_only_where_all_of_its_series_are(self) -> None:
        rows = [f"{2022 + m // 12}-{m % 12 + 1:02d},{p},10" for m in range(24) for p in "AB"]
        session = self.opened("\n".join(["month,product,cases", *rows[:14], *rows[15:]]))
        session.do(edit(P.periods.kind, "quarter"))
        self.assertEqual(session.panel.values[:, 2].tolist(), [20, 30])
        level = session.panel.total((None,))
        self.assertEqual((level.values[0, 2], level.flags[0, 2]), (50, LACKING))

    def test_a_day_without_a_line_is_not_known_by_day_and_leaves_its_month_known(self) -> None:
        first = dt.date(2024, 1, 1)
        days = [first + dt.timedelta(i) for i in range(120) if i not in (40, 41)]
        session = self.opened("\n".join(["date,cases", *(f"{day},5" for day in days)]))
        self.assertEqual(session.panel.values[0].tolist(), [155, 135, 155, 145])
        session.do(edit(P.periods.kind, "day"))
        self.assertEqual(np.flatnonzero(np.isnan(session.panel.values[0])).tolist(), [40, 41])

    def test_the_choice_of_the_user_goes_before(self) -> None:
        rows = [f"{2022 + m // 12}-{m % 12 + 1:02d},{10 + m}" for m in range(24) if m != 5]
        session = self.opened("\n".join(["month,cases", *rows]))
        session.do(edit(P.evened.gaps, "nothing sold"))
        self.assertEqual(session.panel.values[0, 5], 0)


class WithoutAFigure(FolderCase):
    """A line that is there without a figure makes its period unknown until it is ruled."""

    TEXT = (
        "day,product,cases\n2024-01-05,A,3\n2024-01-06,B,4\n2024-02-05,A,\n2024-02-07,A,5\n2024-02-09,B,6\n"
        "2024-03-01,A,n/a\n2024-03-08,B,7\n2024-04-01,A,8\n2024-04-02,B,9\n"
    )

    def test_its_period_is_not_known_in_its_series_and_every_level(self) -> None:
        session = self.opened(self.TEXT)
        nan = np.nan
        np.testing.assert_array_equal(session.panel.values, [[3, nan, nan, 8], [4, 6, 7, 9]])
        np.testing.assert_array_equal(session.panel.total((None,)).values, [[7, nan, nan, 17]])
        tie = session.tie
        self.assertEqual((tie.source, tie.series, tie.withheld, tie.ties), (42, 37, 5, True))

    def test_the_reason_named_is_the_true_one(self) -> None:
        actual = self.opened(self.TEXT).deck("lines").figures["actual"]
        self.assertIn("the figure of a line in it cannot be read", actual.why_blank(0, 1))
        typed = open_sources(Sources(typed="2024-01 5\n2024-02 abc\n2024-03 7\n2024-04 8")).session
        np.testing.assert_array_equal(typed.panel.values, [[5, np.nan, 7, 8]])
        self.assertEqual([each.reason for each in typed.reading.asides], ["number cannot be read"])
        late = self.opened("day,cases\n2024-01-05,3\n2024-02 abc,4\n2024-03-05,5\n2024-04-07,6\n", "b.csv")
        self.assertEqual([each.reason for each in late.reading.asides], ["date cannot be read"])

    def test_it_is_ruled_in_bulk_either_way(self) -> None:
        session = self.opened(self.TEXT)
        asked = next(item for item in session.deck("intake").sheet() if isinstance(item, Choice))
        self.assertIn("2 lines of a known day without a figure", asked.text)
        for (words, way), values in zip(
            asked.outcomes, ([[3, 5, 0, 8], [4, 6, 7, 9]], [[3, 5, 0, 8], [4, 6, 7, 9]]), strict=True
        ):
            with self.subTest(words):
                assert way is not None
                session.do(way)
                np.testing.assert_array_equal(session.panel.values, values)
                self.assertEqual((session.tie.withheld, session.tie.ties), (0, True))
                session.undo()

    def test_a_blank_month_that_is_ruled_nothing_sold_is(self) -> None:
        session = self.opened("month,cases\n2024-01,3\n2024-02,\n2024-03,5\n2024-04,6\n")
        self.assertTrue(np.isnan(session.panel.values[0, 1]))
        days = (dt.date(2024, 2, 1), dt.date(2024, 2, 29))
        session.do(edit(P.evened.rulings, (Ruled((), *days, "nothing sold"),)))
        self.assertEqual(session.panel.values[0].tolist(), [3, 0, 5, 6])

    def test_a_blank_cell_between_figures_of_a_wide_table_is_no_zero(self) -> None:
        text = "product,2024-01,2024-02,2024-03,2024-04\nA,1,,3,4\nB,,2,3,\n"
        session = self.opened(text)
        nan = np.nan
        np.testing.assert_array_equal(session.panel.values, [[1, nan, 3, 4], [nan, 2, 3, 0]])


class Totalled(FolderCase):
    """Prices by their mean, stocks by the last: never added up without a word."""

    PRICES = (
        "date,product,price\n2024-01-03,A,2.00\n2024-01-20,A,3.00\n2024-01-21,B,7.00\n2024-02-03,A,4.00\n"
        "2024-03-03,A,4.50\n2024-03-04,B,6.50\n2024-04-02,A,1.00\n"
    )

    def test_a_mean_is_over_the_lines_of_its_level(self) -> None:
        session = self.opened(self.PRICES)
        nan = np.nan
        np.testing.assert_array_equal(session.panel.values, [[2.5, 4, 4.5, 1], [7, nan, 6.5, nan]])
        np.testing.assert_array_equal(session.panel.total((None,)).values, [[4, 4, 5.5, 1]])
        self.assertEqual((session.reading.unit, session.tie.ties), ("mean price", True))
        self.assertIn("not added up", session.deck("history").arrangements.why_nots[2])  # type: ignore[union-attr]

    def test_a_price_that_is_added_up_is_remarked_on(self) -> None:
        session = self.opened(self.PRICES)
        session.do(edit(P.intake.totalled, "sum"))
        asked = next(item for item in session.deck("intake").sheet() if isinstance(item, Choice))
        self.assertIn("price is added up over lines, periods and series", asked.text)
        session.do(asked.outcomes[0][1])  # type: ignore[arg-type]
        self.assertEqual(session.reading.totalled, "mean")

    def test_the_last_day_of_a_period_stands_for_it_and_its_lines_are_listed(self) -> None:
        rows = ["date,product,store,stock", "2024-01-05,A,1,10", "2024-01-30,A,1,7", "2024-01-30,A,2,5"]
        rows += ["2024-01-28,B,1,20", "2024-02-27,A,1,6", "2024-03-28,A,1,4", "2024-03-29,B,1,18"]
        session = self.opened("\n".join(rows))
        session.do(edit(P.intake.by, ("product",)))
        nan = np.nan
        np.testing.assert_array_equal(session.panel.values, [[12, 6, 4], [20, nan, 18]])
        listing = session.lines(SalesLines(32, (None,), session.panel.first, 3))
        self.assertEqual((listing.count, listing.total), (3, 32.0))
        self.assertTrue(session.tie.ties)
        self.assertEqual(session.tie.withheld, 10)


class Whole(FolderCase):
    def test_a_month_is_whole_at_the_place_where_such_months_end(self) -> None:
        rows = [
            f"2024-{m:02d}-{d:02d},{m}" for m in range(1, 8) for d in (3, (25, 24, 25, 23, 25, 26, 25)[m - 1])
        ]
        session = self.opened("\n".join(["day,cases", *rows]))
        flags = session.panel.flags[0]
        self.assertEqual((flags & INCOMPLETE).tolist(), [0] * 7)
        self.assertEqual(session.grid.label(session.as_of), "Jul 2024")

    def test_a_month_that_has_only_begun_is_part(self) -> None:
        rows = [f"2024-{m:02d}-{d:02d},{m}" for m in range(1, 8) for d in (3, 25)][:-1]
        session = self.opened("\n".join(["day,cases", *rows]))
        self.assertEqual((session.panel.flags[0] & INCOMPLETE).tolist(), [0] * 6 + [INCOMPLETE])

    def test_daily_lines_go_by_their_weekdays_as_before(self) -> None:
        session = self.opened(daily(85, wavy))
        self.assertEqual((session.panel.flags[0] & INCOMPLETE).tolist(), [0, 0, INCOMPLETE])


class Provisional(FolderCase):
    def test_it_passes_up_to_the_quarter_and_the_year(self) -> None:
        session = self.opened(daily(731, wavy, start="2023-01-01"))
        session.do(edit(P.evened.final_to, dt.date(2024, 11, 30)))

        def late() -> list[str]:
            flags = session.sight().flags.astype(int)[0]
            first = session.panel.first
            return [session.grid.label(first + int(c)) for c in np.flatnonzero(flags & PROVISIONAL)]

        self.assertEqual(late(), ["Dec 2024"])
        for kind, label in (("quarter", "Q4 2024"), ("year", "2024")):
            session.do(edit(P.periods.kind, kind))
            self.assertEqual(late(), [label])

    def test_provisional_periods_enter_fits(self) -> None:
        session = self.opened(monthly([float(10 + i) for i in range(24)]))
        slope = session.deck("project").figures["n"].values[0, 0]
        session.do(edit(P.evened.final_to, dt.date(2021, 6, 30)))
        self.assertEqual(session.deck("project").figures["n"].values[0, 0], slope)


class Rulings(FolderCase):
    def ruled(self, act: str, **more: object) -> Ruled:
        return Ruled((), dt.date(2021, 3, 1), dt.date(2021, 3, 31), act, **more)  # type: ignore[arg-type]

    def test_a_period_left_out_uses_up_its_number_and_is_not_fitted(self) -> None:
        values = [float(10 + 2 * i) for i in range(24)]
        values[14] = 500
        session = self.opened(monthly(values))
        session.do(edit(P.evened.rulings, (self.ruled("leave out", note="storm"),)))
        figures = session.deck("project").figures
        self.assertEqual(figures["n"].values[0, 0], 23)
        self.assertAlmostEqual(figures["slope"].values[0, 0], 2)
        self.assertAlmostEqual(figures["fitted"].values[0, 14], 38)
        self.assertEqual(session.deck("intake").figures["actual"].values[0, 14], 500)
        self.assertTrue(session.deck("intake").flags[0, 14] & LEFT_OUT)

    def test_an_expected_figure_counts_in_fits_and_windows_and_the_original_stays(self) -> None:
        values = [float(10 + 2 * i) for i in range(24)]
        values[14] = 500
        session = self.opened(monthly(values))
        session.do(edit(P.evened.rulings, (self.ruled("expected", value=38.0),)))
        self.assertAlmostEqual(session.deck("project").figures["r2"].values[0, 0], 1)
        self.assertEqual(
            session.deck("smooth").figures["smoothed_0"].values[0, 14], np.mean([28, 30, 32, 34, 36, 38])
        )
        self.assertEqual(session.deck("smooth").figures["actual"].values[0, 14], 500)
        self.assertTrue(session.deck("intake").flags[0, 14] & REPLACED)
        self.assertTrue(session.tie.ties)

    def test_a_part_month_taken_as_whole_is_fitted(self) -> None:
        session = self.opened(daily(340, wavy))
        before = session.deck("project").figures["n"].values[0, 0]
        part = Ruled((), dt.date(2024, 12, 1), dt.date(2024, 12, 31), "whole")
        session.do(edit(P.evened.rulings, (part,)))
        self.assertFalse((session.sight().flags.astype(int) & INCOMPLETE).any())
        # The as-of stands on it, and the fit takes it in.
        self.assertEqual(session.grid.label(session.as_of), "Dec 2024")
        self.assertEqual(session.deck("project").figures["n"].values[0, 0], before + 1)

    def test_closed_days_make_a_month_complete(self) -> None:
        session = self.opened(daily(360, wavy))
        self.assertEqual(session.grid.label(session.home), "Nov 2024")
        closed = Ruled((), dt.date(2024, 12, 24), dt.date(2024, 12, 31), "closed", note="holidays")
        session.do(edit(P.evened.rulings, (closed,)))
        session.prepare()
        self.assertEqual(session.grid.label(session.home), "Dec 2024")


class Calendars(FolderCase):
    def test_every_way_of_cutting_time_ties_out(self) -> None:
        session = self.opened(daily(800, wavy))
        total = session.reading.total_used
        for weeks in ("4-4-5", "4-5-4", "5-4-4"):
            session.do(edit(P.periods.weeks, weeks))
            session.do(edit(P.periods.anchor, dt.date(2024, 1, 29)))
            for kind in ("week", "month", "quarter", "year", "block"):
                session.do(edit(P.periods.kind, kind))
                self.assertEqual(np.nansum(session.panel.values), total)
                self.assertTrue(session.tie.ties)
                self.assertTrue(session.deck("history").finding(0))
        self.assertEqual(session.grid.kind, "block")

    def test_a_budget_reaches_further_than_the_data(self) -> None:
        rows = ["date,scenario,cases", *(f"2024-{m:02d}-01,Actual,{m}" for m in range(1, 10))]
        rows += [f"2024-{m:02d}-01,Budget,{m + 1}" for m in range(1, 13)]
        session = self.opened("\n".join(rows))
        figures = session.deck("intake").figures
        self.assertEqual(figures["beside_0"].values[0].tolist(), [m + 1.0 for m in range(1, 13)])
        np.testing.assert_array_equal(np.isnan(figures["actual"].values[0]), [False] * 9 + [True] * 3)
        self.assertFalse((session.panel.flags[0, 9:] & FILLED).any())
        self.assertEqual(session.deck("project").figures["projected"].values.shape[1], 15)
