"""Work that follows a paint has a turn of the event loop to itself, and all of it comes to its turn."""

from __future__ import annotations

import itertools
import time
import unittest

from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QApplication

from oat_tide.desk.look.turns import Turn
from oat_tide.desk.window.app import application


class Turns(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.app = application()

    def setUp(self) -> None:
        self.parent = QObject()
        self.done: list[list[str]] = []

    def turn(self, name: str, again: bool = False) -> Turn:
        """A turn that notes in which one of the loop it came; the loop turns in `go`."""
        return Turn(self.parent, lambda: self.done[-1].append(name), again)

    def go(self, until: int) -> list[list[str]]:
        """Turn the loop until so much is done; what each of its turns did, without those that did nothing."""
        end = time.monotonic() + 5
        while sum(map(len, self.done)) < until and time.monotonic() < end:
            self.done.append([])
            QApplication.processEvents()
        return [each for each in self.done if each]

    def test_what_is_due_at_once_comes_in_turns_of_its_own(self) -> None:
        for name in "abc":
            self.turn(name).start(0)
        self.assertEqual(sorted(self.go(3)), [["a"], ["b"], ["c"]])

    def test_none_comes_in_a_turn_that_is_taken(self) -> None:
        self.turn("a").start(0)
        for _ in range(20):
            Turn.taken()
            self.done.append([])
            QApplication.processEvents()
        self.assertEqual(self.done, [[]] * 20)
        self.assertEqual(self.go(1), [["a"]])

    def test_one_that_asks_again_and_again_keeps_no_other_waiting(self) -> None:
        busy, other = self.turn("busy", again=True), self.turn("other")
        busy.start(0)
        self.go(5)
        other.start(0)
        self.go(9)
        busy.stop()
        told = list(itertools.chain(*self.done))
        self.assertIn("other", told[5:8])
        self.assertEqual(told.count("busy"), len(told) - 1)

    def test_one_that_waited_and_is_put_off_or_goes_keeps_no_other_waiting(self) -> None:
        first, second, third = map(self.turn, "abc")
        Turn.taken()
        for each in (first, second, third):
            each.start(0)
        self.done.append([])
        QApplication.processEvents()
        first.start(60_000)
        second.stop()
        self.assertEqual(self.go(1), [["c"]])
        first.stop()
