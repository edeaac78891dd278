"""Processes of our own: each has a line to its parent, and ends with it, however that ends."""

from __future__ import annotations

import faulthandler
import multiprocessing as mp
import os
import pickle
import shutil
import signal
import tempfile
import threading
from collections.abc import Callable
from contextlib import suppress
from multiprocessing.connection import Connection, wait
from pathlib import Path
from typing import Any

from oat_tide.system import log

READY = "ready"
"""What a process says first."""
_UNGUARDED = 77
"""The exit code of a process in which the script of its parent would start another one."""
_OUTSIDE = {signal.SIGKILL, signal.SIGTERM, signal.SIGHUP, signal.SIGINT, signal.SIGQUIT}
"""What ends a process that has done nothing for it."""
_SHELF = Path("/dev/shm")
"""Where much is handed over, where there is such a place."""
_FOLDER = "oat-tide-lines-{}-"
_LAST = 5.0
"""Seconds that the end of a process may take."""


class Child:
    """A process that answers on a line.

    Args:
        serve: (line, *args) -> nothing, called there; it stands at the top of its module.

    Attributes:
        line: to it.
    """

    def __init__(self, serve: Callable[..., None], *args: object) -> None:
        if getattr(mp.current_process(), "_inheriting", False):
            # The script that started this process is read here, and starts another one: so on without end.
            os._exit(_UNGUARDED)
        context = mp.get_context("spawn")
        self.line, theirs = context.Pipe()
        self._is_ready = False
        self.process = context.Process(target=_begin, args=(serve, theirs, *args), daemon=True)
        self.process.start()
        theirs.close()

    @property
    def alive(self) -> bool:
        """Whether it is there."""
        return self.process.is_alive()

    def ask(self, what: object) -> None:
        """Send something. Raises OSError where it is gone."""
        send(self.line, what)

    def answer(self) -> Any:
        """What it says next, waited for. Raises EOFError or OSError where it is gone."""
        said = receive(self.line)
        if said == READY:
            self._is_ready = True
            return self.answer()
        return said

    def why_gone(self) -> str:
        """Why it is gone: "outside", "unguarded", "unready", or "itself" for what it was doing."""
        self.process.join(_LAST)
        code = self.process.exitcode or 0
        if -code in _OUTSIDE:
            return "outside"
        if self._is_ready or self._said_ready():
            return "itself"
        return "unguarded" if code == _UNGUARDED else "unready"

    def _said_ready(self) -> bool:
        with suppress(EOFError, OSError):
            return bool(self.line.poll() and receive(self.line) == READY)
        return False

    def end(self) -> None:
        """Have it gone, with all that it was handing over."""
        self.process.kill()
        self.process.join(_LAST)
        self.line.close()
        clear_folders(self.process.pid)


def send(line: Connection, what: object) -> None:
    """Send something on a line; large arrays go as they lie, so that other threads are not kept waiting."""
    arrays: list[pickle.PickleBuffer] = []
    told = pickle.dumps(what, protocol=5, buffer_callback=arrays.append)
    line.send_bytes(pickle.dumps((told, len(arrays))))
    for each in arrays:
        line.send_bytes(each.raw())


def receive(line: Connection) -> Any:
    """What was sent next, waited for; it comes from a process of our own."""
    told, many = pickle.loads(line.recv_bytes())
    return pickle.loads(told, buffers=[line.recv_bytes() for _ in range(many)])


def folder_to_hand_over(within: Path | None) -> str:
    """A new folder of this process, gone with it."""
    return tempfile.mkdtemp(prefix=_FOLDER.format(os.getpid()), dir=within)


def shelves() -> tuple[Path | None, ...]:
    """Return where such folders may be, the quickest first."""
    return (_SHELF, None) if os.access(_SHELF, os.W_OK) else (None,)


def clear_folders(owner: int | None = None) -> None:
    """Take away what a process handed over and nobody took; by default what all did that are gone."""
    for shelf in shelves():
        whose = _FOLDER.format("*" if owner is None else owner)
        for folder in Path(shelf or tempfile.gettempdir()).glob(f"{whose}*"):
            number = folder.name.removeprefix(_FOLDER.partition("{")[0]).partition("-")[0]
            if owner is not None or not (number.isdigit() and is_there(int(number))):
                shutil.rmtree(folder, ignore_errors=True)


def is_there(process: int) -> bool:
    """Whether there is a process of a number."""
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except (PermissionError, OverflowError):
        return True
    return True


# In the other process.


def _begin(serve: Callable[..., None], line: Connection, *args: object) -> None:
    # Ctrl+C in a terminal is sent to all its processes: what it means is for the first of them to say.
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    threading.Thread(target=_end_with_parent, daemon=True).start()
    _speak_into_log()
    send(line, READY)
    with suppress(EOFError, BrokenPipeError, ConnectionResetError):
        serve(line, *args)
    # Whichever notices first that the line has ended, this or the one that waits for the parent.
    clear_folders(os.getpid())


def _end_with_parent() -> None:
    parent = mp.parent_process()
    assert parent is not None, "it was started by one"
    wait([parent.sentinel])
    clear_folders(os.getpid())
    os._exit(0)


def _speak_into_log() -> None:
    """What is written to the terminal from here goes into the log, what ends this process above all."""
    nothing = os.open(os.devnull, os.O_RDWR)
    try:
        said = os.open(log.path(), os.O_WRONLY | os.O_APPEND | os.O_CREAT, 0o600)
    except OSError:
        said = nothing
    os.dup2(nothing, 0)
    os.dup2(nothing, 1)
    os.dup2(said, 2)
    faulthandler.enable()
