"""The folders that the program writes in: the platform's own, or temporary ones where those cannot be had."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

import platformdirs

APP = "oat-tide"


def state() -> Path:
    """The folder of what was going on: journals, backups, recent files."""
    return _usable(platformdirs.user_state_path, "state")


def logs() -> Path:
    """The folder of the log."""
    return _usable(platformdirs.user_log_path, "log")


def settings() -> Path:
    """The folder of what the user has chosen for the program as a whole."""
    return _usable(platformdirs.user_config_path, "settings")


def stands_in() -> Path | None:
    """The temporary folder that is written in because the platform's cannot be; None where they can."""
    found = state()
    return found.parent if found.parent == _temporary() else None


def _usable(place: Callable[[str], Path], name: str) -> Path:
    for folder in (place(APP), _temporary() / name):
        with suppress(OSError):
            folder.mkdir(parents=True, exist_ok=True, mode=0o700)
            if os.access(folder, os.W_OK | os.X_OK):
                return folder
    # Whoever writes there is told by the system why that cannot be.
    return _temporary() / name


def _temporary() -> Path:
    """A folder of this user alone."""
    return Path(tempfile.gettempdir()) / f"{APP}-of-{os.getuid()}"
