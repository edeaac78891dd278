"""Paths to the fields of a plan: how a field is named, found, typed and titled."""

from __future__ import annotations

from typing import Any, cast

from oat_tide.core.language import phrase
from oat_tide.plan.fields import field_meta
from oat_tide.plan.plan import Plan

FieldSteps = tuple[str | int, ...]
"""The names of fields from the plan on, and the places of instances in tuples, from 0."""


class FieldPath:
    """Records the path to a field: the steps of P.smooth.window are ("smooth", "window").

    An instance of a tuple is named by its place: P.evened.rulings[0].note.
    """

    def __init__(self, steps: FieldSteps = ()) -> None:
        self.steps = steps

    def __getattr__(self, name: str) -> FieldPath:
        if name.startswith("__"):
            raise AttributeError(name)
        return FieldPath((*self.steps, name))

    def __getitem__(self, place: int) -> FieldPath:
        return FieldPath((*self.steps, place))


P = cast(Plan, FieldPath())
"""Stands for the plan where a field is named, so that the type checker knows the name."""


def steps(where: object) -> FieldSteps:
    """The steps of a field named through P."""
    return cast(FieldPath, where).steps


def held(plan: Plan, path: FieldSteps) -> Any:
    """What stands at a path.

    Raises:
        AttributeError, IndexError: there is no such field or instance.
    """
    thing: Any = plan
    for step in path:
        thing = thing[step] if isinstance(step, int) else getattr(thing, step)
    return thing


def title(path: FieldSteps, plan: Plan | None = None) -> str:
    """The name of a field for people; of an instance, which one it is: "Ruling 2: note".

    Args:
        plan: that the path is in; needed where it leads through a tuple.
    """
    if not path:
        return phrase("Plan")
    thing: Any = plan or Plan()
    words: list[str] = []
    said = one = ""
    for step in path:
        if isinstance(step, int):
            words.append(f"{one} {step + 1}")
            thing = thing[step]
        else:
            said, one = _called(type(thing), step)
            thing = getattr(thing, step)
    if words and not isinstance(path[-1], int):
        words.append(said[:1].lower() + said[1:])
    return ": ".join(words) or said


def one_of(path: FieldSteps, plan: Plan) -> str:
    """What an instance of a tuple field is called."""
    return _called(type(held(plan, path[:-1])), str(path[-1]))[1]


def zero_of(path: FieldSteps, plan: Plan) -> str:
    """What 0 stands for in a field; empty where it is a number like others."""
    if not path or isinstance(path[-1], int):
        return ""
    try:
        owner: Any = type(held(plan, path[:-1]))
    except IndexError:
        return ""
    return phrase(str((field_meta(owner, path[-1])[1].extra_json_schema or {}).get("zero", "")))


def _called(owner: Any, name: str) -> tuple[str, str]:
    """What a field of a part is called, and one instance of it."""
    meta = field_meta(owner, name)[1]
    said = phrase(meta.title) if meta.title else name.replace("_", " ").capitalize()
    one = (meta.extra_json_schema or {}).get("one")
    return said, phrase(one) if one else said
