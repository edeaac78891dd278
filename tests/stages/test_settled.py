"""What sold and what is settled: totals add all that is known, averages stand on what was ruled."""

from __future__ import annotations

import datetime as dt

import numpy as np

from oat_tide.plan.edits import Edit, edit
from oat_tide.plan.parts.evened import Ruled
from oat_tide.plan.parts.smooth import Smoother
from oat_tide.plan.paths import P
from oat_tide.session import Session
from oat_tide.stages.deck import Figure
from oat_tide.stages.smooth.curve import curves_of
from oat_tide.stages.smooth.exponential import constants_of
from tests.helpers import FolderCase, daily, wavy
from tests.stages.test_examples import arranged


def row_a_month(missing: str) -> str:
    """10 cases in each month of 2021 to 2023, and no row for one of them."""
    months = [f"{year}-{month:02d}" for year in (2021, 2022, 2023) for month in range(1, 13)]
    return "month,cases\n" + "".join(f"{month}-01,10\n" for month in months if month != missing)


def case_a_day(first: str, last: str, parts: bool = False) -> str:
    """One case on every day; where asked of one of two areas by turns."""
    days = np.arange(np.datetime64(first), np.datetime64(last) + 1)
    if parts:
        return "day,area,cases\n" + "".join(f"{day},{'NS'[n % 2]},1\n" for n, day in enumerate(days))
    return "day,cases\n" + "".join(f"{day},1\n" for day in days)


def ruling(act: str, month: int, value: float = 0.0) -> Edit:
    first = dt.date(2022, month, 1)
    last = dt.date(2022, month + 1, 1) - dt.timedelta(1)
    return edit(P.evened.rulings, (Ruled((), first, last, act, value),))  # type: ignore[arg-type]


