"""A real window under test, driven by mouse and keys."""

from __future__ import annotations

import itertools
import os
import time
from collections.abc import Callable
from pathlib import Path
from unittest import mock

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QPushButton, QWidget

from oat_tide.desk.look import palette
from oat_tide.desk.sheet.cards import CardHead
from oat_tide.desk.window.app import application
from oat_tide.desk.window.window import Window
from oat_tide.system import settings
from tests.helpers import FolderCase

LEFT = Qt.MouseButton.LeftButton
_window: list[Window] = []


def fresh_window() -> Window:
    """The window as it is when it opens. There is one a process, as in the program."""
    if not _window:
        _window.append(Window())
    window = _window[0]
    window.saving.end()
    window.session = window.path = window._saved = None
    window._leaving = window._kept = False
    window.stage = "intake"
    window.strip.clear()
    window.deck.deck = None
    window.deck.card.session = None
    window.deck.tide._cells = None
    window.deck.scale.settled = False
    window.deck.release()
    window.source_dialogs.watch()
    window.deck.foot.set_news(None)
    window.deck.foot._chosen.clear()
    window.show_nothing()
    window.resize(1280, 800)
    activate(window)
    if palette.palette() is not palette.LIGHT:
        window.switch_scheme()
    return window


def activate(window: Window) -> None:
    """Have the window in front, so that keys and shortcuts reach it, whatever pop-up was open before."""
    window.hide()
    window.show()
    window.activateWindow()
    QTest.qWaitForWindowActive(window, 2000)


class DeskCase(FolderCase):
    """Attributes: window: a real one, shown at 1280x800, with no plan open."""

    def setUp(self) -> None:
        super().setUp()
        # Logs, journals and settings go into the test's own folder.
        own = "HOME", "XDG_STATE_HOME", "XDG_CACHE_HOME", "XDG_CONFIG_HOME"
        patch = mock.patch.dict(os.environ, {name: str(self.folder / "home") for name in own})
        patch.start()
        self.addCleanup(patch.stop)
        settings.choose("name", "Ana Analyst")
        for dialog in ("getSaveFileName", "getOpenFileName", "getOpenFileNames", "getExistingDirectory"):
            # One that no test answers would wait for ever.
            unasked = mock.patch(f"PyQt6.QtWidgets.QFileDialog.{dialog}", side_effect=AssertionError(dialog))
            unasked.start()
            self.addCleanup(unasked.stop)
        self.app = application()
        for name in ("window.window", "deck.deck_view"):
            soon = mock.patch(f"oat_tide.desk.{name}._AFTER_PAINT", 0)
            soon.start()
            self.addCleanup(soon.stop)
        self.window = fresh_window()
        self.addCleanup(self.window.hide)
        self.settle()
        # It asks for no more room than the smallest screen has.
        self.assertEqual((self.window.width(), self.window.height()), (1280, 800))

    def wait(self, done: Callable[[], bool], seconds: float = 60.0) -> None:
        """Let events run until something holds."""
        end = time.monotonic() + seconds
        while not done():
            QApplication.processEvents()
            self.assertLess(time.monotonic(), end, "it did not come about in time")
            time.sleep(0.002)

    def settle(self) -> None:
        """Let work and what follows a paint come to rest."""
        self.wait(lambda: not self.window.follows)
        # What was made last asks for its place, and then so does what holds it.
        QApplication.processEvents()
        QApplication.processEvents()

    def open(self, path: Path) -> None:
        """Open a file by way of the file dialog."""
        target = "oat_tide.desk.window.window.QFileDialog.getOpenFileName"
        with mock.patch(target, return_value=(str(path), "")):
            self.key("O", Qt.KeyboardModifier.ControlModifier)
            self.settle()

    def answer_save(self, path: Path) -> mock._patch[mock.MagicMock]:
        """Have the save dialog answer with a path."""
        target = "PyQt6.QtWidgets.QFileDialog.getSaveFileName"
        return mock.patch(target, return_value=(str(path), ""))

    def key(self, key: str, modifiers: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        """Press a key in the window."""
        QTest.keyClick(self.window, getattr(Qt.Key, f"Key_{key}"), modifiers)
        QApplication.processEvents()

    def ctrl(self, key: str) -> None:
        """Press a key with Ctrl, and let what it starts come to rest."""
        self.key(key, Qt.KeyboardModifier.ControlModifier)
        self.settle()

    def click(self, widget: QWidget, x: float | None = None, y: float | None = None) -> None:
        """Click a widget, in its middle or at a place in it."""
        pos = widget.rect().center() if x is None or y is None else QPointF(x, y).toPoint()
        QTest.mouseClick(widget, LEFT, pos=pos)
        self.settle()

    def drag(self, widget: QWidget, start: QPointF, end: QPointF, steps: int = 5) -> None:
        """Press, move in steps and let go."""
        QTest.mousePress(widget, LEFT, pos=start.toPoint())
        for step in range(1, steps + 1):
            QTest.mouseMove(widget, (start + (end - start) * step / steps).toPoint())
            QApplication.processEvents()
        QTest.mouseRelease(widget, LEFT, pos=end.toPoint())
        self.settle()

    def stage(self, name: str) -> None:
        """Choose a stage on the rail."""
        self.click(self.window.rail.buttons[name])

    def button(self, parent: QWidget, text: str) -> QPushButton:
        """The button that begins with this text."""
        QApplication.processEvents()
        found = [
            b for b in parent.findChildren(QPushButton) if b.text().startswith(text) and b.isVisibleTo(parent)
        ]
        self.assertTrue(found, f"no button {text!r}")
        return found[0]

    def card(self, title: str) -> CardHead:
        """The head of a card of the side sheet."""
        self.window.sheet.finish()
        heads = self.window.sheet._page.findChildren(CardHead)
        found = [head for head in heads if head.card.title == title]
        self.assertTrue(found, f"no card {title!r}")
        self.window.sheet.ensureWidgetVisible(found[0])
        QApplication.processEvents()
        return found[0]

    def row(self, name: str) -> int:
        """The place of a row in the tide table."""
        return [row.name for row in self.window.deck.tide.rows].index(name)

    def cell_text(self, name: str, column: int) -> str:
        """What a cell of the tide table says."""
        return self.window.deck.tide.text(self.row(name), column)

    def point(self, name: str, column: int) -> QPoint:
        """The middle of a cell of the tide table."""
        return self.window.deck.tide.cell_rect(self.row(name), column).center().toPoint()

    def said(self) -> str:
        """What the message strip says; empty when it is not there."""
        return self.window.strip.text.text() if self.window.strip.isVisible() else ""

    @property
    def plan(self) -> object:
        """The open plan."""
        assert self.window.session is not None
        return self.window.session.plan


def painted(widget: QWidget) -> bool:
    """Whether more is on a widget than its ground and one colour."""
    image = widget.grab().toImage()
    steps = range(0, image.width(), 3), range(0, image.height(), 2)
    return len({image.pixel(x, y) for x, y in itertools.product(*steps)}) > 2


def pixels(image: QImage) -> NDArray[np.int64]:
    """(height, width, 3) of a picture of 32 bits a pixel."""
    bits = image.constBits()
    assert bits is not None
    bits.setsize(image.sizeInBytes())
    return np.frombuffer(bits, np.uint8).reshape(image.height(), image.width(), 4)[..., :3].astype(np.int64)
