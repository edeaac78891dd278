"""Clicks, keys, drags and turns of the wheel by chance in the real window."""

from __future__ import annotations

import contextlib
import gc
import os
import random
import signal
import sys
import tempfile
import time
import traceback
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path
from types import TracebackType
from unittest import mock

import numpy as np
from PyQt6 import sip
from PyQt6.QtCore import QEvent, QObject, QPoint, QPointF, Qt, QTimer
from PyQt6.QtGui import QImage, QKeyEvent, QPixmap, QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QWidget

from oat_tide.demo import plan_path
from oat_tide.desk.window.app import application, new_window
from oat_tide.desk.window.window import Window
from oat_tide.intake.origins import subprocess_reader
from tests.desk.case import pixels
from tests.fuzz.seeds import seeds
from tests.messages import judged

_SLOW = 0.05
"""Seconds that a turn of the event loop may take."""
_AT_REST = 60.0
"""Seconds until whatever was begun must have come to rest."""
_FEWEST = 120
"""Steps of a walk, however slow the machine is."""
_TURNS_TO_PAINT = 12
"""Turns of the event loop, two milliseconds apart, in which all that is due has been painted."""
_TEXTS = "12", "-3", "0", "1.5", "2024", "2024-06-30", "Oat", "é", "1e9", "abc", " ", "=", "x" * 40
_KEYS = (
    *("Tab", "Return", "Escape", "Delete", "Backspace", "Space", "F1", "F2", "F5", "Home", "End"),
    *("Left", "Right", "Up", "Down", "PageUp", "PageDown", "A", "1", "2", "3", "4", "5", "6", "Minus"),
)
_WITH_CTRL = ("Z", "Y", "Left", "Right", "Home", "0", "1", "2", "3", "4", "5", "C", "V", "A", "S", "E", "F")
_NONE, _CTRL, _SHIFT = (
    Qt.KeyboardModifier.NoModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.ShiftModifier,
)
_FORMAT = QImage.Format.Format_RGB32
_LEFT, _RIGHT = Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton


@dataclass(slots=True)
class Turns:
    """How long turns of the event loop took.

    Attributes:
        count: all of them.
        slow: those over the limit, by what they followed, with the longest.
        first: the same, where something was shown for the first time.
        worked: of the slow ones, how long the interface thread was at work, not waiting for the machine or
            for another thread, and what the yardstick took then.
        paces: what the yardstick took, each time.
    """

    count: int = 0
    slow: dict[str, list[float]] = field(default_factory=dict)
    first: dict[str, list[float]] = field(default_factory=dict)
    worked: list[tuple[float, float]] = field(default_factory=list)
    paces: list[float] = field(default_factory=list)

    @property
    def busy(self) -> int:
        """How many of the slow ones were at work for as long."""
        return sum(worked > _SLOW for worked, _ in self.worked)

    @property
    def own(self) -> int:
        """How many of them would have been at the best pace that the machine had: the window's own fault."""
        return sum(worked / pace * min(self.paces) > _SLOW for worked, pace in self.worked)

    def measure_pace(self) -> float:
        """Seconds that the machine takes now for always the same work."""
        begun = time.perf_counter()
        sum(place % 7 for place in range(200_000))
        self.paces.append(time.perf_counter() - begun)
        return self.paces[-1]


def _turn() -> None:
    """One turn of the event loop, and what it would let go at its end."""
    QApplication.processEvents()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)


