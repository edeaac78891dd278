"""Where a stage begins to say something, and the figure next to it where it does not yet."""

from __future__ import annotations

import datetime as dt
import math

import numpy as np

from oat_tide.plan.edits import Edit, edit
from oat_tide.plan.parts.history import History
from oat_tide.plan.parts.project import Project
from oat_tide.plan.parts.seasons import LeftOutRatio, ManualIndex, Seasons
from oat_tide.plan.parts.smooth import Smooth, Smoother
from oat_tide.plan.parts.spread import Lock, Spread, SpreadRequest
from oat_tide.plan.paths import P
from oat_tide.session import Session
from oat_tide.stages.deck import Deck
from tests.helpers import FolderCase, monthly

SEASON = [1.2, 0.8, 0.9, 1.1, 1.3, 0.7, 0.95, 1.05, 1.15, 0.85, 1.0, 1.0]
SEASONAL = [round(100 * SEASON[i % 12] * (1 + i / 100)) for i in range(48)]
TIMES = Seasons(season="multiplicative")


class Said(FolderCase):
    def opened_with(self, values: list[float], *edits: Edit) -> Session:
        session = self.opened(monthly(values), f"{len(values)}-{abs(hash(tuple(values)))}.csv")
        for each in edits:
            session.do(each)
        return session

    def cautions(self, deck: Deck) -> str:
        return " | ".join(each.text for each in deck.cautions(0))


class OfSeasons(Said):
    def with_hands(self, *hands: ManualIndex, season: str = "multiplicative") -> Deck:
        ask = Seasons(season=season, by_hand=hands)  # type: ignore[arg-type]
        return self.opened_with(SEASONAL, edit(P.seasons, ask)).deck("seasons")

    def test_an_index_of_another_kind_rests_and_one_of_this_kind_does_not(self) -> None:
        own = ManualIndex((), 12, "multiplicative", 2, 1.1)
        self.assertNotIn("rest", self.cautions(self.with_hands(own)))
        self.assertIn("An index by hand rests", self.cautions(self.with_hands(own, season="additive")))
        other = ManualIndex((), 4, "multiplicative", 2, 1.1)
        self.assertIn("An index by hand rests", self.cautions(self.with_hands(own, other)))
        both = self.cautions(self.with_hands(other, ManualIndex((), 12, "additive", 1, 3.0)))
        self.assertIn("2 indices by hand rest", both)

    def test_indices_by_hand_that_leave_nothing_are_said_and_others_are_not(self) -> None:
        twelve = [ManualIndex((), 12, "multiplicative", place, 1.1) for place in range(12)]
        self.assertIn("together they average 1.10, not 1", self.cautions(self.with_hands(*twelve)))
        ones = [ManualIndex((), 12, "multiplicative", place, 1.0) for place in range(12)]
        self.assertNotIn("average", self.cautions(self.with_hands(*ones)))
        self.assertNotIn("together", self.cautions(self.with_hands(twelve[0])))

    def test_a_ratio_left_out_counts_only_in_local_regression(self) -> None:
        gone = (LeftOutRatio((), 12, 2021, 3),)
        for method, said in (("classical", False), ("loess", True)):
            ask = Seasons(season="multiplicative", method=method, left_out=gone)  # type: ignore[arg-type]
            found = self.cautions(self.opened_with(SEASONAL, edit(P.seasons, ask)).deck("seasons"))
            self.assertEqual("The ratio left out counts" in found, said, method)

    def test_the_line_goes_on_for_a_year_and_no_further(self) -> None:
        ask = Seasons(season="multiplicative", arrangement="deseasonalised")
        deck = self.opened_with(SEASONAL, edit(P.seasons, ask)).deck("seasons")
        known = np.flatnonzero(~np.isnan(deck.figures["through"].values[0]))
        self.assertEqual((known[0], known[-1]), (0, 48 + 11))
        total = deck.figures["back"].values[0, 48:60].sum()
        self.assertAlmostEqual(float(deck.figures["next_year"].values[0, 0]), float(total), places=6)

    def test_two_full_cycles_are_enough_and_one_period_less_is_not(self) -> None:
        for many, enough in ((24, True), (23, False)):
            deck = self.opened_with(SEASONAL[:many], edit(P.seasons, TIMES)).deck("seasons")
            self.assertEqual("two full cycles" not in self.cautions(deck), enough, many)

    def test_a_figure_of_zero_has_no_season_that_multiplies(self) -> None:
        for low, refused in ((0, True), (1, False)):
            deck = self.opened_with([low, *SEASONAL[1:]], edit(P.seasons, TIMES)).deck("seasons")
            self.assertEqual("needs figures above zero" in self.cautions(deck), refused, low)