class Settled(FolderCase):
    def history(self, session: Session, *edits: Edit) -> dict[str, Figure]:
        for each in edits:
            session.do(each)
        return session.deck("history").figures

    def test_a_running_total_adds_what_is_known_and_says_what_it_lacks(self) -> None:
        session = self.opened(row_a_month(missing="2022-05"))
        running = self.history(session, arranged("running"))["running"]
        self.assertEqual(running.values[0, 12:24].tolist(), [10, 20, 30, 40, 40, *range(50, 120, 10)])
        remarks = [running.remark(0, column) for column in range(36)]
        self.assertEqual(remarks, [""] * 16 + ["It lacks 1 month."] * 8 + [""] * 12)
        self.assertIn("underlined: totals that lack a month", session.deck("history").subtitle(0))

    def test_the_total_of_a_year_is_the_same_wherever_it_stands(self) -> None:
        for text, year, wanted, said, held in (
            (row_a_month(missing="2022-05"), 2022, 110, "It lacks 1 month.", "It holds 11 of 12 months."),
            # 16 March to 31 December are 291 days, of March 16.
            (
                *(case_a_day("2021-03-16", "2023-12-31"), 2021, 291, "It holds 1 part month."),
                "It holds 9 of 12 months, and a part of Mar 2021.",
            ),
        ):
            session = self.opened(text)
            session.do(edit(P.periods.kind, "month"))
            running = self.history(session, arranged("running"))
            end = session.grid.year_first(year + 1) - 1 - session.panel.first
            self.assertEqual(running["running"].values[0, end], wanted)
            self.assertEqual(running["finished"].values[0, end], wanted)
            self.assertEqual(running["finished"].remark(0, end), said)
            laid = self.history(session, arranged("running", laid="years overlaid"))[f"year_{year}"]
            self.assertEqual((laid.values[0, -1], laid.remark(0, 11)), (wanted, said))
            overlaid = self.history(session, arranged("overlaid"))[f"year_{year}"]
            self.assertEqual((overlaid.values[0, 12], overlaid.remark(0, 12)), (wanted, held))
            session.do(edit(P.periods.kind, "year"))
            actual = session.deck("lines").figures["actual"]
            self.assertEqual(actual.values[0, year - 2021], wanted)
            self.assertTrue(actual.remark(0, year - 2021))

    def test_the_year_in_progress_has_one_total_too(self) -> None:
        # 20 October is day 294 of 2023; the as-of stands on September, and later on March.
        session = self.opened(case_a_day("2021-01-01", "2023-10-20", parts=True))
        session.do(edit(P.periods.kind, "month"))
        for as_of in (None, dt.date(2023, 3, 31)):
            session.do(edit(P.as_of, as_of))
            running = self.history(session, arranged("running"))["running"].values[0]
            self.assertEqual(running[33], 293)
            overlaid = self.history(session, arranged("overlaid"))["year_2023"]
            self.assertEqual(overlaid.values[0, 12], 293)
            self.assertEqual(overlaid.remark(0, 12), "It holds 9 of 12 months, and a part of Oct 2023.")
            shares = self.history(session, arranged("shares"))
            parts = [figure.values[0, 24:34] for name, figure in shares.items() if name.startswith("part_")]
            self.assertEqual(sum(each.sum() for each in parts), 293)
        session.do(edit(P.periods.kind, "year"))
        self.assertEqual(session.deck("lines").figures["actual"].values[0, 2], 293)

    def test_a_part_month_is_in_the_total_and_not_in_the_mean(self) -> None:
        session = self.opened(case_a_day("2021-03-16", "2021-12-31"))
        session.do(edit(P.periods.kind, "month"))
        year = self.history(session, arranged("overlaid"))["year_2021"]
        self.assertTrue(np.isnan(year.values[0, 2]))
        self.assertEqual(
            year.why_blank(0, 2),
            "Only a part of the period is in the data: 16. The year's total holds it.",
        )
        # April to December: 275 days in 9 months.
        self.assertEqual(year.values[0, 12:].tolist(), [291, 275 / 9])

    def test_earlier_years_that_lack_a_month_are_no_baseline_of_running_totals(self) -> None:
        session = self.opened(row_a_month(missing="2022-05"))
        figures = self.history(session, arranged("earlier", years=2, to_date=True))
        # From May on 2021 stands alone.
        self.assertEqual(figures["held"].values[0].tolist(), [10 * month for month in range(1, 13)])
        self.assertEqual(figures["year_2022"].values[0, 11], 110)

    def test_a_year_that_lacks_a_month_is_held_against_others_only_up_to_it(self) -> None:
        session = self.opened(row_a_month(missing="2023-05"))
        figures = self.history(session, arranged("earlier", years=2, to_date=True))
        # January to April of 2023, and of the mean of the years before.
        self.assertEqual((figures["to_date"].values[0, 0], figures["to_date_held"].values[0, 0]), (40, 40))
        self.assertEqual(figures["year_2023"].values[0, 11], 110)

    def test_an_expected_figure_reaches_averages_and_not_what_sold(self) -> None:
        session = self.opened(row_a_month(missing=""))
        session.do(ruling("expected", 5, 40.0))
        at = 16  # May 2022
        figures = self.history(session, arranged("trailing"))
        self.assertEqual(figures["trailing"].values[0, at], 120)
        self.assertEqual(figures["trailing_mean"].values[0, at], 150 / 12)
        figures = self.history(session, arranged("usual"))
        self.assertEqual(figures["usual"].values[0, at], 20)
        self.assertEqual(figures["of_usual"].values[0, at], 50)
        figures = self.history(session, arranged("earlier", years=2))
        self.assertEqual(figures["held"].values[0, 4], 25)
        self.assertEqual(figures["year_2022"].values[0, 4], 10)
        figures = self.history(session, arranged("overlaid"))
        self.assertEqual(figures["year_2022"].values[0, 12:].tolist(), [120, 150 / 12])
        actual = session.deck("lines").figures["actual"]
        self.assertEqual(actual.remark(0, at), "Averages and fits use 40 in its place.")
        self.assertEqual(actual.remark(0, at + 1), "")

    def test_what_is_reckoned_later_stands_on_the_settled_figure_too(self) -> None:
        session = self.opened(row_a_month(missing=""))
        session.do(ruling("leave out", 5))
        session.do(edit(P.smooth.smoothers, (Smoother(window=2), Smoother(kind="level"))))
        past = session.sight().past
        values = session.deck("lines").figures["settled"].values[:, : past.columns]
        np.testing.assert_array_equal(past.judged, np.where(past.whole, values, np.nan))
        self.assertTrue(np.isnan(past.judged[0, 16]))
        deck = session.deck("smooth")
        longest = len(deck.axes["lengths"].full)
        for rising, name in enumerate(("curve_mean", "curve_weighted")):
            later = curves_of(past, longest, "MAE", True, lambda share: None)[rising]
            np.testing.assert_array_equal(deck.figures[name].values, later)
        alpha = constants_of(past, "level", "by rule", lambda share: None)[0]
        self.assertEqual(deck.figures["alpha_1"].values[0, 0], alpha[0])

    def test_long_windows_of_days_are_held_against_the_day_of_the_year_before(self) -> None:
        session = self.opened(daily(1100, wavy, start="2022-01-01"))
        session.do(edit(P.periods.kind, "day"))
        # 29 February 2024 has no like day: it is no target, and stops nothing.
        past = session.sight().past
        for curve in curves_of(past, 400, "MAE", True, lambda share: None):
            self.assertEqual(curve.shape, (1, 400))
            self.assertFalse(np.isnan(curve).any())

    def test_a_month_left_out_enters_no_average(self) -> None:
        session = self.opened(row_a_month(missing=""))
        session.do(ruling("leave out", 5))
        figures = self.history(session, arranged("trailing"))
        self.assertEqual(figures["trailing"].values[0, 16], 120)
        self.assertTrue(np.isnan(figures["trailing_mean"].values[0, 16]))
        short = self.history(session, arranged("trailing", short=True))
        self.assertEqual(short["trailing_mean"].values[0, 16], 10)
        smooth = session.deck("smooth").figures["smoothed_0"]
        self.assertTrue(np.isnan(smooth.values[0, 16]))
        self.assertEqual(
            session.deck("lines").figures["actual"].remark(0, 16),
            "Left out of averages and fits.",
        )
