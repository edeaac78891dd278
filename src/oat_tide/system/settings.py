"""What the user has chosen for the program as a whole: a small file of texts in the platform's folder."""

from __future__ import annotations

import json
from contextlib import suppress
from pathlib import Path

from oat_tide.core.user_error import UserError
from oat_tide.system import folders
from oat_tide.system.whole import write_whole


def _file() -> Path:
    return folders.settings() / "settings.json"


def _all() -> dict[str, str]:
    try:
        held = json.loads(_file().read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return {}
    pairs = held.items() if isinstance(held, dict) else ()
    return {name: text for name, text in pairs if isinstance(text, str)}


def setting(name: str) -> str:
    """What was chosen; empty where nothing was."""
    return _all().get(name, "")


def choose(name: str, text: str) -> None:
    """Keep a choice; one that cannot be written is let go, for all of them can be made again."""
    text = json.dumps(_all() | {name: text}, indent=1)
    with suppress(UserError):
        write_whole(_file(), lambda file: file.write_text(text, encoding="utf-8"))
