"""How the application is styled, and how it goes from light to dark."""

from __future__ import annotations

import re
import time
from collections import deque
from collections.abc import Callable
from pathlib import Path
from typing import cast

from PyQt6 import sip
from PyQt6.QtCore import QEvent
from PyQt6.QtGui import QPalette
from PyQt6.QtWidgets import QApplication, QWidget

from oat_tide.desk.look.palette import choose, font, palette
from oat_tide.desk.look.turns import Turn

_LATER, _SLICE = 20, 0.004
"""Milliseconds until what is out of sight is styled, after the paint of what is in sight; seconds a turn."""
BAR = 9
"""Pixels across of a bar that scrolls."""
_FAR = 99
"""Steps from a widget to the window that it stands in, where that is not in sight."""
_place = cast("Callable[[QWidget], int]", sip.unwrapinstance)
_Role = QPalette.ColorRole
_NAMED = {
    "ink": _Role.Text, "quiet": _Role.PlaceholderText, "faint": _Role.Midlight, "kelp": _Role.Highlight,
    "kelp_soft": _Role.Light, "rust": _Role.LinkVisited, "paper": _Role.HighlightedText,
    "mist": _Role.Button, "sheet": _Role.Window, "card": _Role.Base, "head": _Role.Dark,
    "head_text": _Role.BrightText, "head_moved": _Role.Shadow, "caution": _Role.Mid,
}  # fmt: skip
"""The colours that the sheet names, and the role that each of them has in it."""
_BESIDE = {
    _Role.WindowText: "ink", _Role.ButtonText: "ink", _Role.Link: "kelp", _Role.ToolTipBase: "card",
    _Role.ToolTipText: "ink", _Role.AlternateBase: "mist",
}  # fmt: skip
"""The other roles, for what Qt paints by itself."""


def use(dark: bool) -> None:
    """Choose the palette and style the application by it."""
    choose(dark)
    application = QApplication.instance()
    if isinstance(application, QApplication):
        (application.findChild(_Style) or _Style(application)).take_palette()


def is_whole() -> bool:
    """Whether everything is styled by the palette in use."""
    return _under_way() is None


def hasten() -> None:
    """Style next what has come in sight since a switch; what is in sight is painted when all of it is."""
    style = _under_way()
    if style is not None:
        style.hasten()


def _under_way() -> _Style | None:
    """The style, while something is still to be styled by it."""
    application = QApplication.instance()
    style = application.findChild(_Style) if application else None
    return style if style is not None and style.isActive() else None


class _Style(Turn):
    """The style of the application.

    The sheet names roles of Qt's palette in the place of colours and is set once: to set another one has
    everything laid out anew, which takes ten times as long as to look its colours up.
    """

    def __init__(self, application: QApplication) -> None:
        super().__init__(application, self._style_some, again=True)
        self._application = application
        # By their places in memory: of a widget that Qt made itself nobody is told when it goes.
        self._in_sight: deque[int] = deque()
        self._beyond: deque[int] = deque()
        application.setFont(font())
        application.setStyleSheet(_sheet())

    def take_palette(self) -> None:
        """Style by the palette in use, a few widgets a turn; what is in sight is painted when all of it is."""
        self._application.setPalette(_roles())
        ordered = sorted((_hidden(widget), _place(widget)) for widget in self._application.allWidgets())
        self._in_sight = deque(place for hidden, place in ordered if not hidden)
        self._beyond = deque(place for hidden, place in ordered if hidden)
        self._let_paint(not self._in_sight)
        self.start(0)

    def hasten(self) -> None:
        """Take what is in sight by now out of what was to wait."""
        shown = {_place(widget) for widget in self._application.allWidgets() if widget.isVisible()}
        self._in_sight += [place for place in self._beyond if place in shown]
        self._beyond = deque(place for place in self._beyond if place not in shown)
        if self._in_sight:
            self._let_paint(False)
            self.start(0)

    def _let_paint(self, allowed: bool) -> None:
        for window in self._application.topLevelWidgets():
            window.setUpdatesEnabled(allowed)
            if allowed and window.isVisible():
                # Qt asks for no paint where one is due already, though it came due while none was allowed.
                self._application.postEvent(window, QEvent(QEvent.Type.UpdateRequest))

    def _style_some(self) -> None:
        """Style what there is time for before the next frame."""
        if self._in_sight:
            self._style(self._in_sight)
            if not self._in_sight:
                self._let_paint(True)
                self.setInterval(_LATER)
        else:
            self._style(self._beyond)
            if not self._beyond:
                self.stop()

    def _style(self, waiting: deque[int]) -> None:
        """Style widgets for as long as a slice; what was made meanwhile is styled so already."""
        style = self._application.style()
        assert style is not None
        there = {_place(widget): widget for widget in self._application.allWidgets()}
        end = time.perf_counter() + _SLICE
        while waiting and time.perf_counter() < end:
            widget = there.get(waiting.popleft())
            if widget is not None:
                style.polish(widget)


