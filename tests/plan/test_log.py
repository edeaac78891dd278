"""The log of a plan: every step found between two histories, made again and taken back."""

from __future__ import annotations

import datetime as dt
import unittest

import msgspec
from hypothesis import given, settings
from hypothesis import strategies as st

from oat_tide.core.user_error import UserError
from oat_tide.plan import log
from oat_tide.plan.differences import differences, remade
from oat_tide.plan.edits import Edit, edit, insert, move, remove
from oat_tide.plan.log import Recorder, gone_on, history_of, read, written
from oat_tide.plan.parts.evened import FirstPublished, Ruled
from oat_tide.plan.parts.smooth import Smoother
from oat_tide.plan.paths import P
from oat_tide.plan.plan import Plan
from oat_tide.plan.undo import Undo

DAY = dt.date(2025, 3, 1)


def ruled(note: str) -> Ruled:
    return Ruled((("area", "North"),), DAY, DAY, "note", note=note)


ACTS = st.one_of(
    st.integers(1, 24).map(lambda n: edit(P.project.horizon, n)),
    st.integers(1, 24).map(lambda n: edit(P.project.horizon, n, "drag")),
    st.text(min_size=1, max_size=5).map(lambda text: edit(P.title, text)),
    st.text(max_size=5).map(lambda text: insert(P.evened.rulings[0], ruled(text))),
    st.just(remove(P.evened.rulings[0])),
    st.just(move(P.smooth.smoothers[0], 1)),
    st.integers(2, 12).map(lambda n: insert(P.smooth.smoothers[0], Smoother(window=n))),
    st.sampled_from(["undo", "redo", "rest", "look"]),
)


class Differences(unittest.TestCase):
    def test_a_field_an_instance_and_one_in_the_middle(self) -> None:
        plan = Plan()
        ruling = [ruled(text) for text in "abc"]
        three = msgspec.structs.replace(
            plan, evened=msgspec.structs.replace(plan.evened, rulings=tuple(ruling))
        )
        two = msgspec.structs.replace(
            plan, evened=msgspec.structs.replace(plan.evened, rulings=(ruling[0], ruling[2]))
        )
        self.assertEqual(differences(three, three), ())
        self.assertEqual(differences(three, two), (remove(P.evened.rulings[1]),))
        self.assertEqual(differences(two, three), (insert(P.evened.rulings[1], ruling[1]),))
        titled = msgspec.structs.replace(three, title="Other")
        self.assertEqual(differences(three, titled), (edit(P.title, "Other"),))

    def test_many_instances_are_put_as_a_whole(self) -> None:
        firsts = tuple(FirstPublished((), DAY, DAY, float(n), DAY) for n in range(200))
        plan = Plan()
        many = msgspec.structs.replace(plan, evened=msgspec.structs.replace(plan.evened, firsts=firsts))
        self.assertEqual([each.path for each in differences(plan, many)], [("evened", "firsts")])
        self.assertEqual(remade(plan, differences(plan, many)), many)

    @given(st.lists(ACTS, max_size=12), st.lists(ACTS, max_size=12))
    @settings(max_examples=60, deadline=None)
    def test_they_make_one_plan_of_another(self, one: list[object], other: list[object]) -> None:
        before, after = played(one)[-1].now, played(other)[-1].now
        self.assertEqual(remade(before, differences(before, after)), after)


def played(acts: list[object], recorder: Recorder | None = None) -> list[Undo]:
    """The histories that acts lead through; the recorder looks where they say so."""
    history, all_ = Undo(Plan()), []
    for act in acts:
        if isinstance(act, Edit):
            try:
                history = history.do(act)
            except UserError:
                continue
        elif act == "look":
            if recorder is not None:
                recorder.look(history)
        else:
            history = {"undo": history.undo, "redo": history.redo, "rest": history.rested}[str(act)]()
        all_.append(history)
    return all_ or [history]


