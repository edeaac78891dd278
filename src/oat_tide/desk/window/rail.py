"""The rail: the stages in the order of work, each with its finding."""

from __future__ import annotations

import re

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QButtonGroup, QLabel, QPushButton, QVBoxLayout, QWidget

from oat_tide.desk.look.plain import Text, tip
from oat_tide.stages import ON_RAIL

WIDTH, _NARROW = 150, 56
_LEAST, _LOW = 68, 40
"""Pixels of a stage with a finding of two lines, and of one without."""
_LEFT, _RIGHT = 12, 4
"""Pixels beside what is said."""
_MARK = re.compile(r"(?<=\d) (?=(M|bn)\b|× 10)|(?<=×) (?=10)")
"""What lies between a number and its mark of millions, or its power of ten."""


class Rail(QWidget):
    """The stages, each with its finding.

    Signals:
        chosen: (name) of a stage.
    """

    chosen = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("rail")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(WIDTH)
        self.group = QButtonGroup(self)
        self.buttons: dict[str, QPushButton] = {}
        self.findings: dict[str, QLabel] = {}
        self._headings: dict[str, QLabel] = {}
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 10, 0, 10)
        box.setSpacing(4)
        for stage in ON_RAIL.values():
            button = self._button(stage.name, stage.title)
            box.addWidget(button)
        box.addStretch()

    def _button(self, name: str, title: str) -> QPushButton:
        button = QPushButton()
        button.setObjectName("stage")
        button.setCheckable(True)
        button.setFixedHeight(_LEAST)
        button.setAccessibleName(title)
        button.clicked.connect(lambda: self.chosen.emit(name))
        inner = QVBoxLayout(button)
        inner.setContentsMargins(_LEFT, 6, _RIGHT, 6)
        inner.setSpacing(1)
        heading, finding = Text(title), Text()
        heading.setObjectName("head2")
        finding.setObjectName("finding")
        finding.setWordWrap(True)
        inner.addWidget(heading)
        inner.addWidget(finding)
        inner.addStretch()
        for label in (heading, finding):
            label.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.group.addButton(button)
        self.buttons[name], self.findings[name] = button, finding
        self._headings[name] = heading
        return button

    def set_narrow(self, narrow: bool) -> None:
        """Show the first letters of the stages alone, where the window is small, or their findings too."""
        if narrow == self._narrow:
            return
        self.setFixedWidth(_NARROW if narrow else WIDTH)
        for name, stage in ON_RAIL.items():
            self._headings[name].setText(stage.title[:2] if narrow else stage.title)
            self.findings[name].setVisible(not narrow)
            if narrow:
                self.buttons[name].setFixedHeight(_LOW)
            else:
                self._fit(name)
            tip(self.buttons[name], self._told(name))

    @property
    def _narrow(self) -> bool:
        return self.maximumWidth() == _NARROW

    def _told(self, name: str) -> str:
        """What is said where a stage is pointed at."""
        finding = self.findings[name].text()
        return f"{ON_RAIL[name].title}\n{finding}" if self._narrow else finding

    def _fit(self, name: str) -> None:
        label = self.findings[name]
        over = label.heightForWidth(WIDTH - _LEFT - _RIGHT) - 2 * label.fontMetrics().lineSpacing()
        self.buttons[name].setFixedHeight(_LEAST + max(over, 0))

    def show_stage(self, name: str) -> None:
        """Mark the stage in sight."""
        self.buttons[name].setChecked(True)

    def show_finding(self, name: str, finding: str) -> None:
        """Say what a stage finds."""
        label = self.findings[name]
        # A number and its mark stand on one line.
        bound = _MARK.sub("\u00a0", finding)
        if label.text() != bound:
            label.setText(bound)
            button = self.buttons[name]
            if not self._narrow:
                self._fit(name)
            tip(button, self._told(name))
            button.setAccessibleDescription(finding.replace("\n", ", "))
