"""What differs between two plans, as the edits that make one of the other."""

from __future__ import annotations

from itertools import takewhile
from typing import Any

from msgspec import Struct

from oat_tide.core.user_error import UserError
from oat_tide.plan.edits import Edit, changed
from oat_tide.plan.paths import FieldSteps
from oat_tide.plan.plan import Plan

_MOST = 40
"""Instances that are put in or taken out one by one; where more are, the whole tuple is put anew."""


def differences(before: Plan, after: Plan) -> tuple[Edit, ...]:
    """The edits that make one plan of another, in order; parts that are the same are not looked into."""
    edits = tuple(_between(before, after, ()))
    try:
        if remade(before, edits) == after:
            return edits
    except UserError:
        pass
    # A value that no edit may set one by one, such as a part that only fits together with another.
    return (Edit((), after),)


def remade(plan: Plan, edits: tuple[Edit, ...]) -> Plan:
    """A plan with edits made one after the other. Raises UserError where one does not fit it."""
    try:
        for each in edits:
            plan = changed(plan, each)
    except (AttributeError, TypeError) as error:
        raise UserError("A step names what no plan has ({error}). Make it again.", error=error) from error
    return plan


def _between(before: Any, after: Any, path: FieldSteps) -> list[Edit]:
    if before is after or before == after:
        return []
    if type(before) is type(after) and isinstance(before, Struct):
        return [
            edit
            for name in before.__struct_fields__
            for edit in _between(getattr(before, name), getattr(after, name), (*path, name))
        ]
    if (
        isinstance(before, tuple)
        and isinstance(after, tuple)
        and all(isinstance(each, Struct) for each in after)
    ):
        return _between_tuples(before, after, path)
    return [Edit(path, after)]


def _between_tuples(before: tuple[Any, ...], after: tuple[Any, ...], path: FieldSteps) -> list[Edit]:
    """Instances changed in their places, else those in the middle taken out and others put in."""
    if len(before) == len(after):
        pairs = list(enumerate(zip(before, after, strict=True)))
        if sum(one != other for _, (one, other) in pairs) <= _MOST:
            return [edit for at, (one, other) in pairs for edit in _between(one, other, (*path, at))]
        return [Edit(path, after)]
    start = len(list(takewhile(lambda pair: pair[0] == pair[1], zip(before, after, strict=False))))
    rest = zip(reversed(before[start:]), reversed(after[start:]), strict=False)
    end = len(list(takewhile(lambda pair: pair[0] == pair[1], rest)))
    gone, new = before[start : len(before) - end], after[start : len(after) - end]
    if len(gone) + len(new) > _MOST:
        return [Edit(path, after)]
    return [
        *(Edit((*path, start), act="remove") for _ in gone),
        *(Edit((*path, start + at), each, act="add") for at, each in enumerate(new)),
    ]
