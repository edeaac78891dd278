"""The log: a file in the platform's folder, without secrets."""

from __future__ import annotations

import logging
from collections.abc import Callable
from logging.handlers import RotatingFileHandler
from pathlib import Path

from oat_tide.system import folders

_BYTES, _OLDER = 1_000_000, 3
"""How large a log grows before a new one is begun, and how many older ones are kept."""
LOG = logging.getLogger("oat_tide")
LOG.addHandler(logging.NullHandler())
hide: list[Callable[[str], str]] = []
"""What takes the secrets out of a text before it is written: whoever holds secrets adds itself."""


def path() -> Path:
    """The file that unexpected errors are logged in."""
    return folders.logs() / "oat-tide.log"


class _Careful(logging.Formatter):
    def format(self, record: logging.LogRecord) -> str:
        said = super().format(record)
        for each in hide:
            said = each(said)
        return said


def start() -> None:
    """Log to the file from now on."""
    for old in [each for each in LOG.handlers if isinstance(each, RotatingFileHandler)]:
        LOG.removeHandler(old)
        old.close()
    handler = RotatingFileHandler(path(), maxBytes=_BYTES, backupCount=_OLDER, encoding="utf-8", delay=True)
    handler.setFormatter(_Careful("%(asctime)s %(levelname)s %(message)s"))
    LOG.addHandler(handler)
    LOG.setLevel(logging.INFO)