class OfHistory(Said):
    def test_like_weekdays_take_in_the_first_day_of_the_data(self) -> None:
        days = (dt.date(2024, 1, 1) + dt.timedelta(day) for day in range(29))
        text = "\n".join(["date,cases", *(f"{day},{10 + place}" for place, day in enumerate(days))])
        session = self.opened(text + "\n", "days.csv")
        session.do(edit(P.periods.kind, "day"))
        session.do(edit(P.history, History(arrangement="weekday", likes=5)))
        deck = session.deck("history")
        # Mondays are days 0, 7, 14, 21 and 28.
        self.assertEqual(float(deck.figures["mean"].values[0, 0]), np.mean([10, 17, 24, 31, 38]))

    def test_a_year_short_of_a_quarter_is_not_complete(self) -> None:
        values = [10.0, 20, 40, 15] * 3 + [10.0, 50, 20]
        rows = [f"{2020 + i // 4}-{3 * (i % 4) + 1:02d}-01,{value}" for i, value in enumerate(values)]
        session = self.opened("\n".join(["quarter,cases", *rows]) + "\n", "quarters.csv")
        session.do(edit(P.history, History(arrangement="overlaid")))
        notes = [item.text(0) for item in session.deck("history").sheet() if hasattr(item, "said")]
        self.assertIn("The highest quarter was Q3 in 3 of 3 complete years.", notes)


class OfProject(Said):
    def test_a_fit_begins_by_the_data_at_the_first_column_alone(self) -> None:
        session = self.opened_with(SEASONAL, edit(P.project.method, "line"))
        (begins,) = (each for each in session.deck("project").handles if each.role == "fit_from")
        self.assertIsNone(begins.value(0))
        self.assertEqual(begins.value(1), dt.date(2020, 2, 1))

    def test_half_of_the_fit_is_not_far_ahead_and_more_is(self) -> None:
        for horizon, far in ((24, False), (25, True)):
            ask = Project("line", horizon=horizon)
            session = self.opened_with(
                [100 + i + 3 * math.sin(7 * i) for i in range(48)], edit(P.project, ask)
            )
            found = self.cautions(session.deck("project"))
            self.assertEqual(f"{horizon} months ahead is far" in found, far, found)

    def test_three_periods_a_coefficient_are_enough(self) -> None:
        for many, few in ((9, False), (8, True)):
            values = [100 + i * i + (i % 3) for i in range(many)]
            session = self.opened_with(values, edit(P.project, Project("quadratic", horizon=1)))
            found = self.cautions(session.deck("project"))
            self.assertEqual("are too few for 3 coefficients" in found, few, found)


class OfSmooth(Said):
    def test_a_window_as_long_as_the_history_is_full_once(self) -> None:
        for window, full in ((12, True), (13, False)):
            ask = Smooth((Smoother(window=window),))
            deck = self.opened_with(SEASONAL[:12], edit(P.smooth, ask)).deck("smooth")
            known = int((~np.isnan(deck.figures["smoothed_0"].values[0])).sum())
            self.assertEqual((known, "longer than the history" in self.cautions(deck)), (int(full), not full))

    def test_a_trimmed_window_keeps_one_at_the_least(self) -> None:
        for trim, left in ((2, True), (3, False)):
            ask = Smooth((Smoother(kind="trimmed", window=5, trim=trim),))
            found = self.cautions(self.opened_with(SEASONAL, edit(P.smooth, ask)).deck("smooth"))
            self.assertEqual("nothing is left" not in found, left, trim)


class OfSpread(Said):
    def spread(self, *edits: Edit) -> Deck:
        ask = Spread(by="even", over="2023", asked=(SpreadRequest((), "2023", 1200.0),))
        back = edit(P.as_of, dt.date(2023, 3, 31))
        return self.opened_with(SEASONAL, back, edit(P.spread, ask), *edits).deck("spread")

    def test_what_sold_more_than_its_share_is_said_until_it_is_fixed(self) -> None:
        deck = self.spread()
        sold = SEASONAL[36:39]
        over = [each for each in sold if each > 100]
        self.assertEqual("more than its share" in self.cautions(deck), bool(over))
        locks = tuple(
            Lock(dt.date(2023, month, 1), last, float(sold[month - 1]))
            for month, last in (
                (1, dt.date(2023, 1, 31)),
                (2, dt.date(2023, 2, 28)),
                (3, dt.date(2023, 3, 31)),
            )
        )
        asked = (SpreadRequest((), "2023", 1200.0, locks),)
        self.assertNotIn("more than its share", self.cautions(self.spread(edit(P.spread.asked, asked))))

    def test_indices_of_a_selling_day_are_warned_of_by_index_alone(self) -> None:
        per_day = edit(P.seasons, Seasons(season="multiplicative", per="selling day"))
        self.assertNotIn("of a selling day", self.cautions(self.spread(per_day)))
        by_index = edit(P.spread.by, "index")
        self.assertIn("of a selling day", self.cautions(self.spread(per_day, by_index)))
        self.assertNotIn("of a selling day", self.cautions(self.spread(by_index)))


class OfIntake(Said):
    def test_many_times_what_was_expected_is_said_in_times(self) -> None:
        for factor, said in ((20, "× expected"), (2.5, "% high")):
            values: list[float] = [100.0 + place % 3 for place in range(40)]
            values[20] = 101.0 * factor
            marks = self.opened_with(values).deck("intake").marks(0)
            self.assertTrue(any(mark.text.endswith(said) for mark in marks), [mark.text for mark in marks])
