"""Making it even: nothing sold or not known, provisional, closed days, other calendars, budgets."""

from __future__ import annotations

import datetime as dt

import numpy as np

from oat_tide.core.panel import FILLED, LEFT_OUT, PART, PROVISIONAL, REPLACED
from oat_tide.plan.edits import P, edit
from oat_tide.plan.plan import Ruled
from oat_tide.stages.intake_edits import FOREVER
from tests.helpers import HEAD, FolderCase, daily, monthly, wavy

SOLD = (("A", range(1, 13), 4), ("B", (2, 3, 7), 2))
GAPS = "\n".join([HEAD, *(f"2024-{m:02d}-01,{p},N,{c}" for p, months, c in SOLD for m in months)])


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
        said = session.deck("intake").coverage.said[1]  # type: ignore[union-attr]
        self.assertIn((6, "withdrawn after Jul 2024"), said)


class Provisional(FolderCase):
    def test_it_passes_up_to_the_quarter_and_the_year(self) -> None:
        session = self.opened(daily(731, wavy, start="2023-01-01"))
        session.do(edit(P.evened.final_to, dt.date(2024, 11, 30)))

        def late() -> list[str]:
            flags = session.sight().all("flags").astype(int)[0]
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
            session.deck("smooth").figures["rolling"].values[0, 14], np.mean([28, 30, 32, 34, 36, 38])
        )
        self.assertEqual(session.deck("smooth").figures["actual"].values[0, 14], 500)
        self.assertTrue(session.deck("intake").flags[0, 14] & REPLACED)
        self.assertTrue(session.tie.ties)

    def test_a_part_month_taken_as_whole_is_fitted(self) -> None:
        session = self.opened(daily(340, wavy))
        before = session.deck("project").figures["n"].values[0, 0]
        part = Ruled((), dt.date(2024, 12, 1), dt.date(2024, 12, 31), "whole")
        session.do(edit(P.evened.rulings, (part,)))
        self.assertFalse((session.sight().all("flags").astype(int) & PART).any())
        self.assertEqual(session.deck("project").figures["n"].values[0, 0], before)

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
