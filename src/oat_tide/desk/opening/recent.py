"""The files that were opened or saved of late: paths alone, nothing of what is in them."""

from __future__ import annotations

import json
from pathlib import Path

from oat_tide.system import folders

MOST = 6


def _list() -> Path:
    return folders.state() / "recent.json"


def recent() -> list[Path]:
    """Files that are still there, the latest first."""
    try:
        held = json.loads(_list().read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return []
    names = (name for name in held if isinstance(name, str)) if isinstance(held, list) else ()
    return [path for path in map(Path, names) if path.is_file()][:MOST]


def remember(path: Path) -> None:
    """Put a file first; a list that cannot be written is let go, for it is only a help."""
    path = path.resolve()
    names = [str(path), *(str(each) for each in recent() if each != path)]
    try:
        _list().write_text(json.dumps(names[:MOST]), encoding="utf-8")
    except OSError:
        return