class Walker(QObject):
    """Somebody who clicks about.

    Attributes:
        faults: what nobody should have met.
        turns: how long the window was busy.
        counts: steps by what was done.
    """

    def __init__(self, window: Window, files: list[Path], seed: int) -> None:
        super().__init__()
        self.window, self.faults, self.turns, self.counts = window, list[str](), Turns(), Counter[str]()
        self._rng, self._files = random.Random(seed), files
        self._seen: set[object] = set()
        self._doing = ""
        # Seconds that it took to choose where to click: the window has no part in that.
        self._aiming = 0.0
        # A menu runs a loop of its own: what is done with it is done from within.
        self._popups = QTimer(self)
        self._popups.timeout.connect(self._answer_popup)
        self._popups.start(15)
        window.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:  # noqa: ARG002, N802
        """The window stays: closing it would end the walk."""
        if event is None or event.type() != QEvent.Type.Close:
            return False
        event.ignore()
        return True

    def step(self) -> None:
        """Do one thing, and let what it starts go on for a moment."""
        ways: list[tuple[int, Callable[[], None]]] = [
            (40, self._click), (12, self._key), (8, self._type), (8, self._wheel), (10, self._drag),
            (3, self._double), (2, self._menu_of), (2, self._resize), (6, self._stage), (1, self._scheme),
            (1, self._open), (4, self._rest), (1, self._kill),
        ]  # fmt: skip
        act = self._rng.choices([way for _, way in ways], [weight for weight, _ in ways])[0]
        self._doing = act.__name__.strip("_")
        self.counts[self._doing] += 1
        if act in (self._rest, self._drag, self._click, self._stage):
            # These are several turns, and time them one by one.
            with self._noted():
                act()
        else:
            self._timed(act)
        for _ in range(self._rng.choice((1, 1, 3))):
            self._timed(_turn)
        strip = self.window.strip
        if strip.isVisible() and strip.text.text() and not strip.bar.isVisible():
            with self._noted():
                judged(strip.text.text())
        assert self.window.isVisible()
        assert "Traceback" not in self.window.windowTitle()

    def settle(self) -> None:
        """Let everything come to rest."""
        end = time.monotonic() + _AT_REST
        while self.window.follows:
            self._timed(_turn)
            time.sleep(0.002)
            if time.monotonic() > end:
                self.faults.append(f"it did not come to rest after {self._doing}")
                return

    def _timed(self, act: Callable[[], object]) -> None:
        first = self._state() not in self._seen
        self._aiming = 0.0
        begun, worked = time.perf_counter(), time.thread_time()
        with self._noted():
            act()
        took, worked = (
            each - self._aiming for each in (time.perf_counter() - begun, time.thread_time() - worked)
        )
        first = first or self._state() not in self._seen
        if act is _turn:
            self._seen.add(self._state())
        self.turns.count += 1
        if took > _SLOW:
            into = self.turns.first if first else self.turns.slow
            into.setdefault(f"{self._doing} in {self.window.stage}", []).append(took)
            if not first:
                self.turns.worked.append((worked, self.turns.measure_pace()))

    def _state(self) -> object:
        """What tells whether something is in sight that was not before."""
        window = self.window
        return id(window.session), window.stage, window.size().width(), window.size().height()

    @contextlib.contextmanager
    def _noted(self) -> Iterator[None]:
        try:
            yield
        except Exception as error:
            last = "".join(traceback.format_exception(error, limit=-6))
            self.faults.append(f"{self._doing} in {self.window.stage}: {last[-1800:]}")

    # What is done

    def _target(self) -> tuple[QWidget, QPoint] | None:
        """A widget in sight and a place on it, any place of the window as likely as another."""
        begun = time.perf_counter()
        found = self._aimed_at()
        self._aiming += time.perf_counter() - begun
        return found

    def _aimed_at(self) -> tuple[QWidget, QPoint] | None:
        window = self.window
        at = QPoint(self._rng.randrange(window.width()), self._rng.randrange(window.height()))
        if self._rng.random() < 0.5:
            shown = [each for each in window.findChildren(QWidget) if each.isVisible() and each.isEnabled()]
            if shown:
                chosen = self._rng.choice(shown)
                at = chosen.mapTo(window, chosen.rect().center())
        found = window.childAt(at)
        return (found, found.mapFrom(window, at)) if found else None

    def _click(self) -> None:
        if target := self._target():
            self._press(*target, self._rng.choice((_NONE, _NONE, _NONE, _CTRL, _SHIFT)))

    def _press(self, widget: QWidget, at: QPoint, keys: Qt.KeyboardModifier = _NONE) -> None:
        self._timed(partial(QTest.mousePress, widget, _LEFT, keys, at))
        if not sip.isdeleted(widget):
            self._timed(partial(QTest.mouseRelease, widget, _LEFT, keys, at))

    def _double(self) -> None:
        if target := self._target():
            QTest.mouseDClick(target[0], _LEFT, _NONE, target[1])

    def _menu_of(self) -> None:
        if target := self._target():
            QTest.mouseClick(target[0], _RIGHT, _NONE, target[1])

    def _drag(self) -> None:
        if target := self._target():
            widget, start = target
            end = start + QPoint(self._rng.randint(-300, 300), self._rng.randint(-60, 60))
            self._timed(partial(QTest.mousePress, widget, _LEFT, _NONE, start))
            for part in range(1, 6):
                if sip.isdeleted(widget):
                    return
                self._timed(partial(QTest.mouseMove, widget, start + (end - start) * part / 5))
                self._timed(_turn)
            if not sip.isdeleted(widget):
                self._timed(partial(QTest.mouseRelease, widget, _LEFT, _NONE, end))

    def _wheel(self) -> None:
        if target := self._target():
            widget, at = target
            turned = QPoint(0, 120 * self._rng.choice((-3, -1, 1, 3)))
            place = QPointF(widget.mapToGlobal(at))
            keys = self._rng.choice((_NONE, _NONE, _CTRL, _SHIFT))
            phase = Qt.ScrollPhase.NoScrollPhase
            event = QWheelEvent(
                QPointF(at), place, QPoint(0, 0), turned, Qt.MouseButton.NoButton, keys, phase, False
            )
            QApplication.sendEvent(widget, event)

    def _key(self) -> None:
        with_ctrl = self._rng.random() < 0.4
        name = self._rng.choice(_WITH_CTRL if with_ctrl else _KEYS)
        keys = _CTRL if with_ctrl else self._rng.choice((_NONE, _NONE, _SHIFT))
        QTest.keyClick(QApplication.focusWidget() or self.window, getattr(Qt.Key, f"Key_{name}"), keys)

    def _type(self) -> None:
        focus = QApplication.focusWidget()
        if focus is not None:
            for sign in self._rng.choice(_TEXTS):
                for kind in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease):
                    QApplication.sendEvent(focus, QKeyEvent(kind, 0, _NONE, sign))
            QTest.keyClick(focus, self._rng.choice((Qt.Key.Key_Return, Qt.Key.Key_Tab, Qt.Key.Key_Escape)))

    def _resize(self) -> None:
        self.window.resize(*self._rng.choice(((1280, 800), (1280, 800), (1920, 1080), (1000, 640))))

    def _stage(self) -> None:
        button = self._rng.choice(list(self.window.rail.buttons.values()))
        self._press(button, button.rect().center())

    def _kill(self) -> None:
        """Have a process beside the window killed, whatever it is doing: the window asks another one."""
        there = (self.window.late._child, *subprocess_reader._readers)
        beside = [each for each in there if each is not None and each.alive]
        if beside:
            os.kill(self._rng.choice(beside).process.pid, signal.SIGKILL)

    def _scheme(self) -> None:
        self.window.switch_scheme()

    def _open(self) -> None:
        self.window._leaving = False
        self.window.open(self._rng.choice(self._files))

    def _rest(self) -> None:
        self.settle()
        for _ in range(_TURNS_TO_PAINT):
            self._timed(_turn)
            time.sleep(0.002)
        # Meanwhile an answer may have come: what it changes is not painted yet.
        if QApplication.activePopupWidget() is None and not self.window.follows:
            self._look()

    def _look(self) -> None:
        """What was painted last must be what would be painted now."""
        shown, meant = self._screen(), self.window.grab()
        place = _apart(shown, meant)
        if place is None:
            return
        self.window.repaint()
        if self.window.updatesEnabled() and _apart(shown, self._screen()) is None:
            # Painted anew it is the same: halves of pixels are rounded in another way off the screen.
            return
        folder = tempfile.mkdtemp(prefix="screen-")
        for name, picture in (("shown", shown), ("meant", meant)):
            picture.save(f"{folder}/{name}.png")
        self.faults.append(
            f"in {self.window.stage} the screen shows something else than is painted now, at {place}: both "
            f"are in {folder}"
        )

    def _screen(self) -> QPixmap:
        screen = self.window.screen()
        assert screen is not None
        return screen.grabWindow(self.window.winId())

    def _answer_popup(self) -> None:
        popup = QApplication.activePopupWidget() or QApplication.activeModalWidget()
        if popup is None:
            return
        with self._noted():
            for _ in range(self._rng.randrange(4)):
                QTest.keyClick(popup, Qt.Key.Key_Down)
            QTest.keyClick(popup, self._rng.choice((Qt.Key.Key_Return, Qt.Key.Key_Escape, Qt.Key.Key_Escape)))
        if QApplication.activePopupWidget() is popup:
            popup.close()


