"""The head of a plan file, checked before it is trusted."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import msgspec
from msgspec import Meta

from oat_tide.core.trouble import Trouble
from oat_tide.plan.plan import Plan

SCHEMA = 2
HEAD = "plan.json"


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
    try:
        schema = msgspec.json.decode(data, type=_Schema).schema
        if schema > SCHEMA:
            raise Trouble(
                f"{path.name} was saved by a newer version (schema {schema}; this one reads up to {SCHEMA}). "
                "Open it with that version, or update."
            )
        if schema < SCHEMA:
            raise Trouble(
                f"{path.name} was saved by an early version (schema {schema}; this one reads {SCHEMA}). "
                "Open the sales file itself and make the plan anew."
            )
        return msgspec.json.decode(data, type=Head)
    except (msgspec.DecodeError, UnicodeDecodeError) as error:
        raise Trouble(
            f"{path.name}: {HEAD} cannot be understood: {error}. Open another copy of it."
        ) from error
