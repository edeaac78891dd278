"""Errors that nobody expected: logged, said in words, and the plan kept safe."""

from __future__ import annotations

import logging
import sys
import threading
from logging.handlers import RotatingFileHandler
from pathlib import Path
from types import TracebackType
from typing import TYPE_CHECKING

import platformdirs

from oat_tide.documents import save_document
from oat_tide.plan.container import SUFFIX
from oat_tide.session import Session

if TYPE_CHECKING:
    from oat_tide.desk.window.window import Window

_LOG_BYTES, _LOGS = 1_000_000, 3
"""How large a log grows before a new one is begun, and how many older ones are kept."""
_log = logging.getLogger("oat_tide")
_log.addHandler(logging.NullHandler())


def log_path() -> Path:
    """The file that unexpected errors are logged in."""
    return Path(platformdirs.user_log_dir("oat-tide", ensure_exists=True)) / "oat-tide.log"


def rescue_path() -> Path:
    """The file that the plan is kept safe in after an unexpected error."""
    return Path(platformdirs.user_state_dir("oat-tide", ensure_exists=True)) / f"rescued{SUFFIX}"


def start_log() -> None:
    """Log to the file from now on."""
    handler = RotatingFileHandler(log_path(), maxBytes=_LOG_BYTES, backupCount=_LOGS, encoding="utf-8")
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(message)s"))
    _log.addHandler(handler)
    _log.setLevel(logging.INFO)


def log_fault(error: BaseException, session: Session | None, stage: str) -> str:
    """Log an error and rescue the plan; returns what to tell the user."""
    _log.error("unexpected", exc_info=error)
    said = (
        f"Something went wrong that should not have ({type(error).__name__}). It is logged in {log_path()}."
    )
    if session is None:
        return said
    try:
        save_document(session, stage, rescue_path())
    except BaseException as second:  # the plan in the window is still there
        _log.error("rescue failed", exc_info=second)
        return f"{said} The plan is still open: save it under another name."
    return f"{said} The plan is safe, and kept in {rescue_path()} as well."


def catch_all(window: Window) -> None:
    """Have every error that nothing catches logged and told instead of shown as a traceback.

    One of a thread beside the window is logged alone: no work of the user hangs on it.
    """

    def caught(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        if issubclass(kind, KeyboardInterrupt):
            window.close()
            return
        window.fault(error)

    def caught_beside(what: threading.ExceptHookArgs) -> None:
        _log.error("unexpected, beside the window", exc_info=what.exc_value)

    sys.excepthook = caught
    threading.excepthook = caught_beside
