"""Files written whole or not at all: a crash at any moment leaves the old one or the new one."""

from __future__ import annotations

import os
import re
import socket
import stat
import tempfile
import time
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

from oat_tide.core.language import phrase
from oat_tide.core.user_error import UserError
from oat_tide.system.child import is_there

_MARK = ".part"
_NAME = re.compile(r"-(?P<host>[A-Za-z0-9]*)-(?P<process>\d+)-[^-]*\.part$")
_DAY = 86_400
"""Seconds after which what another machine was writing is taken for left behind."""


def write_whole(
    path: Path, write: Callable[[Path], object], check: Callable[[Path], object] = lambda file: None
) -> None:
    """Have a file written beside `path`, read back, and put in its place; a link is followed.

    Args:
        write: given the temporary path.
        check: given the same once it is on the disk; raises UserError or OSError where it does not hold what
            was written.

    Raises:
        UserError: it may not be written, the folder cannot be written to, or the disk is full; what stood
            there is untouched.
    """
    temporary: Path | None = None
    try:
        path = path.resolve() if path.is_symlink() else path
        _refuse_read_only(path)
        _clear_leftovers(path)
        handle, name = tempfile.mkstemp(prefix=_prefix(path), suffix=_MARK, dir=path.parent)
        os.close(handle)
        temporary = Path(name)
        write(temporary)
        _to_disk(temporary)
        check(temporary)
        temporary.chmod(_mode(path))
        temporary.replace(path)
        flush_folder(path.parent)
    except (OSError, RuntimeError) as error:  # links that lead in a circle are a RuntimeError
        raise UserError(_not_written(path, error)) from error
    finally:
        if temporary is not None:
            with suppress(OSError):
                temporary.unlink(missing_ok=True)


def _refuse_read_only(path: Path) -> None:
    if path.exists() and not path.stat().st_mode & (stat.S_IWUSR | stat.S_IWGRP | stat.S_IWOTH):
        raise UserError(
            "{name} was not written: it is read-only. Save under another name, or let it be written.",
            name=path.name,
        )


def _host() -> str:
    return re.sub(r"[^A-Za-z0-9]", "", socket.gethostname())[:24]


def _beginning(path: Path) -> str:
    """What all temporary files of one path begin with; short, for names have a limit in bytes."""
    return f".{path.name[:36]}-"


def _prefix(path: Path) -> str:
    return f"{_beginning(path)}{_host()}-{os.getpid()}-"


def _clear_leftovers(path: Path) -> None:
    """Take away what killed savings of this file left behind."""
    for each in path.parent.iterdir():
        if not each.name.startswith(_beginning(path)) or not each.name.endswith(_MARK):
            continue
        told = _NAME.search(each.name)
        with suppress(OSError):
            if told is None:
                continue
            ours = told["host"] == _host()
            old = time.time() - each.stat().st_mtime > _DAY
            if (ours and not is_there(int(told["process"]))) or (not ours and old):
                each.unlink()


def _to_disk(path: Path) -> None:
    with path.open("rb+") as file:
        os.fsync(file.fileno())
        # What is read back comes from the disk, not from what the system still remembers of it.
        os.posix_fadvise(file.fileno(), 0, 0, os.POSIX_FADV_DONTNEED)


def _mode(path: Path) -> int:
    if path.exists():
        return path.stat().st_mode & 0o777
    mask = os.umask(0)
    os.umask(mask)
    return 0o666 & ~mask


def flush_folder(folder: Path) -> None:
    """Have the names in a folder on the disk. Raises OSError."""
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def _not_written(path: Path, error: Exception) -> str:
    reason = (error.strerror if isinstance(error, OSError) else None) or str(error)
    return phrase(
        "{name} was not written: {reason}. The earlier file is unchanged. Make room or "
        "choose another folder than {parent}, and save again.",
        name=path.name,
        reason=reason,
        parent=path.parent,
    )
