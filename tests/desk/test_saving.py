"""Saving, and what becomes of what is not saved: killed windows, other windows, other programs."""

from __future__ import annotations

import json
import os
import signal
import socket
import subprocess
import sys
from pathlib import Path
from unittest import mock

from PyQt6.QtCore import QEvent, Qt
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel, QPushButton

from oat_tide import journal
from oat_tide.decks import Decks
from oat_tide.desk.window.ending import stay_where_it_was
from oat_tide.documents import open_document, save_document
from oat_tide.plan.edits import edit
from oat_tide.plan.paths import P
from oat_tide.system import holding, settings, versions
from tests.desk.case import DeskCase
from tests.helpers import daily, monthly, wavy


class SavingCase(DeskCase):
    def setUp(self) -> None:
        super().setUp()
        self.path = self.folder / "mill.oattide"
        save_document(open_document(self.file(daily(400, wavy))).session, "history", self.path)

    def answer(self, text: str) -> None:
        self.click(self.button(self.window.strip, text))
        self.settle()

    def save_by(self, **fields: object) -> None:
        """What another window does to the plan."""
        session = open_document(self.path).session
        for name, value in fields.items():
            session.do(edit(getattr(P, name), value))
        save_document(session, "history", self.path)

    def left_by_a_killed_window(self) -> None:
        """A step that is not saved, and a window that is no more."""
        self.open(self.path)
        self.window.do(edit(P.title, "not saved"))
        self.window.saving.journal.write()
        self.window.saving.end(keep=True)
        self.window.session = self.window.path = None
        self.window.show_nothing()


