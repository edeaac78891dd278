"""Steps taken back and made again."""

from __future__ import annotations

import datetime as dt
from typing import Any

from msgspec import Struct

from oat_tide.core.language import phrase
from oat_tide.plan.edits import LONGEST_SAID, Edit, changed, name_of
from oat_tide.plan.paths import FieldSteps, held, zero_of
from oat_tide.plan.plan import Plan


class Step(Struct, frozen=True):
    """A plan as it was, the name of the change that led away from it, and the field that it changed."""

    plan: Plan
    change: str
    path: FieldSteps = ()


def told(step: Step, before: Plan, after: Plan) -> str:
    """What a step changed, in words: its name, and the two values where they are short."""
    old, new = (_said(_held(plan, step.path)) for plan in (before, after))
    zero = zero_of(step.path, after)
    old, new = (zero if zero and each == "0" else each for each in (old, new))
    return f"{step.change}, {old} → {new}" if old and new else step.change


def said_at(plan: Plan, path: FieldSteps) -> str:
    """What stands at a path, for people: its value where it is short, else how many there are."""
    value = _held(plan, path)
    if isinstance(value, tuple) and value:
        texts = [_said(each) for each in value]
        short = ", ".join(texts)
        return (
            short
            if all(texts) and len(short) <= LONGEST_SAID
            else phrase("{value:,} of them", value=len(value))
        )
    return (value == 0 and zero_of(path, plan)) or _said(value) or "–"


def _held(plan: Plan, path: FieldSteps) -> Any:
    """What stands at a path; nothing that can be said where there is no such instance."""
    try:
        return held(plan, path)
    except IndexError:
        return ()


def _said(value: Any) -> str:
    """A value for people; empty for what is no single one."""
    if isinstance(value, bool):
        return "on" if value else "off"
    if isinstance(value, int | float | str | dt.date) and str(value):
        return str(value) if len(str(value)) <= LONGEST_SAID else ""
    return "none" if value is None else ""


class Undo(Struct, frozen=True):
    """The plan with its past and its undone future. Every method gives a new Undo.

    Attributes:
        now: the plan.
        back: steps to go back, the latest last.
        ahead: steps to go ahead again, the next first.
        gesture: the gesture of the last edit.
    """

    now: Plan
    back: tuple[Step, ...] = ()
    ahead: tuple[Step, ...] = ()
    gesture: str = ""

    def do(self, edit: Edit) -> Undo:
        """Make a change; one that changes nothing is no step.

        Raises:
            UserError: the value does not fit.
        """
        new = changed(self.now, edit)
        if new == self.now:
            return self
        same = edit.gesture != "" and edit.gesture == self.gesture
        back = self.back if same else (*self.back, Step(self.now, name_of(edit, self.now), edit.path))
        return Undo(new, back, (), edit.gesture)

    def undo(self) -> Undo:
        """The plan before the last step."""
        if not self.back:
            return self
        last = self.back[-1]
        return Undo(last.plan, self.back[:-1], (Step(self.now, last.change, last.path), *self.ahead))

    def redo(self) -> Undo:
        """The plan after the step that was last undone."""
        if not self.ahead:
            return self
        following = self.ahead[0]
        return Undo(
            following.plan, (*self.back, Step(self.now, following.change, following.path)), self.ahead[1:]
        )

    def rested(self) -> Undo:
        """End the current gesture, so that the next drag becomes a step of its own."""
        return Undo(self.now, self.back, self.ahead)
