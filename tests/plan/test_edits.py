"""Edits: checked, named, undone."""

from __future__ import annotations

import datetime as dt
import json
import re
import unittest
from typing import Annotated, Any, cast

import msgspec
from hypothesis import given
from hypothesis import strategies as st
from msgspec import Meta

from oat_tide.core.user_error import UserError
from oat_tide.plan.edits import Edit, as_data, changed, edit, from_data, insert, move, put, remove
from oat_tide.plan.parts.part import Part
from oat_tide.plan.parts.smooth import Smooth, Smoother
from oat_tide.plan.paths import P, steps, title
from oat_tide.plan.plan import Plan
from oat_tide.plan.undo import Undo, told
from oat_tide.stages.deck import control

EDITS = st.one_of(
    st.integers(2, 60).map(lambda n: edit(P.smooth.smoothers[0].window, n)),
    st.integers(1, 730).map(lambda n: edit(P.project.horizon, n)),
    st.sampled_from(["line", "growth"]).map(lambda m: edit(P.project.method, m)),
    st.dates(dt.date(2000, 1, 1), dt.date(2050, 1, 1)).map(lambda d: edit(P.as_of, d)),
    st.lists(st.floats(0.5, 9), min_size=1, max_size=8).map(
        lambda w: edit(P.smooth.smoothers[1].weights, tuple(w))
    ),
)


class Put(unittest.TestCase):
    def test_only_what_is_touched_is_made_anew(self) -> None:
        plan = Plan()
        changed = put(plan, ("smooth", "smoothers", 0, "window"), 9)
        self.assertEqual(changed.smooth.smoothers[0].window, 9)
        self.assertEqual(plan.smooth.smoothers[0].window, 6)
        self.assertIs(changed.project, plan.project)

    def test_what_a_field_cannot_hold_is_refused_by_its_name(self) -> None:
        for wrong, word in (
            (edit(P.smooth.smoothers[0].window, 731), "window"),
            (edit(P.smooth.smoothers[0].window, 0), "window"),
            (edit(P.smooth.smoothers[0].window, "9"), "window"),
            (edit(P.smooth.smoothers[1].weights, (0.0, 0.0)), "weights"),
            (edit(P.smooth.smoothers[1].weights, (-1.0, 2.0)), "weights"),
            (edit(P.project.method, "magic"), "Method"),
            (edit(P.periods.kind, "decade"), "Period"),
            (Edit(("smooth", "nothing"), 1), "Nothing"),
        ):
            with self.subTest(wrong), self.assertRaises((UserError, AttributeError)) as caught:
                put(Plan(), wrong.path, wrong.value)
            if isinstance(caught.exception, UserError):
                self.assertIn(word, str(caught.exception))

    def test_a_ready_made_part_is_checked_all_the_same(self) -> None:
        forged = msgspec.structs.replace(Smooth(), smoothers=(Smoother(window=999),))
        with self.assertRaises(UserError):
            put(Plan(), ("smooth",), forged)

    def test_a_plan_survives_its_way_through_json(self) -> None:
        plan = put(put(Plan(), ("as_of",), dt.date(2026, 3, 31)), ("where",), (("product", "Bran"),))
        self.assertEqual(msgspec.json.decode(msgspec.json.encode(plan), type=Plan), plan)
        with self.assertRaises(msgspec.ValidationError):
            msgspec.json.decode(b'{"unheard_of": 1}', type=Plan)

    def test_fields_are_named_for_people(self) -> None:
        self.assertEqual(title(("smooth", "smoothers", 0, "window")), "Smoother 1: window length")
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
            history = history.do(edit(P.smooth.smoothers[0].window, n, "drag"))
        self.assertEqual(len(history.back), 1)
        history = history.rested().do(edit(P.smooth.smoothers[0].window, 12, "drag"))
        self.assertEqual(len(history.back), 2)
        self.assertEqual(history.undo().now.smooth.smoothers[0].window, 9)

    def test_an_edit_that_changes_nothing_is_no_step(self) -> None:
        self.assertEqual(Undo(Plan()).do(edit(P.smooth.smoothers[0].window, 6)).back, ())

    def test_a_new_edit_forgets_what_was_undone(self) -> None:
        history = Undo(Plan()).do(edit(P.smooth.smoothers[0].window, 9)).undo().do(edit(P.project.horizon, 3))
        self.assertEqual(history.ahead, ())
        self.assertEqual(history.back[-1].change, "Horizon")


class Level(Part, frozen=True, tag="level"):
    """One kind of a part that there are several of."""

    weight: Annotated[float, Meta(ge=0, le=1, title="Weight")] = 0.5


class Window(Part, frozen=True, tag="window"):
    """Another kind of it."""

    length: Annotated[int, Meta(ge=2, title="Length")] = 6
    name: str = ""


class Several(Part, frozen=True):
    smoothers: Annotated[tuple[Window | Level, ...], Meta(title="Smoother", max_length=4)] = (
        Window(),
        Level(),
    )


class WithSeveral(Plan, frozen=True):
    """A plan with a part of which it holds several, told apart by a tag."""

    several: Several = Several()


S = cast(WithSeveral, P)
"""The same as P, for the type checker."""


