"""Which fields of a part are options of the command line: those that say so where they are defined."""

from __future__ import annotations

import typing
from dataclasses import dataclass
from typing import Any, Literal

import msgspec

from oat_tide.plan.fields import bare, field_meta, item_type


@dataclass(frozen=True, slots=True)
class Option:
    """A field as an option of the command line.

    Attributes:
        field: its name.
        flag: what is typed, such as --horizon.
        says: what it is, for the help.
        metavar: what stands for its value there.
        kind: what a value is made by: int, float or str.
        choices: what it can be; empty for anything.
        many: whether it can be given several times.
        default: what it is where it is not given.
    """

    field: str
    flag: str
    says: str
    metavar: str | None
    kind: type
    choices: tuple[str, ...]
    many: bool
    default: Any

    @property
    def help(self) -> str:
        """What the help says."""
        several = self.many and isinstance(self.default, tuple)
        now = " and ".join(f"{each:g}" for each in self.default) if several else self.default
        return f"{self.says}{'; repeatable' if self.many else ''} (default: {now})".replace("%", "%%")


def option(flag: str, says: str, metavar: str = "") -> dict[str, str]:
    """What a field says to be an option.

    Args:
        flag: without its dashes.
    """
    return {"flag": f"--{flag}", "says": says, "metavar": metavar}


def options_of(part: type[msgspec.Struct]) -> tuple[Option, ...]:
    """The options of a part, in the order of its fields."""
    found = []
    for each in msgspec.structs.fields(part):
        kind, meta = field_meta(part, each.name)
        extra = meta.extra_json_schema or {}
        if "flag" not in extra:
            continue
        many = typing.get_origin(kind) is tuple
        item = bare(item_type(kind))[0] if many else kind
        choices = typing.get_args(item) if typing.get_origin(item) is Literal else ()
        found.append(
            Option(
                each.name, extra["flag"], extra["says"], extra["metavar"] or None,
                str if choices else item, choices, many, each.default,
            )
        )  # fmt: skip
    return tuple(found)