def _hidden(widget: QWidget) -> int:
    """How many widgets, itself among them, would have to be shown for a widget to be in sight."""
    hidden, above = 0, widget
    while not above.isVisible():
        hidden += 1
        parent = above.parentWidget()
        if parent is None:
            return _FAR
        above = parent
    return hidden


def _roles() -> QPalette:
    """The palette as Qt wants it."""
    made = QPalette()
    for role, name in (*((role, name) for name, role in _NAMED.items()), *_BESIDE.items()):
        made.setColor(role, palette().color(name))
    for role in (_Role.WindowText, _Role.Text, _Role.ButtonText):
        made.setColor(QPalette.ColorGroup.Disabled, role, palette().color("quiet"))
    return made


def _sheet() -> str:
    named = {name: f"palette({_written(role)})" for name, role in _NAMED.items()}
    return _STYLE.format(marks=Path(__file__).with_name("marks").as_posix(), bar=BAR, **named)


def _written(role: QPalette.ColorRole) -> str:
    """A role as a sheet names it: placeholder-text."""
    return re.sub("(?<=.)(?=[A-Z])", "-", role.name).lower()


_STYLE = """
* {{ color: {ink}; }}
*:disabled {{ color: {quiet}; }}
QMainWindow, QWidget#centre, QWidget#welcome {{ background: {paper}; }}
QToolTip {{ background: {card}; color: {ink}; border: 1px solid {faint}; padding: 3px; }}
QWidget#head {{ background: {head}; }}
QWidget#head[moved="true"] {{ background: {head_moved}; }}
QWidget#head QLabel, QWidget#head QPushButton {{ color: {head_text}; background: transparent; border: none; }}
QWidget#head QPushButton {{ padding: 4px 7px; border-radius: 11px; }}
QWidget#head QPushButton:hover, QWidget#head QPushButton:focus {{ background: rgba(255,255,255,38); }}
QWidget#head QPushButton:checked {{ background: rgba(255,255,255,56); }}
QWidget#head QPushButton:disabled {{ color: rgba(255,255,255,90); }}
QWidget#head QPushButton#series {{ text-align: left; }}
QWidget#head QFrame#asof {{ background: rgba(255,255,255,30); border-radius: 5px; }}
QWidget#head QLabel#brand {{ font-size: 18px; font-weight: bold; }}
QPushButton::menu-indicator {{ width: 0; }}
QWidget#rail {{ background: {mist}; }}
QPushButton#stage {{ text-align: left; border: none; border-left: 4px solid transparent; background: transparent; }}
QPushButton#stage:hover, QPushButton#stage:focus {{ background: {kelp_soft}; }}
QPushButton#stage:checked {{ background: {paper}; border-left: 4px solid {kelp}; }}
QPushButton#stage QLabel {{ background: transparent; }}
QPushButton#stage QLabel#finding, QLabel#quiet, QLabel#unit {{ color: {quiet}; font-size: 13px; }}
QLabel#title {{ font-size: 18px; font-weight: bold; }}
QLabel#subtitle {{ color: {quiet}; font-size: 14px; }}
QScrollArea#sheet, QWidget#sheet {{ background: {sheet}; border: none; }}
QLabel#head2 {{ font-weight: bold; font-size: 15px; }}
QLabel#stagename {{ font-weight: bold; font-size: 17px; }}
QFrame#caution {{ background: {caution}; border-radius: 5px; }}
QFrame#caution QLabel {{ background: transparent; }}
QFrame#strip {{ background: {caution}; border-bottom: 1px solid {rust}; }}
QFrame#strip[calm="true"] {{ background: {kelp_soft}; border-bottom: 1px solid {kelp}; }}
QFrame#strip QLabel {{ background: transparent; }}
QFrame#card {{ background: {card}; border: 1px solid {faint}; border-radius: 7px; }}
QFrame#card QLabel {{ background: transparent; }}
QLabel#cardtitle {{ font-weight: bold; font-size: 15px; }}
QLabel#numbers {{ font-size: 15px; }}
QPushButton#link {{ color: {kelp}; border: none; background: transparent; padding: 1px 3px; text-align: left; }}
QPushButton#link:hover, QPushButton#link:focus {{ text-decoration: underline; background: {mist}; }}
QPushButton#link:disabled {{ color: {quiet}; }}
QPushButton#card {{ text-align: left; background: {card}; border: 1px solid {faint}; border-radius: 5px;
    padding: 4px 8px; }}
QPushButton#card:hover, QPushButton#card:focus {{ border: 1px solid {kelp}; }}
QPushButton#card:checked {{ border-left: 3px solid {kelp}; font-weight: bold; }}
QPushButton#small {{ color: {quiet}; border: none; background: transparent; padding: 2px 0; }}
QPushButton#small:hover, QPushButton#small:focus {{ color: {ink}; background: {mist}; border-radius: 4px; }}
QPushButton#small:disabled {{ color: {faint}; }}
QPushButton#choice {{ background: {mist}; border: 1px solid transparent; border-radius: 11px; padding: 4px 10px; }}
QPushButton#choice[close="true"] {{ padding: 4px 3px; }}
QPushButton#choice:hover, QPushButton#choice:focus {{ border: 1px solid {kelp}; }}
QPushButton#choice:checked {{ background: {kelp}; color: {paper}; }}
QPushButton#choice:disabled {{ color: {quiet}; background: {mist}; }}
QPushButton#main {{ background: {kelp}; color: {paper}; border: 1px solid {kelp}; border-radius: 6px;
    padding: 8px 16px; font-size: 15px; }}
QPushButton#main:hover, QPushButton#main:focus {{ border: 1px solid {ink}; }}
QPushButton#plain {{ background: {card}; border: 1px solid {faint}; border-radius: 6px; padding: 7px 16px;
    text-align: left; }}
QFrame#offer {{ background: {card}; border: 1px solid {kelp}; border-radius: 6px; }}
QFrame#offer QLabel {{ background: transparent; }}
QPushButton#plain:hover, QPushButton#plain:focus {{ border: 1px solid {kelp}; }}
QComboBox, QSpinBox, QDateEdit, QLineEdit {{ background: {card}; border: 1px solid {faint}; border-radius: 4px;
    padding: 2px 6px; min-height: 20px; selection-background-color: {kelp}; }}
QComboBox:focus, QSpinBox:focus, QDateEdit:focus, QLineEdit:focus {{ border: 1px solid {kelp}; }}
QComboBox:disabled, QSpinBox:disabled, QDateEdit:disabled {{ color: {quiet}; background: {mist}; }}
QComboBox QAbstractItemView, QMenu, QListWidget, QTableView {{ background: {card}; color: {ink};
    border: 1px solid {faint}; selection-background-color: {kelp_soft}; selection-color: {ink}; outline: none; }}
QComboBox QAbstractItemView::item {{ min-height: 24px; padding-left: 6px; }}
QComboBox QAbstractItemView::item:selected {{ background: {kelp_soft}; color: {ink}; }}
QComboBox::drop-down {{ border: none; background: transparent; width: 18px; }}
QComboBox::down-arrow {{ image: url({marks}/down.svg); width: 10px; height: 10px; }}
QSpinBox::up-button, QSpinBox::down-button {{ width: 0; border: none; }}
QMenu::item {{ padding: 5px 22px; }}
QMenu::item:selected {{ background: {kelp_soft}; }}
QMenu::item:disabled {{ color: {quiet}; }}
QMenu::separator {{ height: 1px; background: {faint}; margin: 4px 8px; }}
QFrame#places {{ background: {card}; border: 1px solid {faint}; }}
QCalendarWidget QWidget#qt_calendar_navigationbar {{ background: {mist}; }}
QCalendarWidget QToolButton {{ color: {ink}; background: transparent; border: none; padding: 4px 8px; }}
QCalendarWidget QAbstractItemView {{ selection-background-color: {kelp}; selection-color: {paper}; }}
QSlider {{ background: transparent; min-height: 18px; }}
QSlider::groove:horizontal {{ height: 4px; background: {kelp_soft}; border-radius: 2px; }}
QSlider::sub-page:horizontal {{ background: {kelp}; border-radius: 2px; }}
QSlider::handle:horizontal {{ background: {kelp}; width: 14px; margin: -5px 0; border-radius: 7px; }}
QSlider::handle:horizontal:focus {{ border: 2px solid {ink}; width: 10px; margin: -5px 0; border-radius: 7px; }}
QSlider::sub-page:horizontal:disabled, QSlider::handle:horizontal:disabled {{ background: {faint}; }}
QProgressBar {{ background: {mist}; border: none; border-radius: 4px; height: 8px; }}
QProgressBar::chunk {{ background: {kelp}; border-radius: 4px; }}
QHeaderView::section {{ background: {mist}; border: none; padding: 3px 6px; color: {quiet}; }}
QScrollBar:vertical {{ background: transparent; width: {bar}px; }}
QScrollBar::handle:vertical {{ background: {faint}; border-radius: 4px; min-height: 24px; }}
QScrollBar::handle:disabled {{ background: transparent; }}
QScrollBar:horizontal {{ background: transparent; height: {bar}px; }}
QScrollBar::handle:horizontal {{ background: {faint}; border-radius: 4px; min-width: 24px; }}
QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page {{
    background: transparent; border: none; width: 0; height: 0; }}
"""
