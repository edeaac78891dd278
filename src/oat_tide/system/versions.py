"""Versions of a file: the one that was read last, told from what is there now; and one kept of each day."""

from __future__ import annotations

import datetime as dt
import hashlib
import os
import shutil
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from oat_tide.system import folders
from oat_tide.system.clock import local_time

_MOST_DAYS = 10
"""Days of one file that a version is kept of."""


@dataclass(frozen=True, slots=True)
class Stamp:
    """What tells one version of a file from another: its inode, size, and the time it was written."""

    inode: int
    size: int
    written: int

    @property
    def at(self) -> str:
        """When it was written, for people."""
        return local_time(dt.datetime.fromtimestamp(self.written / 1e9, dt.UTC))


def stamp_of(path: Path) -> Stamp | None:
    """The version that is there; None for none."""
    try:
        found = path.stat()
    except OSError:
        return None
    return Stamp(found.st_ino, found.st_size, found.st_mtime_ns)


def backups_of(path: Path) -> Path:
    """The folder that earlier versions of a file are kept in."""
    path = path.resolve()
    mark = hashlib.blake2b(os.fsencode(path), digest_size=6).hexdigest()
    return folders.state() / "backups" / f"{path.stem[:40]}-{mark}"


def back_up(path: Path) -> None:
    """Keep the version that is there, before the first saving of a day takes its place.

    Raises:
        OSError: it cannot be kept.
    """
    folder = backups_of(path)
    now = dt.datetime.now().astimezone().date()
    kept = folder / f"{path.stem[:40]} before {now.isoformat()}{path.suffix}"
    if not path.exists() or kept.exists():
        return
    folder.mkdir(parents=True, exist_ok=True)
    part = kept.with_name(f"{kept.name}.part")
    shutil.copy2(path.resolve(), part)
    part.replace(kept)
    for old in sorted(folder.glob(f"* before *{path.suffix}"))[:-_MOST_DAYS]:
        with suppress(OSError):
            old.unlink()
