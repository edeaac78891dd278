"""The sample stage in the window: every contract of a stage by mouse and keys."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton

from oat_tide.desk.card.listings import VALUE
from oat_tide.desk.sheet.cards import CardsView
from oat_tide.desk.sheet.control_widgets import ControlWidget, IntControl
from oat_tide.desk.sheet.inset import InsetView
from oat_tide.desk.sheet.items import ActButton
from oat_tide.desk.window.window import Window
from oat_tide.plan.edits import edit
from oat_tide.plan.paths import P, steps
from tests.desk.case import LEFT, DeskCase, activate, painted
from tests.helpers import daily, wavy
from tests.stages.sample_stage import ROWS, WINDOWS, S, Sample, with_sample

CTRL = Qt.KeyboardModifier.ControlModifier


class SampleCase(DeskCase):
    """Attributes: window: one whose rail has the sample stage, with a plan open and that stage in sight."""

    def setUp(self) -> None:
        super().setUp()
        self.window.hide()
        stage = with_sample()
        stage.__enter__()
        self.addCleanup(stage.__exit__, None, None, None)
        self.window = Window()
        self.addCleanup(self._put_away, self.window)
        self.window.resize(1280, 800)
        activate(self.window)
        self.open(self.file(daily(900, wavy)))
        self.stage("sample")
        self.wait(lambda: not self.window.session.deck("sample").waits, 40)
        self.settle()

    @staticmethod
    def _put_away(window: Window) -> None:
        window.hide()
        window.late.close()
        window.deleteLater()

    @property
    def sample(self) -> Sample:
        return self.plan.sample  # type: ignore[attr-defined,no-any-return]

    def part(self, kind: type) -> object:
        """The first widget of a kind on the side sheet that can be seen."""
        self.window.sheet.finish()
        found = self.window.sheet._page.findChildren(kind)
        return next(each for each in found if each.isVisibleTo(self.window.sheet))

    def view(self, name: str) -> None:
        self.window.do(edit(S.sample.arrangement, name))
        self.settle()


class InTime(SampleCase):
    def test_two_bands_stand_two_to_one_and_the_lower_sees_zero(self) -> None:
        bands = self.window.deck.bands
        above, below = bands.plots[:2]
        self.assertAlmostEqual(above.height() / below.height(), 2.0, delta=0.1)
        low, high = below.sees[1]
        self.assertTrue(low <= 0 <= high)
        self.assertTrue(below.zero.isVisible() and not above.zero.isVisible())
        self.assertTrue(all(drawn.stands for drawn in below.drawn))
        self.assertTrue(painted(bands))

    def test_two_handles_of_one_role_are_dragged_each_to_its_own_field(self) -> None:
        over, scale = self.window.deck.bands.over, self.window.deck.scale
        last = self.window.deck.deck.past - 1
        scale.all()
        for at, to in ((3, 5), (12, 9)):
            self.drag(over, QPointF(scale.edge(last + at + 1), 20), QPointF(scale.edge(last + to + 1), 20))
        self.assertEqual((self.sample.near, self.sample.far), (5, 9))
        self.ctrl("Z")
        self.assertEqual((self.sample.near, self.sample.far), (5, 12))

    def test_a_card_is_opened_and_its_instance_turned_by_keys(self) -> None:
        cards = self.part(CardsView)
        self.assertEqual(
            [head.text() for head in cards.heads], ["Trial 1 · 3", "Trial 2 · 6", "Trial 3 · 12"]
        )
        cards.heads[1].setFocus()
        QTest.keyClick(cards.heads[1], Qt.Key.Key_Space)
        spin = self.part(IntControl)
        self.assertEqual(spin.control.path, steps(S.sample.trials[1].window))
        QTest.keyClick(spin.spin, Qt.Key.Key_Up)
        self.settle()
        self.assertEqual([each.window for each in self.sample.trials], [3, 7, 12])
        self.assertEqual(cards.heads[1].text(), "Trial 2 · 7")
        step = self.window.session.history.back[-1]
        self.assertEqual(step.change, "Trial 2: window")

    def test_instances_come_and_go_by_buttons_that_say_why_they_cannot(self) -> None:
        def more() -> QPushButton:
            return self.button(self.window.sheet, "Add a trial")

        for _ in range(3):
            self.click(more())
        self.assertEqual(len(self.sample.trials), 6)
        self.assertFalse(more().isEnabled())
        self.assertEqual(more().toolTip(), "There are six.")
        self.click(self.button(self.window.sheet, "Take it out"))
        self.assertEqual([each.window for each in self.sample.trials], [6, 12, 3, 3, 3])

    def test_an_arrangement_that_is_a_stage_of_its_own_is_chosen_on_the_sheet(self) -> None:
        self.click(self.button(self.window.sheet, "parts"))
        deck = self.window.deck
        self.assertEqual(
            (deck.headline.title, self.window.rail.findings["sample"].text()), ("By parts", "2 parts")
        )
        self.assertEqual([row.name for row in deck.tide.rows], ["part_0", "part_1"])
        self.ctrl("Z")
        self.assertEqual(deck.headline.title, "Sample of All")

    def test_what_leads_to_a_field_opens_its_card(self) -> None:
        self.window.sheet.reveal(steps(S.sample.trials[2].level))
        self.assertEqual(self.part(CardsView).open, 2)

    def test_a_point_of_the_inset_is_picked_by_mouse_and_by_keys(self) -> None:
        inset = self.part(InsetView)
        self.assertTrue(painted(inset))
        QTest.mouseClick(inset, LEFT, pos=QPointF(inset.middle(4), 60).toPoint())
        self.settle()
        self.assertEqual(self.sample.trials[0].window, WINDOWS[4])
        inset = self.part(InsetView)
        inset.setFocus()
        QTest.keyClick(inset, Qt.Key.Key_Left)
        self.assertIn(f"{WINDOWS[3]}: ", inset.accessibleName())
        self.assertIn("roughness, 6", self.window.deck.card.title.text())
        QTest.keyClick(inset, Qt.Key.Key_Return)
        self.settle()
        self.assertEqual(self.sample.trials[0].window, WINDOWS[3])

    def test_a_part_out_of_sight_is_followed_by_its_name(self) -> None:
        column = self.window.deck.deck.past - 3
        QTest.mouseClick(self.window.deck.tide, LEFT, pos=self.point("first_part", column))
        self.settle()
        card = self.window.deck.card
        name = card.words.text().partition(":")[0]
        self.assertTrue(name)
        card.follow_term(0)
        self.assertIn(f"{name}: Actual", card.title.text())

    def test_six_late_answers_come_while_the_as_of_is_dragged(self) -> None:
        session = self.window.session
        frames = []
        for back in range(1, 7):
            day = session.as_of_at(session.home - back)
            self.window.do(edit(P.as_of, day, "drag"))
            self.app.processEvents()
            frames.append(painted(self.window.deck.bands))
        self.assertTrue(all(frames))
        self.wait(lambda: not session.deck("sample").waits, 40)
        values = session.deck("sample").figures["roughness"].values[0]
        self.assertFalse(np.isnan(values).any())
        self.wait(lambda: "–" not in self.part(InsetView).said(5), 10)


class Seasons(SampleCase):
    def setUp(self) -> None:
        super().setUp()
        self.view("season")
        self.tide = self.window.deck.tide

    def stand(self, column: int) -> None:
        QTest.mouseClick(self.tide, LEFT, pos=self.point("usual", column))
        self.settle()

    def test_a_cell_is_written_taken_back_and_left_as_it_was(self) -> None:
        before = self.cell_text("usual", 2)
        self.stand(2)
        QTest.keyClicks(self.tide, "1")
        self.assertTrue(self.tide.editor.isVisible())
        QTest.keyClicks(self.tide.editor, "234.5")
        QTest.keyClick(self.tide.editor, Qt.Key.Key_Return)
        self.settle()
        self.assertEqual(self.sample.own[0].value, 1234.5)
        self.assertTrue(self.tide.hasFocus())
        QTest.keyClick(self.tide, Qt.Key.Key_F2)
        QTest.keyClicks(self.tide.editor, "99")
        QTest.keyClick(self.tide.editor, Qt.Key.Key_Escape)
        self.assertEqual(self.sample.own[0].value, 1234.5)
        QTest.keyClick(self.tide, Qt.Key.Key_Delete)
        self.settle()
        self.assertEqual((self.sample.own, self.cell_text("usual", 2)), ((), before))

    def test_a_row_is_pasted_as_one_step_and_what_is_no_number_is_refused(self) -> None:
        clipboard = QGuiApplication.clipboard()
        clipboard.setText("10\t20\t30\n")
        self.stand(0)
        QTest.keyClick(self.tide, Qt.Key.Key_V, CTRL)
        self.settle()
        self.assertEqual([each.value for each in self.sample.own], [10, 20, 30])
        clipboard.setText("1\ttwo")
        QTest.keyClick(self.tide, Qt.Key.Key_V, CTRL)
        self.settle()
        self.assertIn("Usual, Feb: “two” is no number. Nothing was written.", self.said())
        self.assertEqual([each.value for each in self.sample.own], [10, 20, 30])
        self.ctrl("Z")
        self.assertEqual(self.sample.own, ())

    def test_what_is_being_written_is_left_when_another_stage_comes_in_sight(self) -> None:
        self.stand(2)
        QTest.keyClicks(self.tide, "7")
        self.window.show_stage("project")
        self.settle()
        self.assertFalse(self.tide.editor.isVisible())
        self.assertEqual(self.sample.own, ())

    def test_a_locked_cell_takes_nothing(self) -> None:
        self.stand(11)
        for key in (Qt.Key.Key_Delete, Qt.Key.Key_F2, Qt.Key.Key_5):
            QTest.keyClick(self.tide, key)
        self.settle()
        self.assertFalse(self.tide.editor.isVisible())
        self.assertEqual(self.sample.own, ())


class InAList(SampleCase):
    def setUp(self) -> None:
        super().setUp()
        self.view("list")
        self.main = self.window.deck.main

    def texts(self, column: int, count: int = 5) -> list[str]:
        model = self.main.view.model()
        return [model.index(row, column).data() for row in range(min(count, model.rowCount()))]

    def test_it_stands_in_place_of_chart_and_table(self) -> None:
        deck = self.window.deck
        self.assertTrue(self.main.isVisible())
        self.assertFalse(deck.tide.isVisible() or deck.bands.isVisible() or deck.axis.isVisible())
        self.assertEqual(self.main.said.text(), f"{ROWS:,} rows")
        self.assertTrue(painted(self.main))
        self.view("time")
        self.assertTrue(deck.tide.isVisible() and deck.bands.isVisible() and deck.axis.isVisible())
        self.assertFalse(self.main.isVisible())

    def test_a_heading_sorts_and_so_do_keys(self) -> None:
        header = self.main.view.horizontalHeader()
        place = QPointF(header.sectionViewportPosition(2) + 12, 8).toPoint()
        for expected in (["0", "1", "2"], ["9,999", "9,998", "9,997"], ["0", "7,919", "5,838"]):
            QTest.mouseClick(header.viewport(), LEFT, pos=place)
            self.settle()
            self.assertEqual(self.texts(2, 3), expected)
        self.main.view.setCurrentIndex(self.main.view.model().index(0, 2))
        QTest.keyClick(self.main.view, Qt.Key.Key_Down, CTRL)
        self.assertEqual(self.texts(2, 1), ["9,999"])

    def test_rows_are_found_and_picked_and_stay_so_after_an_edit(self) -> None:
        QTest.keyClicks(self.main.bar.search, "0004")
        self.settle()
        self.assertEqual(self.main.said.text(), f"11 of {ROWS:,} rows")
        pick = self.main.bar.picks[1]
        pick.setFocus()
        QTest.keyClick(pick, Qt.Key.Key_Down)
        self.settle()
        pick.textActivated.emit("calm")
        self.settle()
        rows = self.texts(0, 99)
        self.assertEqual(set(self.texts(1, 99)), {"calm"})
        self.main.view.setCurrentIndex(self.main.view.model().index(1, 0))
        self.click(self.button(self.main, "Star it"))
        self.assertEqual(self.sample.starred, (int(rows[1].split()[1]),))
        self.assertEqual(self.texts(0, 99)[1], f"{rows[1]} ★")
        self.main.view.setCurrentIndex(self.main.view.model().index(1, 0))
        self.assertFalse(self.button(self.main, "Star it").isEnabled())

    def test_numbers_stand_at_the_right_and_charts_are_drawn(self) -> None:
        model, right = self.main.view.model(), Qt.AlignmentFlag.AlignRight
        aligned = [model.index(0, c).data(Qt.ItemDataRole.TextAlignmentRole) & right.value for c in range(7)]
        self.assertEqual([bool(each) for each in aligned], [False, False, True, True, True, False, False])
        self.assertEqual(len(model.index(0, 6).data(VALUE)), 8)
        self.assertEqual(self.texts(6, 1), [""])


class Everything(SampleCase):
    def test_every_control_of_the_sheet_can_be_reached_and_says_what_it_is(self) -> None:
        self.window.sheet.finish()
        for kind in (ControlWidget, ActButton, InsetView):
            for each in self.window.sheet._page.findChildren(kind):
                self.assertTrue(each.accessibleName(), kind)

    def test_a_plan_with_the_sample_is_saved_and_opened(self) -> None:
        path = Path(self.folder / "sample.oattide")
        self.window.do(edit(S.sample.trials[1].window, 8))
        with self.answer_save(path):
            self.ctrl("S")
        self.assertEqual((self.said(), path.exists()), ("", True))
        self.window.do(edit(S.sample.trials[1].window, 9))
        self.window._opened = self.window._saved = self.plan
        self.open(path)
        self.assertEqual(self.said(), "")
        self.assertEqual([each.window for each in self.sample.trials], [3, 8, 12])
