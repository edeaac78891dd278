"""What can be asked of the window from its menus and by keys: a table, and the actions made of it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Any, Literal, Protocol

from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QMenu, QWidgetAction

from oat_tide.core.language import phrase
from oat_tide.desk.deck.host import Host
from oat_tide.desk.leaving.publishing import Publishing
from oat_tide.desk.leaving.saving import Saving
from oat_tide.desk.look.plain import bare
from oat_tide.desk.look.text_line import TextLine
from oat_tide.desk.opening.source_dialogs import SourceDialogs
from oat_tide.plan.edits import edit
from oat_tide.plan.paths import P
from oat_tide.session import Session
from oat_tide.stages import ON_RAIL


class CommandsHost(Host, Protocol):
    """A window whose parts can be asked."""

    source_dialogs: SourceDialogs
    saving: Saving
    publishing: Publishing

    def addAction(self, action: QAction) -> Any:
        """Have an action act by its keys."""

    def ask_open(self) -> None:
        """Ask for a file to open."""

    def open_demo(self) -> None:
        """Open the plan that ships."""

    def undo(self) -> None:
        """Undo the last step."""

    def redo(self) -> None:
        """Make the step again that was undone."""

    def switch_scheme(self) -> None:
        """Go from light to dark, or back."""

    def step_as_of(self, periods: int) -> None:
        """Move the as-of."""

    def see_all(self) -> None:
        """See all periods."""

    def escape(self) -> None:
        """Let go of what is held."""

    def switch_help(self) -> None:
        """Show the help, or take it away."""

    def close(self) -> bool:
        """Close the window, once nothing is lost by it."""


Act = Callable[[CommandsHost], Any]
Menu = Literal["plan", "sources", "publish", ""]


@dataclass(frozen=True, slots=True)
class Command:
    """One thing that can be asked of the window.

    Attributes:
        act: what it does.
        text: what it is called in its menu, and in the help.
        keys: by which it is asked.
        menu: where it is; empty for what has keys alone.
        name: by which its action is found; empty where nobody looks for it.
        of_plan: whether it takes a plan.
        begins: whether a line in the menu stands before it.
    """

    act: Act
    text: str
    keys: tuple[str, ...] = ()
    menu: Menu = ""
    name: str = ""
    of_plan: bool = False
    begins: bool = False


def _plan(
    text: str, act: Act, *keys: str, name: str = "", of_plan: bool = True, begins: bool = False
) -> Command:
    return Command(act, text, keys, "plan", name, of_plan, begins)


def _source(text: str, act: Act, *keys: str) -> Command:
    return Command(act, text, keys, "sources")


def _publish(text: str, act: Act, *keys: str) -> Command:
    return Command(act, text, keys, "publish", of_plan=True)


def _by_keys(text: str, act: Act, *keys: str) -> Command:
    return Command(act, text, keys)


COMMANDS = (
    _plan(phrase("Open a sales file or plan…"), lambda window: window.ask_open(), "Ctrl+O", of_plan=False),
    _source(phrase("A folder of files…"), lambda window: window.source_dialogs.ask_folder()),
    _source(phrase("Several files as one…"), lambda window: window.source_dialogs.ask_files()),
    _source(phrase("A database by its address…"), lambda window: window.source_dialogs.ask_address()),
    _source(
        phrase("Figures typed or pasted…"), lambda window: window.source_dialogs.ask_typed(), "Ctrl+Shift+V"
    ),
    _plan(phrase("Open the demo plan"), lambda window: window.open_demo(), of_plan=False),
    _plan(
        phrase("Refresh from sources"), lambda window: window.source_dialogs.look_again(), "F5", begins=True
    ),
    _plan(phrase("Days closed or without stock…"), lambda window: window.source_dialogs.ask_days()),
    _plan(phrase("Hierarchy from a file…"), lambda window: window.source_dialogs.ask_levels()),
    _plan(phrase("First-published figures from a file…"), lambda window: window.source_dialogs.ask_firsts()),
    _plan(phrase("Query the database…"), lambda window: window.source_dialogs.ask_query(), name="query"),
    _plan(phrase("Save"), lambda window: window.saving.save(), "Ctrl+S", name="save", begins=True),
    _plan(phrase("Save as…"), lambda window: window.saving.save_as(), "Ctrl+Shift+S"),
    _plan(phrase("Undo"), lambda window: window.undo(), "Ctrl+Z", name="undo", begins=True),
    _plan(phrase("Redo"), lambda window: window.redo(), "Ctrl+Shift+Z", "Ctrl+Y", name="redo"),
    _plan(phrase("Log of what was done"), lambda window: window.saving.show_log(), "Ctrl+L"),
    _plan(phrase("Earlier versions…"), lambda window: window.saving.ask_version(), of_plan=False),
    _plan(phrase("Light or dark"), lambda window: window.switch_scheme(), of_plan=False, begins=True),
    _publish(
        phrase("Figures of this view as CSV…"), lambda window: window.publishing.publish_csv(), "Ctrl+E"
    ),
    _publish(phrase("Picture of this view…"), lambda window: window.publishing.ask_picture(), "Ctrl+Shift+E"),
    _by_keys(phrase("back to the latest complete period"), lambda window: window.bring_home(), "Ctrl+Home"),
    _by_keys(phrase("the as-of one period earlier"), lambda window: window.step_as_of(-1), "Ctrl+Left"),
    _by_keys(phrase("the as-of one period later"), lambda window: window.step_as_of(1), "Ctrl+Right"),
    _by_keys(phrase("the complete history in sight"), lambda window: window.see_all(), "Ctrl+0"),
    _by_keys(
        phrase("close a message, this help or a kept working; clear the selection"),
        lambda window: window.escape(),
        "Escape",
    ),
    _plan(phrase("Keys and words"), lambda window: window.switch_help(), "F1", of_plan=False),
    _plan(phrase("Close the window"), lambda window: window.close(), "Ctrl+Q", of_plan=False),
    *(
        _by_keys(stage.title, lambda window, name=name: window.show_stage(name), f"Ctrl+{place}")  # type: ignore[misc]
        for place, (name, stage) in enumerate(ON_RAIL.items(), 1)
    ),
)


class Commands:
    """The actions of the window and the menus they stand in.

    Attributes:
        plan_menu: the menu of the plan.
        publish_menu: the menu of what leaves the window.
        title: the plan's title, to be written over in the menu of the plan.
        named: the actions that have a name.
    """

    def __init__(self, window: CommandsHost) -> None:
        self._window = window
        self.plan_menu, self.publish_menu, sources = (QMenu(window.window()) for _ in range(3))
        self.title = TextLine()
        self.title.setAccessibleName(phrase("Title of the plan"))
        self.title.setPlaceholderText(phrase("Title of the plan"))
        self.title.returnPressed.connect(self._rename)
        titled = QWidgetAction(window.window())
        titled.setDefaultWidget(self.title)
        self.plan_menu.addAction(titled)
        sources.setTitle(phrase("Open other sources"))
        menus = {"plan": self.plan_menu, "sources": sources, "publish": self.publish_menu}
        self.named: dict[str, QAction] = {}
        self._of_plan: list[QAction] = []
        for command in COMMANDS:
            menu = menus.get(command.menu)
            if command.begins and menu is not None:
                menu.addSeparator()
            if command.menu == "sources" and not sources.actions():
                self.plan_menu.addMenu(sources)
            self._add(command, menu)

    def _add(self, command: Command, menu: QMenu | None) -> None:
        action = QAction(command.text, self._window.window())
        action.setShortcuts([QKeySequence(key) for key in command.keys])
        action.triggered.connect(partial(self._ask, command.act))
        self._window.addAction(action)
        if menu is not None:
            menu.addAction(action)
        if command.name:
            self.named[command.name] = action
        if command.of_plan:
            self._of_plan.append(action)

    def _ask(self, act: Act, checked: bool) -> None:
        act(self._window)

    def _rename(self) -> None:
        title = self.title.text().strip()
        if title:
            self._window.do(edit(P.title, title))
        # Written anew the line has nothing to undo: Ctrl+Z is the plan's again.
        self.title.setText(self.title.text())
        self.plan_menu.close()

    def show_session(self, session: Session | None) -> None:
        """Offer what makes sense with the plan as it is, or with none."""
        for action in self._of_plan:
            action.setEnabled(session is not None)
        back = session.history.back[-1:] if session else ()
        ahead = session.history.ahead[:1] if session else ()
        for name, said, steps in (("undo", phrase("Undo"), back), ("redo", phrase("Redo"), ahead)):
            action = self.named[name]
            action.setEnabled(bool(steps))
            action.setText(bare(" ".join([said, *(str(step.change) for step in steps)])))
        self.named["query"].setVisible(session is not None and bool(session.source.tables))
        self.title.setEnabled(session is not None)
        title = session.plan.title if session else ""
        if title != self.title.text():
            self.title.setText(title)
