"""Which fields of a part are options of the command line: those that say so where they are defined."""

from __future__ import annotations

import importlib
import typing
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any, Literal

import msgspec

from oat_tide.core.language import phrase
from oat_tide.plan.fields import bare, field_meta, item_type

FieldSteps = tuple[str | int, ...]


@dataclass(frozen=True, slots=True)
class Option:
    """A field as an option of the command line.

    Attributes:
        path: the steps to it from its part.
        flag: what is typed, such as --horizon.
        says: what it is, for the help.
        metavar: what stands for its value there.
        kind: what a value is made by, such as int, float or str.
        choices: what it can be, as it is typed; empty for anything.
        many: whether it can be given several times.
        default: what it is where it is not given.
        rest: the field that takes all but the first, where it can be given several times.
        part: the part of the plan that it is a field of; empty for that of the command.
        required: whether it must be given.
        words: values of the plan that are typed in other words, with those.
    """

    path: FieldSteps
    flag: str
    says: str
    metavar: str | None
    kind: Callable[[str], Any]
    choices: tuple[str, ...]
    many: bool
    default: Any
    rest: str = ""
    part: str = ""
    required: bool = False
    words: tuple[tuple[str, str], ...] = ()

    def value_of(self, typed: Any) -> Any:
        """What the plan calls what is typed."""
        return next((value for value, word in self.words if word == typed), typed)

    @property
    def field(self) -> str:
        """Return its name within its part."""
        return ".".join(map(str, self.path))

    @property
    def help(self) -> str:
        """What the help says."""
        several = self.many and not self.rest
        now = phrase(" and ").join(f"{each:g}" for each in self.default) if several else self.default
        now = f"{now:g}" if isinstance(now, float) else dict(self.words).get(now, now)
        default = (
            phrase(" (default: {now})", now=now) if (now or now == 0) and not isinstance(now, bool) else ""
        )
        if self.required or "(default" in self.says:
            default = phrase(" (required)") if self.required else ""
        return f"{phrase(self.says)}{phrase('; repeatable') if self.many else ''}{default}".replace("%", "%%")


def option(
    flag: str,
    says: str,
    metavar: str = "",
    reads: Callable[[str], Any] | None = None,
    required: bool = False,
    words: dict[str, str] | None = None,
) -> dict[str, Any]:
    """What a field says to be an option.

    Args:
        flag: without its dashes.
        reads: makes its value of what is typed; needed where its type is none of a number, text or choice.
        required: whether it must be given.
        words: values that are typed in other words, with those.
    """
    told = {"flag": f"--{flag}", "says": says, "metavar": metavar, "reads": reads}
    return told | {"required": required, "words": words or {}}


def first_of() -> dict[str, str]:
    """What a tuple of parts says whose first instance is set by options."""
    return {"options": "first"}


def options_of(part: type[msgspec.Struct], within: FieldSteps = ()) -> tuple[Option, ...]:
    """The options of a part, in the order of its fields.

    Args:
        within: the steps that lead to it.
    """
    found: list[Option] = []
    for each in msgspec.structs.fields(part):
        kind, meta = field_meta(part, each.name)
        extra, path = meta.extra_json_schema or {}, (*within, each.name)
        if "options" in extra:
            found += options_of(bare(item_type(kind))[0], (*path, 0))
        if "flag" in extra:
            found.append(_option(each.default, kind, extra, path))
    return tuple(found)


def _option(default: Any, kind: Any, extra: dict[str, Any], path: FieldSteps) -> Option:
    many = typing.get_origin(kind) is tuple
    item = bare(item_type(kind))[0] if many else kind
    choices = typing.get_args(item) if typing.get_origin(item) is Literal else ()
    reads, words = extra["reads"] or (str if choices else item), extra["words"]
    rest = extra.get("rest", "")
    many = many or bool(rest)
    metavar = extra["metavar"] or None
    return Option(
        path,
        extra["flag"],
        extra["says"],
        metavar,
        reads,
        tuple(words.get(each, each) for each in choices),
        many,
        default,
        rest,
        required=extra["required"],
        words=tuple(words.items()),
    )


def all_options(part: Any) -> tuple[Option, ...]:
    """The options of a command: those of its part, and those of other parts that it takes under own names."""
    found = list(options_of(part))
    for flag, says, name, field in getattr(part, "ALSO", ()):
        other = getattr(importlib.import_module(f"oat_tide.plan.parts.{name}"), name.capitalize())
        (own,) = (each for each in options_of(other) if each.field == field)
        # Of several that a command of its own writes one after another, another command takes one.
        own = replace(own, many=False, rest="") if own.rest else own
        found.append(replace(own, flag=f"--{flag}", says=says, part=name))
    return tuple(found)
