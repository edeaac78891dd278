"""Names of files that are not UTF-8: a plan keeps their bytes as signs that no name has, and shows a mark."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

_STRANGE, _KEPT = range(0xDC80, 0xDD00), range(0xEF80, 0xF000)
"""What the system tells such bytes as, which cannot be written; and the private signs that stand for them."""
_AS_KEPT = dict(zip(_STRANGE, _KEPT, strict=True))
_AS_TOLD = dict(zip(_KEPT, _STRANGE, strict=True))
_SHOWN = dict.fromkeys(_STRANGE, "\N{REPLACEMENT CHARACTER}")


def kept(place: str | Path) -> str:
    """A place as a plan keeps it."""
    return str(place).translate(_AS_KEPT)


def path_of(place: str | Path) -> Path:
    """The file of a place, as the system knows it."""
    path = Path(place)
    return path if os.path.lexists(path) else Path(str(place).translate(_AS_TOLD))


@contextmanager
def plainly_named(path: Path) -> Iterator[Path]:
    """A way to a file by a name that readers of all kinds understand."""
    if str(path) == shown(str(path)):
        yield path
        return
    with tempfile.TemporaryDirectory(prefix="oat-tide-name-") as folder:
        other = Path(folder) / shown(path.name)
        other.symlink_to(path.absolute())
        yield other


def shown(name: str) -> str:
    """A name as it can be shown and written down."""
    return name.translate(_SHOWN)