def _apart(one: QPixmap, other: QPixmap) -> tuple[int, int, int, int] | None:
    """Where two pictures differ: left, top, right, bottom; None where they are the same."""
    first, second = (pixels(each.toImage().convertToFormat(_FORMAT)) for each in (one, other))
    if first.shape != second.shape:
        return 0, 0, *first.shape[1::-1]
    rows, columns, _ = np.nonzero(first != second)
    if not rows.size:
        return None
    return int(columns.min()), int(rows[0]), int(columns.max()), int(rows[-1])


@contextlib.contextmanager
def walking(folder: Path, seed: int) -> Iterator[Walker]:
    """A walker in the window, whose dialogs answer by chance and whose faults are kept."""
    files = [plan_path(), *seeds(folder), plan_path()]
    rng = random.Random(seed)
    chosen = lambda *_, **__: (str(rng.choice(files)) if rng.random() < 0.5 else "", "")  # noqa: E731
    several = lambda *_, **__: ([str(rng.choice(files))], "")  # noqa: E731
    written = lambda *_, **__: (str(folder / f"written{rng.randrange(5)}") if rng.random() < 0.5 else "", "")  # noqa: E731
    dialog = "PyQt6.QtWidgets.QFileDialog"
    homes = {name: str(folder / "home") for name in ("HOME", "XDG_STATE_HOME", "XDG_CACHE_HOME")}
    with contextlib.ExitStack() as stack:
        stack.enter_context(mock.patch.dict(os.environ, homes))
        for name, answer in (
            ("getOpenFileName", chosen),
            ("getOpenFileNames", several),
            ("getSaveFileName", written),
            ("getExistingDirectory", lambda *_, **__: ""),
        ):
            stack.enter_context(mock.patch(f"{dialog}.{name}", side_effect=answer))
        application().setCursorFlashTime(0)
        window = new_window()
        walker = Walker(window, files, seed)
        stack.callback(window.late.close)
        stack.callback(walker._popups.stop)
        stack.enter_context(mock.patch.object(window, "fault", side_effect=_keeps(walker)))
        stack.enter_context(mock.patch.object(sys, "excepthook", _caught(walker)))
        window.show()
        window.activateWindow()
        window.open(files[0])
        walker.settle()
        yield walker
        window.hide()