class AskedOnce(SavingCase):
    def test_the_name_for_the_log_once(self) -> None:
        settings.choose("name", "")
        self.open(self.path)
        self.window.do(edit(P.project.horizon, 9))
        self.ctrl("S")
        self.assertIn("Your name, as the log of a plan shows it", self.said())
        self.window.strip.line.setText("Ana  of the mill")
        self.answer("Save with this name")
        self.assertEqual([each.who for each in open_document(self.path).session.log], ["Ana of the mill"])
        self.window.do(edit(P.project.horizon, 12))
        self.ctrl("S")
        self.assertFalse(self.window.strip.isVisible())
        self.assertEqual([each.who for each in self.window.session.log], ["Ana of the mill"] * 2)

    def test_save_as_asks_for_the_name_that_is_written(self) -> None:
        precious = self.folder / "precious.oattide"
        precious.write_text("precious")
        self.open(self.path)
        with self.answer_save(self.folder / "precious"):
            self.key("S", Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
            self.settle()
        self.assertIn("There is a precious.oattide already", self.said())
        self.assertEqual(precious.read_text(), "precious")
        self.answer("Replace it")
        self.assertEqual(open_document(precious).session.plan, self.plan)
        self.assertEqual(self.window.path, precious)

    def test_typed_figures_are_not_lost_by_closing(self) -> None:
        self.window.source_dialogs.ask_typed()
        self.window.strip.tall.setPlainText("2021 100\n2022 120\n2023 150")
        self.answer("Make a series")
        self.assertTrue(self.window.changed)
        self.window.close()
        self.assertTrue(self.window.isVisible())
        self.assertIn("not saved", self.said())


class Offered(SavingCase):
    def test_on_the_first_page_with_what_it_holds(self) -> None:
        self.left_by_a_killed_window()
        [offer] = self.window.welcome.offers
        said = " ".join(each.text() for each in offer.findChildren(QLabel))
        for words in ("1 step, the last at", "mill.oattide", "Plan title, sales → not saved"):
            self.assertIn(words, said)
        self.click(offer.take)
        self.settle()
        self.assertEqual((self.plan.title, self.window.changed), ("not saved", True))
        self.assertIn("Taken up as it was", self.said())
        self.assertEqual(self.window.deck.foot.tab, "Not saved")
        self.assertEqual(len(list(journal._folder().glob("*.jsonl"))), 1, "one journal goes on")
        self.ctrl("S")
        self.assertEqual(list(journal._folder().glob("*.jsonl")), [])
        self.assertEqual(open_document(self.path).session.plan.title, "not saved")

    def test_discarding_is_a_choice(self) -> None:
        self.left_by_a_killed_window()
        self.click(self.window.welcome.offers[0].drop)
        self.assertEqual((self.window.welcome.offers, journal.left()), ([], []))

    def test_when_its_plan_is_opened(self) -> None:
        self.left_by_a_killed_window()
        self.open(self.path)
        self.assertIn("mill.oattide: 1 step", self.said())
        self.assertIsNone(self.window.session)
        self.answer("Open as saved")
        self.assertEqual(self.plan.title, "sales")
        self.assertEqual(len(journal.left()), 1)
        self.open(self.path)
        self.answer("Take up")
        self.assertEqual(self.plan.title, "not saved")

    def test_closing_without_saving_leaves_nothing(self) -> None:
        self.open(self.path)
        self.window.do(edit(P.title, "not wanted"))
        self.window.saving.journal.write()
        self.window.close()
        self.answer("Close without saving")
        self.assertEqual(list(journal._folder().iterdir()), [])

    def test_ended_by_the_system_nothing_is_asked_and_all_is_offered(self) -> None:
        self.open(self.path)
        self.window.do(edit(P.title, "in the middle"))
        self.window.end()
        self.assertFalse(self.window.isVisible())
        [found] = journal.left()
        self.assertEqual(journal.unsaved(found)[0].what, "Plan title, sales → in the middle")


class OtherWindows(SavingCase):
    def test_a_plan_changed_on_the_disk_is_noticed_before_saving(self) -> None:
        self.open(self.path)
        self.window.do(edit(P.title, "mine"))
        self.save_by(title="theirs")
        self.ctrl("S")
        self.assertIn("mill.oattide was changed on the disk", self.said())
        self.assertEqual(open_document(self.path).session.plan.title, "theirs")
        self.answer("See what differs")
        rows = self.window.deck.foot.listing.listing.texts(0, 9)
        self.assertEqual(rows, [("Plan title", "theirs", "mine")])
        self.assertIn("was changed on the disk", self.said())
        self.answer("Keep mine as a copy")
        copy = self.folder / "mill (2).oattide"
        self.assertEqual((self.window.path, self.window.changed), (copy, False))
        self.assertEqual(open_document(copy).session.plan.title, "mine")
        self.assertEqual(open_document(self.path).session.plan.title, "theirs")

    def test_it_is_noticed_when_the_window_is_looked_at_and_theirs_can_be_taken(self) -> None:
        self.open(self.path)
        self.window.do(edit(P.title, "mine"))
        self.save_by(title="theirs")
        QApplication.sendEvent(self.window, QEvent(QEvent.Type.WindowActivate))
        self.assertIn("was changed on the disk", self.said())
        self.answer("Take theirs")
        self.settle()
        self.assertEqual((self.plan.title, self.window.changed), ("theirs", False))
        # Mine is not lost: it is offered.
        self.assertEqual([each.steps for each in journal.left()], [1])

    def test_a_plan_that_another_window_has_open_is_told(self) -> None:
        place = self.folder / ".mill.oattide.open"
        told = {"host": socket.gethostname(), "process": 1, "begun": holding._begun(1), "who": "Ben"}
        place.write_text(json.dumps(told | {"since": "2026-12-01T10:00:00+00:00"}))
        self.open(self.path)
        self.assertIn("is open in another window as well, Ben, on this machine, process 1", self.said())
        self.window.do(edit(P.title, "mine"))
        with self.answer_save(self.folder / "own.oattide"):
            self.window.saving.save_as()
            self.settle()
        self.assertTrue(place.exists(), "it is theirs")
        self.assertEqual(json.loads((self.folder / ".own.oattide.open").read_text())["process"], os.getpid())
        self.window.end()
        self.assertFalse((self.folder / ".own.oattide.open").exists())

    def test_the_first_saving_of_a_day_keeps_the_version_before(self) -> None:
        self.open(self.path)
        for title in ("one", "two"):
            self.window.do(edit(P.title, title))
            self.ctrl("S")
        [kept] = versions.backups_of(self.path).iterdir()
        with mock.patch("PyQt6.QtWidgets.QFileDialog.getOpenFileName", return_value=(str(kept), "")):
            self.window.saving.ask_version()
            self.settle()
        self.assertEqual((self.plan.title, self.window.path), ("sales", None))


class TheLog(SavingCase):
    def test_it_is_listed_on_any_stage_and_searched(self) -> None:
        self.open(self.path)
        self.stage("project")
        self.window.do(edit(P.project.horizon, 9))
        self.window.do(edit(P.title, "another"))
        self.ctrl("Z")
        self.ctrl("L")
        foot = self.window.deck.foot
        self.assertEqual((foot.tab, self.window.stage), ("Log", "project"))
        rows = foot.listing.listing.texts(0, 9)
        self.assertEqual([(row[1], row[2], row[3]) for row in rows], [
            ("Ana Analyst", "Plan title, another → sales", "undone"),
            ("Ana Analyst", "Plan title, sales → another", "done"),
            ("Ana Analyst", "Horizon, a year → 9", "done"),
        ])  # fmt: skip
        self.assertTrue(foot.listing.isVisible())
        QTest.keyClicks(foot.bar.search, "horizon")
        self.settle()
        self.assertEqual(foot.listing.model().rowCount(), 1)
        self.ctrl("L")
        self.assertEqual(foot.tab, "Working")

    def test_undo_survives_saving_and_opening_again(self) -> None:
        self.open(self.path)
        self.window.do(edit(P.project.horizon, 9))
        self.window.do(edit(P.title, "another"))
        self.ctrl("S")
        self.open(self.path)
        self.ctrl("Z")
        self.ctrl("Z")
        self.assertEqual((self.plan.title, self.plan.project.horizon), ("sales", 0))
        self.key("Y", Qt.KeyboardModifier.ControlModifier)
        self.assertEqual(self.plan.project.horizon, 9)


class ComesBack(SavingCase):
    def test_the_window_where_it_was(self) -> None:
        stay_where_it_was(self.window)
        self.window.resize(1280, 700)
        self.window.close()
        self.assertTrue(settings.setting("window"))
        self.window.resize(1280, 800)
        stay_where_it_was(self.window)
        self.assertEqual(self.window.height(), 700)
        self.window.resize(1280, 800)


class Pasted(DeskCase):
    def paste(self, text: str) -> None:
        QGuiApplication.clipboard().setText(text)
        self.window.deck.tide.setFocus()
        QTest.keyClick(self.window.deck.tide, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
        self.settle()

    def test_364_indices_are_one_edit_and_one_deck(self) -> None:
        self.open(self.file(daily(1100, wavy)))
        self.window.do(edit(P.periods.kind, "day"))
        self.settle()
        self.stage("seasons")
        self.window.do(edit(P.seasons.cycle, 364))
        self.settle()
        row = next(n for n, figure in enumerate(self.window.deck.tide.rows) if figure.name == "hand")
        self.window.deck.tide.standing = (row, 0)
        made: list[object] = []
        real = Decks._make

        def counted(decks: Decks, stage: object, rests_on: object) -> object:
            made.append(stage)
            return real(decks, stage, rests_on)

        before = len(self.window.session.history.back)
        with mock.patch.object(Decks, "_make", counted):
            self.paste("\t".join(f"{1 + (n % 7) / 100:.2f}" for n in range(363)))
        self.assertEqual(len(self.plan.seasons.by_hand), 363)
        self.assertEqual(len(self.window.session.history.back), before + 1)
        own = [each for each in made if each.name == "seasons"]
        # The edit makes one; late answers that arrive meanwhile may make it anew.
        self.assertLess(len(own), 6, "a deck is made a cell")
        self.paste("1.1\t" * 300 + "many")
        self.assertIn("“many” does not begin with a figure", self.said())
        self.assertEqual(len(self.plan.seasons.by_hand), 363)

    def test_rows_of_a_table_stay_rows(self) -> None:
        self.open(self.file(monthly([40 + n % 12 * 3 + n / 5 for n in range(60)])))
        self.stage("seasons")
        years = [
            n
            for n, figure in enumerate(self.window.deck.tide.rows)
            if figure.mend and figure.name.startswith("ratios_")
        ]
        self.window.deck.tide.standing = (years[0], 1)
        self.paste("ferry\tstrike\nsnow\t")
        gone = sorted((each.year, each.place, each.note) for each in self.plan.seasons.left_out)
        self.assertEqual([each[1:] for each in gone], [(1, "ferry"), (2, "strike"), (1, "snow")])
        self.assertEqual(len({each[0] for each in gone}), 2)
        self.assertEqual(self.window.commands.named["undo"].text().startswith("Undo"), True)
        self.ctrl("Z")
        self.assertEqual(self.plan.seasons.left_out, ())
        last = len(self.window.deck.tide.rows) - 1
        self.window.deck.tide.standing = (last, 0)
        if self.window.deck.tide.rows[last].mend is not None:
            self.paste("a\tb\nc\td")
            self.assertIn("2 rows are pasted, and only 1", self.said())


def _texts(folder: Path) -> list[str]:
    return [each.name for each in folder.iterdir()]


class EndedByTheSystem(SavingCase):
    def test_by_any_of_its_signals_at_once_with_nothing_left(self) -> None:
        own = os.environ | {"QT_QPA_PLATFORM": "offscreen", "DISPLAY": ":99"}
        for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
            with self.subTest(number):
                window = subprocess.Popen(
                    [sys.executable, "-m", "oat_tide", str(self.path)],
                    env=own, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True,
                )  # fmt: skip
                place = self.folder / ".mill.oattide.open"
                self.wait(place.exists, 40)
                # Two processes on one plan: this one is told of the other.
                self.open(self.path)
                self.assertIn(
                    f"is open in another window as well, Ana Analyst, on this machine, process {window.pid}",
                    self.said(),
                )
                window.send_signal(number)
                # The pipes end when no process beside it holds them any more.
                _, said = window.communicate(timeout=20)
                self.assertEqual((window.returncode, "Traceback" in said), (0, False), said)
                self.assertFalse(place.exists())


class FailedSaving(SavingCase):
    def test_a_journal_that_cannot_be_written_is_told_once(self) -> None:
        journal._folder().parent.mkdir(parents=True, exist_ok=True)
        journal._folder().write_text("in the way")
        self.open(self.path)
        self.window.do(edit(P.title, "one"))
        self.window.saving.journal.write()
        self.window.do(edit(P.title, "two"))
        self.assertIn("the journal cannot be written (File exists)", self.said())
        self.window.strip.clear()
        self.window.do(edit(P.title, "three"))
        self.assertFalse(self.window.strip.isVisible())

    def test_a_read_only_plan_is_refused_and_its_steps_stay_in_the_journal(self) -> None:
        self.open(self.path)
        self.window.do(edit(P.title, "mine"))
        self.path.chmod(0o444)
        self.ctrl("S")
        self.assertIn("it is read-only", self.said())
        self.assertTrue(self.window.changed)
        self.window.saving.journal.write()
        self.assertEqual(len(list(journal._folder().glob("*.jsonl"))), 1)
        self.assertEqual([name for name in _texts(self.folder) if name.endswith(".part")], [])
        self.assertIsInstance(self.button(self.window.strip, "Close"), QPushButton)
