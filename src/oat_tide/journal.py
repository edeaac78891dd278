"""The journal: what was done to a plan and not saved yet, kept in the state folder until it is.

A journal is one file of lines: whose it is, the plan that it began from, and every step since. The window
that writes it locks it; what is not locked was left by a window that ended before it could save or ask.
"""

from __future__ import annotations

import datetime as dt
import fcntl
import os
import secrets
import threading
from contextlib import suppress
from dataclasses import dataclass
from io import BufferedWriter
from pathlib import Path

import msgspec

from oat_tide.core.language import counted, phrase
from oat_tide.core.user_error import Progress, UserError, no_progress
from oat_tide.documents import Document, saved
from oat_tide.intake import file_names
from oat_tide.intake.origins import passwords, path_permission
from oat_tide.plan.container import log_of
from oat_tide.plan.kept import fingerprint
from oat_tide.plan.log import Entry, gone_on, history_of, read
from oat_tide.plan.plan import Plan
from oat_tide.plan.schema import SCHEMA
from oat_tide.plan.undo import Undo
from oat_tide.session import Session, without_secrets
from oat_tide.system import folders
from oat_tide.system.clock import local_time
from oat_tide.system.log import LOG
from oat_tide.system.whole import flush_folder

_PAUSE = 0.3
"""Seconds in which steps are gathered before they are written."""
_HEAD_BYTES = 1 << 16


class Head(msgspec.Struct, frozen=True):
    """The first line of a journal.

    Attributes:
        schema: of the plans in it.
        path: the plan file; empty for a plan that has none yet.
        title: of the plan.
        stage: in sight when it was begun.
        begun: when.
    """

    schema: int
    path: str
    title: str
    stage: str
    begun: dt.datetime


