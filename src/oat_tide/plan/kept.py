"""Large data that belong to a plan: a head in the plan, the arrays as Parquet in a member of their own.

The bytes of a member are written as they were read: unchanged data are never packed anew.
"""

from __future__ import annotations

import datetime as dt
import hashlib
import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from numpy.typing import NDArray

from oat_tide.plan.parts.kept import Kept
from oat_tide.plan.parts.part import Pairs

LIMIT = 1 << 30
"""Bytes of one member."""
_MEMBER = re.compile(r"kept/[a-z0-9-]{1,60}\.parquet")


@dataclass(frozen=True, eq=False, slots=True)
class KeptData:
    """Large data of a plan as a stage is given them.

    Attributes:
        head: what is known of them.
        columns: gives them by column: figures as floats, anything else as objects. Raises UserError where
            they are no table.
    """

    head: Kept
    columns: Callable[[], dict[str, NDArray[Any]]]


def member(id: str) -> str:
    """The name of the member of the plan file that holds the data of an id."""
    return f"kept/{id}.parquet"


def is_member(name: str) -> bool:
    """Whether a member of a plan file can hold kept data."""
    return _MEMBER.fullmatch(name) is not None


def fingerprint(data: bytes) -> str:
    """What tells data from any other (BLAKE2b, RFC 7693, of 16 bytes)."""
    return hashlib.blake2b(data, digest_size=16).hexdigest()


def head_of(
    name: str,
    data: bytes,
    taken: Mapping[str, bytes],
    *,
    made: dt.datetime,
    as_of: dt.date | None = None,
    method: str = "",
    where: Pairs = (),
) -> Kept:
    """The head of data that are to be kept.

    Args:
        data: as Parquet.
        taken: the data kept so far, by id.
    """
    print_ = fingerprint(data)
    number = next(n for n in range(1, len(taken) + 2) if f"{print_[:12]}-{n}" not in taken)
    return Kept(f"{print_[:12]}-{number}", name, made, print_, as_of, method, where)
