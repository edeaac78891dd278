"""A short seeded run of each fuzzer, and that each would notice what it looks for."""

from __future__ import annotations

import os
import random
import re
import subprocess
import sys
import unittest
from pathlib import Path
from unittest import mock

import msgspec

from oat_tide.documents import open_document, save_document
from oat_tide.plan.edits import edit
from oat_tide.plan.paths import P
from oat_tide.session import Session
from tests.fuzz import inputs, kills
from tests.fuzz.clicks import Turns, walking
from tests.fuzz.edits import Walk, walk
from tests.fuzz.mutations import broken
from tests.fuzz.seeds import seeds
from tests.helpers import FolderCase, monthly
from tests.messages import judged

_TOP = Path(__file__).parent.parent.parent
_PATIENCE = 240


def by_hand(*words: str, patience: int = _PATIENCE) -> str:
    """What a run says that is begun as by hand, in a process of its own."""
    done = subprocess.run(
        [sys.executable, "-m", "tests.fuzz", *words],
        cwd=_TOP,
        env=os.environ | {"QT_QPA_PLATFORM": "offscreen"},
        capture_output=True,
        text=True,
        timeout=patience,
        check=False,
    )
    assert done.returncode == 0, f"{done.stdout}\n{done.stderr[-2000:]}"
    return done.stdout


class ShortRuns(FolderCase):
    LONG = True

    def test_broken_files_end_as_sources_that_tie_or_in_words(self) -> None:
        said = by_hand("inputs", "240", "7")
        for kind in (".csv", ".xlsx", ".ods", ".parquet", ".sqlite", ".oattide"):
            with self.subTest(kind):
                self.assertRegex(said, rf"\d {re.escape(kind)} refused")
        self.assertRegex(said, r"\d \.csv accepted")
        self.assertRegex(said, r"240 inputs, 0 faults")

    def test_edits_by_chance_are_refused_in_words_or_taken_back_whole(self) -> None:
        counts, faults = walk(11, 500, self.folder)
        self.assertEqual(faults, [])
        for what in ("made", "refused", "steps back and on", "saved and opened"):
            self.assertGreater(counts[what], 0, what)

    def test_windows_killed_while_they_edit_save_and_close(self) -> None:
        said = by_hand("kills", "100", "7", "900", patience=900)
        self.assertRegex(said, r"100 kills, [\d,]+ acts, .*, 0 faults")


class ClicksByChance(unittest.TestCase):
    ALONE = True

    def test_clicks_by_chance_in_the_window(self) -> None:
        said = by_hand("clicks", "12", "5").splitlines()
        counts = re.findall(r"([\d,]+) (?:steps|widgets)", said[2])
        steps, widgets = (int(each.replace(",", "")) for each in counts)
        self.assertGreater(steps, 100)
        self.assertLess(widgets, 3000)


class TheyWouldNotice(FolderCase):
    def test_a_file_that_is_broken_differs_and_is_the_same_from_one_seed(self) -> None:
        for path in seeds(self.folder):
            data = path.read_bytes()
            with self.subTest(path.name):
                one, two = (broken(data, random.Random(3)) for _ in range(2))
                self.assertEqual(one, two)
                many = {broken(data, random.Random(seed)) for seed in range(12)}
                self.assertGreater(len(many), 6)

    def test_a_source_that_does_not_tie_or_changes_when_it_is_saved(self) -> None:
        path = self.file(monthly([3.0, 4.0, 5.0]))
        self.assertEqual(inputs.tried(path, random.Random(1)), "accepted")
        other = open_document(self.file(monthly([3.0, 4.0, 6.0]), "other.csv"))
        for found in (ZeroDivisionError, [open_document(path), other]):
            # What no reader should raise, and a plan that comes back as another.
            with mock.patch.object(inputs, "open_document", side_effect=found):
                wrong = (ZeroDivisionError, AssertionError)
                self.assertRaises(wrong, inputs.tried, path, random.Random(1))

    def test_work_that_no_journal_holds(self) -> None:
        plan = self.folder / "work" / "plan.oattide"
        plan.parent.mkdir()
        sales = self.file(monthly([40 + n % 12 for n in range(60)]))
        save_document(open_document(sales).session, "project", plan)
        session = open_document(plan).session
        done = [(0.0, msgspec.json.encode(session.plan))]
        session.do(edit(P.title, "done and told"))
        done.append((1.0, msgspec.json.encode(session.plan)))
        for at, said in ((2.5, ""), (3.5, "2.5 s of work are gone")):
            with self.subTest(at):
                killed = kills.Killed(self.folder, done, at, 9, False)
                self.assertEqual(kills.fault_of(killed), said)
        other = [(0.0, done[1][1])]
        self.assertIn("never there", kills.fault_of(kills.Killed(self.folder, other, 1.0, 9, False)))

    def test_an_undo_that_does_not_lead_back(self) -> None:
        session = open_document(self.file(monthly([3.0, 4.0, 5.0]))).session
        own = Walk(session, random.Random(1), self.folder)
        session.do(edit(P.title, "another"))
        own._back_and_on()
        with mock.patch.object(Session, "redo"), self.assertRaises(AssertionError):
            own._back_and_on()

    def test_a_window_that_is_not_painted_or_that_goes_away(self) -> None:
        with walking(self.folder, 3) as walker:
            walker._rest()
            self.assertEqual(walker.faults, [])
            walker.window.setUpdatesEnabled(False)
            walker.window.rail.show_finding("intake", "something else")
            walker._rest()
            self.assertIn("the screen shows something else", walker.faults[-1])
            walker.window.close()
            self.assertTrue(walker.window.isVisible())

    def test_turns_that_are_slow_though_the_machine_is_not(self) -> None:
        # Twice as slow as at its best, 0.12 s would have been 0.06 s, and 0.08 s only 0.04 s.
        turns = Turns(worked=[(0.12, 0.02), (0.08, 0.02), (0.04, 0.02)], paces=[0.02, 0.01])
        self.assertEqual((turns.busy, turns.own), (2, 1))

    def test_messages_that_do_not_help(self) -> None:
        judged("sales.csv is empty. Choose another file.")
        bad = (
            "",
            "Traceback (most recent call last).",
            "It broke",
            "one\ntwo.",
            "x" * 900 + ".",
            "KeyError.",
        )
        for text in bad:
            with self.subTest(text[:20]), self.assertRaises(AssertionError):
                judged(text)
