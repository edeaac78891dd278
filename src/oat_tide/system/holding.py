"""Who has a file open: a small file beside it says so, and goes with whoever does."""

from __future__ import annotations

import datetime as dt
import json
import os
import socket
from contextlib import suppress
from dataclasses import asdict, dataclass
from pathlib import Path

from oat_tide.core.language import phrase
from oat_tide.system.clock import local_time

_LONGEST = 240
"""Bytes that the name of the small file may have."""
_MOST = 4096


@dataclass(frozen=True, slots=True)
class Holder:
    """Who has a file open.

    Attributes:
        host: the machine.
        process: the number of the process there.
        begun: when that began, in ticks of its machine, which tells it from a later one of its number.
        since: when the file was opened, in UTC.
        who: the display name.
    """

    host: str
    process: int
    begun: str
    since: str
    who: str = ""

    def told(self) -> str:
        """Who it is, for people: "Ana, on host mill, process 12, since 2026-12-01 10:00"."""
        own = self.host == socket.gethostname()
        machine = phrase("this machine") if own else phrase("the machine {host}", host=self.host)
        since = local_time(dt.datetime.fromisoformat(self.since))
        return phrase(
            "{who}on {machine}, process {process}, since {since}",
            who=self.who + ", " if self.who else "",
            machine=machine,
            process=self.process,
            since=since,
        )


def _beside(path: Path) -> Path | None:
    path = path.resolve()
    name = f".{path.name}.open"
    return path.with_name(name) if len(os.fsencode(name)) <= _LONGEST else None


def _begun(process: int) -> str:
    """When a process of this machine began; empty where there is none."""
    try:
        return Path(f"/proc/{process}/stat").read_text().rpartition(")")[2].split()[19]
    except (OSError, IndexError):
        return ""


def _ours(who: str) -> Holder:
    now = dt.datetime.now(dt.UTC).replace(microsecond=0).isoformat()
    return Holder(socket.gethostname(), os.getpid(), _begun(os.getpid()), now, who)


def holder(path: Path) -> Holder | None:
    """Who else has a file open; None for nobody, which is also said of one whose process is gone."""
    place = _beside(path)
    try:
        if place is None:
            return None
        with place.open("rb") as file:
            told = json.loads(file.read(_MOST))
        found = Holder(
            str(told["host"]), int(told["process"]), str(told["begun"]), str(told["since"]), str(told["who"])
        )
        dt.datetime.fromisoformat(found.since)
    except (OSError, ValueError, TypeError, KeyError):
        return None
    if found.host != socket.gethostname():
        return found
    own = found.process == os.getpid()
    return found if not own and _begun(found.process) == found.begun != "" else None


def hold(path: Path, who: str = "") -> Holder | None:
    """Say that this process has a file open, unless another one has: then who.

    Where the folder cannot be written in nothing is said, and nobody is found.
    """
    other, place = holder(path), _beside(path)
    if other is None and place is not None:
        with suppress(OSError):
            # Put there as a whole: nobody reads half of it.
            new = place.with_name(f"{place.name}.{os.getpid()}")
            new.write_text(json.dumps(asdict(_ours(who))), encoding="utf-8")
            new.replace(place)
    return other


def let_go(path: Path) -> None:
    """Say that this process has it open no more."""
    place = _beside(path)
    with suppress(OSError, ValueError, KeyError, TypeError):
        if place is not None and json.loads(place.read_bytes())["process"] == os.getpid():
            place.unlink()
