"""Errors that nobody expected: logged, said in words, and the plan kept safe."""

from __future__ import annotations

import sys
import threading
from collections.abc import Callable
from types import TracebackType

from oat_tide.core.language import phrase
from oat_tide.journal import Journal
from oat_tide.system import log
from oat_tide.system.log import LOG


def log_fault(error: BaseException, journal: Journal | None = None) -> str:
    """Log an error and write down what is not saved; returns what to tell the user."""
    LOG.error("unexpected", exc_info=error)
    said = phrase(
        "Something went wrong that should not have ({name}). It is logged in {path}.",
        name=type(error).__name__,
        path=log.path(),
    )
    if journal is None:
        return said
    journal.write()
    if journal.failed:
        return phrase(
            "{said} The plan is still open: save it under another name ({failed}).",
            said=said,
            failed=journal.failed,
        )
    return phrase(
        "{said} The plan is safe: what is not saved is kept, and offered when it is opened again.", said=said
    )


def catch_all(progress: Callable[[BaseException], None]) -> None:
    """Have every error that nothing catches logged and told instead of shown as a traceback.

    One of a thread beside the window is logged alone: no work of the user hangs on it.

    Args:
        tell: logs an error and tells the user of it.
    """

    def caught(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        progress(error)

    def caught_beside(what: threading.ExceptHookArgs) -> None:
        LOG.error("unexpected, beside the window", exc_info=what.exc_value)

    sys.excepthook = caught
    threading.excepthook = caught_beside
