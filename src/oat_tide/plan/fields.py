"""The fields of a part: their types, and what is said of them."""

from __future__ import annotations

import functools
import typing
from typing import Annotated, Any

from msgspec import Meta


@functools.cache
def hints(kind: Any) -> dict[str, Any]:
    """The annotated types of the fields of a part."""
    return typing.get_type_hints(kind, include_extras=True)


def item_type(kind: Any) -> Any:
    """The annotated type of the instances of a tuple field."""
    return typing.get_args(bare(kind)[0])[0]


def bare(kind: Any) -> tuple[Any, Meta]:
    """A type without its annotation, and what that says."""
    if typing.get_origin(kind) is Annotated:
        base, *said = typing.get_args(kind)
        return base, next((each for each in said if isinstance(each, Meta)), Meta())
    return kind, Meta()


@functools.cache
def field_meta(owner: Any, name: str) -> tuple[Any, Meta]:
    """The bare type of a field of a part, and what is said of it."""
    return bare(hints(owner)[name])
