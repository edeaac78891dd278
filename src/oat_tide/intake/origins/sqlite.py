"""SQLite files: opened only to be read, watched while they answer, and asked what they can add up."""

from __future__ import annotations

import os
import sqlite3
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any
from urllib.parse import quote

import sqlalchemy as sa

from oat_tide.core.user_error import Progress, Stopped

MICRO = 1_000_000
"""What figures are multiplied by to be whole: SQLite knows no decimals."""
_MOST = 9e12
"""What all of them may come to, so that their sum stays within 64 bits."""
_BEYOND = 0.01
"""What a figure may leave of a millionth: noise of floating point, and no further decimal."""
_STEPS = 20_000
"""Steps of a question from one look whether it is to go on to the next."""


class Told:
    """A Tell that knows what it was told last, so that it can be asked whether to go on, and nothing more."""

    def __init__(self, progress: Progress) -> None:
        self._tell, self._share = progress, 0.0

    def __call__(self, share: float) -> None:
        self._share = share
        self._tell(share)

    def again(self) -> None:
        """Raises Stopped where the answer is no longer wanted; how far it is stays as it was."""
        self._tell(self._share)


class Watch:
    """Whether a question goes on: not once it is stopped, or when it takes too long.

    Attributes:
        stopped: how it was, if it was.
        late: whether it took too long.
    """

    def __init__(self, told: Told, seconds: float) -> None:
        self.stopped: Stopped | None = None
        self.late = False
        self._told, self._until = told, time.monotonic() + seconds

    def over(self) -> bool:
        """Whether it is to end now."""
        try:
            self._told.again()
        except Stopped as stopped:
            self.stopped = stopped
        self.late = time.monotonic() > self._until
        return self.late or self.stopped is not None


def only_read(path: Path, watch: Watch) -> Callable[[], sqlite3.Connection]:
    """What connects to a file that is not written to; text that is not UTF-8 is taken for Windows-1252."""
    address = f"file:{quote(os.fsencode(path.resolve()))}?mode=ro"

    def connect() -> sqlite3.Connection:
        line = sqlite3.connect(address, uri=True)
        line.text_factory = _decoded
        line.set_progress_handler(watch.over, _STEPS)
        return line

    return connect


def _decoded(text: bytes) -> str:
    try:
        return text.decode()
    except UnicodeDecodeError:
        return text.decode("cp1252", "replace")


def adds_up(line: sa.Connection, lines: Any, measures: list[str]) -> bool:
    """Whether sums of the product of the measures are exact there: all are numbers, and fit into millionths.

    Its columns may hold text among numbers, which it takes for nothing; what is too large it cuts.
    """
    columns: list[Any] = [sa.column(name) for name in measures]
    amount = columns[0]
    for column in columns[1:]:
        amount = amount * column
    micro = amount * float(MICRO)
    strange = sa.or_(*(sa.func.typeof(column).in_(["text", "blob"]) for column in columns))
    rest = sa.func.abs(micro - sa.func.round(micro))
    asked = sa.select(
        sa.func.total(strange), sa.func.total(sa.func.abs(amount)), sa.func.total(rest > _BEYOND)
    )
    texts, much, finer = line.execute(asked.select_from(lines)).one()
    return not texts and not finer and bool(much < _MOST)
