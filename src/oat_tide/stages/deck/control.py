"""Controls as data, made from the fields of the plan."""

from __future__ import annotations

import datetime as dt
import functools
import math
import typing
from dataclasses import dataclass, replace
from typing import Any, Literal, TypedDict, Unpack, cast

from oat_tide.core.language import phrase
from oat_tide.plan.fields import field_meta
from oat_tide.plan.paths import FieldSteps, steps


@dataclass(frozen=True, slots=True)
class Control:
    """A control as data, made from the field of the plan.

    Attributes:
        path: the field.
        kind: "int", "number" (with decimals), "text", "bool", "pick", "many", "date" or "weights".
        title: its name for people.
        now: the value it stands on.
        lo: the least value, of a date as a day number; a date without bounds has 0 for both. Of weights, how
            many are wanted; 0 for any number.
        hi: the greatest value; a number without bounds has infinite ones.
        lo_open: whether the value must lie above `lo`.
        hi_open: whether it must lie below `hi`.
        step: of a number, what its slider goes by; 0 for three digits.
        by_ratio: whether its slider goes by ratios, where `lo` is above 0.
        slides_to: where the slider of a number ends, if before `hi`; further ones are typed.
        choices: the values to pick from.
        names: how each of them is called.
        unit: what a number counts.
        why_not: why it cannot be used now; empty when it can.
        why_nots: the same for each choice.
    """

    path: FieldSteps
    kind: str
    title: str
    now: Any
    lo: float = 0
    hi: float = 0
    lo_open: bool = False
    hi_open: bool = False
    step: float = 0
    by_ratio: bool = False
    slides_to: float = 0
    choices: tuple[Any, ...] = ()
    names: tuple[str, ...] = ()
    unit: str = ""
    why_not: str = ""
    why_nots: tuple[str, ...] = ()


class ControlOverrides(TypedDict, total=False):
    """Attributes of a Control that its field cannot know."""

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


_KINDS = {int: "int", float: "number", bool: "bool", str: "text"}


def control(where: object, ask: object, **look: Unpack[ControlOverrides]) -> Control:
    """The control for a field named through P.

    Args:
        ask: the part of the plan that holds the field.
        look: what the field cannot know.
    """
    path = steps(where)
    owner: Any = type(ask)
    return _made(path, owner, *(ControlOverrides(now=getattr(ask, str(path[-1]))) | look).items())


@functools.lru_cache(512)
def _made(path: FieldSteps, owner: Any, *look: tuple[str, object]) -> Control:
    """A control of these looks; a drag asks for most of them again at every step."""
    name, said = str(path[-1]), cast(ControlOverrides, dict(look))
    if "choices" in said and _of_field(owner, name).kind == "text":
        said = ControlOverrides(kind="pick") | said
    return replace(_of_field(owner, name), path=path, **said)


@functools.cache
def _of_field(owner: Any, name: str) -> Control:
    """What a field says of its control."""
    base, meta = field_meta(owner, name)
    choices = typing.get_args(base) if typing.get_origin(base) is Literal else ()
    if choices:
        kind = "pick"
    elif dt.date in typing.get_args(base):
        kind = "date"
    else:
        kind = _KINDS.get(base, "many")
    said = meta.extra_json_schema or {}
    far = math.inf if kind == "number" else 0
    return Control(
        (),
        kind,
        phrase(meta.title or name),
        None,
        lo=-far if (lowest := _first(meta.ge, meta.gt)) is None else lowest,
        hi=far if (highest := _first(meta.le, meta.lt)) is None else highest,
        lo_open=meta.gt is not None,
        hi_open=meta.lt is not None,
        step=said.get("step", 0),
        by_ratio=said.get("by_ratio", False),
        choices=choices,
        names=tuple(phrase(str(each)) for each in choices),
        unit=phrase(str(said.get("unit", ""))),
    )


def _first(one: float | None, other: float | None) -> float | None:
    return other if one is None else one
