"""What can be asked of the window from its menus and by keys."""

from __future__ import annotations

import functools
from collections.abc import Callable
from typing import Any, Protocol

from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QMenu, QWidgetAction

from oat_tide.desk.deck.host import Host
from oat_tide.desk.leaving.publishing import Publishing
from oat_tide.desk.leaving.saving import Saving
from oat_tide.desk.look.plain import bare
from oat_tide.desk.look.text_line import TextLine
from oat_tide.desk.opening.gather import Gather
from oat_tide.desk.window.help import Help
from oat_tide.plan.edits import edit
from oat_tide.plan.paths import P
from oat_tide.session import Session
from oat_tide.stages import ON_RAIL


class CommandsHost(Host, Protocol):
    """A window whose parts can be asked."""

    gather: Gather
    saving: Saving
    publishing: Publishing
    help: Help

    def addAction(self, action: QAction) -> Any:
        """Have an action act by its keys."""

    def ask_open(self) -> None:
        """Ask for a file to open."""

    def open_demo(self) -> None:
        """Open the plan that ships."""

    def undo(self) -> None:
        """Take the last step back."""

    def redo(self) -> None:
        """Make the step that was taken back."""

    def switch_scheme(self) -> None:
        """Go from light to dark, or back."""

    def step_as_of(self, periods: int) -> None:
        """Move the as-of."""

    def see_all(self) -> None:
        """See all periods."""

    def escape(self) -> None:
        """Let go of what is held."""

    def close(self) -> bool:
        """Close the window, once nothing is lost by it."""


class Commands:
    """The actions of the window and the menus they stand in.

    Attributes:
        plan_menu: the menu of the plan.
        publish_menu: the menu of what leaves the window.
        title: the plan's title, to be written over in the menu of the plan.
    """

    def __init__(self, window: CommandsHost) -> None:
        self._window = window
        self.plan_menu, self.publish_menu = QMenu(window.window()), QMenu(window.window())
        self.title = TextLine()
        self.title.setAccessibleName("Title of the plan")
        self.title.setPlaceholderText("Title of the plan")
        self.title.returnPressed.connect(self._rename)
        keys, plan = QKeySequence.StandardKey, self.plan_menu
        named = QWidgetAction(window.window())
        named.setDefaultWidget(self.title)
        plan.addAction(named)
        self._add(plan, "Open a sales file or plan…", window.ask_open, keys.Open)
        sources = QMenu("Open other sources", window.window())
        plan.addMenu(sources)
        self._add(sources, "A folder of files…", window.gather.ask_folder)
        self._add(sources, "Several files as one…", window.gather.ask_files)
        self._add(sources, "A database by its address…", window.gather.ask_address)
        self._add(sources, "Figures typed or pasted…", window.gather.ask_typed, "Ctrl+Shift+V")
        self._add(plan, "Open the demo plan", window.open_demo)
        plan.addSeparator()
        self.of_plan = [
            self._add(plan, "Look for newer figures", window.gather.look_again, "F5"),
            self._add(plan, "Days closed or without stock…", window.gather.ask_days),
            self._add(plan, "Levels from a file…", window.gather.ask_levels),
            self._add(plan, "First figures from a file…", window.gather.ask_firsts),
        ]
        self.query = self._add(plan, "Query the database…", window.gather.ask_query)
        plan.addSeparator()
        self.save = self._add(plan, "Save", window.saving.save, keys.Save)
        self.save_as = self._add(plan, "Save as…", window.saving.save_as, "Ctrl+Shift+S")
        plan.addSeparator()
        self.undo = self._add(plan, "Undo", window.undo, keys.Undo)
        self.redo = self._add(plan, "Redo", window.redo, "Ctrl+Shift+Z", "Ctrl+Y")
        self.log = self._add(plan, "Log of what was done", window.saving.show_log, "Ctrl+L")
        self.versions = self._add(plan, "Earlier versions…", window.saving.ask_version)
        plan.addSeparator()
        self._add(plan, "Light or dark", window.switch_scheme)
        self.export = self._add(
            self.publish_menu, "Figures of this view as CSV…", window.publishing.publish_csv, "Ctrl+E"
        )
        self.picture = self._add(
            self.publish_menu, "Picture of this view…", window.publishing.ask_picture, "Ctrl+Shift+E"
        )
        self._add(None, "", window.bring_home, "Ctrl+Home")
        self._add(None, "", functools.partial(window.step_as_of, -1), "Ctrl+Left")
        self._add(None, "", functools.partial(window.step_as_of, 1), "Ctrl+Right")
        self._add(None, "", window.see_all, "Ctrl+0")
        self._add(None, "", window.escape, "Escape")
        self._add(plan, "Keys and words", window.help.switch, "F1")
        self._add(plan, "Close the window", window.close, keys.Quit)
        for place, name in enumerate(ON_RAIL, 1):
            self._add(None, "", functools.partial(window.show_stage, name), f"Ctrl+{place}")

    def _add(self, menu: QMenu | None, text: str, act: Callable[[], Any], *keys: Any) -> QAction:
        """An action of the window, and of a menu unless it is only for the keys."""
        action = QAction(text, self._window.window())
        action.setShortcuts([QKeySequence(key) for key in keys])
        action.triggered.connect(lambda checked: act())
        self._window.addAction(action)
        if menu is not None:
            menu.addAction(action)
        return action

    def _rename(self) -> None:
        title = self.title.text().strip()
        if title:
            self._window.do(edit(P.title, title))
        # Written anew the line has nothing to undo: Ctrl+Z is the plan's again.
        self.title.setText(self.title.text())
        self.plan_menu.close()

    def show_session(self, session: Session | None) -> None:
        """Offer what makes sense with the plan as it is, or with none."""
        back = session.history.back if session else ()
        ahead = session.history.ahead if session else ()
        self.undo.setEnabled(bool(back))
        self.redo.setEnabled(bool(ahead))
        self.undo.setText(bare(f"Undo {back[-1].change}") if back else "Undo")
        self.redo.setText(bare(f"Redo {ahead[0].change}") if ahead else "Redo")
        for action in (self.save, self.save_as, self.log, self.export, self.picture, *self.of_plan):
            action.setEnabled(session is not None)
        self.query.setVisible(session is not None and bool(session.source.tables))
        self.title.setEnabled(session is not None)
        title = session.plan.title if session else ""
        if title != self.title.text():
            self.title.setText(title)