class Instances(unittest.TestCase):
    def setUp(self) -> None:
        self.plan = WithSeveral()

    def made(self, *edits: Edit) -> tuple[Window | Level, ...]:
        plan = self.plan
        for each in edits:
            plan = changed(plan, each)
        return plan.several.smoothers

    def test_a_field_of_one_of_several_is_set_and_the_others_stay_as_they_are(self) -> None:
        window: Any = S.several.smoothers[0]
        made = self.made(edit(window.length, 12))
        self.assertEqual(made, (Window(length=12), Level()))
        self.assertIs(made[1], self.plan.several.smoothers[1])
        self.assertEqual(steps(window.length), ("several", "smoothers", 0, "length"))

    def test_they_are_added_taken_out_and_moved(self) -> None:
        where = S.several.smoothers
        third = Level(weight=0.25)
        self.assertEqual(self.made(insert(where[2], third)), (Window(), Level(), third))
        self.assertEqual(self.made(insert(where[0], third)), (third, Window(), Level()))
        self.assertEqual(self.made(remove(where[0])), (Level(),))
        self.assertEqual(self.made(move(where[0], 1)), (Level(), Window()))
        self.assertEqual(self.made(insert(where[2], third), move(where[2], 0)), (third, Window(), Level()))

    def test_what_cannot_be_is_refused_in_words_that_name_the_instance(self) -> None:
        window: Any = S.several.smoothers[0]
        level: Any = S.several.smoothers[1]
        full = tuple(Level() for _ in range(4))
        for wrong, words in (
            (edit(window.length, 1), "Smoother 1: length: “1” is too low. The lowest is 2."),
            (edit(level.weight, 2.0), "Smoother 2: weight: “2” is too high. The highest is 1."),
            (edit(cast(Any, S.several.smoothers[4]).length, 3), "There is no smoother 5."),
            (remove(S.several.smoothers[2]), "There is no smoother 3."),
            (Edit(("several", "smoothers", -1, "length"), 3), "There is no smoother 0."),
            (move(S.several.smoothers[0], 2), "There is no smoother 1 in another place."),
            (
                insert(S.several.smoothers[2], {"type": "magic"}),
                "Smoother: “a value of another kind” cannot be used",
            ),
            (insert(S.several.smoothers[2], 5), "Smoother: “5” cannot stand here."),
            (edit(S.several.smoothers, (*full, Level())), "cannot be used: 4 of them is the most"),
            (remove(S.project.horizon), "Horizon is one field, not one of several."),
        ):
            with self.subTest(words), self.assertRaisesRegex(UserError, re.escape(words)):
                changed(self.plan, wrong)
        plan = changed(self.plan, edit(S.several.smoothers, full))
        with self.assertRaisesRegex(UserError, "4 of them is the most"):
            changed(plan, insert(S.several.smoothers[0], Level()))

    def test_steps_of_undo_are_named_by_the_instance(self) -> None:
        undo = Undo(self.plan)
        window: Any = S.several.smoothers[0]
        changes = (
            (edit(window.length, 9), "Smoother 1: length"),
            (insert(S.several.smoothers[2], Level()), "Smoother 3 added"),
            (move(S.several.smoothers[2], 0), "Smoother 3 moved"),
            (remove(S.several.smoothers[1]), "Smoother 2 removed"),
        )
        for change, name in changes:
            undo = undo.do(change)
            self.assertEqual(undo.back[-1].change, name)
        first, last = undo.back[0], undo.back[-1]
        self.assertEqual(told(first, first.plan, undo.back[1].plan), "Smoother 1: length, 6 → 9")
        self.assertEqual(told(last, last.plan, undo.now), "Smoother 2 removed")
        for _ in changes:
            undo = undo.undo()
        self.assertIs(undo.now, self.plan)

    def test_a_control_knows_its_field_by_the_kind_of_the_instance(self) -> None:
        level: Any = S.several.smoothers[1]
        made = control(
            level.weight, self.plan.several.smoothers[1], title=title(steps(level.weight), self.plan)
        )
        self.assertEqual((made.path, made.now), (("several", "smoothers", 1, "weight"), 0.5))
        self.assertEqual((made.title, made.lo, made.hi), ("Smoother 2: weight", 0, 1))

    @given(st.data())
    def test_every_edit_can_be_written_and_read_back(self, data: st.DataObject) -> None:
        """As JSON, and done to the same plan it makes the same plan."""
        plan = self.plan
        for _ in range(data.draw(st.integers(1, 6))):
            count = len(plan.several.smoothers)
            some = st.one_of(
                st.floats(0, 1).map(lambda weight: Level(weight=weight)),
                st.builds(
                    lambda n, name: Window(length=n, name=name), st.integers(2, 99), st.text(max_size=3)
                ),
            )
            choices = [EDITS, some.map(lambda each: edit(S.several.smoothers, (each,)))]
            if count < 4:
                choices.append(some.map(lambda each, end=count: insert(S.several.smoothers[end], each)))
            if count:
                choices.append(st.integers(0, count - 1).map(lambda at: remove(S.several.smoothers[at])))
                choices.append(st.integers(0, count - 1).map(lambda at: move(S.several.smoothers[at], 0)))
            drawn = data.draw(st.one_of(choices))
            read = from_data(json.loads(json.dumps(as_data(drawn))))
            self.assertEqual(changed(plan, read), changed(plan, drawn))
            plan = changed(plan, drawn)

    def test_what_is_no_edit_is_refused(self) -> None:
        for data in ({}, {"path": "smooth"}, {"path": [], "act": "burn"}, {"path": [1.5]}):
            with self.subTest(data), self.assertRaisesRegex(UserError, "A change cannot be read"):
                from_data(data)