class Recorded(unittest.TestCase):
    def test_a_drag_is_one_entry_however_often_it_is_looked_at(self) -> None:
        history = Undo(Plan())
        recorder = Recorder(history)
        recorder.who = lambda: "Ana"
        for horizon in range(7, 12):
            history = history.do(edit(P.project.horizon, horizon, "drag"))
            recorder.look(history)
        history = history.rested().do(insert(P.evened.rulings[0], ruled("storm")))
        found = recorder.look(history)
        self.assertEqual([each.what for each in found], ["Horizon, a year → 11", "Decision 1 added"])
        self.assertEqual([(each.who, each.reason) for each in found], [("Ana", ""), ("Ana", "storm")])

    def test_steps_taken_back_and_made_again_are_told(self) -> None:
        history = Undo(Plan()).do(edit(P.title, "a")).do(edit(P.title, "b"))
        recorder = Recorder(Undo(Plan()))
        recorder.look(history)
        history = history.undo().undo().redo()
        acts = [(each.act, each.what) for each in recorder.look(history.do(edit(P.title, "c")))]
        self.assertEqual(
            acts,
            [
                ("did", "Plan title, Untitled plan → a"),
                ("did", "Plan title, a → b"),
                ("took back", "Plan title, b → a"),
                ("did", "Plan title, a → c"),
            ],
        )

    def test_it_is_signed_where_nobody_was_named(self) -> None:
        recorder = Recorder(Undo(Plan()))
        recorder.look(Undo(Plan()).do(edit(P.title, "a")))
        recorder.sign("Ana")
        self.assertEqual([each.who for each in recorder.look(recorder._history)], ["Ana"])

    @given(st.lists(ACTS, max_size=25))
    @settings(max_examples=150, deadline=None)
    def test_what_was_recorded_makes_the_plan_again_and_takes_it_back(self, acts: list[object]) -> None:
        recorder = Recorder(Undo(Plan()))
        history = played(acts, recorder)[-1]
        entries = read(written(recorder.look(history)))
        again, made = gone_on(Undo(Plan()), entries)
        self.assertEqual((again.now, made), (history.now, len(entries)))
        opened = history_of(history.now, entries)
        self.assertEqual(opened.now, history.now)
        for one in (again, opened):
            while one.back:
                one = one.undo()
            self.assertEqual(one.now, Plan())
        # What looks are missed in between says less of undoing, never of where it led.
        self.assertEqual(again.back[-1:] == (), history.now == Plan() and not again.back)


class ReadBack(unittest.TestCase):
    def entries(self, many: int) -> list[log.Entry]:
        history, recorder = Undo(Plan()), Recorder(Undo(Plan()))
        for number in range(many):
            history = history.do(edit(P.title, f"title {number}"))
        return list(recorder.look(history))

    def test_a_line_cut_short_is_not_there(self) -> None:
        data = written(self.entries(3))
        for cut in range(1, 40):
            self.assertEqual(len(read(data[:-cut])), 2)

    def test_a_whole_line_that_is_no_entry_is_refused(self) -> None:
        with self.assertRaisesRegex(UserError, "Line 2 of the log"):
            read(written(self.entries(1)) + b'{"id": 7}\n')

    def test_old_steps_keep_their_words_alone(self) -> None:
        entries = self.entries(log.MOST_STEPS + 5)
        found = read(written(entries))
        self.assertEqual([each.what for each in found], [each.what for each in entries])
        self.assertEqual([bool(each.back) for each in found[4:6]], [False, True])
        self.assertEqual(
            len(history_of(Plan(title=f"title {log.MOST_STEPS + 4}"), found).back), log.MOST_STEPS
        )

    def test_steps_of_an_earlier_schema_are_words(self) -> None:
        entries = [msgspec.structs.replace(each, schema=2) for each in self.entries(2)]
        self.assertEqual(history_of(Plan(title="title 1"), entries).back, ())

    def test_steps_that_do_not_fit_the_plan_end_what_can_be_taken_back(self) -> None:
        bad = Edit(("smooth", "smoothers", 77, "window"), 3)
        entries = self.entries(3)
        entries[1] = msgspec.structs.replace(entries[1], back=(bad,), ahead=(bad,))
        self.assertEqual(len(history_of(Plan(title="title 2"), entries).back), 1)
        self.assertEqual(gone_on(Undo(Plan()), entries)[1], 1)
