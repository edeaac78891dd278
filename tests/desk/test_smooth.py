"""Smooth by mouse and keys: smoothers as cards, the window, weights, constants, and which errs least."""

from __future__ import annotations

import datetime as dt

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton

from oat_tide.desk.look.plain import Text
from oat_tide.desk.sheet.cards import CardsView
from oat_tide.desk.sheet.control_widgets import IntControl
from oat_tide.desk.sheet.inset import InsetView
from oat_tide.plan.edits import edit
from oat_tide.plan.parts.evened import Ruled
from oat_tide.plan.parts.smooth import Smooth, Smoother
from oat_tide.plan.paths import P
from tests.desk.case import LEFT, DeskCase
from tests.helpers import monthly

A = [12, 15, 11, 18, 20, 16, 22, 25]
YEARS = [10 * (1 + month % 12) + month for month in range(48)]


class SmoothCase(DeskCase):
    def setUp(self) -> None:
        super().setUp()
        self.open(self.file(monthly(A * 4)))
        self.stage("smooth")

    @property
    def cards(self) -> CardsView:
        self.window.sheet.finish()
        return self.window.sheet._page.findChild(CardsView)  # type: ignore[return-value]

    def act(self, card: int, title: str) -> QPushButton:
        """A button beside the head of a card."""
        return next(each for each in self.cards.acts[card].buttons if each.accessibleName().startswith(title))

    def notes(self) -> str:
        self.window.sheet.finish()
        return " ".join(each.text() for each in self.window.sheet._page.findChildren(Text))

    def labels(self) -> list[str]:
        return [row.label for row in self.window.deck.tide.rows]

    def figure(self, name: str) -> np.ndarray:
        found: np.ndarray = self.window.session.deck("smooth").figures[name].values[0]
        return found


class Cards(SmoothCase):
    def test_a_smoother_is_added_and_is_in_hand_with_its_row_its_forecast_and_its_error(self) -> None:
        self.click(self.button(self.window.sheet, "median ›"))
        self.assertEqual([each.kind for each in self.plan.smooth.smoothers], ["mean", "weighted", "median"])
        self.assertEqual((self.plan.smooth.hand, self.cards.open), (2, 2))
        self.assertEqual(
            self.labels()[-3:],
            ["5-month median, smoothed", "5-month median, one-step forecast", "5-month median, error"],
        )
        self.assertIn("5-month median", self.window.deck.headline.title)
        curves = [curve.label for curve in self.window.deck.deck.bands[0].curves]
        self.assertIn("5-month median", curves)
        self.ctrl("Z")
        self.assertEqual(len(self.plan.smooth.smoothers), 2)

    def test_another_card_is_opened_by_its_head(self) -> None:
        self.click(self.cards.heads[1])
        self.assertEqual(self.plan.smooth.hand, 1)
        self.assertIn("weighted 3-2-1", self.window.deck.headline.title)
        self.assertIn("Weighted 3-2-1, error", self.labels())

    def test_it_is_hidden_moved_and_taken_out_in_place(self) -> None:
        self.click(self.act(1, "Hide"))
        self.assertNotIn("Weighted 3-2-1, smoothed", self.labels())
        self.assertIn("not in sight", self.cards.heads[1].accessibleName())
        self.click(self.act(1, "Show"))
        self.assertIn("Weighted 3-2-1, smoothed", self.labels())
        self.click(self.cards.heads[1])
        self.click(self.act(1, "Move up"))
        # The one in hand stays in hand where it goes.
        self.assertEqual([each.kind for each in self.plan.smooth.smoothers], ["weighted", "mean"])
        self.assertEqual(self.plan.smooth.hand, 0)
        self.assertFalse(self.act(0, "Move up").isEnabled())
        self.click(self.act(0, "Take it out"))
        self.assertEqual([each.kind for each in self.plan.smooth.smoothers], ["mean"])
        self.click(self.act(0, "Take it out"))
        self.assertEqual((self.plan.smooth.smoothers, self.labels()), ((), ["Actual"]))
        self.assertIn("no smoother yet", self.window.deck.headline.title)
        self.click(self.button(self.window.sheet, "average ›"))
        self.assertEqual(self.plan.smooth.smoothers, (Smoother(),))

    def test_no_more_than_six(self) -> None:
        for _ in range(4):
            self.click(self.button(self.window.sheet, "average ›"))
        self.assertEqual(len(self.plan.smooth.smoothers), 6)
        self.assertEqual(self.labels()[-2], "6-month average (5), one-step forecast")
        self.window.sheet.finish()
        offered = [each.text() for each in self.window.sheet._page.findChildren(QPushButton)]
        self.assertNotIn("average ›", offered)


