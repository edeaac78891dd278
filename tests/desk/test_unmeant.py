"""Nothing acts that was not meant: the wheel, numbers beyond a limit, banners, undo, odd text."""

from __future__ import annotations

import datetime as dt
import random

import numpy as np
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QAbstractSpinBox,
    QApplication,
    QCheckBox,
    QComboBox,
    QLabel,
    QPushButton,
    QSlider,
    QWidget,
)

from oat_tide.core.working.tree import Ref
from oat_tide.desk.sheet.control_widgets import DateControl, IntControl, PickControl
from oat_tide.plan.edits import edit
from oat_tide.plan.paths import P, steps
from tests.desk.case import DeskCase
from tests.helpers import HEAD, daily, monthly, wavy

MONTHS = monthly([round(200 + 5 * i + 30 * np.sin(i)) for i in range(48)])
NO_BUTTON = Qt.MouseButton.NoButton


def turn_wheel(widget: QWidget, notches: int = -1) -> None:
    """Turn the wheel over the middle of a widget; what it lets pass goes to what it stands in."""
    at: QWidget | None = widget
    while at is not None:
        middle = QPointF(at.rect().center())
        turned = QPoint(0, 120 * notches)
        keys, phase = Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase
        place = QPointF(at.mapToGlobal(middle.toPoint()))
        event = QWheelEvent(middle, place, QPoint(0, 0), turned, NO_BUTTON, keys, phase, False)
        QApplication.sendEvent(at, event)
        if event.isAccepted() or at.isWindow():
            break
        at = at.parentWidget()
    QApplication.processEvents()


class TheWheel(DeskCase):
    def test_it_scrolls_the_sheet_and_changes_no_control(self) -> None:
        self.open(self.file(daily(200, wavy)))
        self.window.sheet.finish()
        bar = self.window.sheet.verticalScrollBar()
        before, turned = self.plan, 0
        for stage in self.window.rail.buttons:
            self.stage(stage)
            self.window.sheet.finish()
            page = self.window.sheet._page
            for control in page.findChildren(QWidget):
                if isinstance(control, QComboBox | QAbstractSpinBox | QSlider) and control.isVisible():
                    self.window.sheet.ensureWidgetVisible(control)
                    control.setFocus()
                    turn_wheel(control)
                    turn_wheel(control, 1)
                    turned += 1
            self.settle()
            self.assertEqual(self.plan, before, stage)
        self.assertGreater(turned, 9)
        self.stage("intake")
        bar.setValue(0)
        combo = next(c for c in self.window.sheet._page.findChildren(QComboBox) if c.isVisible())
        turn_wheel(combo, -3)
        self.assertGreater(bar.value(), 0)

    def test_it_changes_no_role_over_a_column(self) -> None:
        self.open(self.file(daily(60, wavy)))
        before = self.plan
        self.window.deck.foot.choose("Columns")
        self.settle()
        # Those made before an answer came are gone, and wait to be cleared away.
        boxes = [box for box in self.window.deck.listing.findChildren(QComboBox) if box.isVisible()]
        self.assertEqual(len(boxes), 4)
        for box in boxes:
            turn_wheel(box)
        self.settle()
        self.assertEqual(self.plan, before)


