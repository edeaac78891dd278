"""The control of a number with decimals: typed to any digit, or slid by steps, evenly or by ratios."""

from __future__ import annotations

import math

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QSlider

from oat_tide.core.language import phrase
from oat_tide.core.working.number_format import full, number_of
from oat_tide.desk.look.plain import still
from oat_tide.desk.look.text_line import TextLine
from oat_tide.desk.sheet.control_widgets import ControlWidget

_PLACES = 1000
"""Where a slider can stand."""


class NumberControl(ControlWidget):
    """A line to type in, and where both bounds are known a slider below it."""

    def build(self) -> None:
        self.line = TextLine()
        self.unit = self.in_a_row(self.line, 80)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(0, _PLACES)
        self.box.addWidget(self.slider)
        for part in (self.line, self.slider):
            part.setAccessibleName(self.control.title)
            still(part)
        self.line.editingFinished.connect(self._typed)
        self.slider.valueChanged.connect(self._slid)
        self.slider.sliderReleased.connect(self.rested)

    def _typed(self) -> None:
        text = self.line.text().strip()
        if text == full(float(self.control.now)):
            return
        value = number_of(text)
        if value is None or not self._fits(value):
            self.troubled.emit(
                phrase(
                    "{title}: “{text}” cannot be used; write a number {bounds}. It stays at {full}.",
                    title=self.control.title,
                    text=text,
                    bounds=self._bounds(),
                    full=full(float(self.control.now)),
                )
            )
            self.filling = True
            self.refill()
            self.filling = False
            return
        self.turn(value)

    def _fits(self, value: float) -> bool:
        control = self.control
        above = value > control.lo if control.lo_open else value >= control.lo
        below = value < control.hi if control.hi_open else value <= control.hi
        return above and below

    def _bounds(self) -> str:
        """The bounds in words."""
        control, words = self.control, []
        if math.isfinite(control.lo):
            words.append(
                phrase("above {full}", full=full(control.lo))
                if control.lo_open
                else phrase("from {full}", full=full(control.lo))
            )
        if math.isfinite(control.hi):
            words.append(
                phrase("below {full}", full=full(control.hi))
                if control.hi_open
                else phrase("up to {full}", full=full(control.hi))
            )
        return " and ".join(words) if words else phrase("of any size")

    @property
    def _end(self) -> float:
        """Return the value at the end of the slider."""
        return min(self.control.slides_to or self.control.hi, self.control.hi)

    def _slid(self, place: int) -> None:
        if self.filling:
            return
        share, lo, end = place / _PLACES, self.control.lo, self._end
        value = lo * (end / lo) ** share if self.control.by_ratio else lo + share * (end - lo)
        value = self._stepped(value)
        if self._fits(value):
            gesture = "slide " + ".".join(map(str, self.control.path)) if self.slider.isSliderDown() else ""
            self.turn(value, gesture)

    def _stepped(self, value: float) -> float:
        """A value as the slider gives it: a whole number of steps, or three digits."""
        if self.control.step:
            steps = round((value - self.control.lo) / self.control.step)
            return round(self.control.lo + steps * self.control.step, 12)
        return float(f"{value:.3g}")

    def refill(self) -> None:
        control = self.control
        self.line.setText(full(float(control.now)))
        self.unit.setText(control.unit)
        self.unit.setVisible(bool(control.unit))
        slides = (
            math.isfinite(control.lo)
            and math.isfinite(self._end)
            and (control.lo > 0 or not control.by_ratio)
        )
        self.slider.setVisible(slides)
        if slides and not self.slider.isSliderDown():
            value = min(max(float(control.now), control.lo), self._end)
            span = math.log(self._end / control.lo) if control.by_ratio else self._end - control.lo
            done = math.log(value / control.lo) if control.by_ratio else value - control.lo
            self.slider.setValue(round(_PLACES * done / span) if span else 0)
