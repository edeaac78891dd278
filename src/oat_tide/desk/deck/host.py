"""What those who open, save and publish need of the window that they stand in."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any, Protocol

from PyQt6.QtWidgets import QWidget

from oat_tide.desk.deck.deck_view import DeckView
from oat_tide.desk.work.jobs import Runner
from oat_tide.desk.work.strip import Strip
from oat_tide.documents import Document
from oat_tide.plan.edits import Edit
from oat_tide.plan.plan import Plan
from oat_tide.session import Session


class Host(Protocol):
    """A window with a plan in it, or none.

    Attributes:
        session: the open plan with its data, or None.
        path: the plan file it is kept in, or None.
        stage: the stage in sight.
        strip: what is said and asked above the work.
        runner: has work done off this thread.
        deck: what shows the stage in sight.
    """

    session: Session | None
    path: Path | None
    stage: str
    strip: Strip
    runner: Runner
    deck: DeckView

    @property
    def changed(self) -> bool:
        """Whether the plan differs from what is saved."""

    def window(self) -> QWidget | None:
        """The window itself, for dialogs to stand before."""

    def do(self, change: Edit) -> None:
        """Make a change."""

    def refresh(self) -> None:
        """Show what there is now."""

    def report(self, error: BaseException) -> None:
        """Tell the user what went wrong."""

    def leave(self, then: Callable[[], Any]) -> None:
        """Go on once nothing is lost by it."""

    def open(self, path: Path) -> None:
        """Open a file, once nothing is lost by it."""

    def open_now(self, path: Path, copy: bool = False) -> None:
        """Open a file."""

    def show_document(self, document: Document) -> None:
        """Show what was opened."""

    def show_stage(self, name: str) -> None:
        """Have a stage in sight."""

    def bring_home(self) -> None:
        """Bring the as-of home."""

    @staticmethod
    def is_demo(path: Path) -> bool:
        """Whether a file is the one that ships."""

    def saved_as(self, path: Path, plan: Plan) -> None:
        """A plan was saved."""
