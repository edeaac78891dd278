"""Edits: checked, named, undone."""

from __future__ import annotations

import datetime as dt
import unittest

import msgspec
from hypothesis import given
from hypothesis import strategies as st

from oat_tide.core.trouble import Trouble
from oat_tide.plan.edits import Edit, P, edit, put, title
from oat_tide.plan.parts.smooth import Smooth
from oat_tide.plan.plan import Plan
from oat_tide.plan.undo import Undo

EDITS = st.one_of(
    st.integers(2, 60).map(lambda n: edit(P.smooth.window, n)),
    st.integers(1, 730).map(lambda n: edit(P.project.horizon, n)),
    st.sampled_from(["line", "growth"]).map(lambda m: edit(P.project.method, m)),
    st.dates(dt.date(2000, 1, 1), dt.date(2050, 1, 1)).map(lambda d: edit(P.as_of, d)),
    st.lists(st.floats(0.5, 9), max_size=8).map(lambda w: edit(P.smooth.weights, tuple(w))),
)


class Put(unittest.TestCase):
    def test_only_what_is_touched_is_made_anew(self) -> None:
        plan = Plan()
        changed = put(plan, ("smooth", "window"), 9)
        self.assertEqual(changed.smooth.window, 9)
        self.assertEqual(plan.smooth.window, 6)
        self.assertIs(changed.project, plan.project)

    def test_what_a_field_cannot_hold_is_refused_by_its_name(self) -> None:
        for wrong, word in (
            (edit(P.smooth.window, 731), "Window"),
            (edit(P.smooth.window, 1), "Window"),
            (edit(P.smooth.window, "9"), "Window"),
            (edit(P.smooth.weights, (0.0, 0.0)), "Weights"),
            (edit(P.smooth.weights, (-1.0, 2.0)), "Weights"),
            (edit(P.project.method, "magic"), "Method"),
            (edit(P.periods.kind, "decade"), "Period"),
            (Edit(("smooth", "nothing"), 1), "Nothing"),
        ):
            with self.subTest(wrong), self.assertRaises((Trouble, AttributeError)) as caught:
                put(Plan(), wrong.path, wrong.value)
            if isinstance(caught.exception, Trouble):
                self.assertIn(word, str(caught.exception))

    def test_a_ready_made_part_is_checked_all_the_same(self) -> None:
        forged = msgspec.structs.replace(Smooth(), window=999)
        with self.assertRaises(Trouble):
            put(Plan(), ("smooth",), forged)

    def test_a_plan_survives_its_way_through_json(self) -> None:
        plan = put(put(Plan(), ("as_of",), dt.date(2026, 3, 31)), ("where",), (("product", "Bran"),))
        self.assertEqual(msgspec.json.decode(msgspec.json.encode(plan), type=Plan), plan)
        with self.assertRaises(msgspec.ValidationError):
            msgspec.json.decode(b'{"unheard_of": 1}', type=Plan)

    def test_fields_are_named_for_people(self) -> None:
        self.assertEqual(title(("smooth", "window")), "Window")
        self.assertEqual(title(("as_of",)), "As of")


class Undoing(unittest.TestCase):
    @given(st.lists(EDITS, max_size=15))
    def test_undoing_all_leads_back_and_redoing_all_leads_forward(self, edits: list[Edit]) -> None:
        history = Undo(Plan())
        for each in edits:
            history = history.do(each)
        there, steps = history.now, len(history.back)
        for _ in range(steps):
            history = history.undo()
        self.assertEqual(history.now, Plan())
        self.assertIs(history.undo(), history)
        for _ in range(steps):
            history = history.redo()
        self.assertEqual(history.now, there)
        self.assertIs(history.redo(), history)

    def test_a_gesture_is_one_step(self) -> None:
        history = Undo(Plan())
        for n in (7, 8, 9):
            history = history.do(edit(P.smooth.window, n, "drag"))
        self.assertEqual(len(history.back), 1)
        history = history.rested().do(edit(P.smooth.window, 12, "drag"))
        self.assertEqual(len(history.back), 2)
        self.assertEqual(history.undo().now.smooth.window, 9)

    def test_an_edit_that_changes_nothing_is_no_step(self) -> None:
        self.assertEqual(Undo(Plan()).do(edit(P.smooth.window, 6)).back, ())

    def test_a_new_edit_forgets_what_was_undone(self) -> None:
        history = Undo(Plan()).do(edit(P.smooth.window, 9)).undo().do(edit(P.project.horizon, 3))
        self.assertEqual(history.ahead, ())
        self.assertEqual(history.back[-1].change, "Periods ahead")
