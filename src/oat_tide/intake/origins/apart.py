"""Files that a reader may die of are read in a process of its own: what kills that harms nothing here.

A damaged Parquet, or a workbook with one stray cell at its far corner, can ask for terabytes, and no program
catches that. The process is limited in memory, stays warm for the next file, and is stopped with the job.
"""

from __future__ import annotations

import atexit
import importlib
import multiprocessing as mp
import os
import pickle
import resource
import shutil
import tempfile
import threading
from collections.abc import Callable
from dataclasses import dataclass, replace
from multiprocessing.connection import Connection
from pathlib import Path
from typing import TYPE_CHECKING, Any

from oat_tide.core.trouble import Tell, Trouble, unheard

if TYPE_CHECKING:
    from oat_tide.intake.source import Source

_LEAST = 2 << 30
"""Bytes that a reader may always have."""
_WAIT = 0.05
"""Seconds from one look whether it is to go on to the next."""
_STEP = 0.01
"""Shares of the work that are told at the least."""
_SHELF = Path("/dev/shm")
"""Where what was read is handed over, where there is such a place."""

_READERS = "oat_tide.intake.source", "oat_tide.intake.origins.columnar", "oat_tide.intake.origins.workbook"
"""What is loaded before the first file comes."""

_lock = threading.Lock()
_readers: list[_Reader] = []
"""The one that is warm, or none."""


@dataclass(frozen=True, slots=True)
class _Reader:
    """The process, and the line to it."""

    process: Any
    line: Connection


def most_memory() -> int:
    """Bytes that a reader may have: half of those of the machine, two gigabytes at the least, or what this
    program itself may have.
    """
    half = max(os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES") // 2, _LEAST)
    _, own = resource.getrlimit(resource.RLIMIT_DATA)
    return half if own == resource.RLIM_INFINITY else min(half, own)


def read_apart(name: str, reader: Callable[..., Source], *args: object, tell: Tell = unheard) -> Source:
    """What a reader gives, read in the other process.

    Args:
        name: of the file, for messages.
        reader: (args ..., tell) -> a source; it stands at the top of its module.

    Raises:
        Trouble: what the reader raised, or that it died of the file.
        Stopped: by way of `tell`.
    """
    with _lock:
        other = _ready()
        try:
            other.line.send_bytes(pickle.dumps((reader, args)))
            # It takes as long to load here as there.
            importlib.import_module("polars")
            kind, said = _answered(other, tell)
        except (EOFError, OSError) as error:
            _end()
            raise _deadly(name) from error
        except BaseException:
            # It was stopped: what the other still does is of no use.
            _end()
            raise
    if kind == "raised":
        raise _deadly(name) if isinstance(said, MemoryError) else said
    return _taken_over(said)


def _deadly(name: str) -> Trouble:
    return Trouble(
        f"{name} could not be read: it is damaged, or asks for more memory than there is for it "
        f"({most_memory() >> 30} GB). Save it anew where it was made, or export it as CSV."
    )


def _answered(other: _Reader, tell: Tell) -> tuple[str, Any]:
    """What it answers; how far it has come is told meanwhile."""
    share = 0.0
    while True:
        while not other.line.poll(_WAIT):
            tell(share)
        kind, said = pickle.loads(other.line.recv_bytes())  # it comes from our own process
        if kind != "told":
            return kind, said
        share = said
        tell(share)


def _ready() -> _Reader:
    """The process, started where it is not there."""
    if _readers and not _readers[0].process.is_alive():
        _end()
    if not _readers:
        context = mp.get_context("spawn")
        mine, theirs = context.Pipe()
        process = context.Process(target=_serve, args=(theirs, most_memory()), daemon=True)
        process.start()
        theirs.close()
        _readers.append(_Reader(process, mine))
    return _readers[0]


def warm() -> None:
    """Start the process, so that the first file need not wait for it."""
    with _lock:
        _ready()


def _end() -> None:
    """Have the process gone."""
    while _readers:
        gone = _readers.pop()
        gone.process.kill()
        gone.process.join()
        gone.line.close()


atexit.register(_end)


def _taken_over(told: tuple[str, Source]) -> Source:
    """A source with the lines that were handed over in a folder, which is gone after it."""
    from oat_tide.intake.origins import handed  # the window opens without the engine

    folder, source = told
    try:
        return replace(source, table=handed.taken_over(Path(folder)))
    finally:
        shutil.rmtree(folder, ignore_errors=True)


# In the other process.


def _serve(line: Connection, most: int) -> None:
    """Answer one question after another until the line ends."""
    resource.setrlimit(resource.RLIMIT_DATA, (most, most))
    # What it dies with is told by its parent, in words.
    os.dup2(os.open(os.devnull, os.O_WRONLY), 2)
    for module in _READERS:
        if not line.poll():
            importlib.import_module(module)
    while True:
        try:
            reader, args = pickle.loads(line.recv_bytes())  # it comes from our own process
        except (EOFError, OSError):
            return
        line.send_bytes(pickle.dumps(_read(line, reader, args)))


def _read(line: Connection, reader: Callable[..., Source], args: tuple[object, ...]) -> tuple[str, object]:
    import polars as pl

    from oat_tide.intake.table import Table

    last = 0.0

    def tell(share: float) -> None:
        nonlocal last
        if share - last >= _STEP:
            last = share
            line.send_bytes(pickle.dumps(("told", share)))

    try:
        source = reader(*args, tell)
        folder = _handed(source)
    except Exception as error:
        return "raised", _plain(error)
    return "read", (folder, replace(source, table=Table.of(pl.DataFrame())))


def _handed(source: Source) -> str:
    """The folder that the lines of a source were put into.

    Raises:
        Trouble: there is no room for them.
    """
    from oat_tide.intake.origins import handed

    shelf = str(_SHELF) if os.access(_SHELF, os.W_OK) else None
    for place in dict.fromkeys((shelf, None)):
        folder = tempfile.mkdtemp(prefix="oat-tide-lines-", dir=place)
        try:
            handed.hand_over(source.table, Path(folder))
            return folder
        except OSError as error:
            # The first of them is small on some machines.
            shutil.rmtree(folder, ignore_errors=True)
            said = str(error)
    raise Trouble(
        f"{source.name} was read, and its lines found no room in {tempfile.gettempdir()}: {said}. "
        "Make room there, and open it again."
    )


def _plain(error: Exception) -> Exception:
    """An error as it travels; one that cannot is told in its words."""
    try:
        pickle.loads(pickle.dumps(error))  # a round trip of our own
    except Exception:
        return RuntimeError(f"{type(error).__name__}: {error}")
    return error
