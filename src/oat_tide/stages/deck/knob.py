"""Controls as data, made from the fields of the plan."""

from __future__ import annotations

import datetime as dt
import functools
import typing
from dataclasses import dataclass
from typing import Any, Literal

from oat_tide.plan.edits import Steps, field_meta, steps


@dataclass(frozen=True, slots=True)
class Knob:
    """A control as data, made from the field of the plan.

    Attributes:
        kind: "int", "bool", "pick", "many", "date" or "weights".
        lo, hi: bounds, for a date as day numbers; a date without has 0 for both.
        slides_to: where the slider of a number ends, if before `hi`; further ones are typed.
        choices: the values to pick from; names: how each is called.
        why_not: why it cannot be used now; empty when it can; why_nots, for each choice.
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


_KINDS = {int: "int", bool: "bool", str: "pick"}


def knob(where: Any, ask: Any, **more: Any) -> Knob:
    """The control for a field named by way of P.

    Args:
        ask: the part of the plan that holds the field.
        more: attributes of the Knob that the field cannot know.
    """
    path = steps(where)
    return Knob(**(_template(path) | {"now": getattr(ask, path[-1])} | more))


@functools.cache
def _template(path: Steps) -> dict[str, Any]:
    """What a field says of its control."""
    base, meta = field_meta(path)
    choices = typing.get_args(base) if typing.get_origin(base) is Literal else ()
    if choices:
        kind = "pick"
    elif dt.date in typing.get_args(base):
        kind = "date"
    else:
        kind = _KINDS.get(base, "many")
    return {
        "path": path,
        "kind": kind,
        "title": meta.title or path[-1],
        "lo": meta.ge or 0,
        "hi": meta.le or 0,
        "choices": choices,
        "names": tuple(map(str, choices)),
        "unit": (meta.extra_json_schema or {}).get("unit", ""),
    }