class Windows(SmoothCase):
    def test_a_window_is_swept_by_keys_and_the_sheet_holds_still(self) -> None:
        self.window.sheet.finish()
        page = self.window.sheet._page
        control = self.window.sheet.control(("smooth", "smoothers", 0, "window"))
        assert isinstance(control, IntControl)
        control.slider.setFocus()
        for _ in range(9):
            QTest.keyClick(control.slider, Qt.Key.Key_Right)
            self.settle()
            self.assertIs(self.window.sheet._page, page)
        self.assertEqual(self.plan.smooth.smoothers[0].window, 15)
        self.assertEqual(self.labels()[1], "15-month average, smoothed")

    def test_around_and_from_to_forecast_nothing_and_say_so(self) -> None:
        place = self.window.sheet.control(("smooth", "smoothers", 0, "place"))
        self.click(self.button(place, "centred"))
        self.assertEqual(self.labels()[1], "6-month centred average")
        self.assertNotIn("forecast_0", self.window.deck.deck.figures)
        self.assertIn("forecasts nothing", self.notes())
        self.click(self.button(self.window.sheet.control(("smooth", "smoothers", 0, "place")), "custom"))
        self.assertEqual(self.labels()[1], "Average, 3 back to 1 ahead")
        handle = next(each for each in self.window.deck.deck.handles if each.role == "window")
        assert handle.reach is not None
        self.assertEqual(handle.reach(10), (7, 11))

    def test_the_bracket_lies_over_the_window_of_the_hovered_period(self) -> None:
        over = self.window.deck.bands.over
        scale = self.window.deck.scale
        scale.point(25)
        one = over.grab().toImage()
        scale.point(29)
        other = over.grab().toImage()
        x = round(scale.x(21))
        # The window of the 26th begins with the 21st column, that of the 30th after it.
        column = [one.pixelColor(x, y) != other.pixelColor(x, y) for y in range(30, over.height() - 30)]
        self.assertGreater(sum(column), len(column) // 2)

    def test_what_there_is_is_shown_and_marked(self) -> None:
        ends = self.window.sheet.control(("smooth", "smoothers", 0, "ends"))
        self.click(self.button(ends, "shorter window"))
        figure = self.window.deck.deck.figures["smoothed_0"]
        self.assertEqual(figure.values[0, 1], 13.5)
        self.assertEqual(figure.remark(0, 1), "The window is not full: it is taken of 2 of 6 months.")
        self.assertEqual(figure.remark(0, 6), "")


class Forecasts(SmoothCase):
    def test_the_next_figure_is_read_with_and_without_the_as_of_moved_back(self) -> None:
        deck = self.window.deck.deck
        self.assertEqual(self.figure("forecast_1")[-1], 22.5)
        self.assertEqual(self.window.sheet.fact("next_1").text, "22.50")
        self.assertNotIn("sold", deck.figures)
        self.ctrl("Left")
        # Up to the seventh: (3 x 22 + 2 x 16 + 20) / 6; what came was 25.
        self.assertAlmostEqual(self.figure("next_1")[0], 118 / 6)
        self.assertEqual(self.window.sheet.fact("sold").text, "25")
        self.assertIn("history as known now", self.window.deck.headline.subtitle)

    def test_they_run_on_as_far_as_asked(self) -> None:
        self.window.do(edit(P.smooth.on, 4))
        self.settle()
        self.assertEqual(self.figure("forecast_1")[-4:].tolist(), [22.5] * 4)
        self.assertEqual(self.window.deck.deck.columns, 36)

    def test_constants_are_set_within_their_bounds(self) -> None:
        self.click(self.button(self.window.sheet, "exponential ›"))
        path = ("smooth", "smoothers", 2)
        self.assertFalse(self.window.sheet.control((*path, "alpha")).isEnabled())
        self.click(self.button(self.window.sheet.control((*path, "constants")), "set"))
        alpha = self.window.sheet.control((*path, "alpha"))
        self.type(alpha.line, "0.5")
        self.assertEqual(self.figure("smoothed_2")[:3].tolist(), [12, 13.5, 12.25])
        self.type(alpha.line, "2")
        self.assertIn("up to 0.99", self.said())
        self.assertEqual(self.plan.smooth.smoothers[2].alpha, 0.5)

    def test_the_start_is_fitted_on_request(self) -> None:
        self.click(self.button(self.window.sheet, "exponential ›"))
        path = ("smooth", "smoothers", 2)
        self.click(self.button(self.window.sheet.control((*path, "constants")), "set"))
        ruled = self.figure("smoothed_2")
        self.assertEqual(ruled[0], 12)
        self.click(self.button(self.window.sheet.control((*path, "begins")), "fitted"))
        level = float(self.figure("begun_level_2")[0])
        alpha = self.plan.smooth.smoothers[2].alpha
        self.assertAlmostEqual(self.figure("smoothed_2")[0], alpha * 12 + (1 - alpha) * level)
        self.assertIn("the least error over the whole history", self.notes())
        self.ctrl("Z")
        np.testing.assert_array_equal(self.figure("smoothed_2"), ruled)

    def type(self, line: object, text: str) -> None:
        line.setFocus()  # type: ignore[attr-defined]
        line.selectAll()  # type: ignore[attr-defined]
        QTest.keyClicks(line, text)  # type: ignore[arg-type]
        QTest.keyClick(line, Qt.Key.Key_Return)  # type: ignore[arg-type]
        self.settle()


class WhichErrsLeast(SmoothCase):
    def inset(self) -> InsetView:
        self.window.sheet.finish()
        found = self.window.sheet._page.findChild(InsetView)
        self.window.sheet.ensureWidgetVisible(found)
        assert found is not None
        return found

    def test_a_point_of_the_curve_is_clicked_and_taken(self) -> None:
        inset = self.inset()
        self.assertEqual(inset._marks[0].kind, "now")
        QTest.mouseMove(inset, QPointF(inset.middle(3), 60).toPoint())
        self.assertIn("4 months", inset.accessibleName())
        QTest.mouseClick(inset, LEFT, pos=QPointF(inset.middle(3), 60).toPoint())
        self.settle()
        self.assertEqual(self.plan.smooth.smoothers[0].window, 4)
        self.assertEqual(self.inset().inset.at, 3)

    def test_it_follows_the_as_of_and_says_on_how_many_periods(self) -> None:
        before = self.window.session.deck("smooth").figures["curve_mean"].values[0].copy()
        self.window.do(edit(P.as_of, dt.date(2022, 3, 31)))
        self.settle()
        after = self.window.session.deck("smooth").figures["curve_mean"].values[0]
        self.assertFalse(np.array_equal(before[:5], after[:5]))

    def test_on_a_strong_season_the_same_month_last_year_errs_least_and_a_window_is_cautioned(self) -> None:
        self.open(self.file(monthly(YEARS), "years.csv"))
        self.stage("smooth")
        self.window.sheet.finish()
        # A year later each month is 12 more.
        self.assertEqual(self.window.sheet.fact("error_year").text, "12")
        caution = self.window.deck.deck.cautions(0)[0]
        self.assertIn("64 % of the yearly swing stays, 2.5 months late", caution.text)
        self.window.do(caution.way_out)
        self.assertEqual(self.plan.smooth.smoothers[0].window, 12)
        self.settle()
        self.assertFalse([each for each in self.window.deck.deck.cautions(0) if "swing" in each.text])


class BadInput(SmoothCase):
    def test_no_series_leaves_a_blank_chart_or_a_fault(self) -> None:
        smoothers = Smooth(
            smoothers=(
                Smoother(window=90),
                Smoother(kind="weighted"),
                Smoother(kind="damped"),
                Smoother(kind="trimmed", trim=9),
                Smoother(kind="median", told_in="week"),
                Smoother(place="around", window=5),
            )
        )
        for name, text in (
            ("one", monthly([5])),
            ("two", monthly([5, 6])),
            ("constant", monthly([7] * 40)),
            ("zeros", monthly([0] * 40)),
            ("huge and tiny", monthly([1e15, 0.001, 2e15, 0.003] * 8)),
            ("negative", monthly([-5, 3, -8, 2] * 6)),
            ("years", "year,cases\n" + "".join(f"{2010 + i},{i * 7 % 5}\n" for i in range(6))),
        ):
            self.open(self.file(text, f"{name}.csv"))
            self.stage("smooth")
            for hand in range(6):
                with self.subTest(name, hand=hand):
                    self.window.do(edit(P.smooth, smoothers))
                    self.window.do(edit(P.smooth.hand, hand))
                    self.settle()
                    self.assertTrue(self.window.deck.headline.title)
                    self.assertTrue(self.window.rail.findings["smooth"].text())
                    self.assertNotIn("unexpected", self.said().lower())

    def test_a_window_longer_than_the_history_says_what_to_do(self) -> None:
        self.window.do(edit(P.smooth.smoothers[0].window, 90))
        self.settle()
        (caution, *_) = self.window.deck.deck.cautions(0)
        self.assertIn("The window of 90 months is longer than the history, 32 months", caution.text)
        self.window.do(caution.way_out)
        self.settle()
        self.assertEqual(self.plan.smooth.smoothers[0].window, 10)

    def test_a_window_told_in_weeks_on_months_is_refused_with_the_reason(self) -> None:
        self.window.do(edit(P.smooth.smoothers[0].told_in, "week"))
        self.settle()
        (caution, *_) = self.window.deck.deck.cautions(0)
        self.assertEqual(caution.text, "A month is longer than a week: look at weeks, or count in months.")
        self.window.do(caution.way_out)
        self.settle()
        self.assertEqual(self.plan.smooth.smoothers[0].told_in, "period")

    def test_the_card_of_an_older_plan_waits_for_the_new_one(self) -> None:
        leave = Ruled((), dt.date(2021, 2, 1), dt.date(2021, 2, 28), "leave out")
        plain = self.plan.evened.rulings
        self.window.do(edit(P.evened.rulings, (leave,)))
        self.wait(lambda: "settled" in self.window.deck.deck.figures)
        # The session has gone on, and the window does not show it yet.
        self.window.session.do(edit(P.evened.rulings, plain))
        self.assertTrue(self.window.session.ready)
        list(self.window.deck._tell_later())
        self.assertIn("settled", self.window.deck.deck.figures)
        self.assertEqual(self.said(), "")
