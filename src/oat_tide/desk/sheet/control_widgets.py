"""Widgets of controls: one for a kind. A widget acts at once, and undo takes it back."""

from __future__ import annotations

import datetime as dt
import re
from typing import Any

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QValidator
from PyQt6.QtWidgets import (
    QButtonGroup,
    QCheckBox,
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QListView,
    QPushButton,
    QSlider,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from oat_tide.core.language import phrase
from oat_tide.core.periods.calendar import date_of, day_number
from oat_tide.core.working.number_format import trimmed
from oat_tide.desk.look.dates import days_of
from oat_tide.desk.look.measured import advance, elided
from oat_tide.desk.look.palette import TEXT, font
from oat_tide.desk.look.plain import Text, bare, still, tip
from oat_tide.desk.look.text_line import TextLine
from oat_tide.desk.sheet.weights import WeightStrip
from oat_tide.plan.edits import Edit
from oat_tide.stages.deck import Control

_TITLE_ROOM = 170
"""Pixels of a title, its control and what is between them; the rest of the row is the unit's."""


class ControlWidget(QWidget):
    """The widget of one control.

    Signals:
        edited: (Edit) the control was turned.
        rested: the turning has ended.
        troubled: (str) what was typed cannot be used.
    """

    edited = pyqtSignal(object)
    rested = pyqtSignal()
    troubled = pyqtSignal(str)

    def __init__(self, control: Control) -> None:
        super().__init__()
        self.control = control
        self.filling = self.filled = False
        self.box = QVBoxLayout(self)
        self.box.setContentsMargins(0, 0, 0, 2)
        self.box.setSpacing(2)
        self.build()
        self.setAccessibleName(control.title)

    def build(self) -> None:
        """Make the parts; once."""
        raise NotImplementedError

    def fill(self, control: Control) -> None:
        """Show what the control is now."""
        if self.filled and control == self.control:
            return
        self.filled, self.control = True, control
        self.filling = True
        self.refill()
        self.filling = False
        self.setEnabled(not control.why_not)
        tip(self, control.why_not)

    def refill(self) -> None:
        """Show the present value."""
        raise NotImplementedError

    def turn(self, value: Any, gesture: str = "") -> None:
        """Ask for the value, unless it is the control that is being filled."""
        if not self.filling and value != self.control.now:
            # Whatever comes of it, the control shows the plan again afterwards.
            self.filled = False
            self.edited.emit(Edit(self.control.path, value, gesture))

    def in_a_row(self, control: QWidget, wide: int) -> QLabel:
        """The title, a control and a unit side by side; gives the label of the unit."""
        row, unit, title = QHBoxLayout(), Text(), Text(self.control.title)
        unit.setObjectName("unit")
        control.setFixedWidth(wide)
        # One long title would make the whole sheet wider than its window.
        title.setWordWrap(advance(self.control.title, TEXT) > _TITLE_ROOM - wide)
        row.addWidget(title, 1)
        row.addWidget(control)
        row.addWidget(unit)
        self.box.addLayout(row)
        return unit

    def heading(self) -> QLabel:
        """The title above the control."""
        label = Text(self.control.title)
        self.box.addWidget(label)
        return label


class WholeSpin(QSpinBox):
    """A whole number that takes in whatever is typed: what it cannot be is refused in words, never cut.

    Attributes:
        lo: the least it can be.
        hi: the greatest it can be.

    Signals:
        refused: (str) what was typed.
    """

    refused = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setRange(-_FAR, _FAR)
        self.lo, self.hi = 0, 0
        self._typed = ""

    def validate(self, text: str | None, pos: int) -> tuple[QValidator.State, str, int]:
        """Anything can be typed; only what the number can be is taken."""
        found = _whole(text or "")
        fits = found is not None and self.lo <= found <= self.hi
        return (QValidator.State.Acceptable if fits else QValidator.State.Intermediate), text or "", pos

    def fixup(self, text: str | None) -> str:
        """What cannot be taken is told, and the number stays."""
        self._typed = text or ""
        QTimer.singleShot(0, self._refuse)
        return str(self.value())

    def _refuse(self) -> None:
        typed, self._typed = self._typed, ""
        if typed:
            self.refused.emit(typed)

    def valueFromText(self, text: str | None) -> int:
        """The number that is written."""
        found = _whole(text or "")
        return self.value() if found is None else found

    def textFromValue(self, value: int) -> str:
        """The number as it is written."""
        return str(value)

    def stepBy(self, steps: int) -> None:
        """Up or down, as far as it goes."""
        self.setValue(min(max(self.value() + steps, self.lo), self.hi))


_FAR = 2**31 - 1
_AROUND = 27
"""Pixels that a button takes beside its name."""
_ROOM, _ROOM_FOR_NAME = 249, 210
"""Pixels that buttons in a row, and that a name, have on the side sheet."""


def _whole(text: str) -> int | None:
    """A whole number as it is typed, thousands grouped or not; None for anything else."""
    bare_text = "".join(text.split())
    if re.fullmatch(r"[+-]?\d{1,3}(?:([,.'\u2019])\d{3})(?:\1\d{3})*", bare_text):
        bare_text = re.sub(r"[,.'\u2019]", "", bare_text)
    return int(bare_text) if re.fullmatch(r"[+-]?\d{1,9}", bare_text) else None


class IntControl(ControlWidget):
    """A slider with its number."""

    def build(self) -> None:
        self.spin = WholeSpin()
        written = TextLine()
        written.setAccessibleName(self.control.title)
        self.spin.setLineEdit(written)
        self.unit = self.in_a_row(self.spin, 68)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.box.addWidget(self.slider)
        for part in (self.spin, self.slider):
            part.setAccessibleName(self.control.title)
            still(part)
        self.spin.setKeyboardTracking(False)
        self.spin.valueChanged.connect(self.turn)
        self.spin.refused.connect(self._refused)
        self.slider.valueChanged.connect(self._slid)
        self.slider.sliderReleased.connect(self.rested)

    def _slid(self, value: int) -> None:
        self.turn(
            value, "slide " + ".".join(map(str, self.control.path)) if self.slider.isSliderDown() else ""
        )

    def _refused(self, typed: str) -> None:
        control = self.control
        unit = f" {control.unit}" if control.unit else ""
        self.troubled.emit(
            phrase(
                "{title}: “{typed}” cannot be used; write a whole number from {lo:,} to {hi:,}. It "
                "stays at {now:,}{unit}.",
                title=control.title,
                typed=typed,
                lo=int(control.lo),
                hi=int(control.hi),
                now=int(control.now),
                unit=unit,
            )
        )

    def refill(self) -> None:
        self.spin.lo, self.spin.hi = int(self.control.lo), int(self.control.hi)
        self.slider.setRange(
            self.spin.lo, int(min(self.control.slides_to or self.control.hi, self.control.hi))
        )
        for part in (self.spin, self.slider):
            part.setValue(int(self.control.now))
        one = self.control.now == 1
        self.unit.setText(self.control.unit.removesuffix("s") if one else self.control.unit)


class PickControl(ControlWidget):
    """A few choices as buttons, more as a list."""

    def build(self) -> None:
        self.heading()
        short = sum(advance(name, TEXT) + _AROUND for name in self.control.names) <= _ROOM
        self.buttons: list[QPushButton] = []
        # Only what is shown is made: what lies in no layout would stay when the page goes.
        self.combo: QComboBox | None = None if short else self._listed()
        if self.combo is not None:
            self.box.addWidget(self.combo)
            return
        self.group = QButtonGroup(self)
        row = QHBoxLayout()
        row.setSpacing(5)
        for place, name in enumerate(self.control.names):
            button = QPushButton(bare(name))
            button.setObjectName("choice")
            button.setCheckable(True)
            button.setAccessibleName(f"{self.control.title}: {name}")
            button.clicked.connect(lambda _, place=place: self.turn(self.control.choices[place]))
            self.group.addButton(button)
            self.buttons.append(button)
            row.addWidget(button)
        row.addStretch()
        self.box.addLayout(row)

    def _listed(self) -> QComboBox:
        combo = QComboBox(self)
        combo.setAccessibleName(self.control.title)
        combo.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        combo.setMinimumContentsLength(10)
        combo.setView(QListView())
        still(combo)
        combo.addItems(self.control.names)
        combo.activated.connect(lambda place: self.turn(self.control.choices[place]))
        return combo

    def refill(self) -> None:
        place = (
            self.control.choices.index(self.control.now) if self.control.now in self.control.choices else -1
        )
        if self.combo is not None:
            self.combo.setCurrentIndex(place)
            for at in range(self.combo.count()):
                # The one in use stands out, whichever is pointed at.
                self.combo.setItemData(at, font(bold=at == place), Qt.ItemDataRole.FontRole)
        for at, button in enumerate(self.buttons):
            button.setChecked(at == place)


class TextControl(ControlWidget):
    """A line of text, taken when Enter is pressed or the line is left."""

    def build(self) -> None:
        self.heading()
        self.line = TextLine()
        self.line.setAccessibleName(self.control.title)
        self.line.editingFinished.connect(lambda: self.turn(self.line.text()))
        self.box.addWidget(self.line)

    def refill(self) -> None:
        self.line.setText(str(self.control.now))


class BoolControl(ControlWidget):
    """A check box."""

    def build(self) -> None:
        self.check = QCheckBox(bare(self.control.title))
        self.check.toggled.connect(self.turn)
        self.box.addWidget(self.check)

    def refill(self) -> None:
        self.check.setChecked(bool(self.control.now))


class ManyControl(ControlWidget):
    """A check box for each choice."""

    def build(self) -> None:
        self.heading()
        grid = QGridLayout()
        grid.setSpacing(3)
        self.checks: list[QCheckBox] = []
        for place, name in enumerate(self.control.names):
            # A sheet of a workbook may have a long name; the side sheet is no wider for it.
            check = QCheckBox(bare(elided(name, _ROOM_FOR_NAME, TEXT, middle=True)))
            check.setAccessibleName(name)
            tip(check, name)
            check.toggled.connect(self._toggled)
            self.checks.append(check)
            grid.addWidget(check, place, 0)
        self.box.addLayout(grid)

    def _toggled(self) -> None:
        ticked = [
            choice
            for choice, check in zip(self.control.choices, self.checks, strict=True)
            if check.isChecked()
        ]
        kept = [name for name in self.control.now if name in ticked]
        self.turn((*kept, *(name for name in ticked if name not in kept)))

    def refill(self) -> None:
        for choice, check in zip(self.control.choices, self.checks, strict=True):
            check.setChecked(choice in self.control.now)


class DateControl(ControlWidget):
    """A date as it is spoken: 2026-03-31, 2026-03, 2026Q1 or 2026; empty for none."""

    def build(self) -> None:
        row = QHBoxLayout()
        self.line = TextLine()
        self.line.setFixedWidth(112)
        self.line.setPlaceholderText(phrase("as the data"))
        self.line.setAccessibleName(self.control.title)
        tip(
            self.line,
            phrase(
                "2026-03-31, 31 Mar 2026, 31/03/2026, 2026-03, 2026Q1 or 2026; empty for as far as "
                "the data go"
            ),
        )
        self.line.editingFinished.connect(self._typed)
        row.addWidget(Text(self.control.title), 1)
        row.addWidget(self.line)
        self.box.addLayout(row)

    def _typed(self) -> None:
        text = self.line.text().strip()
        try:
            days = days_of(text) if text else None
        except ValueError as error:
            self.troubled.emit(
                phrase(
                    "{title}: {error}. Write it as in 2026-03 or 2026-03-31.",
                    title=self.control.title,
                    error=error,
                )
            )
            self.refill()
            return
        day = days and days[0 if self.control.unit == "first day" else 1]
        if day and self.control.hi and not self.control.lo <= day_number(day) <= self.control.hi:
            first, last = (date_of(int(each)).isoformat() for each in (self.control.lo, self.control.hi))
            self.troubled.emit(
                phrase(
                    "{title}: {text} lies outside {first} to {last}. Write a day within.",
                    title=self.control.title,
                    text=text,
                    first=first,
                    last=last,
                )
            )
            self.refill()
            return
        self.turn(day)

    def refill(self) -> None:
        now: dt.date | None = self.control.now
        self.line.setText(now.isoformat() if now else "")


class WeightsControl(ControlWidget):
    """The weights, drawn over their periods and typed in the same order."""

    def build(self) -> None:
        self.heading()
        self.strip = WeightStrip()
        self.line = TextLine()
        self.line.setAccessibleName(phrase("Weights in the order drawn"))
        self.line.editingFinished.connect(self._typed)
        self.strip.turned.connect(lambda weights: self.turn(weights, "weights"))
        self.strip.rested.connect(self.rested)
        self.box.addWidget(self.strip)
        self.box.addWidget(self.line)

    @property
    def _newest_first(self) -> bool:
        return self.control.choices == ("newest first",)

    def _typed(self) -> None:
        try:
            weights = _weights(self.line.text(), len(self.control.now))
        except ValueError:
            self.troubled.emit(phrase("Weights: write one number a period, such as 1 2 3."))
            self.refill()
            return
        wanted = int(self.control.lo)
        if wanted and len(weights) != wanted:
            self.troubled.emit(
                phrase(
                    "Weights: {weights} given for a window of {wanted}. Write one a period, or change "
                    "the window.",
                    weights=len(weights),
                    wanted=wanted,
                )
            )
            self.refill()
            return
        self.turn(weights if self._newest_first else weights[::-1])

    def refill(self) -> None:
        drawn = self.control.now if self._newest_first else self.control.now[::-1]
        self.strip.fill(self.control.now, self._newest_first)
        self.line.setText(" ".join(trimmed(weight, 3) for weight in drawn))


def _weights(text: str, wanted: int) -> tuple[float, ...]:
    """Weights as they are typed, with blanks, semicolons or commas between them.

    A comma is a decimal mark where the weights are then as many as wanted; else it stands between two.

    Raises:
        ValueError: something is no number.
    """
    words = text.replace(";", " ").split()
    if len(words) != wanted or any(word.endswith(",") for word in words):
        words = text.replace(";", " ").replace(",", " ").split()
    return tuple(float(word.replace(",", ".")) for word in words)
