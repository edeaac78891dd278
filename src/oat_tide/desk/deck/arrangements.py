"""The arrangements of a stage, in a row above its chart; one that makes no sense now says why."""

from __future__ import annotations

import functools

from PyQt6.QtCore import QSize, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QWidget

from oat_tide.desk.look.plain import bare, stops, tip
from oat_tide.plan.edits import Edit
from oat_tide.stages.deck import Control

_MOST_KEPT = 4
"""Rows of buttons that are kept."""


class ArrangementRow(QWidget):
    """The row of buttons above the chart.

    Attributes:
        buttons: by choice.
        after: the stop of the Tab key before it.

    Signals:
        edited: (Edit).
    """

    edited = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.buttons: dict[object, QPushButton] = {}
        self._kept: dict[object, dict[object, QPushButton]] = {}
        self.control: Control | None = None
        self.after: QWidget | None = None
        self._close, self._wide = False, 0
        self.group = QButtonGroup(self)
        self.box = QHBoxLayout(self)
        self.box.setContentsMargins(18, 4, 18, 0)
        self.box.setSpacing(5)
        self.box.addStretch()
        self.hide()

    def minimumSizeHint(self) -> QSize:
        """It asks for no more width than there is: its buttons stand closer then."""
        return QSize(0, super().minimumSizeHint().height())

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._stand()

    def _stand(self) -> None:
        """Have the buttons stand close where they would else be cut."""
        close = self.sizeHint().width() > self.width() or (self._close and self.width() < self._wide)
        if not self._close:
            self._wide = self.sizeHint().width()
        if close != self._close:
            self._close = close
            # Those that wait for their stage too.
            for button in self.group.buttons():
                button.setProperty("close", close)
                style = button.style()
                if style is not None:
                    style.unpolish(button)
                    style.polish(button)

    def offer(self, arrangements: Control | None) -> None:
        """Offer the arrangements of a deck; without any the row is not there."""
        self.setVisible(arrangements is not None)
        if arrangements is None or arrangements == self.control:
            return
        self._bring(arrangements)
        self.control = arrangements
        reasons = arrangements.why_nots or ("",) * len(arrangements.choices)
        for choice, why_not in zip(arrangements.choices, reasons, strict=True):
            button = self.buttons[choice]
            button.setEnabled(not why_not)
            tip(button, why_not)
            button.setChecked(choice == arrangements.now)

    def _bring(self, arrangements: Control) -> None:
        """Bring its buttons in sight; those of other stages wait, for to make them takes long."""
        of = arrangements.title, arrangements.choices, arrangements.names
        buttons = self._kept.pop(of, None)
        if buttons is None:
            if len(self._kept) >= _MOST_KEPT:
                self._let_go(self._kept.pop(next(iter(self._kept))))
            buttons = self._made(arrangements)
        # The last ones in sight are let go last.
        self._kept[of] = buttons
        if buttons is not self.buttons:
            for button in self.buttons.values():
                button.hide()
            for button in buttons.values():
                button.show()
            self.buttons = buttons

    def _let_go(self, buttons: dict[object, QPushButton]) -> None:
        for button in buttons.values():
            self.group.removeButton(button)
            button.hide()
            button.deleteLater()

    def _made(self, arrangements: Control) -> dict[object, QPushButton]:
        made: dict[object, QPushButton] = {}
        for choice, name in zip(arrangements.choices, arrangements.names, strict=True):
            button = QPushButton(bare(name))
            button.setObjectName("choice")
            button.setCheckable(True)
            button.setProperty("close", self._close)
            button.setAccessibleName(f"{arrangements.title}: {name}")
            button.clicked.connect(functools.partial(self._chosen, choice))
            self.group.addButton(button)
            self.box.insertWidget(self.box.count() - 1, button)
            made[choice] = button
        stops(self.after, made.values())
        return made

    def _chosen(self, choice: object, checked: bool) -> None:
        if self.control is not None and choice != self.control.now:
            self.edited.emit(Edit(self.control.path, choice))
