"""The control of a number with decimals: typed to any digit, or slid by steps, evenly or by ratios."""

from __future__ import annotations

import math

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QSlider

from oat_tide.core.working.number_format import full, number_of
from oat_tide.desk.look.plain import still
from oat_tide.desk.look.text_line import TextLine
from oat_tide.desk.sheet.knobs import KnobWidget

_PLACES = 1000
"""Where a slider can stand."""


class NumberKnob(KnobWidget):
    """A line to type in, and where both bounds are known a slider below it."""

    def build(self) -> None:
        self.line = TextLine()
        self.unit = self.in_a_row(self.line, 80)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(0, _PLACES)
        self.box.addWidget(self.slider)
        for part in (self.line, self.slider):
            part.setAccessibleName(self.knob.title)
            still(part)
        self.line.editingFinished.connect(self._typed)
        self.slider.valueChanged.connect(self._slid)
        self.slider.sliderReleased.connect(self.rested)

    def _typed(self) -> None:
        text = self.line.text().strip()
        if text == full(float(self.knob.now)):
            return
        value = number_of(text)
        if value is None or not self._fits(value):
            self.troubled.emit(
                f"{self.knob.title}: {text!r} cannot be used; write a number {self._bounds()}. "
                f"It stays at {full(float(self.knob.now))}."
            )
            self.filling = True
            self.refill()
            self.filling = False
            return
        self.turn(value)

    def _fits(self, value: float) -> bool:
        knob = self.knob
        above = value > knob.lo if knob.lo_open else value >= knob.lo
        below = value < knob.hi if knob.hi_open else value <= knob.hi
        return above and below

    def _bounds(self) -> str:
        """The bounds in words."""
        knob, words = self.knob, []
        if math.isfinite(knob.lo):
            words.append(f"above {full(knob.lo)}" if knob.lo_open else f"from {full(knob.lo)}")
        if math.isfinite(knob.hi):
            words.append(f"below {full(knob.hi)}" if knob.hi_open else f"up to {full(knob.hi)}")
        return " and ".join(words) if words else "of any size"

    @property
    def _end(self) -> float:
        """Where the slider ends."""
        return min(self.knob.slides_to or self.knob.hi, self.knob.hi)

    def _slid(self, place: int) -> None:
        if self.filling:
            return
        share, lo, end = place / _PLACES, self.knob.lo, self._end
        value = lo * (end / lo) ** share if self.knob.by_ratio else lo + share * (end - lo)
        value = self._stepped(value)
        if self._fits(value):
            gesture = "slide " + ".".join(map(str, self.knob.path)) if self.slider.isSliderDown() else ""
            self.turn(value, gesture)

    def _stepped(self, value: float) -> float:
        """A value as the slider gives it: a whole number of steps, or three digits."""
        if self.knob.step:
            steps = round((value - self.knob.lo) / self.knob.step)
            return round(self.knob.lo + steps * self.knob.step, 12)
        return float(f"{value:.3g}")

    def refill(self) -> None:
        knob = self.knob
        self.line.setText(full(float(knob.now)))
        self.unit.setText(knob.unit)
        self.unit.setVisible(bool(knob.unit))
        slides = math.isfinite(knob.lo) and math.isfinite(self._end) and (knob.lo > 0 or not knob.by_ratio)
        self.slider.setVisible(slides)
        if slides and not self.slider.isSliderDown():
            value = min(max(float(knob.now), knob.lo), self._end)
            span = math.log(self._end / knob.lo) if knob.by_ratio else self._end - knob.lo
            done = math.log(value / knob.lo) if knob.by_ratio else value - knob.lo
            self.slider.setValue(round(_PLACES * done / span) if span else 0)
