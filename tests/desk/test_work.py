"""Work off the interface thread: the window stays free, and work can be stopped."""

from __future__ import annotations

import os
import time
from dataclasses import replace
from unittest import mock

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QCheckBox

from oat_tide.core.series.panel import Panel, Sight
from oat_tide.core.user_error import Progress
from oat_tide.core.working import number_format
from oat_tide.core.working.tree import Ref
from oat_tide.desk.work.late import LateProcess
from oat_tide.desk.work.worker import Sent
from oat_tide.documents import open_document
from oat_tide.plan.edits import edit
from oat_tide.plan.paths import P
from oat_tide.stages import STAGES
from oat_tide.stages.answers import Inline
from oat_tide.stages.deck import Deck, LateAnswers
from oat_tide.stages.smooth.make import Needs
from oat_tide.stages.smooth.make import make as smooth
from tests.desk.case import DeskCase
from tests.helpers import daily, monthly, wavy


def slow_square(number: int, seconds: float, progress: Progress) -> int:
    """A question that takes its time, and stops when it is told to."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        progress(0.5)
        time.sleep(0.005)
    return number * number


def deaf(seconds: float, progress: Progress) -> None:
    """A question that hears nothing for a while."""
    time.sleep(seconds)
    progress(0.9)


def written(value: float, progress: Progress) -> str:
    """A number as the process at work writes it."""
    return number_format.fixed(value, 1)


def can_be_written(panel: Panel, progress: Progress) -> bool:
    """Whether the values that arrived in the process at work could be changed there."""
    return panel.values.flags.writeable


def both(one: Panel, other: Panel, progress: Progress) -> tuple[int, int]:
    return one.columns, other.columns


def nth(panel: Panel, place: int, progress: Progress) -> float:
    return float(panel.values[0, place])


def dying(progress: Progress) -> None:
    """As the system ends a process that takes too much memory."""
    os._exit(9)


def failing(progress: Progress) -> None:
    raise ArithmeticError("no answer")


class Panics(DeskCase):
    def test_what_is_no_exception_ends_the_job_and_leaves_the_window_usable(self) -> None:
        class Panic(BaseException):
            """As the data engine raises it."""

        with mock.patch("oat_tide.desk.window.window.open_document", side_effect=Panic("gave up")):
            self.open(self.file(daily(60, wavy)))
        self.assertIsNone(self.window.runner.job)
        self.assertIn("Something went wrong that should not have (Panic). It is logged", self.said())
        self.open(self.file(daily(60, wavy)))
        self.assertEqual(self.window.session.reading.used, 180)


class TheStrip(DeskCase):
    def test_it_has_room_for_all_that_it_says_whatever_can_be_answered(self) -> None:
        self.open(self.file(daily(100, wavy)))
        strip = self.window.strip
        one, two = ("Read them now", lambda: None), ("Another", lambda: None)
        for words in (3, 20, 60, 110):
            for answers in ((), (one,), (one, two)):
                strip.clear()
                strip.say(" ".join(["message"] * words) + ".", answers)
                QApplication.processEvents()
                need = strip.text.heightForWidth(strip.text.width())
                with self.subTest(words=words, answers=len(answers)):
                    self.assertGreaterEqual(strip.text.height(), need)
                    self.assertEqual(len([b for b in strip.answers if b.isVisible()]), len(answers) + 1)

    def test_findings_on_the_rail_are_not_cut(self) -> None:
        self.open(self.file(daily(800, wavy)))
        for name, finding in self.window.rail.findings.items():
            with self.subTest(name):
                self.assertGreaterEqual(finding.height(), finding.sizeHint().height())

    def test_what_is_pasted_on_a_line_stays_on_one(self) -> None:
        self.open(self.file(daily(100, wavy)))
        line = self.window.commands.title
        line.clear()
        QGuiApplication.clipboard().setText("Oats\nand\ttide\N{PARAGRAPH SEPARATOR}again")
        line.paste()
        self.assertEqual(line.text(), "Oats and tide again")
        QTest.keyClick(line, Qt.Key.Key_Return)
        self.settle()
        self.assertEqual(self.plan.title, "Oats and tide again")


class LateWork(DeskCase):
    ALONE = True

    def setUp(self) -> None:
        super().setUp()
        self.late = LateProcess()
        self.addCleanup(self.late.close)
        self.arrived: list[float] = []
        self.late.arrived.connect(lambda: self.arrived.append(time.monotonic()))

    def test_the_answer_comes_later_and_drags_are_painted_meanwhile(self) -> None:
        self.open(self.file(daily(700, wavy)))
        self.stage("project")
        self.assertIsNone(self.late(slow_square, 7, 2.0))
        titles = []
        for _ in range(20):
            self.window.step_as_of(-1)
            QApplication.processEvents()
            titles.append(self.window.deck.headline.title)
        self.assertEqual(self.arrived, [], "the drags waited for the answer")
        self.assertEqual(len(set(titles)), 20)
        self.wait(lambda: bool(self.arrived), 40)
        self.assertEqual(self.late(slow_square, 7, 2.0), 49)

    def test_all_that_is_wanted_is_answered_and_what_is_not_stops(self) -> None:
        self.late(slow_square, 1, 0.0)
        self.wait(lambda: len(self.arrived) == 1, 40)
        wanted = [(slow_square, (number, 0.0)) for number in (8, 9)]
        for function, args in ((slow_square, (2, 30.0)), (slow_square, (3, 30.0)), *wanted):
            self.assertIsNone(self.late(function, *args))
        start = time.monotonic()
        self.late.want("project", wanted)
        self.wait(lambda: len(self.arrived) == 3, 40)
        self.assertLess(time.monotonic() - start, 20, "a question that nobody wants ran to its end")
        self.assertEqual([self.late(function, *args) for function, args in wanted], [64, 81])
        self.assertFalse(self.late.waits((slow_square, (3, 30.0))))

    def test_what_is_wanted_no_more_is_called_off_once_however_often_that_is_said(self) -> None:
        self.late(slow_square, 1, 0.0)
        self.wait(lambda: len(self.arrived) == 1, 40)
        self.late(deaf, 4.0)
        begun = time.monotonic()
        for _ in range(20_000):
            self.late.want("project", [])
        self.assertLess(time.monotonic() - begun, 2.0, "the window waited for a process that does not listen")
        self.late(slow_square, 3, 0.0)
        self.late.want("project", [(slow_square, (3, 0.0))])
        self.wait(lambda: self.late(slow_square, 3, 0.0) == 9, 40)

    def test_a_question_asked_again_while_it_is_being_stopped_is_answered(self) -> None:
        self.late(slow_square, 1, 0.0)
        self.wait(lambda: len(self.arrived) == 1, 40)
        again = (slow_square, (6, 0.3))
        self.late(*again[:1], *again[1])
        self.late.want("project", [])
        self.assertIsNone(self.late(*again[:1], *again[1]))
        self.late.want("project", [again])
        self.wait(lambda: len(self.arrived) == 2, 40)
        self.assertEqual(self.late(*again[:1], *again[1]), 36)

    def test_six_questions_beside_a_refresh_are_all_known_in_time(self) -> None:
        """Six of 0.4 s, asked anew every 250 ms by decks that still want them: known within 3.5 s."""
        self.late.warm()
        self.late(slow_square, 0, 0.0)
        self.wait(lambda: len(self.arrived) == 1, 40)
        questions = [(slow_square, (number, 0.4)) for number in range(1, 7)]

        def known() -> bool:
            answers = [self.late(function, *args) for function, args in questions]
            self.late.want("project", questions)
            return None not in answers

        start = time.monotonic()
        while not known() and time.monotonic() - start < 12:
            until = time.monotonic() + 0.25
            self.wait(lambda until=until: time.monotonic() > until)
        self.assertLess(time.monotonic() - start, 3.5)

    def test_what_ends_the_process_again_and_again_is_one_failed_answer(self) -> None:
        failures: list[object] = []
        self.late.failed.connect(failures.append)
        self.late(dying)
        self.late(slow_square, 4, 0.0)
        self.wait(lambda: len(self.arrived) == 1 and bool(failures), 40)
        self.assertEqual((len(failures), self.late(slow_square, 4, 0.0)), (1, 16))
        self.assertIn("3 times the process at work was ended", str(failures[0]))
        self.assertIsNone(self.late(dying))
        self.assertFalse(self.late.waits((dying, ())), "what killed the process is not asked again")
        self.late.forgive()
        self.late(dying)
        self.assertTrue(self.late.waits((dying, ())), "it is, when a plan is opened")

    def test_where_the_process_was_killed_in_mid_answer_it_is_asked_again(self) -> None:
        failures: list[object] = []
        self.late.failed.connect(failures.append)
        self.late(slow_square, 7, 1.5)
        self.late(slow_square, 8, 0.0)
        for _ in range(2):
            self.wait(lambda: self.late._child is not None and self.late._child.alive)
            time.sleep(0.2)
            self.late._child.process.kill()
            self.late._child.process.join()
            self.wait(lambda: self.late._child is not None and self.late._child.alive)
        self.wait(lambda: len(self.arrived) == 2, 40)
        self.assertEqual(
            [self.late(slow_square, 7, 1.5), self.late(slow_square, 8, 0.0), failures], [49, 64, []]
        )

    def test_where_the_process_died_while_nobody_asked_another_one_answers(self) -> None:
        failures: list[object] = []
        self.late.failed.connect(failures.append)
        for number in (4, 5):
            self.late(slow_square, number, 0.0)
            self.wait(lambda number=number: self.late(slow_square, number, 0.0) is not None, 40)
            self.late._child.process.kill()
            self.late._child.process.join()
            if number == 5:
                self.late.warm()
        self.late(slow_square, 6, 0.0)
        self.wait(lambda: self.late(slow_square, 6, 0.0) == 36, 40)
        self.assertEqual(failures, [])

    def test_a_panel_travels_once(self) -> None:
        self.open(self.file(monthly([3, 4, 5])))
        panel = self.window.session.panel
        sent: list[object] = []
        real = Sent.__init__

        def noted(self: Sent, number: int, panel: Panel | None) -> None:
            sent.append(panel)
            real(self, number, panel)

        with mock.patch.object(Sent, "__init__", noted):
            for place in range(3):
                self.late(nth, panel, place)
                self.wait(lambda count=place + 1: len(self.arrived) == count, 40)
        self.assertEqual([self.late(nth, panel, place) for place in range(3)], [3, 4, 5])
        self.assertEqual([each is panel for each in sent], [True, False, False])

    def test_what_a_question_stands_on_makes_no_room_for_the_rest_of_it(self) -> None:
        # As many panels as are kept, the oldest of which is asked for again beside a new one.
        self.open(self.file(monthly([3, 4, 5, 6, 7, 8, 9, 10, 11])))
        every = self.window.session.panel
        several = [every.cut(0, 1 + place) for place in range(9)]
        for place, panel in enumerate(several[:8]):
            self.late(nth, panel, 0)
            self.wait(lambda count=place + 1: len(self.arrived) == count, 40)
        failures: list[object] = []
        self.late.failed.connect(failures.append)
        self.late(both, several[0], several[8])
        self.wait(lambda: bool(failures) or len(self.arrived) == 9, 40)
        self.assertEqual((failures, self.late(both, several[0], several[8])), ([], (1, 9)))

    def test_a_deck_that_waits_is_made_once_for_all_looks_at_it(self) -> None:
        self.open(self.file(monthly([3, 4, 5, 7])))
        session = self.window.session
        session.late = self.late
        made: list[Sight] = []

        def asking(sight: Sight, ask: object, needs: Needs, late: LateAnswers) -> Deck:
            made.append(sight)
            known = late(slow_square, 5, 0.3)
            return replace(smooth(sight, ask, needs, late), finding=lambda series: f"{known}")

        with mock.patch.dict(STAGES, {"smooth": replace(STAGES["smooth"], make=asking)}):
            session.do(edit(P.smooth.smoothers[0].window, 3))
            for _ in range(10):
                session.explain(Ref("smooth", "smoothed_0", 0, 3))
            self.assertEqual((len(made), session.deck("smooth").waits), (1, True))
            self.wait(lambda: bool(self.arrived), 40)
            deck = session.deck("smooth")
            self.assertEqual((len(made), deck.waits, deck.finding(0)), (2, False, "25"))

    def test_an_error_is_told_and_the_next_question_answered(self) -> None:
        failures: list[object] = []
        self.late.failed.connect(failures.append)
        self.late(failing)
        self.wait(lambda: bool(failures), 40)
        self.assertIsInstance(failures[0], ArithmeticError)
        self.late(slow_square, 3, 0.0)
        self.wait(lambda: bool(self.arrived), 40)
        self.assertEqual(self.late(slow_square, 3, 0.0), 9)

    def test_numbers_are_written_there_as_here_and_panels_cannot_be_changed(self) -> None:
        self.addCleanup(number_format.set_marks, *number_format.marks())
        number_format.set_marks(",", ".")
        self.late(written, 1234.5)
        self.wait(lambda: len(self.arrived) == 1, 40)
        self.assertEqual(self.late(written, 1234.5), "1.234,5")
        self.open(self.file(monthly([3, 4, 5])))
        panel = self.window.session.panel
        self.late(can_be_written, panel)
        self.wait(lambda: len(self.arrived) == 2, 40)
        self.assertFalse(self.late(can_be_written, panel))

    def test_done_at_once_it_is_told_in_the_same_way(self) -> None:
        self.assertEqual(Inline()(slow_square, 7, 0.0), 49)


class LongReading(DeskCase):
    ALONE = True

    def slow_open(self, seconds: float) -> mock._patch[mock.MagicMock]:
        """Opening that takes its time and tells how far it is."""

        def work(path: object, progress: Progress) -> object:
            end = time.monotonic() + seconds
            while time.monotonic() < end:
                progress(0.4)
                time.sleep(0.005)
            return open_document(path, progress)  # type: ignore[arg-type]

        return mock.patch("oat_tide.desk.window.window.open_document", side_effect=work)

    def test_work_over_a_third_of_a_second_shows_progress(self) -> None:
        path = self.file(monthly([1, 2, 3, 4]))
        with self.slow_open(0.8):
            self.window.open(path)
            self.assertFalse(self.window.strip.isVisible())
            self.wait(self.window.strip.isVisible)
            self.wait(lambda: self.window.strip.bar.value() == 40)
            self.assertIn("Reading sales.csv", self.said())
            self.settle()
        self.assertFalse(self.window.strip.isVisible())
        self.assertIsNotNone(self.window.session)

    def test_what_is_asked_for_meanwhile_is_said_to_be_not_begun(self) -> None:
        self.open(self.file(monthly([1, 2, 3, 4])))
        self.window.do(edit(P.project.horizon, 4))
        self.window._saved = plan = self.plan
        self.stage("project")
        every = self.window.sheet.control(("project", "every")).findChild(QCheckBox)
        session, third = self.window.session, self.file(monthly([8, 9]), "third.csv")
        with self.slow_open(30):
            self.window.open(self.file(monthly([5, 6, 7]), "other.csv"))
            for ask in (
                lambda: self.window.open(third),
                lambda: self.window.do(edit(P.project.horizon, 3)),
                self.window.header.kinds["quarter"].click,
                every.click,
                self.card("Growth curve").click,
                lambda: self.key("Z", Qt.KeyboardModifier.ControlModifier),
            ):
                ask()
                said = "Busy: reading other.csv. Wait until it ends, or stop it."
                self.assertEqual(self.said(), said)
                self.assertEqual(self.plan, plan)
                # What was pressed does not look as if it had been taken.
                self.assertTrue(self.window.header.kinds["month"].isChecked())
                self.assertFalse(every.isChecked())
                self.assertFalse(self.card("Growth curve").isChecked())
                self.window.strip.clear()
            self.window.open(third)
            self.click(self.button(self.window.strip, "Stop"))
        self.settle()
        self.assertIs(self.window.session, session)
        self.assertEqual(self.said(), "")

    def test_it_stops_at_once_and_leaves_the_plan_as_it_was(self) -> None:
        self.open(self.file(monthly([1, 2, 3, 4])))
        session = self.window.session
        with self.slow_open(30):
            self.window.open(self.file(monthly([5, 6, 7]), "other.csv"))
            self.wait(self.window.strip.isVisible)
            self.click(self.button(self.window.strip, "Stop"))
            self.assertIsNone(self.window.runner.job)
        self.assertIs(self.window.session, session)
        self.assertFalse(self.window.strip.isVisible())

    def test_reading_anew_can_be_stopped_and_the_edit_is_taken_back(self) -> None:
        self.open(self.file(daily(200, wavy)))
        before = self.plan
        asked: list[bool] = []

        def work(progress: Progress | None = None) -> None:
            asked.append(progress is not None)
            assert progress is not None
            end = time.monotonic() + 30
            while time.monotonic() < end:
                progress(0.1)
                time.sleep(0.005)

        with mock.patch.object(self.window.session, "prepare", work):
            self.click_without_rest(self.window.header.kinds["week"])
            self.wait(self.window.strip.isVisible)
            # Meanwhile nothing that is pointed at or asked for reads the lines on this thread.
            tide = self.window.deck.tide
            tide.hovered.emit(tide.rows[0], 1)
            tide.chosen.emit(tide.rows[0], 1)
            self.window.header.series.click()
            self.window.publishing.publish_csv()
            self.window.step_as_of(-1)
            self.assertEqual(asked, [True])
            self.click(self.button(self.window.strip, "Stop"))
        self.assertEqual(self.plan, before)
        self.assertEqual(self.window.session.grid.kind, "month")

    def click_without_rest(self, widget: object) -> None:
        widget.click()  # type: ignore[attr-defined]
        QApplication.processEvents()