class Limits(DeskCase):
    def setUp(self) -> None:
        super().setUp()
        self.open(self.file(MONTHS))
        self.stage("smooth")

    def type_window(self, text: str) -> None:
        control = self.window.sheet.control(("smooth", "smoothers", 0, "window"))
        assert isinstance(control, IntControl)
        control.spin.setFocus()
        control.spin.selectAll()
        QTest.keyClicks(control.spin, text)
        QTest.keyClick(control.spin, Qt.Key.Key_Return)
        self.settle()

    def test_a_number_beyond_the_limit_is_refused_and_the_old_one_stays(self) -> None:
        for text in ("7300", "1", "-9", "12.5", "six", "99999999999"):
            with self.subTest(text):
                self.type_window(text)
                self.assertEqual(self.plan.smooth.smoothers[0].window, 6)
                self.assertIn(f"Window length: “{text}” cannot be used", self.said())
                self.assertIn("from 2 to 730. It stays at 6 months.", self.said())
                self.assertEqual(
                    self.window.sheet.control(("smooth", "smoothers", 0, "window")).spin.value(), 6
                )

    def test_one_within_is_taken_whole(self) -> None:
        self.type_window("90")
        self.assertEqual((self.plan.smooth.smoothers[0].window, self.said()), (90, ""))
        self.type_window("730")
        self.assertEqual(self.plan.smooth.smoothers[0].window, 730)

    def test_ten_years_can_be_projected(self) -> None:
        self.stage("project")
        control = self.window.sheet.control(("project", "horizon"))
        self.assertEqual((control.control.hi, control.slider.maximum()), (120, 24))
        control.spin.setFocus()
        control.spin.selectAll()
        QTest.keyClicks(control.spin, "120")
        QTest.keyClick(control.spin, Qt.Key.Key_Return)
        self.settle()
        self.assertEqual(self.window.session.deck("project").columns, 48 + 120)

    def test_a_day_beyond_the_data_is_refused(self) -> None:
        self.stage("project")
        control = self.window.sheet.control(("project", "since"))
        assert isinstance(control, DateControl)
        control.line.setText("2031-01")
        control.line.editingFinished.emit()
        self.settle()
        self.assertIsNone(self.plan.project.since)
        self.assertIn("Fit from: 2031-01 lies outside 2020-01-01 to 2023-12-31", self.said())

    def test_what_was_said_of_a_refusal_goes_when_it_is_put_right(self) -> None:
        self.type_window("7300")
        self.assertTrue(self.said())
        self.type_window("12")
        self.assertEqual(self.said(), "")


class Banners(DeskCase):
    def test_they_move_nothing_and_lie_over_nothing_that_can_be_clicked(self) -> None:
        self.open(self.file(daily(200, wavy)))
        for stage in self.window.rail.buttons:
            self.stage(stage)
            controls = [
                each
                for each in self.window.findChildren(QPushButton)
                if each.isVisible() and not self.window.strip.isAncestorOf(each)
            ]
            before = [each.mapToGlobal(QPoint(0, 0)) for each in controls]
            self.window.strip.say("Window: “7300” cannot be used; write a whole number from 2 to 730.")
            QApplication.processEvents()
            self.assertEqual([each.mapToGlobal(QPoint(0, 0)) for each in controls], before)
            lies = self.window.strip.geometry().translated(
                self.window.strip.parentWidget().mapToGlobal(QPoint(0, 0))
            )
            for each in controls:
                place = each.rect().translated(each.mapToGlobal(QPoint(0, 0)))
                self.assertFalse(lies.intersects(place), f"{stage}: {each.text()}")
            self.window.strip.clear()

    def test_a_tally_moves_nothing_under_the_pointer(self) -> None:
        self.open(self.file(MONTHS))
        for stage in self.window.rail.buttons:
            self.stage(stage)
            tide = self.window.deck.tide
            parts = (tide, self.window.deck.axis, self.window.deck.foot)
            before = [part.geometry() for part in parts]
            # The indices of Seasons stand on the months of any year.
            row, first = (tide.rows[0].name, 3) if stage == "seasons" else ("actual", 43)
            self.drag(tide, QPointF(self.point(row, first)), QPointF(self.point(row, first + 4)))
            self.assertTrue(self.window.deck.tally.isVisible(), stage)
            self.assertEqual([part.geometry() for part in parts], before, stage)
            self.assertFalse(self.window.deck.tally.geometry().intersects(tide.geometry()))
            self.click(self.window.deck.tally.close_button)


class ShorterAxis(DeskCase):
    def test_what_was_selected_beyond_it_is_counted_no_more(self) -> None:
        self.open(self.file(MONTHS))
        self.stage("seasons")
        self.window.deck.scale.select(((9, 11),))
        self.window.do(edit(P.seasons.cycle, 4))
        self.window.deck.scale.select(((9, 11),))
        self.settle()
        self.window.deck.tally.refresh()
        self.assertFalse(self.window.deck.tally.isVisible())


