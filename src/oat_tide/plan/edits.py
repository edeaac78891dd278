"""Changes to a plan: checked, and written as plain data where they are to be kept."""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from typing import Any, Literal, TypeVar

import msgspec
from msgspec import Struct

from oat_tide.core.language import phrase
from oat_tide.core.user_error import UserError
from oat_tide.core.working.number_format import full
from oat_tide.plan.fields import hints, item_type
from oat_tide.plan.paths import FieldSteps, held, one_of, steps, title
from oat_tide.plan.plan import Plan

LONGEST_SAID = 80
EditKind = Literal["put", "add", "remove", "move"]
_Plan = TypeVar("_Plan", bound=Plan)


class Edit(Struct, frozen=True, omit_defaults=True):
    """One change. Edits of one gesture, such as a drag, are one step of undo.

    Attributes:
        path: the field that is put anew; of an added instance, the place in the tuple that it is put before.
        value: what is put or added; of a moved instance, its new place.
        gesture: what it is a part of; empty for a step of its own.
        act: what is done.
    """

    path: FieldSteps
    value: Any = None
    gesture: str = ""
    act: EditKind = "put"


def edit(where: object, value: object, gesture: str = "") -> Edit:
    """The edit that sets a field named through P."""
    return Edit(steps(where), value, gesture)


def insert(where: object, value: object) -> Edit:
    """The edit that adds an instance before the one named through P; one past the last for the end."""
    return Edit(steps(where), value, act="add")


def remove(where: object) -> Edit:
    """The edit that takes out the instance named through P."""
    return Edit(steps(where), act="remove")


def move(where: object, place: int) -> Edit:
    """The edit that moves the instance named through P to another place."""
    return Edit(steps(where), place, act="move")


def as_data(edit: Edit) -> dict[str, Any]:
    """An edit as plain data: numbers, texts, lists and mappings, as JSON holds them."""
    return msgspec.json.decode(msgspec.json.encode(edit), type=dict[str, Any])


def from_data(data: dict[str, Any]) -> Edit:
    """An edit from plain data. What it puts is checked when it is done.

    Raises:
        UserError: it is no edit.
    """
    try:
        return msgspec.convert(data, Edit)
    except msgspec.ValidationError as error:
        raise UserError("A change cannot be read: {error}. Make it again.", error=error) from error


def put(plan: _Plan, path: FieldSteps, value: object) -> _Plan:
    """A copy of the plan with one field changed; untouched parts stay the same objects.

    Raises:
        UserError: the value is not one that the field can hold.
    """
    return changed(plan, Edit(path, value))


def changed(plan: _Plan, edit: Edit) -> _Plan:
    """A copy of the plan with a change made; untouched parts stay the same objects.

    Raises:
        UserError: the value is not one that the field can hold, or there is no such instance.
    """
    try:
        if edit.act == "put":
            return _changed(plan, edit.path, type(plan), lambda thing, kind: _checked(edit.value, kind))  # type: ignore[no-any-return]
        *path, place = edit.path
        if not isinstance(place, int):
            raise UserError(
                "{title} is one field, not one of several. Make the step again.",
                title=title(edit.path, plan),
            )
        act = {"add": _with, "remove": _without, "move": _elsewhere}[edit.act]

        def change(items: Any, kind: Any) -> Any:
            new = act(items, place, edit.value, kind)
            msgspec.convert(msgspec.to_builtins(new), kind)
            return new

        return _changed(plan, tuple(path), type(plan), change)  # type: ignore[no-any-return]
    except IndexError as error:
        raise UserError(
            "There is no {unknown}. Choose another.", unknown=_unknown(plan, edit.path)
        ) from error
    except (msgspec.ValidationError, ValueError, KeyError) as error:
        reason = _reason(str(error).partition(" - at ")[0])
        raise UserError(f"{_named(plan, edit)}: “{_shown(edit.value)}” {reason}.") from error


def name_of(edit: Edit, plan: Plan) -> str:
    """What an edit changes, for people."""
    if edit.act == "put":
        return title(edit.path, plan)
    if edit.act == "add":
        return phrase(
            "{one_of} {path} added", one_of=one_of(edit.path[:-1], plan), path=int(edit.path[-1]) + 1
        )
    return f"{title(edit.path, plan)} {'removed' if edit.act == 'remove' else 'moved'}"


def _named(plan: Plan, edit: Edit) -> str:
    """The field that a value was refused for."""
    return title(edit.path if edit.act == "put" else edit.path[:-1], plan)


