"""Chart and tide table on one axis, handles, controls and workings, by mouse and keys."""

from __future__ import annotations

import datetime as dt
import itertools
from unittest import mock

import numpy as np
from PyQt6.QtCore import QPoint, QPointF, QRectF, Qt
from PyQt6.QtGui import QFontMetrics, QGuiApplication, QPainter, QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from oat_tide.desk.chart.scale import GUTTER
from oat_tide.desk.look.palette import font
from oat_tide.desk.sheet.cards import CardsView
from oat_tide.desk.sheet.control_widgets import DateControl, IntControl, WeightsControl
from oat_tide.plan.edits import edit
from oat_tide.plan.paths import P
from oat_tide.plan.undo import Undo
from tests.desk.case import LEFT, DeskCase, activate, painted
from tests.helpers import daily, monthly, plain, wavy


class OneAxis(DeskCase):
    def setUp(self) -> None:
        super().setUp()
        self.open(self.file(daily(900, wavy)))
        self.stage("project")

    def assert_aligned(self) -> None:
        """Every period's point in the chart stands over the middle of its column."""
        deck, bands = self.window.deck, self.window.deck.bands
        plot = bands.plots[0]
        view = plot.view
        first, stop = deck.scale.visible()
        self.assertEqual(bands.width(), deck.tide.width())
        for column in (first, (first + stop) // 2, stop - 1):
            at = view.mapViewToScene(QPointF(column, view.viewRange()[1][0]))
            in_chart = bands.mapTo(self.window, plot.mapFromScene(at) + plot.pos()).x()
            cell = deck.tide.cell_rect(0, column)
            in_table = deck.tide.mapTo(self.window, QPoint(0, 0)).x() + cell.center().x()
            self.assertAlmostEqual(in_chart, in_table, delta=1.0)

    def test_chart_and_table_stand_under_each_other_at_every_zoom_and_size(self) -> None:
        for size in ((1280, 800), (1920, 1080), (1133, 700)):
            self.window.resize(*size)
            self.settle()
            self.assert_aligned()
            for _ in range(4):
                self.wheel(120 if size[0] == 1280 else -120)
                self.assert_aligned()
            self.ctrl("0")
            self.assert_aligned()

    def wheel(self, turn: int) -> None:
        over = self.window.deck.bands.over
        place = QPointF(over.width() * 0.6, 60)
        event = QWheelEvent(
            place, over.mapToGlobal(place), QPoint(0, 0), QPoint(0, turn), Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
        )  # fmt: skip
        QApplication.sendEvent(over, event)
        self.settle()

    def test_zooming_keeps_the_period_under_the_pointer(self) -> None:
        scale = self.window.deck.scale
        x = self.window.deck.bands.over.width() * 0.6
        self.ctrl("0")
        for turn in (120, 120, 120):
            before = scale.place(x)
            self.wheel(turn)
            self.assertAlmostEqual(scale.place(x), before, places=6)

    def test_it_opens_on_about_eighteen_periods_that_have_room(self) -> None:
        scale, tide = self.window.deck.scale, self.window.deck.tide
        # A year ahead, and half as much before it.
        self.assertEqual(scale.count, 18)
        # Where that is too narrow for figures they are added up.
        self.assertTrue(scale.step >= tide._cells.least_room or tide.steps() is not None)
        self.assertEqual(scale.visible()[1], self.window.session.deck("project").columns)

    def test_one_hover_over_both(self) -> None:
        deck = self.window.deck
        column = self.window.session.deck("project").past - 2
        QTest.mouseMove(deck.bands.over, QPointF(deck.scale.x(column), 80).toPoint())
        self.assertEqual(deck.scale.hovered, column)
        QTest.mouseMove(deck.tide, self.point("actual", column + 1))
        self.assertEqual(deck.scale.hovered, column + 1)
        image = deck.tide.grab().toImage()
        other = deck.tide.grab()
        deck.scale.point(-1)
        self.assertNotEqual(image, deck.tide.grab().toImage())
        self.assertEqual(other.width(), deck.tide.width())

    def test_where_columns_are_narrow_no_figures_overlap(self) -> None:
        self.click(self.window.header.kinds["day"])
        self.ctrl("0")
        tide = self.window.deck.tide
        self.assertLess(self.window.deck.scale.step, tide.room)
        self.no_figures_overlap()
        self.click(self.window.header.kinds["week"])
        self.ctrl("0")
        self.no_figures_overlap()

    def no_figures_overlap(self) -> None:
        """Figures are written, and those of one row stand apart, by the width that each is written with."""
        written: dict[float, list[tuple[float, float]]] = {}

        def note(
            painter: QPainter, place: QRectF, across: float, text: str, *_: object, **__: object
        ) -> None:
            if across == 0.5:  # what stands in cells, not the names of the rows
                half = QFontMetrics(font(11)).horizontalAdvance(text) / 2
                middle = place.center()
                written.setdefault(middle.y(), []).append((middle.x() - half, middle.x() + half))

        with mock.patch("oat_tide.desk.table.painting.written", note):
            self.window.deck.tide.grab()
        self.assertTrue(written)
        for row in written.values():
            for (_, end), (start, _) in itertools.pairwise(sorted(row)):
                self.assertLessEqual(end, start)

    def test_another_period_keeps_the_place_on_the_axis(self) -> None:
        scale = self.window.deck.scale
        scale.pan(-12)
        end = self.window.deck.deck
        last = dt.date.fromordinal(719163 + end.grid.first_day(end.first + round(scale.start + scale.count)))
        self.click(self.window.header.kinds["week"])
        deck = self.window.deck.deck
        now = dt.date.fromordinal(719163 + deck.grid.first_day(deck.first + round(scale.start + scale.count)))
        self.assertLess(abs((now - last).days), 15)


class Handles(DeskCase):
    def setUp(self) -> None:
        super().setUp()
        self.open(self.file(monthly([round(200 + 5 * i + 30 * np.sin(i)) for i in range(48)])))
        plain(self.window.session)
        self.window.refresh()
        self.stage("project")

    def edge(self, column: int, y: float = 120) -> QPointF:
        return QPointF(self.window.deck.scale.edge(column), y)

    def drag_as_of(self, by: int) -> None:
        past = self.window.session.deck("project").past
        self.drag(self.window.deck.bands.over, self.edge(past), self.edge(past + by))

    def test_dragging_the_as_of_line_replays_history(self) -> None:
        self.assertNotIn("difference", [row.name for row in self.window.deck.tide.rows])
        self.drag_as_of(-5)
        self.assertEqual(self.plan.as_of, dt.date(2023, 7, 31))
        deck = self.window.session.deck("project")
        self.assertEqual(deck.past, 43)
        self.assertEqual(int(deck.figures["n"].values[0, 0]), 43)
        self.assertTrue(self.cell_text("projected", 43) and self.cell_text("difference", 43))
        self.assertIn(
            "+" if deck.figures["difference"].values[0, 43] > 0 else "−", self.cell_text("difference", 43)
        )
        self.window.deck.tide.folded.emit("project.fit")
        self.settle()
        self.assertEqual(self.cell_text("fitted", 43), "")
        self.assertEqual(self.cell_text("projected", 42), "")
        self.assertEqual(self.window.header.property("moved"), True)
        self.assertIn("As of Jul 2023 · 5 back", self.window.header.as_of.text())
        self.assertTrue(self.window.deck.axis.moved_back)
        self.assertIn("history as known now", self.window.deck.headline.subtitle)

    def test_a_drag_is_one_step_of_undo_and_one_key_brings_it_home(self) -> None:
        self.drag_as_of(-5)
        self.assertEqual(len(self.window.session.history.back), 1)
        self.ctrl("Home")
        self.assertIsNone(self.plan.as_of)
        self.assertEqual(self.window.header.property("moved"), False)
        self.ctrl("Z")
        self.ctrl("Z")
        self.assertEqual(self.plan, self.window.session.plan)
        self.assertFalse(self.window.session.moved_back)

    def test_two_drags_are_two_steps(self) -> None:
        self.drag_as_of(-3)
        self.drag_as_of(-2)
        self.assertEqual(len(self.window.session.history.back), 2)

    def test_it_cannot_be_dragged_beyond_home(self) -> None:
        self.drag_as_of(-3)
        self.drag_as_of(6)
        self.assertIsNone(self.plan.as_of)

    def test_the_as_of_steps_by_keys_and_buttons(self) -> None:
        self.ctrl("Left")
        self.ctrl("Left")
        self.assertEqual(self.plan.as_of, dt.date(2023, 10, 31))
        self.ctrl("Right")
        self.assertEqual(self.plan.as_of, dt.date(2023, 11, 30))
        self.click(self.window.header.home)
        self.assertIsNone(self.plan.as_of)

    def test_fit_span_and_horizon_are_dragged(self) -> None:
        over = self.window.deck.bands.over
        self.ctrl("0")
        self.drag(over, self.edge(0, 20), self.edge(12, 20))
        self.assertEqual(self.plan.project.since, dt.date(2021, 1, 1))
        self.assertEqual(int(self.window.session.deck("project").figures["n"].values[0, 0]), 36)
        self.drag_as_of(-6)
        past = self.window.session.deck("project").past
        self.drag(over, self.edge(past, 20), self.edge(past - 12, 20))
        self.assertIn(
            self.plan.project.until or self.plan.as_of, (dt.date(2022, 6, 30), dt.date(2022, 7, 31))
        )
        horizon = next(h for h in self.window.session.deck("project").handles if h.role == "horizon")
        self.drag(over, self.edge(horizon.at + 1, 20), self.edge(horizon.at - 2, 20))
        self.assertEqual(self.plan.project.horizon, 3)

    def test_the_window_of_smooth_is_dragged(self) -> None:
        self.stage("smooth")
        over = self.window.deck.bands.over
        self.drag(over, self.edge(42, 20), self.edge(39, 20))
        self.assertEqual(self.plan.smooth.smoothers[0].window, 9)
        self.assertEqual(self.window.deck.tide.rows[1].label, "9-month average, smoothed")


class Controls(DeskCase):
    def setUp(self) -> None:
        super().setUp()
        self.open(self.file(monthly([round(200 + 5 * i + 30 * np.sin(i)) for i in range(48)])))

    def test_the_window_slider_by_keys(self) -> None:
        self.stage("smooth")
        control = self.window.sheet.control(("smooth", "smoothers", 0, "window"))
        assert isinstance(control, IntControl)
        self.assertEqual(
            (control.slider.minimum(), control.slider.maximum(), control.control.hi), (2, 48, 730)
        )
        before = self.cell_text("smoothed_0", 47)
        control.slider.setFocus()
        for _ in range(3):
            QTest.keyClick(control.slider, Qt.Key.Key_Right)
        self.settle()
        self.assertEqual((self.plan.smooth.smoothers[0].window, control.spin.value()), (9, 9))
        self.assertNotEqual(self.cell_text("smoothed_0", 47), before)
        self.assertEqual(self.cell_text("smoothed_0", 7), "")
        self.assertTrue(self.cell_text("smoothed_0", 8))

    def test_dragging_the_slider_is_one_step(self) -> None:
        self.stage("smooth")
        slider = self.window.sheet.control(("smooth", "smoothers", 0, "window")).slider
        middle = slider.height() / 2
        self.drag(
            slider, QPointF(8 + 4 / 46 * (slider.width() - 16), middle), QPointF(slider.width() * 0.6, middle)
        )
        self.assertGreater(self.plan.smooth.smoothers[0].window, 20)
        self.assertEqual(len(self.window.session.history.back), 1)

    def weighted(self, window: int = 6) -> None:
        """The second smoother in hand, with so many weights."""
        self.stage("smooth")
        self.window.do(edit(P.smooth.smoothers[1].window, window))
        self.click(self.window.sheet._page.findChild(CardsView).heads[1])
        self.window.session.history = Undo(self.plan)

    def test_weights_are_typed_in_the_order_drawn(self) -> None:
        self.weighted(3)
        control = self.window.sheet.control(("smooth", "smoothers", 1, "weights"), "weights")
        assert isinstance(control, WeightsControl)
        self.assertEqual(control.line.text(), "1 2 3")
        self.type(control.line, "1 1 4")
        self.assertEqual(self.plan.smooth.smoothers[1].weights, (4, 1, 1))
        self.click(self.button(self.window.sheet.control(("smooth", "drawn")), "newest first"))
        self.assertEqual(control.line.text(), "4 1 1")
        self.type(control.line, "5 2 1")
        self.assertEqual(self.plan.smooth.smoothers[1].weights, (5, 2, 1))
        # As many as are typed: the window is as long.
        self.type(control.line, "8; 4, 2 1")
        self.assertEqual(self.plan.smooth.smoothers[1].weights, (8, 4, 2, 1))
        self.assertFalse(self.window.sheet.control(("smooth", "smoothers", 1, "window")).isEnabled())

    def type(self, line: object, text: str) -> None:
        line.setFocus()  # type: ignore[attr-defined]
        line.selectAll()  # type: ignore[attr-defined]
        QTest.keyClick(line, Qt.Key.Key_Delete)  # type: ignore[arg-type]
        QTest.keyClicks(line, text)  # type: ignore[arg-type]
        QTest.keyClick(line, Qt.Key.Key_Return)  # type: ignore[arg-type]
        self.settle()

    def test_undo_in_a_line_goes_to_the_plan_when_the_line_has_nothing_to_undo(self) -> None:
        self.weighted()
        control = self.window.sheet.control(("smooth", "smoothers", 1, "weights"), "weights")
        self.type(control.line, "9 1 1 1 1 4")
        self.assertEqual(self.plan.smooth.smoothers[1].weights[0], 4)
        activate(self.window)
        control.line.setFocus()
        QTest.keyClick(control.line, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        self.settle()
        self.assertEqual(self.plan.smooth.smoothers[1].weights, "rising")
        self.assertEqual(control.line.text(), "1 2 3 4 5 6")

    def test_weights_that_do_not_fit_are_refused_in_words(self) -> None:
        self.weighted()
        control = self.window.sheet.control(("smooth", "smoothers", 1, "weights"), "weights")
        for text, word in (
            ("a b", "one number a period"),
            ("0 0 0 0 0 0", "more than zero"),
        ):
            self.type(control.line, text)
            self.assertIn(word, self.said())
        self.assertEqual(self.plan.smooth.smoothers[1].weights, "rising")
        self.assertEqual(control.line.text(), "1 2 3 4 5 6")

    def test_a_weight_is_dragged(self) -> None:
        self.weighted()
        strip = self.window.sheet.control(("smooth", "smoothers", 1, "weights"), "weights").strip
        bar = strip.width() / 6
        self.drag(strip, QPointF(bar * 0.5, 40), QPointF(bar * 0.5, 4))
        weights = self.plan.smooth.smoothers[1].weights
        self.assertEqual(len(weights), 6)
        self.assertGreater(weights[5], 4)
        self.assertEqual(weights[0], 6)
        self.assertEqual(len(self.window.session.history.back), 1)

    def test_method_horizon_and_dates(self) -> None:
        self.stage("project")
        sheet = self.window.sheet
        self.assertFalse(sheet.control(("project", "mean")).isEnabled())
        self.click(self.card("Growth curve"))
        self.assertTrue(sheet.control(("project", "mean")).isEnabled())
        self.assertIn("%", sheet.fact("growth").text)
        self.click(self.button(sheet.control(("project", "reach")), "fiscal year end"))
        self.assertFalse(sheet.control(("project", "horizon")).isEnabled())
        since = sheet.control(("project", "since"))
        assert isinstance(since, DateControl)
        self.type(since.line, "2022")
        self.assertEqual(self.plan.project.since, dt.date(2022, 1, 1))
        self.type(since.line, "someday")
        self.assertIn("Fit from", self.said())
        self.assertEqual(since.line.text(), "2022-01-01")
        self.type(since.line, "")
        self.assertIsNone(self.plan.project.since)

    def test_a_caution_offers_a_way_out(self) -> None:
        self.open(self.file(monthly([5, 0, 7, 9, -1, 8, 9]), "zero.csv"))
        self.stage("project")
        self.click(self.card("Growth curve"))
        self.assertIn("no fit", self.window.rail.findings["project"].text())
        self.click(self.button(self.window.sheet, "Fit a straight line ›"))
        self.assertEqual(self.plan.project.method, "line")
        self.assertIn("line:", self.window.rail.findings["project"].text())


class Workings(DeskCase):
    def setUp(self) -> None:
        super().setUp()
        self.open(self.file(daily(400, wavy)))
        self.stage("smooth")
        self.column = self.window.session.deck("smooth").past - 1

    def test_pointing_shows_the_working_and_leaving_shows_what_it_rests_on(self) -> None:
        card, tide = self.window.deck.card, self.window.deck.tide
        QTest.mouseMove(tide, self.point("smoothed_0", self.column))
        self.assertTrue(card.title.text().startswith("6-month average, smoothed, Jan 2025 = "))
        actual = (
            self.window.session.deck("intake").figures["actual"].values[0, self.column - 5 : self.column + 1]
        )
        spelled = "; ".join(f"{value:,.0f}" for value in actual)
        self.assertIn(f"mean of ({spelled})", card.numbers.text())
        tide.leaveEvent(None)
        self.assertIn("one-step forecast", card.title.text())

    def test_a_blank_says_why(self) -> None:
        self.ctrl("0")
        QTest.mouseMove(self.window.deck.tide, self.point("smoothed_0", 2))
        self.assertIn("no figure", self.window.deck.card.title.text())
        self.assertIn("window of 6 months is not full", self.window.deck.card.numbers.text())

    def test_terms_are_followed_down_to_the_sales_lines_and_back(self) -> None:
        card, tide = self.window.deck.card, self.window.deck.tide
        QTest.mouseClick(tide, LEFT, pos=self.point("smoothed_1", self.column))
        self.settle()
        weighted = card.title.text()
        self.follow(card, 2)
        self.assertIn("Actual, Dec 2024 = ", card.title.text())
        self.follow(card, 1)
        self.assertTrue(card.lines.isVisible())
        model = card.lines.model()
        shown = sum(float(model.index(row, 4).data().replace(",", "")) for row in range(model.rowCount()))
        actual = self.window.session.deck("intake").figures["actual"].values[0]
        self.assertIn(shown, actual[self.column - 5 : self.column + 1])
        self.assertIn(f"together {shown:,.0f}", card.title.text())
        self.click(card.back)
        self.click(card.back)
        self.assertEqual(card.title.text(), weighted)
        self.key("Escape")
        self.assertIsNone(card.pinned)

    def follow(self, card: object, tabs: int) -> None:
        """Reach the n-th link by Tab and press Enter."""
        card.follow.setFocus(Qt.FocusReason.TabFocusReason)  # type: ignore[attr-defined]
        for _ in range(tabs):
            QTest.keyClick(card.follow, Qt.Key.Key_Tab)  # type: ignore[attr-defined]
        QTest.keyClick(card.follow, Qt.Key.Key_Return)  # type: ignore[attr-defined]
        self.settle()

    def test_a_working_at_rest_can_be_followed_and_is_kept_then(self) -> None:
        card = self.window.deck.card
        self.assertIsNone(card.pinned)
        self.follow(card, 1)
        self.assertEqual(card.title.text(), "Actual, Aug 2024 – Jan 2025")
        self.assertEqual(card.pinned, self.window.deck.tide.pinned)
        self.assertEqual(card.pinned.figure, "forecast_0")

    def test_a_stretch_is_followed_to_its_periods(self) -> None:
        card = self.window.deck.card
        QTest.mouseClick(self.window.deck.tide, LEFT, pos=self.point("smoothed_0", self.column))
        self.settle()
        self.follow(card, 1)
        self.assertEqual(card.title.text(), "Actual, Aug 2024 – Jan 2025")
        self.follow(card, 1)
        self.assertTrue(card.title.text().startswith("Actual, Aug 2024 = "))

    def test_the_table_by_keys(self) -> None:
        tide, card = self.window.deck.tide, self.window.deck.card
        tide.setFocus()
        tide.standing = (0, self.column)
        QTest.keyClick(tide, Qt.Key.Key_Down)
        QTest.keyClick(tide, Qt.Key.Key_Left)
        self.assertEqual(tide.standing, (1, self.column - 1))
        self.assertIn("6-month average, smoothed, Dec 2024", tide.accessibleDescription())
        QTest.keyClick(tide, Qt.Key.Key_Return)
        self.assertEqual(card.pinned.column, self.column - 1)
        for _ in range(20):
            QTest.keyClick(tide, Qt.Key.Key_Left)
        self.assertEqual(tide.standing[1], 0)
        self.assertLessEqual(self.window.deck.scale.start, 0.0)

    def test_facts_explain_themselves_and_workings_are_copied(self) -> None:
        self.window.do(edit(P.project.method, "line"))
        self.stage("project")
        self.click(self.window.sheet.fact("r2"))
        card = self.window.deck.card
        self.assertTrue(card.title.text().startswith("R² = "))
        self.assertIn("1 − sum of squared residuals ÷ sum of squared deviations", card.words.text())
        self.click(card.copy)
        self.assertIn("R² = ", QGuiApplication.clipboard().text())

    def test_a_kept_working_follows_the_plan(self) -> None:
        QTest.mouseClick(self.window.deck.tide, LEFT, pos=self.point("smoothed_0", self.column))
        self.settle()
        before = self.window.deck.card.title.text()
        self.window.do(edit(P.smooth.smoothers[0].window, 3))
        self.settle()
        after = self.window.deck.card.title.text()
        self.assertTrue(before.startswith("6-month") and after.startswith("3-month"))

    def test_rows_can_be_chosen(self) -> None:
        menu = self.window.deck.rows_menu
        menu.aboutToShow.emit()
        action = next(a for a in menu.actions() if a.text() == "6-month average, smoothed")
        action.setChecked(False)
        self.assertNotIn("smoothed_0", [row.name for row in self.window.deck.tide.rows])
        self.assertGreater(GUTTER, 100)


class SmallAndOddFiles(DeskCase):
    """Every stage at every period on files that hold next to nothing."""

    def test_no_stage_minds(self) -> None:
        for name, text in (
            ("one line", "date,cases\n2024-05-05,3\n"),
            ("two days", "date,cases\n2024-05-05,3\n2024-05-06,-3\n"),
            ("nothing but zeros", monthly([0] * 20)),
            ("huge and tiny", monthly([1e13, 0.000001, 5e12, 3, 2])),
            ("six years", "year,tonnes\n" + "".join(f"{2015 + i},{1200 + i}\n" for i in range(6))),
        ):
            self.open(self.file(text, f"{name}.csv"))
            if self.said():
                self.click(self.button(self.window.strip, "Open without"))
            for kind, button in self.window.header.kinds.items():
                if not button.isEnabled():
                    continue
                self.click(button)
                for stage in self.window.rail.buttons:
                    with self.subTest(name, kind=kind, stage=stage):
                        self.stage(stage)
                        self.assertTrue(painted(self.window.deck.tide))
                        self.assertTrue(self.window.rail.findings[stage].text())
                        self.assertEqual(self.said(), "")
            self.ctrl("0")
            self.ctrl("Left")
            self.ctrl("Home")