class OutOfSight(DeskCase):
    def test_undo_goes_where_it_changes_something_and_says_what(self) -> None:
        self.open(self.file(MONTHS))
        self.stage("smooth")
        self.window.do(edit(P.smooth.smoothers[0].window, 9))
        self.stage("project")
        self.ctrl("Z")
        self.assertEqual((self.plan.smooth.smoothers[0].window, self.window.stage), (6, "smooth"))
        self.assertEqual(self.said(), "Undone: Smoother 1: window length, 9 → 6.")
        self.stage("history")
        self.key("Z", Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
        self.settle()
        self.assertEqual((self.plan.smooth.smoothers[0].window, self.window.stage), (9, "smooth"))
        self.assertEqual(self.said(), "Redone: Smoother 1: window length, 6 → 9.")

    def test_what_leads_to_a_control_that_is_still_to_be_made_brings_it_in_sight(self) -> None:
        self.open(self.file(daily(200, wavy)))
        self.stage("history")
        sheet, path = self.window.sheet, steps(P.evened.gaps)
        sheet._pages = {key: page for key, page in sheet._pages.items() if page is sheet._page}
        self.window.lead_to(path)
        self.assertFalse(sheet.in_sight(path))
        self.settle()
        self.assertTrue(sheet.in_sight(path))

    def test_on_the_same_stage_it_brings_the_control_in_sight(self) -> None:
        self.open(self.file(daily(200, wavy)))
        self.window.do(edit(P.evened.gaps, "not known"))
        self.settle()
        self.window.sheet.finish()
        self.window.sheet.verticalScrollBar().setValue(0)
        QApplication.processEvents()
        self.ctrl("Z")
        self.assertIn("Undone: Periods without a line, not known → by content", self.said())
        self.assertTrue(self.window.sheet.in_sight(steps(P.evened.gaps)))

    def test_what_can_be_seen_is_taken_back_without_a_word(self) -> None:
        self.open(self.file(MONTHS))
        self.stage("smooth")
        self.window.do(edit(P.smooth.smoothers[0].window, 9))
        self.ctrl("Z")
        self.assertEqual((self.window.stage, self.said()), ("smooth", ""))


class Taken(DeskCase):
    def test_one_sentence_says_what_was_taken_and_each_word_leads_to_its_control(self) -> None:
        rows = [f"{day}.01.2024;A;{1000 + day},250" for day in range(1, 30)]
        self.open(self.file("\n".join(["sold on;product;cases", *rows, "30.01.2024;B;1.001,750"])))
        sentence = self.window.deck.sentence
        self.assertTrue(sentence.isVisible())
        said = sentence.accessibleName()
        self.assertIn("dates from sold on, “1.01.2024” read as 1 Jan 2024, figures from cases added up", said)
        self.assertIn("“1001,250” read as 1,001.25", said)
        leads = {word.path for word in sentence.words if word.path}
        self.assertEqual(len(leads), 6)
        for place, word in enumerate(sentence.words):
            if word.path:
                self.window.sheet.verticalScrollBar().setValue(0)
                sentence.linkActivated.emit(str(place))
                QApplication.processEvents()
                found = self.window.sheet.control(word.path)
                self.assertFalse(found.visibleRegion().isEmpty(), word.text)
                focused = self.window.focusWidget()
                self.assertTrue(focused is not None and found.isAncestorOf(focused), word.text)

    def test_another_shape_finds_its_roles_and_undo_brings_the_first_back(self) -> None:
        self.open(self.file("month,Oats,Bran,Malt\n2024-01,1,2,3\n2024-02,4,5,6\n2024-03,7,8,9\n"))
        self.assertEqual(self.window.session.reading.dimensions, ("column",))
        self.assertEqual(self.window.session.panel.values.sum(), 45)
        shape = self.window.sheet.control(("intake", "shape"))
        assert isinstance(shape, PickControl)
        shape.turn("as it stands")
        self.settle()
        reading = self.window.session.reading
        self.assertEqual((reading.value, reading.dimensions, reading.offers.across), ("Oats", (), ()))
        self.ctrl("Z")
        self.assertEqual(self.window.session.panel.values.sum(), 45)


class OddText(DeskCase):
    MARKED = '<b>x</b><img src="http://somewhere/x.png">'

    def test_text_of_the_data_is_never_markup_nor_a_key(self) -> None:
        quoted = '"' + self.MARKED.replace('"', '""') + '"'
        rows = [
            f"2024-0{m}-1{d},{p},N,{m + d}" for m in range(1, 6) for d in range(5) for p in (quoted, "R&D")
        ]
        self.open(self.file("\n".join([HEAD, *rows])))
        self.window.do(edit(P.where, (("product", self.MARKED),)))
        self.settle()
        for stage in self.window.rail.buttons:
            self.stage(stage)
            self.window.sheet.finish()
            for label in self.window.findChildren(QLabel):
                if label.textFormat() != Qt.TextFormat.PlainText:
                    self.assertNotIn("<img", label.text())
            for widget in self.window.findChildren(QWidget):
                self.assertNotIn("<img", widget.toolTip())
        self.stage("intake")
        self.assertIn(self.MARKED, self.window.deck.headline.subtitle)
        self.window.do(edit(P.where, (("product", "R&D"),)))
        self.settle()
        self.assertIn("R&&D", self.window.header.series.text())
        boxes = [box.text() for box in self.window.sheet.findChildren(QCheckBox)]
        self.assertTrue(any("product" in text for text in boxes))


class Faults(DeskCase):
    def test_a_shown_average_on_a_short_history_explains_itself(self) -> None:
        """Stretches that hold a blank were written out as numbers."""
        for months in range(7, 15):
            self.open(self.file(monthly([10.0 + m % 5 for m in range(months)]), f"m{months}.csv"))
            for stage in ("history", "smooth", "project"):
                self.stage(stage)
                deck = self.window.session.deck(stage)
                for figure in deck.figures.every():
                    if figure.shown:
                        for column in range(1 if figure.fact else deck.columns):
                            self.window.deck.keep(
                                Ref(stage, figure.name, 0, -1 if figure.fact else column), True
                            )
            self.assertEqual(self.said(), "")

    def test_a_slope_with_a_month_left_out_explains_itself(self) -> None:
        from oat_tide.plan.parts.evened import Ruled

        self.open(self.file(monthly([10.0 + 3 * m for m in range(12)])))
        left = Ruled((), dt.date(2020, 5, 1), dt.date(2020, 5, 31), "leave out")
        self.window.do(edit(P.evened.rulings, (left,)))
        self.stage("project")
        self.click(self.window.sheet.fact("slope"))
        self.assertIn("slope", self.window.deck.card.title.text().lower())
        self.assertEqual(self.said(), "")

    def test_a_press_on_a_row_that_goes_is_forgotten(self) -> None:
        self.open(self.file(MONTHS))
        self.stage("project")
        self.window.do(edit(P.layout.turned, ("project.interval", "project.fit", "project.growth")))
        tide = self.window.deck.tide
        last = len(tide.rows) - 1
        QTest.mousePress(tide, Qt.MouseButton.LeftButton, pos=tide.cell_rect(last, 44).center().toPoint())
        self.stage("history")
        self.assertLess(len(tide.rows) - 1, last)
        QTest.mouseMove(tide, tide.cell_rect(0, 46).center().toPoint())
        QTest.mouseRelease(tide, Qt.MouseButton.LeftButton)
        self.settle()
        self.assertEqual(self.said(), "")

    def test_a_resting_figure_that_undo_takes_away_rests_no_more(self) -> None:
        self.open(self.file(MONTHS))
        self.window.choose_kind("year")
        self.settle()
        self.stage("history")
        self.window.deck.card.at_rest = lambda: Ref("history", "actual", 0, 40)
        self.window.deck.card.clear()
        self.assertIn("Every figure shows its working", self.window.deck.card.title.text())

    def test_clicking_about_at_random_leaves_no_fault(self) -> None:
        rng = random.Random(11)
        self.open(self.file(daily(420, wavy)))
        for _ in range(260):
            widgets = [
                each
                for each in (
                    *self.window.findChildren(QWidget),
                    self.window.deck.tide,
                    self.window.deck.bands,
                )
                if each.isVisible() and each.width() > 4 and each.height() > 4
            ]
            widget = rng.choice(widgets)
            if isinstance(widget, QPushButton) and (widget.menu() is not None or "Open" in widget.text()):
                continue
            at = QPoint(rng.randrange(widget.width()), rng.randrange(widget.height()))
            act = rng.randrange(6)
            if act < 3:
                QTest.mouseClick(widget, Qt.MouseButton.LeftButton, pos=at)
            elif act == 3:
                QTest.mousePress(widget, Qt.MouseButton.LeftButton, pos=at)
                QTest.mouseMove(widget, QPoint(rng.randrange(widget.width()), rng.randrange(widget.height())))
                QTest.mouseRelease(widget, Qt.MouseButton.LeftButton, pos=at)
            elif act == 4:
                turn_wheel(widget, rng.choice((-2, 2)))
            else:
                self.key(
                    rng.choice(["Z", "Y", "Home", "Left", "Right", "Escape"]),
                    Qt.KeyboardModifier.ControlModifier,
                )
            popup = QApplication.activePopupWidget()
            if popup is not None:
                popup.close()
            self.settle()
            self.assertNotIn("Something went wrong", self.said())
