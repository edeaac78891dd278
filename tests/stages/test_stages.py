"""What each stage says of data whose answers are known."""

from __future__ import annotations

import datetime as dt
import math

import numpy as np

from oat_tide.core.periods.calendar import Grid
from oat_tide.plan.edits import edit
from oat_tide.plan.parts.smooth import Smooth, Smoother
from oat_tide.plan.paths import P
from oat_tide.session import Session
from oat_tide.stages.deck import Choice, Note
from oat_tide.stages.reach import weights_of
from tests.helpers import HEAD, FolderCase, daily, monthly, wavy
from tests.texts import texts_of


class Intake(FolderCase):
    def test_it_ties_out_and_says_so(self) -> None:
        session = self.opened(daily(120, wavy) + "wk 9,Bran,North,7\n")
        deck = session.deck("intake")
        facts = {name: float(deck.figures[name].values[0, 0]) for name in ("read", "used", "aside")}
        self.assertEqual(facts, {"read": 361, "used": 360, "aside": 1})
        amounts = {
            name: float(deck.figures[name].values[0, 0])
            for name in ("in_source", "in_series", "aside_amount")
        }
        self.assertEqual(amounts["in_source"], amounts["in_series"] + amounts["aside_amount"])
        self.assertEqual(amounts["aside_amount"], 7)
        self.assertIn("360 lines tie\n1 set aside", deck.finding(0))
        self.assertEqual(
            deck.listings[0].texts(0, 5), [("362", "date cannot be read", "wk 9 | Bran | North | 7")]
        )

    def test_a_narrowed_series_says_its_share(self) -> None:
        text = "\n".join(
            [
                HEAD,
                *(
                    f"2024-0{m}-0{d},{p},N,{c}"
                    for m in (1, 2, 3)
                    for d in (1, 9)
                    for p, c in (("A", 3), ("B", 1))
                ),
            ]
        )
        session = self.opened(text)
        session.do(edit(P.where, (("product", "B"),)))
        notes = [item.text(0) for item in session.deck("intake").sheet() if isinstance(item, Note)]
        self.assertTrue(any("B holds 25.0 % of what is used." in note for note in notes))

    def test_a_part_month_is_named_with_the_days_it_holds(self) -> None:
        session = self.opened(daily(40, wavy))
        deck = session.deck("intake")
        said = [item.text for item in deck.sheet() if isinstance(item, Choice) and item.mark == "part"]
        self.assertEqual(said, ["Feb 2024 is incomplete, 9 of 29 days: left out of averages and fits."])
        self.assertEqual([mark.text for mark in deck.marks(0)], ["part, 9 of 29 days"])

    def test_a_month_taken_as_complete_is_so_in_every_sense(self) -> None:
        session = self.opened(daily(780, wavy, "2022-01-01"))
        grid, before = session.grid, session.home
        self.assertEqual(grid.label(before), "Jan 2024")
        take = self.taking(session)
        self.assertEqual(take.again, "")
        session.do(take.outcomes[0][1])  # type: ignore[arg-type]
        self.assertEqual((session.home, session.as_of), (before + 1, before + 1))
        self.assertIn("– Feb 2024", session.deck("project").subtitle(0))
        self.assertIn("forecast for Mar 2024", session.deck("smooth").title(0))
        february = session.panel.total((None, None)).values[0, -1]
        self.assertEqual(session.deck("smooth").figures["actual"].values[0, 25], february)
        # The as-of may stand there, and a day before its end not.
        session.do(edit(P.as_of, dt.date(2024, 2, 29)))
        self.assertEqual(session.as_of, before + 1)
        session.do(edit(P.as_of, dt.date(2024, 2, 28)))
        self.assertEqual(session.as_of, before)
        session.do(edit(P.as_of, None))
        session.do(edit(P.history.arrangement, "overlaid"))
        years = session.deck("history").figures
        self.assertEqual(years["year_2024"].values[0, 1], february)
        # It was ruled for all series together, so each of them has it.
        session.do(edit(P.where, (("product", "Bran"),)))
        self.assertEqual(session.home, before + 1)
        session.undo()
        session.do(edit(P.evened.rulings, ()))
        self.assertEqual(session.home, before)

    def test_taking_a_few_days_for_a_month_is_asked_again(self) -> None:
        take = self.taking(self.opened(daily(40, wavy)))
        self.assertEqual(take.again, "Only 9 of 29 days are there: treat it as complete")

    def taking(self, session: Session) -> Choice:
        """The choice that takes the incomplete month of a session."""
        parts = [item for item in session.deck("intake").sheet() if isinstance(item, Choice)]
        return next(
            each for each in parts if each.mark == "part" and each.outcomes[0][0] == "Treat as complete"
        )

    def test_dates_that_nothing_settles_are_asked_about(self) -> None:
        rows = [f"0{1 + i % 9}/0{1 + i // 9}/2024,{5 + i}" for i in range(27)]
        session = self.opened("\n".join(["date,cases", *rows]))
        caution = session.deck("intake").cautions(0)[0]
        self.assertIn("nothing in the source decides it", caution.text)
        before = session.panel.values.copy()
        session.do(caution.way_out)  # type: ignore[arg-type]
        self.assertNotEqual(before.shape, session.panel.values.shape)