class Journal:
    """Writes down what is done to one plan, from a thread of its own.

    Args:
        session: whose steps they are.
        path: the plan file, or None.
        stage: the stage in sight.
        begun: the history that it begins from; by default the one there is.
    """

    def __init__(self, session: Session, path: Path | None, stage: str, begun: Undo | None = None) -> None:
        self._session, self._path, self._stage = session, path, stage
        self._base = begun or session.history
        self._logged = session.recorder.before if begun else len(session.log)
        self._file: BufferedWriter | None = None
        self._place: Path | None = None
        self._written: list[Entry] = []
        self._kept: set[str] = set()
        self._wake, self._ended = threading.Event(), threading.Event()
        self._hurry, self._writing = threading.Event(), threading.Lock()
        self._failed = ""
        self._thread = threading.Thread(target=self._run, daemon=True)
        self._thread.start()

    @property
    def failed(self) -> str:
        """Why nothing could be written; empty where it could."""
        return self._failed

    def look(self, hurry: bool = False) -> None:
        """Say that something may have been done.

        Args:
            hurry: whether it is written at once: what was typed or pasted cannot be made again.
        """
        if hurry:
            self._hurry.set()
        self._wake.set()

    def write(self) -> None:
        """Write what is not written yet, before anything else is done. What cannot be written is logged."""
        with self._writing:
            if self._ended.is_set():
                return
            try:
                self._write()
                self._failed = ""
            except Exception as error:  # whatever it is, the window goes on
                if not self._failed:
                    LOG.error("the journal cannot be written", exc_info=error)
                self._failed = (error.strerror if isinstance(error, OSError) else None) or str(error)

    def end(self, keep: bool = False) -> None:
        """Write nothing more. What was written goes, for it was saved or is not wanted, unless it is kept."""
        if keep:
            self.write()
        with self._writing:
            self._ended.set()
            self._wake.set()
            self._hurry.set()
            if self._file is not None:
                self._file.close()
            if self._place is not None and not keep:
                _take_away(self._place)

    def _run(self) -> None:
        while True:
            self._wake.wait()
            self._hurry.wait(_PAUSE)
            self._hurry.clear()
            self._wake.clear()
            if self._ended.is_set():
                return
            self.write()

    def _write(self) -> None:
        typed = bool(self._session.plan.sources.typed) and self._path is None
        if self._file is None and self._session.history.now == self._base.now and not typed:
            return
        entries = self._session.log[self._logged :]
        at = len(self._written)
        if at and (at > len(entries) or entries[at - 1] is not self._written[-1]):
            at -= 1
        new = entries[at:]
        if self._file is not None and not new:
            return
        if self._file is None:
            self._begin()
        assert self._file is not None and self._place is not None
        for id_, data in list(self._session.kept.items()):
            if id_ not in self._kept:
                self._kept.add(id_)
                _data_folder(self._place).mkdir(exist_ok=True)
                (_data_folder(self._place) / f"{id_}.parquet").write_bytes(data)
        self._file.write(b"".join(msgspec.json.encode(each) + b"\n" for each in new))
        self._file.flush()
        os.fsync(self._file.fileno())
        self._written = list(entries)

    def _begin(self) -> None:
        folder = _folder()
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        now = dt.datetime.now(dt.UTC).replace(microsecond=0)
        self._place = folder / f"{now:%Y%m%d-%H%M%S}-{secrets.token_hex(4)}.jsonl"
        plan, path = self._base.now, "" if self._path is None else file_names.kept(self._path.absolute())
        head = Head(SCHEMA, path, plan.title, self._stage, now)
        # Whose it is stands in it before it has its name: no other window takes it for one left behind.
        part = self._place.with_suffix(".part")
        self._file = part.open("wb")
        fcntl.flock(self._file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        for each in (head, without_secrets(plan)):
            self._file.write(msgspec.json.encode(each) + b"\n")
        self._file.flush()
        part.replace(self._place)
        flush_folder(folder)


def _folder() -> Path:
    return folders.state() / "journals"


def _data_folder(place: Path) -> Path:
    return place.with_suffix(".data")


def _take_away(place: Path) -> None:
    for each in _data_folder(place).glob("*"):
        each.unlink(missing_ok=True)
    with suppress(OSError):
        _data_folder(place).rmdir()
    place.unlink(missing_ok=True)


@dataclass(frozen=True, slots=True)
class Left:
    """What a window left that ended before its plan was saved.

    Attributes:
        place: the journal.
        head: whose it is.
        steps: how many were written.
        last: when the last of them was.
    """

    place: Path
    head: Head
    steps: int
    last: dt.datetime

    @property
    def path(self) -> Path | None:
        """The plan file, or None."""
        return file_names.path_of(self.head.path) if self.head.path else None

    def is_of(self, path: Path) -> bool:
        """Whether it is of a plan file; no file can have some names, and whoever opens such a one says so."""
        try:
            return self.path is not None and self.path.resolve() == path.resolve()
        except (OSError, ValueError, RuntimeError):
            return False

    def told(self) -> str:
        """What it is, for people: "3 steps, the last at 2026-12-01 10:40, not saved"."""
        at = local_time(self.last)
        if not self.steps:
            return phrase("figures typed or pasted at {at}, not saved", at=at)
        return phrase("{steps}, the last at {at}, not saved", steps=counted(self.steps, "step"), at=at)

    def discard(self) -> None:
        """Take it away."""
        _take_away(self.place)


def left() -> list[Left]:
    """What was left and not taken up or discarded yet, the latest first."""
    found: list[Left] = []
    for place in sorted(_folder().glob("*.jsonl"), reverse=True):
        try:
            if _is_held(place):
                continue
            with place.open("rb") as file:
                head = msgspec.json.decode(file.readline(_HEAD_BYTES), type=Head)
                steps = max(sum(piece.count(b"\n") for piece in iter(lambda: file.read(1 << 20), b"")) - 1, 0)
            last = dt.datetime.fromtimestamp(place.stat().st_mtime, dt.UTC)
        except (OSError, msgspec.DecodeError, UnicodeDecodeError) as error:
            LOG.warning("a journal cannot be read: %s: %s", place, error)
            continue
        found.append(Left(place, head, steps, last))
    return found


def _is_held(place: Path) -> bool:
    with place.open("rb") as file:
        try:
            fcntl.flock(file, fcntl.LOCK_SH | fcntl.LOCK_NB)
        except BlockingIOError:
            return True
    return False


def unsaved(one: Left) -> list[Entry]:
    """The steps in it that the plan file does not hold.

    Raises:
        UserError: it cannot be read.
    """
    known: set[str] = set()
    if one.path is not None and one.path.exists():
        with suppress(UserError):
            known = {each.id for each in read(log_of(one.path))}
    return [each for each in _read(one)[1] if each.id not in known]


def _read(one: Left) -> tuple[Plan, list[Entry]]:
    try:
        _, plan, steps = one.place.read_bytes().split(b"\n", 2)
        if one.head.schema != SCHEMA:
            raise UserError(
                "What was not saved of {title} was written by another version (schema {schema}; this "
                "one reads {own}). Open it with that version, or discard it.",
                title=one.head.title,
                schema=one.head.schema,
                own=SCHEMA,
            )
        return msgspec.json.decode(plan, type=Plan), read(steps)
    except (OSError, ValueError, msgspec.DecodeError) as error:
        raise UserError(
            "What was not saved of {title} cannot be read: {error}. Choose to discard it.",
            title=one.head.title,
            error=error,
        ) from error


def take_up(one: Left, progress: Progress = no_progress) -> Document:
    """Open the plan as it was when its window ended; its journal goes once another one holds the same.

    Raises:
        UserError: it cannot be read, or its sources are not there any more; what was left stays.
        Stopped: by way of `tell`.
    """
    plan, entries = _read(one)
    files = [each for each in plan.sources.places if not passwords.is_address(each)]
    if one.path is None:
        path_permission.chosen(files)
    else:
        path_permission.named(files, one.path.absolute().parent)
    there = saved(one.path) if one.path is not None and one.path.exists() else None
    if there is None:
        begun, log, session, stamp = Undo(plan), [], Session(None, plan), None
    else:
        log, session = there.log, Session(there.source, there.plan)
        known = {each.id for each in log}
        new = [each for each in entries if each.id not in known]
        # Where the file is another than the one it began from, it stands on its own, and saving will ask.
        own = len(new) < len(entries) or there.plan == plan
        begun, entries = (history_of(there.plan, log, there.kept), new) if own else (Undo(plan), entries)
        stamp = there.stamp if own else None
        session.kept |= there.kept
    history, made = gone_on(begun, entries)
    session.go_on(history, log, entries[:made])
    session.kept |= _kept(one, history.now)
    session.prepare(progress)
    said = phrase("Taken up as it was: {made} not saved.", made=counted(made, "step"))
    if made < len(entries):
        rest = counted(len(entries) - made, "step")
        said += phrase(
            " {rest} could not be made again, from “{what}” on.", rest=rest, what=entries[made].what
        )
    return Document(session, one.path, one.head.stage, said, stamp, begun)


def _kept(one: Left, plan: Plan) -> dict[str, bytes]:
    """The large data that were kept since the last saving, whole ones alone."""
    found = {}
    for each in plan.kept:
        with suppress(OSError):
            data = (_data_folder(one.place) / f"{each.id}.parquet").read_bytes()
            if fingerprint(data) == each.fingerprint:
                found[each.id] = data
    return found
