"""What all parts of a plan are made of."""

from __future__ import annotations

from typing import Annotated

import msgspec
from msgspec import Meta


class Part(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True, cache_hash=True):
    """Base of the pieces of a plan."""


def unit(words: str, zero: str = "") -> dict[str, str]:
    """The unit of a field, for the control that shows it.

    Args:
        zero: what 0 stands for, where it is no number of them.
    """
    return {"unit": words, "zero": zero}


Name = Annotated[str, Meta(max_length=4096)]
Pairs = tuple[tuple[str, str], ...]
LONGEST_WINDOW = 730
"""Periods of a moving total or average."""
