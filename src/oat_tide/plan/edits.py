"""Changes to a plan: checked, named, and taken back."""

from __future__ import annotations

import functools
import typing
from typing import Annotated, Any, cast

import msgspec
from msgspec import Meta, Struct

from oat_tide.core.trouble import Trouble
from oat_tide.plan.plan import Plan

Steps = tuple[str, ...]


_LONGEST_SAID = 80


class FieldPath:
    """Records the path to a field: the steps of P.smooth.window are ("smooth", "window")."""

    def __init__(self, steps: Steps = ()) -> None:
        self.steps = steps

    def __getattr__(self, name: str) -> FieldPath:
        if name.startswith("__"):
            raise AttributeError(name)
        return FieldPath((*self.steps, name))


P = cast(Plan, FieldPath())


"""Stands for the plan where a field is named, so that the type checker knows the name."""


def steps(where: Any) -> Steps:
    """The steps of a field named through P."""
    return cast(FieldPath, where).steps


class Edit(Struct, frozen=True):
    """One change. Edits of one gesture, such as a drag, are one step of undo."""

    path: Steps
    value: Any
    gesture: str = ""


def edit(where: Any, value: Any, gesture: str = "") -> Edit:
    """The edit that sets a field named through P."""
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