def _keeps(walker: Walker) -> Callable[[BaseException], None]:
    def keep(error: BaseException) -> None:
        walker.faults.append("".join(traceback.format_exception(error, limit=-6))[-1800:])

    return keep


def _caught(
    walker: Walker,
) -> Callable[[type[BaseException], BaseException, TracebackType | None], None]:
    keep = _keeps(walker)
    return lambda kind, error, trace: keep(error)


def held() -> tuple[float, int]:
    """Megabytes in memory now, and widgets."""
    with Path("/proc/self/status").open() as file:
        kilobytes = next(int(line.split()[1]) for line in file if line.startswith("VmRSS"))
    return kilobytes / 1024, len(QApplication.allWidgets())


def long_walk(seconds: int, seed: int) -> int:
    """Click about for so long; prints memory, widgets, slow turns and switches, returns the faults."""
    with (
        tempfile.TemporaryDirectory(prefix="oat-tide-clicks-") as folder,
        walking(Path(folder), seed) as walker,
    ):
        _tell_switch(walker)
        end, told, printed = time.monotonic() + seconds, time.monotonic(), 0
        while time.monotonic() < end or walker.counts.total() < _FEWEST:
            walker.step()
            for fault in walker.faults[printed:]:
                print(fault, flush=True)
            printed = len(walker.faults)
            if time.monotonic() >= told:
                told += 60
                _tell(walker)
        walker.settle()
        gc.collect()
        _tell(walker)
        _tell_switch(walker)
        for what, turns in (("slow", walker.turns.slow), ("slow at first sight", walker.turns.first)):
            for doing, took in sorted(turns.items(), key=lambda each: -max(each[1])):
                print(f"{what}: {doing}: {len(took)} turns, at most {max(took) * 1000:.0f} ms")
    return len(walker.faults)


def _tell_switch(walker: Walker) -> None:
    begun = time.perf_counter()
    walker.window.switch_scheme()
    walker.settle()
    print(f"all is styled {time.perf_counter() - begun:.2f} s after a switch of scheme", flush=True)


def _tell(walker: Walker) -> None:
    memory, widgets = held()
    turns = walker.turns
    pace = turns.measure_pace()
    slow, first = (sum(map(len, each.values())) for each in (turns.slow, turns.first))
    print(
        f"{walker.counts.total():,} steps, {memory:.0f} MB, {widgets:,} widgets; {slow} of {turns.count:,} "
        f"turns over 50 ms, {turns.busy} of them at work for as long, {turns.own} at the machine's best pace "
        f"too (now all takes {pace / min(turns.paces):.1f} times as long), {first} more at first sight; "
        f"{len(walker.faults)} faults",
        flush=True,
    )
