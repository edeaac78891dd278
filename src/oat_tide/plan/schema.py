"""The head of a plan file, checked before it is trusted."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Annotated, Any

import msgspec
from msgspec import Meta

from oat_tide.core.user_error import UserError
from oat_tide.plan.plan import Plan

SCHEMA, OLDEST = 9, 2
"""The schema that is written, and the oldest that is read."""
HEAD = "plan.json"
Plain = dict[str, Any]


class Head(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What plan.json holds.

    Attributes:
        plan: the plan.
        stage: the stage that was in sight.
        source: the name of the sales file, or of them all together.
        files: of each file its name, how it is written in words, and its lines.
    """

    schema: int
    plan: Plan
    stage: str
    source: Annotated[str, Meta(max_length=4096)]
    files: tuple[
        tuple[Annotated[str, Meta(max_length=4096)], Annotated[str, Meta(max_length=4096)], int], ...
    ]


class _Schema(msgspec.Struct):
    schema: int = 0


def read_head(path: Path, data: bytes) -> Head:
    """The head of a plan file, an older one brought up to today's schema before it is checked.

    Raises:
        UserError: it was saved by a newer version, or by one too early, or cannot be understood.
    """
    try:
        schema = msgspec.json.decode(data, type=_Schema).schema
        if schema > SCHEMA:
            raise UserError(
                "{name} was saved by a newer version (schema {schema}; this one reads up to "
                "{own}). Open it with that version, or update.",
                name=path.name,
                schema=schema,
                own=SCHEMA,
            )
        if schema < OLDEST:
            raise UserError(
                "{name} was saved by an early version (schema {schema}; this one reads from "
                "{oldest}). Open the sales file itself and make the plan again.",
                name=path.name,
                schema=schema,
                oldest=OLDEST,
            )
        if schema == SCHEMA:
            return msgspec.json.decode(data, type=Head)
        head = msgspec.json.decode(data)
        for older in range(schema, SCHEMA):
            head = STEPS[older](head) | {"schema": older + 1}
        return msgspec.convert(head, Head)
    except (msgspec.DecodeError, UnicodeDecodeError, *_STRANGE) as error:
        raise UserError(
            "{name}: {head} cannot be understood: {error}. Open another copy of it.",
            name=path.name,
            head=HEAD,
            error=error,
        ) from error


_STRANGE = KeyError, TypeError, AttributeError, ValueError, RecursionError
"""What a step meets in a head that is none."""


def _verdicts_have_outcomes(head: Plain) -> Plain:
    """From 2 to 3: what becomes of lines set aside is called their outcome."""
    plan = head["plan"]
    intake = plan.get("intake", {})
    verdicts = [
        {("outcome" if name == "way" else name): value for name, value in each.items()}
        for each in intake.get("verdicts", ())
    ]
    if not verdicts:
        return head
    return head | {"plan": plan | {"intake": intake | {"verdicts": verdicts}}}


def _actual_is_drawn_alike(head: Plain) -> Plain:
    """From 3 to 4: whether the actual is a line or columns is one choice for all stages."""
    plan = head["plan"]
    history = dict(plan.get("history", {}))
    drawn = history.pop("drawn", None)
    return head if drawn is None else head | {"plan": plan | {"history": history, "drawn": drawn}}


def _smoothers_are_several(head: Plain) -> Plain:
    """From 4 to 5: the rolling and the weighted average over one window are two smoothers of many."""
    plan = head["plan"]
    smooth = dict(plan.get("smooth", {}))
    window, weights = smooth.pop("window", 6), list(smooth.pop("weights", ()))
    weighted: Plain = {"kind": "weighted", "window": window}
    fitted = (weights + weights[-1:] * window)[:window]
    if sum(fitted) > 0:
        weighted["weights"] = fitted
    smooth["smoothers"] = [{"window": window}, weighted]
    return head | {"plan": plan | {"smooth": smooth}}


_NUMBERED = {"from 1": "counter", "by calendar year": "calendar"}


def _numbered_by_one_word(head: Plain) -> Plain:
    """From 5 to 6: years are numbered by a counter or by the calendar, as the command line says it."""
    plan = head["plan"]
    project = dict(plan.get("project", {}))
    if project.get("numbered") not in _NUMBERED:
        return head
    project["numbered"] = _NUMBERED[project["numbered"]]
    return head | {"plan": plan | {"project": project}}


def _with_a_log(head: Plain) -> Plain:
    """From 6 to 7: a plan file holds the log of what was done, beside the head; an older one has none."""
    return head


_BEGAN: Plain = {"method": "line", "horizon": 6}


def _begins_with_what_suits(head: Plain) -> Plain:
    """From 7 to 8: a plan begins with a method that suits and a year ahead; an older one as it began."""
    plan = head["plan"]
    return head | {"plan": plan | {"project": _BEGAN | dict(plan.get("project", {}))}}


def _with_a_layout(head: Plain) -> Plain:
    """From 8 to 9: a plan keeps which rows are shown, and how high charts are; older ones have the usual."""
    return head


STEPS: dict[int, Callable[[Plain], Plain]] = {
    2: _verdicts_have_outcomes,
    3: _actual_is_drawn_alike,
    4: _smoothers_are_several,
    5: _numbered_by_one_word,
    6: _with_a_log,
    7: _begins_with_what_suits,
    8: _with_a_layout,
}
"""By schema, what makes of a head the one of the next: on plain data, before anything of it is trusted."""
