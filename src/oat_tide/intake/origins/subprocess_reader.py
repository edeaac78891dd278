"""Files that a reader may die of are read in a process of its own: what kills that harms nothing here.

A damaged Parquet, or a workbook with one stray cell at its far corner, can ask for terabytes, and no program
catches that. The process is limited in memory, stays warm for the next file, and is stopped with the job.
"""

from __future__ import annotations

import atexit
import importlib
import os
import pickle
import resource
import shutil
import tempfile
import threading
import traceback
from collections.abc import Callable
from contextlib import suppress
from dataclasses import replace
from multiprocessing.connection import Connection
from pathlib import Path
from typing import TYPE_CHECKING, Any

from oat_tide.core.language import phrase
from oat_tide.core.user_error import Progress, UserError, no_progress
from oat_tide.system.child import Child, clear_folders, folder_to_hand_over, receive, send, shelves

if TYPE_CHECKING:
    from oat_tide.intake.source import Source

_LEAST = 2 << 30
"""Bytes that a reader may always have."""
_WAIT = 0.05
"""Seconds from one look whether it is to go on to the next."""
_STEP = 0.01
"""Shares of the work that are told at the least."""
_TRIES = 2
"""How often a file is begun whose reader is ended from outside."""

_READERS = "oat_tide.intake.source", "oat_tide.intake.origins.columnar", "oat_tide.intake.origins.workbook"
"""What is loaded before the first file comes."""

_lock = threading.Lock()
_readers: list[Child] = []
"""The one that is warm, or none."""


def most_memory() -> int:
    """Bytes that a reader may have: half of those of the machine, two gigabytes at the least, or what this
    program itself may have.
    """
    half = max(os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES") // 2, _LEAST)
    _, own = resource.getrlimit(resource.RLIMIT_DATA)
    return half if own == resource.RLIM_INFINITY else min(half, own)


def read_apart(
    name: str, reader: Callable[..., Source], *args: object, progress: Progress = no_progress
) -> Source:
    """What a reader gives, read in the other process; begun once more where that was ended from outside.

    Args:
        name: of the file, for messages.
        reader: (args ..., tell) -> a source; it stands at the top of its module.

    Raises:
        UserError: what the reader raised, that it died of the file, or could not be started.
        Stopped: by way of `tell`.
    """
    why = ""
    for _ in range(_TRIES):
        answer, why = _asked((reader, args), progress)
        if why != "outside":
            break
    if answer is None:
        raise _gone(name, why)
    kind, said = answer
    if kind == "raised":
        raise _gone(name, "itself") if isinstance(said, MemoryError) else said
    return _taken_over(said)


def _asked(question: object, progress: Progress) -> tuple[tuple[str, Any] | None, str]:
    """What the other process answers; None where it is gone in the middle of it, with why."""
    with _lock:
        other = _ready()
        try:
            other.ask(question)
            # It takes as long to load here as there.
            importlib.import_module("polars")
            return _answered(other, progress), ""
        except (EOFError, OSError):
            why = other.why_gone()
            end()
            return None, why
        except BaseException:
            # It was stopped: what the other still does is of no use.
            end()
            raise


def _gone(name: str, why: str) -> UserError:
    """What to say of a reader that is gone, by why it is."""
    if why == "outside":
        return UserError(
            "{name} was not read: twice the process that reads it was ended from outside, by "
            "another program or by the system for want of memory. Close what takes much memory, "
            "and open it again.",
            name=name,
        )
    if why == "unguarded":
        return UserError(
            "{name} was not read: the script that opens it starts a process, in which that "
            "script is read again. Put what the script does under “if __name__ == '__main__':”, "
            "and run it again.",
            name=name,
        )
    if why == "unready":
        return UserError(
            "{name} was not read: the process that reads files could not be started; the log "
            "says why. A script that opens files must be a file of its own, with what it does "
            "under “if __name__ == '__main__':”. Mend that, and open it again.",
            name=name,
        )
    return UserError(
        "{name} could not be read: it is damaged, or asks for more memory than there is for "
        "it ({most_memory} GB). Save it again where it was made, or export it as CSV.",
        name=name,
        most_memory=most_memory() >> 30,
    )


def _answered(other: Child, progress: Progress) -> tuple[str, Any]:
    """What it answers; how far it has come is told meanwhile."""
    share = 0.0
    while True:
        while not other.line.poll(_WAIT):
            progress(share)
        kind, said = other.answer()
        if kind != "told":
            return kind, said
        share = said
        progress(share)


def _ready() -> Child:
    """The process, started where it is not there."""
    if _readers and not _readers[0].alive:
        end()
    if not _readers:
        clear_folders()
        _readers.append(Child(_serve, most_memory()))
    return _readers[0]


def warm() -> None:
    """Start the process, so that the first file need not wait for it."""
    with _lock:
        _ready()


def end() -> None:
    """Have the process gone."""
    while _readers:
        _readers.pop().end()


atexit.register(end)


def _taken_over(told: tuple[str, Source]) -> Source:
    """A source with the lines that were handed over in a folder, which is gone after it."""
    from oat_tide.intake.origins import transfer  # the window opens without the engine

    folder, source = told
    try:
        return replace(source, table=transfer.taken_over(Path(folder)))
    finally:
        shutil.rmtree(folder, ignore_errors=True)


# In the other process.


def _serve(line: Connection, most: int) -> None:
    """Answer one question after another until the line ends."""
    resource.setrlimit(resource.RLIMIT_DATA, (most, most))
    for module in _READERS:
        if not line.poll():
            importlib.import_module(module)
    while True:
        reader, args = receive(line)
        send(line, _read(line, reader, args))


def _read(line: Connection, reader: Callable[..., Source], args: tuple[object, ...]) -> tuple[str, object]:
    import polars as pl

    from oat_tide.intake.table import Table

    last = 0.0

    def progress(share: float) -> None:
        nonlocal last
        if share - last >= _STEP:
            last = share
            send(line, ("told", share))

    try:
        source = reader(*args, progress)
        folder = _handed(source)
    except Exception as error:
        return "raised", _plain(error)
    return "read", (folder, replace(source, table=Table.of(pl.DataFrame())))


def _handed(source: Source) -> str:
    """The folder that the lines of a source were put into.

    Raises:
        UserError: there is no room for them.
    """
    from oat_tide.intake.origins import transfer

    for shelf in shelves():
        folder = folder_to_hand_over(shelf)
        try:
            transfer.hand_over(source.table, Path(folder))
            return folder
        except OSError as error:
            # The first of them is small on some machines.
            shutil.rmtree(folder, ignore_errors=True)
            said = str(error)
    raise UserError(
        "{name} was read, and its lines found no room in {folder}: {said}. Make room "
        "there, and open it again.",
        name=source.name,
        folder=tempfile.gettempdir(),
        said=said,
    )


def _plain(error: Exception) -> Exception:
    """An error as it travels, with where it came from; one that cannot is told in its words."""
    if not isinstance(error, UserError | MemoryError):
        with suppress(TypeError):
            error.add_note(
                phrase("In the process that reads files:\n") + "".join(traceback.format_exception(error))
            )
    try:
        pickle.loads(pickle.dumps(error))  # a round trip of our own
    except Exception:
        return RuntimeError(f"{type(error).__name__}: {error}")
    return error