def _unknown(plan: Plan, path: FieldSteps) -> str:
    """The name of the first instance on a path that there is not."""
    for at, step in enumerate(path):
        if isinstance(step, int) and not 0 <= step < len(held(plan, path[:at])):
            return f"{one_of(path[:at], plan).lower()} {step + 1}"
    return phrase("{title} in another place", title=title(path, plan).lower())


def _changed(thing: Any, path: FieldSteps, kind: Any, change: Callable[[Any, Any], Any]) -> Any:
    """A copy of a part or tuple with what lies at a path changed."""
    if not path:
        return change(thing, kind)
    step, rest = path[0], path[1:]
    if isinstance(step, int):
        _at(thing, step)
        new = _changed(thing[step], rest, item_type(kind), change)
        return (*thing[:step], new, *thing[step + 1 :])
    owner: Any = type(thing)
    new = _changed(getattr(thing, step), rest, hints(owner)[step], change)
    return msgspec.structs.replace(thing, **{step: new})


def _checked(value: object, kind: Any) -> Any:
    # By way of builtins: a ready-made struct would be taken on trust.
    plain = msgspec.to_builtins(value)
    if not _finite(plain):
        raise ValueError("a figure must be one that can be written down")
    return msgspec.convert(plain, kind)


def _finite(value: Any) -> bool:
    """Whether no figure in plain data is endless or none at all: a plan file could not hold it."""
    if isinstance(value, float):
        return math.isfinite(value)
    if isinstance(value, dict):
        value = value.values()
    elif not isinstance(value, list | tuple):
        return True
    return all(map(_finite, value))


def _at(items: tuple[Any, ...], place: int, more: int = 0) -> None:
    if not 0 <= place < len(items) + more:
        raise IndexError(place)


def _with(items: tuple[Any, ...], place: int, value: object, kind: Any) -> tuple[Any, ...]:
    _at(items, place, more=1)
    return (*items[:place], _checked(value, item_type(kind)), *items[place:])


def _without(items: tuple[Any, ...], place: int, value: object, kind: Any) -> tuple[Any, ...]:
    _at(items, place)
    return (*items[:place], *items[place + 1 :])


def _elsewhere(items: tuple[Any, ...], place: int, value: object, kind: Any) -> tuple[Any, ...]:
    _at(items, place)
    target = _checked(value, int)
    _at(items, target)
    rest = (*items[:place], *items[place + 1 :])
    return (*rest[:target], items[place], *rest[target:])


_BOUNDS = {
    ">=": phrase("too low. The lowest is {0}"), "<=": phrase("too high. The highest is {0}"),
    ">": phrase("too low. It must be above {0}"), "<": phrase("too high. It must be below {0}"),
}  # fmt: skip
_KINDS = {
    "int": phrase("a whole number"),
    "float": phrase("a number"),
    "bool": phrase("on or off"),
    "str": "text",
    "array": phrase("a list"),
}
_BOUND = re.compile(r"^Expected `(\w+)` (of length )?([<>]=?) (-?[\d.]+)$")
_KIND = re.compile(r"^Expected `(\w+)(?: \| null)?`, got")


def _reason(said: str) -> str:
    """Why a value does not fit, in the words of people."""
    if bound := _BOUND.match(said):
        limit = full(float(bound[4]))
        if bound[2] and bound[1] == "array":
            return phrase(
                "cannot be used: {limit} of them is the {which}",
                limit=limit,
                which=phrase("least") if bound[3] == ">=" else phrase("most"),
            )
        if bound[2]:
            return phrase(
                "has {which} than {limit} characters",
                which=phrase("fewer") if bound[3] == ">=" else phrase("more"),
                limit=limit,
            )
        return phrase("is {format}", format=_BOUNDS[bound[3]].format(limit))
    if kind := _KIND.match(said):
        return (
            phrase("must be {kinds}", kinds=_KINDS[kind[1]])
            if kind[1] in _KINDS
            else phrase("cannot stand here. Choose another value")
        )
    if said.startswith("Invalid enum value"):
        return phrase("is none of the choices. Choose one of them")
    return phrase("cannot be used: {said}. Choose another value", said=said)


def _shown(value: object) -> str:
    """A value as a message can hold it."""
    text = ", ".join(map(_plainly, value)) if isinstance(value, tuple | list) else _plainly(value)
    return text if len(text) <= LONGEST_SAID else text[:LONGEST_SAID] + "…"


def _plainly(value: object) -> str:
    if isinstance(value, bool | None):
        return {True: "on", False: "off", None: "nothing"}[value]
    if isinstance(value, int | float):
        return full(float(value)) if math.isfinite(value) else str(value)
    if isinstance(value, Struct | dict):
        return (
            type(value).__name__.lower() if isinstance(value, Struct) else phrase("a value of another kind")
        )
    return str(value)