class History(FolderCase):
    def test_growth_on_the_month_and_on_the_year_before(self) -> None:
        session = self.opened(monthly([100, 110, 99] + [50] * 9 + [120, 132, 99]))
        rows = session.deck("history").figures
        np.testing.assert_allclose(rows["on_before"].values[0, :4], [np.nan, 10, -11, -49])
        np.testing.assert_allclose(rows["growth_before"].values[0, 1:3], [10, -10])
        np.testing.assert_allclose(rows["growth_year"].values[0, 12:], [20, 20, 0])
        self.assertTrue(np.isnan(rows["on_year"].values[0, :12]).all())

    def test_no_share_of_a_base_that_is_not_above_zero(self) -> None:
        session = self.opened(monthly([0, 5, -3, 6]))
        growth = session.deck("history").figures["growth_before"]
        np.testing.assert_array_equal(np.isnan(growth.values[0]), [True, True, False, True])
        self.assertIn("means nothing", growth.why_blank(0, 1))

    def test_the_last_twelve_months_hold_twelve_months_the_as_of_among_them(self) -> None:
        session = self.opened(monthly(list(range(1, 31))))
        session.do(edit(P.as_of, dt.date(2022, 4, 30)))
        facts = session.deck("history").figures
        self.assertEqual(facts["trailing"].values[0, 0], sum(range(17, 29)))
        self.assertEqual(facts["trailing_before"].values[0, 0], sum(range(5, 17)))
        self.assertEqual(facts["trailing_mean"].values[0, 0], sum(range(17, 29)) / 12)

    def test_part_periods_are_compared_with_nothing(self) -> None:
        session = self.opened(daily(70, wavy))
        change = session.deck("history").figures["on_before"]
        self.assertTrue(math.isnan(change.values[0, -1]))
        self.assertIn("part", change.why_blank(0, change.values.shape[1] - 1))


class Smoothing(FolderCase):
    def test_both_averages_on_the_same_window(self) -> None:
        session = self.opened(monthly([10, 20, 30, 60]))
        session.do(edit(P.smooth.smoothers[0].window, 3))
        rows = session.deck("smooth").figures
        np.testing.assert_allclose(rows["smoothed_0"].values[0], [np.nan, np.nan, 20, 110 / 3, np.nan])
        # (3 x 30 + 2 x 20 + 10) / 6 and (3 x 60 + 2 x 30 + 20) / 6
        np.testing.assert_allclose(rows["smoothed_1"].values[0], [np.nan, np.nan, 140 / 6, 260 / 6, np.nan])

    def test_a_forecast_is_the_smoothed_row_moved_by_one(self) -> None:
        session = self.opened(daily(400, wavy, start="2024-01-20"))
        kinds = ("mean", "median", "trimmed", "weighted", "level")
        smoothers = tuple(Smoother(kind=kind, window=4) for kind in kinds)  # type: ignore[arg-type]
        session.do(edit(P.smooth, Smooth(smoothers=smoothers)))
        figures = session.deck("smooth").figures
        for place, kind in enumerate(kinds):
            smoothed, forecast = (figures[f"{name}_{place}"].values[0] for name in ("smoothed", "forecast"))
            with self.subTest(kind):
                self.assertGreater((~np.isnan(forecast)).sum(), 5)
                np.testing.assert_array_equal(forecast[1:], smoothed[:-1])

    def test_own_weights_are_kept_by_age_and_fitted_to_the_window(self) -> None:
        def own(*weights: float, **more: object) -> tuple[float, ...]:
            return weights_of(Smoother(kind="weighted", weights=weights, **more))  # type: ignore[arg-type]

        self.assertEqual(own(5.0, 3.0, 1.0, window=9), (5, 3, 1))
        # A window from - to says how many it takes.
        self.assertEqual(own(5.0, 3.0, 1.0, place="from-to", back=1, ahead=0), (5, 3))
        self.assertEqual(own(5.0, 3.0, place="from-to", back=2, ahead=1), (5, 3, 3, 3))
        self.assertEqual(own(0.0, 0.0, 1.0, place="from-to", back=1, ahead=0), (2, 1))

    def test_nothing_is_smoothed_beyond_the_as_of_or_over_part_periods(self) -> None:
        session = self.opened(daily(400, wavy, start="2024-01-20"))
        session.do(edit(P.smooth.smoothers[0].window, 2))
        rolling = session.deck("smooth").figures["smoothed_0"].values[0]
        # January is part: February's window of two holds it. The last month is part and lies after the as-of.
        self.assertEqual(np.isnan(rolling).tolist(), [True, True] + [False] * (len(rolling) - 3) + [True])

    def test_the_window_is_drawn_where_it_lies(self) -> None:
        session = self.opened(monthly(list(range(1, 25))))
        session.do(edit(P.as_of, dt.date(2021, 6, 30)))
        handle = next(h for h in session.deck("smooth").handles if h.role == "window")
        self.assertEqual((handle.at, handle.upto), (12, 17))
        self.assertEqual(handle.edit(15).value, 3)
        self.assertEqual(handle.edit(-999).value, 730)


