"""Controls as data, made from the fields of the plan."""

from __future__ import annotations

import datetime as dt
import functools
import typing
from dataclasses import dataclass, replace
from typing import Any, Literal, TypedDict, Unpack, cast

from oat_tide.plan.paths import Steps, field_meta, steps


@dataclass(frozen=True, slots=True)
class Knob:
    """A control as data, made from the field of the plan.

    Attributes:
        path: the field.
        kind: "int", "bool", "pick", "many", "date" or "weights".
        title: its name for people.
        now: the value it stands on.
        lo: the least value, of a date as a day number; a date without bounds has 0 for both.
        hi: the greatest value.
        slides_to: where the slider of a number ends, if before `hi`; further ones are typed.
        choices: the values to pick from.
        names: how each of them is called.
        unit: what a number counts.
        why_not: why it cannot be used now; empty when it can.
        why_nots: the same for each choice.
    """

    path: Steps
    kind: str
    title: str
    now: Any
    lo: float = 0
    hi: float = 0
    slides_to: float = 0
    choices: tuple[Any, ...] = ()
    names: tuple[str, ...] = ()
    unit: str = ""
    why_not: str = ""
    why_nots: tuple[str, ...] = ()


class KnobLook(TypedDict, total=False):
    """Attributes of a Knob that its field cannot know."""

    kind: str
    title: str
    now: object
    lo: float
    hi: float
    slides_to: float
    choices: tuple[object, ...]
    names: tuple[str, ...]
    unit: str
    why_not: str
    why_nots: tuple[str, ...]


_KINDS = {int: "int", bool: "bool", str: "pick"}


def knob(where: object, ask: object, **look: Unpack[KnobLook]) -> Knob:
    """The control for a field named through P.

    Args:
        ask: the part of the plan that holds the field.
        look: what the field cannot know.
    """
    path = steps(where)
    name, owner = str(path[-1]), cast(Any, type(ask))
    return replace(_of_field(owner, name), path=path, **(KnobLook(now=getattr(ask, name)) | look))


@functools.cache
def _of_field(owner: Any, name: str) -> Knob:
    """What a field says of its control."""
    base, meta = field_meta(owner, name)
    choices = typing.get_args(base) if typing.get_origin(base) is Literal else ()
    if choices:
        kind = "pick"
    elif dt.date in typing.get_args(base):
        kind = "date"
    else:
        kind = _KINDS.get(base, "many")
    unit = str((meta.extra_json_schema or {}).get("unit", ""))
    title, lo, hi = meta.title or name, meta.ge or 0, meta.le or 0
    names = tuple(map(str, choices))
    return Knob((), kind, title, None, lo, hi, choices=choices, names=names, unit=unit)
