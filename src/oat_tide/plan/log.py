"""The log of a plan: every step that was made, by whom and when, and what takes it back or makes it again."""

from __future__ import annotations

import datetime as dt
import secrets
import threading
from collections.abc import Callable, Collection, Sequence
from itertools import takewhile
from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from oat_tide.core.user_error import UserError
from oat_tide.plan.differences import differences, remade
from oat_tide.plan.edits import Edit
from oat_tide.plan.paths import FieldSteps
from oat_tide.plan.plan import Plan
from oat_tide.plan.schema import SCHEMA
from oat_tide.plan.undo import Step, Undo, told

MOST_STEPS = 1000
"""Steps of a log that can be taken back once its plan is opened anew."""
_MOST_BYTES = 16 << 20
"""Of what takes steps back and makes them again; older steps keep their words alone."""
_Text = Annotated[str, Meta(max_length=4096)]
EditKind = Literal["did", "took back", "made again"]


class Entry(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """One step.

    Attributes:
        id: tells it from all others; a step that goes on, such as a drag, is written anew under its id.
        at: when, in UTC.
        act: whether it was made, taken back, or made again.
        what: the change in words, with the two values where they are short.
        change: the name of the change alone; path: the field.
        who: the display name of who did it; empty where nobody was asked.
        reason: why, where that was asked.
        back: the edits that take it back; ahead: those that make it.
        whole: whether they are kept; of old steps the words are.
        schema: of the plan that they are of.
    """

    id: Annotated[str, Meta(max_length=60)]
    at: dt.datetime
    act: EditKind
    what: _Text
    change: _Text = ""
    path: FieldSteps = ()
    who: _Text = ""
    reason: _Text = ""
    back: tuple[Edit, ...] = ()
    ahead: tuple[Edit, ...] = ()
    whole: bool = True
    schema: int = SCHEMA


class Recorder:
    """Notes the steps of a plan as entries, by holding one history of it against the next.

    Histories are never changed, so it does not matter how often it looks: it finds every step in between.

    Args:
        history: where it begins.
        log: what was done before and is saved.
        new: what was done before and is not saved.

    Attributes:
        who: asked for a name at each step.
        clean: makes of a plan one that may be written down, without secrets.
        before: how many entries are of what was done before and is saved.
    """

    def __init__(self, history: Undo, log: Sequence[Entry] = (), new: Sequence[Entry] = ()) -> None:
        self.who: Callable[[], str] = lambda: ""
        self.clean: Callable[[Plan], Plan] = lambda plan: plan
        self.before = len(log)
        self._history, self._entries = history, [*log, *new]
        self._run, self._lock = secrets.token_hex(4), threading.Lock()
        self._since = len(self._entries)

    def sign(self, name: str) -> None:
        """Put a name to the steps of this run that have none."""
        with self._lock:
            rest = self._entries[self.before :]
            self._entries[self.before :] = [
                each if each.who else msgspec.structs.replace(each, who=name) for each in rest
            ]

    def look(self, history: Undo) -> tuple[Entry, ...]:
        """Note what led to a history; all entries then, what was done before among them."""
        with self._lock:
            if history is not self._history:
                self._note(self._history, history)
                self._history = history
            return tuple(self._entries)

    def _note(self, old: Undo, new: Undo) -> None:
        before, after = _plans(old), _plans(new)
        seen = {id(plan) for plan in (*before, *(step.plan for step in old.ahead))}
        if any(id(step.plan) not in seen for step in new.ahead):
            # Steps were made and taken back since the last look.
            top = new
            while top.ahead:
                top = top.redo()
            self._note(old, top)
            self._note(top, new)
            return
        if len(before) == len(after) and old.back[-1:] and old.back[-1] is new.back[-1]:
            if old.now != new.now:
                self._go_on(old, new)
            return
        same = len(
            [None for _ in takewhile(lambda pair: pair[0] is pair[1], zip(before, after, strict=False))]
        )
        # Two histories of one plan begin with the same one; else the whole way back is told.
        shared = max(same - 1, 0)
        for step, plan in zip(reversed(old.back[shared:]), reversed(before[shared + 1 :]), strict=True):
            self._entries.append(self._entry("took back", step, plan, step.plan))
        again = [step.plan for step in old.ahead]
        for step, plan in zip(new.back[shared:], after[shared + 1 :], strict=True):
            act: EditKind = "made again" if any(plan is each for each in again) else "did"
            self._entries.append(self._entry(act, step, step.plan, plan))

    def _go_on(self, old: Undo, new: Undo) -> None:
        """The last step was carried on: its entry is written anew, unless it was saved before."""
        step, own = new.back[-1], self._entries[self._since :]
        if not own or own[-1].act != "did":
            self._entries.append(self._entry("did", step, old.now, new.now))
            return
        entry = self._entry("did", step, step.plan, new.now)
        self._entries[-1] = msgspec.structs.replace(entry, id=own[-1].id)

    def _entry(self, act: EditKind, step: Step, before: Plan, after: Plan) -> Entry:
        before, after = self.clean(before), self.clean(after)
        ahead, back = differences(before, after), differences(after, before)
        return Entry(
            f"{self._run}-{len(self._entries)}",
            dt.datetime.now(dt.UTC).replace(microsecond=0),
            act,
            told(step, before, after)[:4000],
            step.change[:4000],
            step.path,
            self.who(),
            _reason(ahead),
            back,
            ahead,
        )


def _plans(history: Undo) -> list[Plan]:
    """The plans that the steps of a history lead through, the present one last."""
    return [*(step.plan for step in history.back), history.now]


def _reason(edits: tuple[Edit, ...]) -> str:
    """The words that were given with a change: the note of a ruling, say."""
    notes = [getattr(edit.value, "note", "") for edit in edits if edit.act != "remove"]
    return "; ".join(dict.fromkeys(note for note in notes if isinstance(note, str) and note))[:4000]


def written(entries: Sequence[Entry]) -> bytes:
    """A log as it is kept: an entry a line, each as JSON."""
    lines, kept = [], 0
    for place, entry in enumerate(reversed(entries)):
        line = msgspec.json.encode(entry)
        kept += len(line)
        if place >= MOST_STEPS or kept > _MOST_BYTES:
            line = msgspec.json.encode(msgspec.structs.replace(entry, back=(), ahead=(), whole=False))
        lines.append(line)
    return b"".join(line + b"\n" for line in reversed(lines))


def read(data: bytes) -> list[Entry]:
    """The entries of a log, those that were written anew once; what follows a line cut short is not there.

    Raises:
        UserError: a line that is whole is no entry.
    """
    found: dict[str, Entry] = {}
    for number, line in enumerate(data.split(b"\n")[:-1], 1):
        try:
            entry = msgspec.json.decode(line, type=Entry)
        except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
            raise UserError(
                "Line {number} of the log cannot be read: {error}. Open another copy.",
                number=number,
                error=error,
            ) from error
        found[entry.id] = entry
    return list(found.values())


def history_of(plan: Plan, entries: Sequence[Entry], at_hand: Collection[str] = ()) -> Undo:
    """A plan with the steps of its log, which can be taken back and made again as if just made.

    Args:
        at_hand: the ids of the large data that there are; no step leads to a plan that needs others.
    """
    done: list[Entry] = []
    undone: list[Entry] = []
    for each in entries:
        if each.schema != SCHEMA or not each.whole:
            done, undone = [], []
        elif each.act == "did":
            done.append(each)
            undone.clear()
        elif each.act == "took back" and done:
            undone.append(done.pop())
        elif each.act == "made again" and undone:
            done.append(undone.pop())
        else:
            # What it is the undoing of is not known any more: it is a step like others.
            done.append(each)
    back = [(each, each.back) for each in reversed(done[-MOST_STEPS:])]
    ahead = [(each, each.ahead) for each in reversed(undone)]
    return Undo(plan, _steps(plan, back, at_hand)[::-1], _steps(plan, ahead, at_hand))


def _steps(
    plan: Plan, led: Sequence[tuple[Entry, tuple[Edit, ...]]], at_hand: Collection[str]
) -> tuple[Step, ...]:
    """The plans that edits lead to one after the other, as far as they fit."""
    steps: list[Step] = []
    for each, edits in led:
        try:
            plan = remade(plan, edits)
        except UserError:
            break
        if any(head.id not in at_hand for head in plan.kept):
            break
        steps.append(Step(plan, each.change, each.path))
    return tuple(steps)


def gone_on(history: Undo, entries: Sequence[Entry]) -> tuple[Undo, int]:
    """A history with entries made on it, and how many could be; the rest is left where one does not fit."""
    for place, each in enumerate(entries):
        try:
            plan = remade(history.now, each.ahead)
        except UserError:
            return history, place
        other = {"took back": history.undo, "made again": history.redo}.get(each.act)
        if other is not None and other().now == plan:
            history = other()
        elif plan != history.now:
            history = Undo(plan, (*history.back, Step(history.now, each.change, each.path)))
    return history, len(entries)
