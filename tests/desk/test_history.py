"""History in the window: every arrangement, the tally, notes, pins, overview, search and pictures."""

from __future__ import annotations

import datetime as dt
import gc
from unittest import mock

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QGuiApplication, QImage
from PyQt6.QtTest import QTest

from oat_tide.core.working.tree import SalesLines
from oat_tide.plan.edits import edit
from oat_tide.plan.paths import P
from tests.desk.case import LEFT, DeskCase, painted
from tests.helpers import daily, monthly, wavy

CTRL = Qt.KeyboardModifier.ControlModifier


class HistoryCase(DeskCase):
    def arrange(self, name: str) -> None:
        """Choose an arrangement."""
        self.click(self.window.deck.arrangements.buttons[name])

    @property
    def figures(self) -> dict[str, object]:
        return self.window.session.deck("history").figures

    def figure(self, name: str) -> list[float]:
        """The values of a figure of the series in sight."""
        return self.window.session.deck("history").figures[name].values[0].tolist()


class Arrangements(HistoryCase):
    def setUp(self) -> None:
        super().setUp()
        self.values = [100.0 + 10 * (m % 12) + 5 * (m // 12) for m in range(40)]
        self.open(self.file(monthly(self.values, start="2021-01-01")))
        self.stage("history")

    def test_each_is_one_click_away_with_its_finding_and_its_working(self) -> None:
        for name in ("overlaid", "running", "trailing", "earlier", "usual", "sequence"):
            with self.subTest(name):
                self.arrange(name)
                self.assertEqual(self.plan.history.arrangement, name)
                self.assertTrue(self.window.deck.arrangements.buttons[name].isChecked())
                self.assertTrue(self.window.rail.findings["history"].text())
                self.assertTrue(self.window.deck.card.title.text())
                self.assertTrue(painted(self.window.deck.bands))
        for _ in range(6):
            self.ctrl("Z")
        self.assertEqual(self.plan.history.arrangement, "sequence")

    def test_a_cell_of_a_year_is_followed_to_the_same_period_in_time(self) -> None:
        self.arrange("usual")
        self.window.do(edit(P.history.laid, "years overlaid"))
        deck, card, tide = self.window.deck.deck, self.window.deck.card, self.window.deck.tide
        self.assertEqual(
            [row.label for row in tide.rows], [f"202{n}, % from the average" for n in range(1, 5)]
        )
        QTest.mouseClick(tide, LEFT, pos=self.point("year_2023", 4))
        self.settle()
        self.assertIn("2023, % from the average, May", card.title.text())
        self.assertIn("% of the average month, May 2023", card.words.text())
        card.follow_term(0)
        self.assertIn("% of the average month, May 2023", card.title.text())
        usual = sum(self.values[4::12]) / len(self.values[4::12])
        self.assertAlmostEqual(deck.figures["of_usual"].values[0, 28], 100 * self.values[28] / usual)
        # Taking the arrangement back leaves no working of what is gone.
        self.ctrl("Z")
        self.assertTrue(self.window.deck.card.title.text())

    def test_years_stand_over_each_other_with_total_and_mean(self) -> None:
        self.arrange("overlaid")
        tide = self.window.deck.tide
        self.assertEqual([row.label for row in tide.rows], ["2021", "2022", "2023", "2024"])
        self.assertEqual(tide.text(0, 11), "210")
        self.assertEqual(tide.text(1, 12), f"{sum(self.values[12:24]):,.0f}")
        self.assertEqual(self.window.deck.deck.label(3), "Apr")
        self.assertIn("Dec in 3 of 3 complete years", self.text_of_sheet())

    def text_of_sheet(self) -> str:
        from PyQt6.QtWidgets import QLabel

        return " ".join(label.text() for label in self.window.sheet._page.findChildren(QLabel))

    def test_running_totals_start_anew_and_lie_over_each_other(self) -> None:
        self.arrange("running")
        self.assertEqual(self.figure("running")[23], sum(self.values[12:24]))
        self.assertEqual(self.figure("finished")[12], sum(self.values[12:24]))
        self.click(self.button(self.window.sheet.control(("history", "reset")), "quarter"))
        self.assertEqual(self.figure("running")[4], sum(self.values[3:5]))
        control = self.window.sheet.control(("history", "laid"))
        control.combo.activated.emit(1)
        self.settle()
        self.assertEqual(self.figure("year_2022")[11], sum(self.values[12:24]))
        control = self.window.sheet.control(("history", "laid"))
        control.combo.activated.emit(2)
        self.settle()
        self.assertEqual(self.figure("year_2022")[0], sum(self.values[:13]))

    def test_trailing_reaches_across_year_ends(self) -> None:
        self.arrange("trailing")
        self.assertEqual(self.figure("trailing")[14], sum(self.values[3:15]))
        self.assertEqual(self.window.rail.findings["history"].text()[:14], "last 12 months")
        spin = self.window.sheet.control(("history", "back")).spin
        spin.setValue(2)
        self.settle()
        self.assertEqual(self.figure("trailing")[14], sum(self.values[12:15]))
        self.window.sheet.control(("history", "short")).check.click()
        self.settle()
        self.assertEqual(self.figure("trailing")[0], self.values[0])

    def test_this_year_against_earlier_ones(self) -> None:
        self.arrange("earlier")
        spin = self.window.sheet.control(("history", "years")).spin
        spin.setValue(2)
        self.settle()
        self.assertEqual(self.figure("held")[0], (self.values[12] + self.values[24]) / 2)
        self.assertEqual(self.figure("difference")[0], self.values[36] - self.figure("held")[0])
        self.assertIn("above the mean of 2022 and 2023 in 4 of 4 months", self.text_of_sheet())
        self.window.sheet.control(("history", "to_date")).check.click()
        self.settle()
        self.assertEqual(self.figure("year_2023")[11], sum(self.values[24:36]))

    def test_the_usual_month(self) -> None:
        self.arrange("usual")
        january = (self.values[0] + self.values[12] + self.values[24] + self.values[36]) / 4
        self.assertAlmostEqual(self.figure("of_usual")[0], 100 * self.values[0] / january)
        self.assertAlmostEqual(self.figure("from_usual")[0], 100 * self.values[0] / january - 100)

    def test_what_makes_no_sense_is_not_offered_and_says_why(self) -> None:
        button = self.window.deck.arrangements.buttons["weekday"]
        self.assertFalse(button.isEnabled())
        self.assertIn("A month has no weekday", button.toolTip())
        self.arrange("overlaid")
        self.click(self.window.header.kinds["year"])
        self.assertFalse(self.window.deck.arrangements.buttons["overlaid"].isEnabled())
        self.assertTrue(self.window.deck.arrangements.buttons["sequence"].isChecked())
        self.click(self.window.header.kinds["month"])
        self.assertTrue(self.window.deck.arrangements.buttons["overlaid"].isChecked())

    def test_the_place_in_time_is_kept_through_a_season(self) -> None:
        scale = self.window.deck.scale
        scale.zoom(0.6, 700)
        scale.look(5.0, 9.0)
        self.arrange("overlaid")
        self.assertEqual((scale.start, scale.count), (0.0, 14.0))
        self.arrange("sequence")
        self.assertEqual((scale.start, scale.count), (5.0, 9.0))


class Days(HistoryCase):
    def setUp(self) -> None:
        super().setUp()
        self.open(self.file(daily(500, wavy)))
        self.stage("history")
        self.click(self.window.header.kinds["day"])

    def test_like_weekdays_against_52_weeks_earlier(self) -> None:
        self.arrange("weekday")
        deck = self.window.session.deck("history")
        actual = self.window.session.deck("intake").figures["actual"].values[0]
        last = self.window.session.sight().past.columns - 1
        self.assertEqual(self.figure("own")[-1], actual[last])
        self.assertEqual(self.figure("own")[0], actual[last - 49])
        self.assertEqual(self.figure("before")[-1], actual[last - 364])
        self.assertTrue(deck.label(0).startswith("Wed"))
        control = self.window.sheet.control(("history", "weekday"))
        control.line.setText("2025-03-04")
        control.line.editingFinished.emit()
        self.settle()
        self.assertTrue(self.window.session.deck("history").label(7).startswith("Tue 4 Mar 2025"))

    def test_a_span_of_another_kind(self) -> None:
        self.arrange("trailing")
        self.window.sheet.control(("history", "span")).turn("month")
        self.settle()
        self.window.sheet.control(("history", "length")).spin.setValue(6)
        self.settle()
        actual = self.window.session.deck("intake").figures["actual"].values[0]
        first = dt.date(2024, 1, 1)
        end, start = (dt.date(2025, 3, 10) - first).days, (dt.date(2024, 9, 11) - first).days
        self.assertEqual(self.figure("trailing")[end], actual[start : end + 1].sum())

    def test_parts_add_up_to_the_whole(self) -> None:
        self.click(self.window.header.kinds["month"])
        self.arrange("shares")
        whole = self.figure("actual")
        parts = [self.figure("part_0")[3], self.figure("part_1")[3]]
        self.assertEqual(sum(parts), whole[3])
        self.click(self.button(self.window.sheet.control(("history", "share")), "% of total"))
        self.assertAlmostEqual(self.figure("share_0")[3], 100 * parts[0] / whole[3])
        self.assertAlmostEqual(self.figure("top_1")[3], 100)


class Working(HistoryCase):
    def setUp(self) -> None:
        super().setUp()
        self.open(self.file(daily(800, wavy)))
        self.stage("history")
        self.window.see_all()
        self.settle()

    def axis_point(self, column: int) -> QPointF:
        return QPointF(self.window.deck.scale.x(column), 10)

    def test_periods_dragged_on_the_axis_are_tallied(self) -> None:
        axis, bar = self.window.deck.axis, self.window.deck.tally
        self.drag(axis, self.axis_point(2), self.axis_point(4))
        actual = self.figure("actual")
        self.assertTrue(bar.isVisible())
        self.assertIn("Mar 2024 – May 2024 · 3 known", bar.text.text())
        self.assertIn(f"total {sum(actual[2:5]):,.0f}", bar.text.text())
        QTest.mousePress(axis, LEFT, CTRL, self.axis_point(14).toPoint())
        QTest.mouseMove(axis, self.axis_point(15).toPoint())
        QTest.mouseRelease(axis, LEFT, CTRL, self.axis_point(14).toPoint())
        self.settle()
        self.assertEqual(len(self.window.deck.scale.selection), 2)
        self.assertIn("second on first: total", bar.text.text())
        self.click(bar.copy)
        rows = QGuiApplication.clipboard().text().split("\n")
        self.assertEqual(rows[0].split("\t")[1], "Mar 2024")
        self.assertEqual(float(rows[1].split("\t")[1]), actual[2])
        self.click(bar.close_button)
        self.assertFalse(bar.isVisible())

    def test_what_is_selected_goes_with_the_periods_it_stood_for(self) -> None:
        scale, bar = self.window.deck.scale, self.window.deck.tally
        last = self.window.deck.deck.columns - 1
        scale.select(((last - 3, last), (2, 4)))
        self.window.do(edit(P.intake.upto, dt.date(2025, 4, 30)))
        self.settle()
        self.assertTrue(all(end < self.window.deck.deck.columns for _, end in scale.selection))
        self.click(bar.copy)
        scale.select(((2, 4),))
        self.open(self.file(daily(700, wavy, "2023-01-01"), "other.csv"))
        self.click(self.button(self.window.strip, "Open without saving"))
        self.stage("history")
        # The third month is another one there.
        self.assertEqual(scale.selection, ())
        self.assertFalse(bar.isVisible())

    def test_cells_of_a_row_are_tallied_by_mouse_and_keys(self) -> None:
        tide, bar = self.window.deck.tide, self.window.deck.tally
        start, end = (tide.cell_rect(1, c).center() for c in (3, 6))
        self.drag(tide, start, end)
        self.assertTrue(bar.text.text().startswith("Change on previous month, Apr 2024 – Jul 2024"))
        tide.setFocus()
        QTest.keyClick(tide, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
        self.settle()
        self.assertIn("Aug 2024" if self.window.deck.scale.selection[0][1] == 7 else "Apr", bar.text.text())

    def test_a_note_is_seen_in_every_stage(self) -> None:
        self.drag(self.window.deck.axis, self.axis_point(5), self.axis_point(6))
        note = self.window.deck.tally.note
        note.setFocus()
        QTest.keyClicks(note, "new customer")
        QTest.keyClick(note, Qt.Key.Key_Return)
        self.settle()
        self.assertEqual(self.plan.evened.rulings[0].first, dt.date(2024, 6, 1))
        for stage in ("intake", "history", "smooth", "project"):
            marks = self.window.session.deck(stage).marks(0)
            self.assertIn("new customer", [mark.text for mark in marks], stage)
        self.arrange("overlaid")
        (mark,) = self.window.session.deck("history").marks(0)
        self.assertEqual((mark.text, mark.column, mark.figure), ("new customer, Jun 2024", 5, "year_2024"))
        self.arrange("sequence")
        for _ in range(3):
            self.ctrl("Z")
        self.assertEqual(self.window.session.deck("history").marks(0), ())

    def test_series_are_pinned_on_one_chart_or_several(self) -> None:
        self.window.do(edit(P.where, (("product", "Bran"),)))
        self.settle()
        self.click(self.button(self.window.sheet, "Pin it"))
        self.window.do(edit(P.where, (("product", "Oat drink"),)))
        self.settle()
        rows = [row.label for row in self.window.deck.tide.rows]
        self.assertIn("Bran", rows)
        working = self.window.session.deck("history").figures["pinned_0"].explain(0, 3)
        assert isinstance(working, SalesLines)
        self.assertEqual(self.window.session.lines(working).count, working.count)
        self.click(self.button(self.window.sheet.control(("history", "multiples")), "a chart each"))
        self.assertEqual(len(self.window.deck.deck.bands), 2)
        self.assertEqual({band.scale for band in self.window.deck.deck.bands}, {"main"})
        self.click(self.button(self.window.sheet, "Take off"))
        self.assertEqual(self.plan.history.pinned, ())

    def test_the_overview_moves_what_is_in_sight(self) -> None:
        scale, view = self.window.deck.scale, self.window.deck.overview
        self.assertFalse(view.isVisible())
        scale.look(18.0, 8.0)
        self.settle()
        self.assertTrue(view.isVisible())
        grip = view.sight().center()
        self.drag(view, grip, QPointF(view.place(4), grip.y()))
        self.assertAlmostEqual(scale.start, 0.0, delta=0.6)
        self.assertTrue(painted(view))

    def test_lines_are_searched_and_tie(self) -> None:
        deck, card = self.window.deck, self.window.deck.card
        QTest.mouseClick(deck.tide, LEFT, pos=self.point("actual", 3))
        self.settle()
        card.follow_term(0)
        self.assertIn("90, together", card.title.text())
        QTest.keyClicks(card.search, "Bran 2024-04-0")
        self.settle()
        self.assertIn("with “Bran 2024-04-0”: 9, together", card.title.text())
        model = card.lines.model()
        shown = sum(float(model.index(row, 4).data()) for row in range(model.rowCount()))
        self.assertIn(f"together {shown:,.0f}", card.title.text())
        # Made anew, as after any change, the list stays narrowed and its title says so.
        title = card.title.text()
        card.refresh()
        self.assertEqual((card.title.text(), card.lines.model().rowCount()), (title, model.rowCount()))

    def copied(self) -> QImage:
        """A picture of the view, copied."""
        QGuiApplication.clipboard().clear()
        self.key("E", CTRL | Qt.KeyboardModifier.ShiftModifier)
        self.window.strip.line.setText("900 x 600")
        self.click(self.button(self.window.strip, "Copy"))
        self.wait(lambda: self.said() == "The picture is copied.")
        return QGuiApplication.clipboard().image()

    def test_a_picture_is_drawn_though_garbage_is_collected_before(self) -> None:
        self.key("E", CTRL | Qt.KeyboardModifier.ShiftModifier)
        self.window.strip.line.setText("900 x 600")
        with mock.patch.object(self, "settle"):
            self.click(self.button(self.window.strip, "Copy"))
        gc.collect()
        self.wait(lambda: self.said() == "The picture is copied.")
        self.assertFalse(self.window.publishing._being_drawn)

    def test_a_picture_asked_for_amid_a_switch_is_of_one_scheme(self) -> None:
        self.window.switch_scheme()
        amid = self.copied()
        self.settle()
        self.assertTrue(amid == self.copied())
        self.assertLess(amid.pixelColor(450, 4).lightness(), 90)

    def test_a_picture_is_copied_or_saved_at_the_size_asked_for(self) -> None:
        self.key("E", CTRL | Qt.KeyboardModifier.ShiftModifier)
        self.window.strip.line.setText("900 x 600")
        self.click(self.button(self.window.strip, "Copy"))
        self.wait(lambda: self.said() == "The picture is copied.")
        self.assertEqual(QGuiApplication.clipboard().image().size().width(), 900)
        for name, begins in (("view.svg", b"<?xml"), ("view.png", b"\x89PNG")):
            path = self.folder / name
            self.key("E", CTRL | Qt.KeyboardModifier.ShiftModifier)
            with mock.patch("PyQt6.QtWidgets.QFileDialog.getSaveFileName", return_value=(str(path), "")):
                self.click(self.button(self.window.strip, "Save"))
            self.wait(lambda name=name: self.said() == f"{name} is written.")  # type: ignore[misc]
            self.assertTrue(path.read_bytes().startswith(begins), name)
        self.assertEqual(QImage(str(self.folder / "view.png")).width(), 1280)
        self.key("E", CTRL | Qt.KeyboardModifier.ShiftModifier)
        self.window.strip.line.setText("huge")
        self.click(self.button(self.window.strip, "Copy"))
        self.assertIn("“huge” is no size", self.said())
