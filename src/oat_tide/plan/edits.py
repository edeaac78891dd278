"""Changes to a plan: checked, named, and taken back."""

from __future__ import annotations

import datetime as dt
import functools
import typing
from typing import Annotated, Any, cast

import msgspec
from msgspec import Meta, Struct

from oat_tide.core.trouble import Trouble
from oat_tide.plan.plan import Plan

Steps = tuple[str, ...]
_LONGEST_SAID = 80


class Way:
    """Records the way to a field: the steps of P.smooth.window are ("smooth", "window")."""

    def __init__(self, steps: Steps = ()) -> None:
        self.steps = steps

    def __getattr__(self, name: str) -> Way:
        if name.startswith("__"):
            raise AttributeError(name)
        return Way((*self.steps, name))


P = cast(Plan, Way())
"""Stands for the plan where a field is named, so that the type checker knows the name."""


def steps(where: Any) -> Steps:
    """The steps of a field named by way of P."""
    return cast(Way, where).steps


class Edit(Struct, frozen=True):
    """One change. Edits of one gesture, such as a drag, are one step of undo."""

    path: Steps
    value: Any
    gesture: str = ""


def edit(where: Any, value: Any, gesture: str = "") -> Edit:
    """The edit that sets a field named by way of P."""
    return Edit(steps(where), value, gesture)


@functools.cache
def _hints(kind: Any) -> dict[str, Any]:
    return typing.get_type_hints(kind, include_extras=True)


def field_type(path: Steps) -> Any:
    """The annotated type of a field."""
    kind: Any = Plan
    for step in path:
        kind = _hints(kind)[step]
    return kind


@functools.cache
def field_meta(path: Steps) -> tuple[Any, Meta]:
    """The bare type of a field and what is said of it."""
    kind = field_type(path)
    if typing.get_origin(kind) is Annotated:
        base, *said = typing.get_args(kind)
        return base, next((each for each in said if isinstance(each, Meta)), Meta())
    return kind, Meta()


def title(path: Steps) -> str:
    """The name of a field for people."""
    if not path:
        return "Plan"
    return field_meta(path)[1].title or path[-1].replace("_", " ").capitalize()


def put(plan: Plan, path: Steps, value: Any) -> Plan:
    """A copy of the plan with one field changed; untouched parts stay the same objects.

    Raises:
        Trouble: the value is not one that the field can hold.
    """
    try:
        return cast(Plan, _put(plan, path, value, Plan))
    except (msgspec.ValidationError, ValueError, KeyError) as error:
        reason = str(error).partition(" - at ")[0]
        raise Trouble(f"{title(path)} cannot be {_shown(value)}: {reason}.") from error


def _shown(value: Any) -> str:
    """A value as a message can hold it."""
    text = repr(value)
    return text if len(text) <= _LONGEST_SAID else text[:_LONGEST_SAID] + "…"


def _put(thing: Any, path: Steps, value: Any, kind: Any) -> Any:
    if not path:
        # By way of builtins: a ready-made struct would be taken on trust.
        return msgspec.convert(msgspec.to_builtins(value), kind)
    name = path[0]
    changed = _put(getattr(thing, name), path[1:], value, _hints(kind)[name])
    return msgspec.structs.replace(thing, **{name: changed})


class Step(Struct, frozen=True):
    """A plan as it was, the name of the change that led away from it, and the field that it changed."""

    plan: Plan
    change: str
    path: Steps = ()


def told(step: Step, before: Plan, after: Plan) -> str:
    """What a step changed, in words: its name, and the two values where they are short."""
    old, new = (_said(_at(plan, step.path)) for plan in (before, after))
    return f"{step.change}, {old} → {new}" if old and new else step.change


def _at(plan: Plan, path: Steps) -> Any:
    thing: Any = plan
    for name in path:
        thing = getattr(thing, name)
    return thing


def _said(value: Any) -> str:
    """A value for people; empty for what is no single one."""
    if isinstance(value, bool):
        return "on" if value else "off"
    if isinstance(value, int | float | str | dt.date) and str(value):
        return str(value) if len(str(value)) <= _LONGEST_SAID else ""
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
        """Make a change. Raises Trouble when the value does not fit; one that changes nothing is no step."""
        new = put(self.now, edit.path, edit.value)
        if new == self.now:
            return self
        same = edit.gesture != "" and edit.gesture == self.gesture
        back = self.back if same else (*self.back, Step(self.now, title(edit.path), edit.path))
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
        """The same, with the gesture ended, so that the next drag is a step of its own."""
        return Undo(self.now, self.back, self.ahead)