class Projecting(FolderCase):
    def test_a_perfect_line_is_found_and_carried_on(self) -> None:
        session = self.opened(monthly([100 + 7 * i for i in range(1, 25)]))
        deck = session.deck("project")
        figures = deck.figures
        self.assertAlmostEqual(figures["slope"].values[0, 0], 7, places=10)
        self.assertAlmostEqual(figures["intercept"].values[0, 0], 100, places=9)
        np.testing.assert_allclose(figures["projected"].values[0, 24:], [100 + 7 * t for t in range(25, 31)])
        self.assertTrue(np.isnan(figures["projected"].values[0, :24]).all())
        self.assertTrue(np.isnan(figures["fitted"].values[0, 24:]).all())

    def test_a_perfect_growth_curve_is_found_on_the_log_scale(self) -> None:
        rows = [f"202{i // 12}-{i % 12 + 1:02d}-01,{100 * 1.05 ** (i + 1):.6f}" for i in range(24)]
        session = self.opened("\n".join(["month,cases", *rows]))
        session.do(edit(P.project.method, "growth"))
        figures = session.deck("project").figures
        self.assertAlmostEqual(figures["growth"].values[0, 0], 5, places=6)
        self.assertAlmostEqual(figures["r2"].values[0, 0], 1, places=9)
        np.testing.assert_allclose(
            figures["projected"].values[0, 24:], [100 * 1.05**t for t in range(25, 31)], rtol=1e-7
        )

    def test_the_mean_lies_above_the_median_by_half_the_variance(self) -> None:
        rng = np.random.default_rng(2)
        session = self.opened(
            monthly([round(100 * math.exp(0.01 * i + rng.normal(0, 0.3))) for i in range(40)])
        )
        session.do(edit(P.project.method, "growth"))
        median = session.deck("project").figures
        session.do(edit(P.project.mean, True))
        mean = session.deck("project").figures
        factor = math.exp(float(mean["s"].values[0, 0]) ** 2 / 2)
        np.testing.assert_allclose(
            mean["projected"].values[0, 40:], factor * median["projected"].values[0, 40:]
        )
        # The limits go with it, those of a true curve as well.
        for name in ("upper_95", "lower_80", "curve_upper_95", "curve_lower_80"):
            np.testing.assert_allclose(mean[name].values, factor * median[name].values)
        said = " ".join(text for _, text in texts_of(session.deck("project")))
        self.assertIn("overshoots by about", said)

    def test_periods_not_above_zero_are_named_and_a_way_out_offered(self) -> None:
        session = self.opened(monthly([5, 0, 7, 9, -1, 8, 9]))
        session.do(edit(P.project.method, "growth"))
        deck = session.deck("project")
        caution = deck.cautions(0)[0]
        self.assertIn("Feb 2020, May 2020", caution.text)
        self.assertTrue(np.isnan(deck.figures["projected"].values).all())
        session.do(caution.way_out)  # type: ignore[arg-type]
        self.assertFalse(np.isnan(session.deck("project").figures["projected"].values[0, 7:]).any())

    def test_the_fit_span_counts_from_its_start_and_ends_at_the_as_of(self) -> None:
        session = self.opened(monthly([100 + 7 * i for i in range(1, 37)]))
        session.do(edit(P.project.since, dt.date(2020, 7, 1)))
        session.do(edit(P.as_of, dt.date(2022, 6, 30)))
        figures = session.deck("project").figures
        self.assertEqual(figures["n"].values[0, 0], 24)
        self.assertEqual(figures["t"].values[0, 6], 1)
        self.assertAlmostEqual(figures["intercept"].values[0, 0], 100 + 7 * 6, places=9)

    def test_differences_are_actual_minus_projected_of_projected(self) -> None:
        session = self.opened(monthly([100] * 3 + [110] * 3 + [130, 90]))
        session.do(edit(P.as_of, dt.date(2020, 6, 30)))
        figures = session.deck("project").figures
        projected = figures["projected"].values[0]
        np.testing.assert_allclose(figures["difference"].values[0, 6:8], np.array([130, 90]) - projected[6:8])
        np.testing.assert_allclose(
            figures["difference_share"].values[0, 6:8], 100 * (np.array([130, 90]) / projected[6:8] - 1)
        )
        self.assertTrue(np.isnan(figures["difference"].values[0, 8:]).all())

    def test_horizons(self) -> None:
        session = self.opened(monthly(list(range(10, 46))))
        for reach, start, as_of, periods in (
            ("periods", 1, "2022-12-31", 6),
            ("end of fiscal year", 1, "2022-12-31", 12),
            ("end of fiscal year", 4, "2022-12-31", 3),
            ("end of fiscal year", 1, "2022-09-30", 3),
        ):
            with self.subTest(reach=reach, start=start):
                session.do(edit(P.project.reach, reach))
                session.do(edit(P.periods.year_start, start))
                session.do(edit(P.as_of, dt.date.fromisoformat(as_of)))
                projected = session.deck("project").figures["projected"].values
                self.assertEqual((~np.isnan(projected)).sum(), periods)

    def test_ten_years_at_most_whatever_the_period(self) -> None:
        session = self.opened(daily(900, wavy))
        session.do(edit(P.project.horizon, 3660))
        for kind, most in (("day", 3650), ("week", 520), ("month", 120), ("quarter", 40), ("year", 10)):
            session.do(edit(P.periods.kind, kind))
            handle = next(h for h in session.deck("project").handles if h.role == "horizon")
            self.assertEqual(handle.hi - session.deck("project").past + 1, most)
            self.assertLessEqual(session.deck("project").columns, session.deck("intake").columns + most)

    def test_no_growth_and_jumps_are_said(self) -> None:
        rng = np.random.default_rng(8)
        flat = self.opened(monthly([round(500 + rng.normal(0, 40)) for _ in range(24)]))
        said = " ".join(caution.text for caution in flat.deck("project").cautions(0))
        self.assertIn("The slope is not significantly different from zero", said)
        fallen = self.opened(monthly([500 + i % 3 for i in range(30)] + [300]), "fallen.csv")
        said = " ".join(caution.text for caution in fallen.deck("project").cautions(0))
        self.assertIn("jumps up from Jul 2022", said)

    def test_millions_are_marked_once_in_the_finding(self) -> None:
        values = [2e6 + 10_000 * i + 7_000 * (i % 3) for i in range(36)]
        session = self.opened(monthly(values))
        first, second = session.deck("project").finding(0).split("\n")
        self.assertRegex(first, r"^line: \w+ \d{4} 2\.\d{3} M$")
        self.assertRegex(second, r"^80 %: 2\.\d{3} to 2\.\d{3} M$")

    def test_too_short_a_history_is_said(self) -> None:
        session = self.opened(monthly([10, 20]))
        deck = session.deck("project")
        self.assertIn("three complete periods", deck.cautions(0)[0].text)
        self.assertIn("no fit", deck.finding(0))

    def test_the_demo_data_reach_their_own_fiscal_year(self) -> None:
        self.assertEqual(Grid("month").year_first(2027) - Grid("month").year_first(2026), 12)
