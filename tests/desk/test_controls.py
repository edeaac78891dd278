"""Controls of numbers with decimals and of text, by mouse and keys."""

from __future__ import annotations

import math
from typing import Annotated, Any, cast

from msgspec import Meta
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from oat_tide.core.working.number_format import set_marks
from oat_tide.desk.sheet.control_widgets import ControlWidget, TextControl
from oat_tide.desk.sheet.controls import widget_for
from oat_tide.desk.sheet.numbers import NumberControl
from oat_tide.plan.edits import Edit, changed
from oat_tide.plan.parts.part import Part
from oat_tide.plan.paths import P
from oat_tide.plan.plan import Plan
from oat_tide.stages.deck import control
from tests.desk.case import DeskCase
from tests.desk.test_unmeant import turn_wheel


class Damped(Part, frozen=True):
    level: Annotated[float, Meta(gt=0, lt=1, title="Level", extra_json_schema={"step": 0.05})] = 0.3
    factor: Annotated[
        float, Meta(ge=0.001, le=1000, title="Factor", extra_json_schema={"by_ratio": True, "unit": "times"})
    ] = 1.0
    shift: Annotated[float, Meta(title="Shift")] = 0.0
    note: Annotated[str, Meta(max_length=20, title="Note")] = ""


class WithDamped(Plan, frozen=True):
    damped: Damped = Damped()


D = cast(WithDamped, P)


class Controls(DeskCase):
    """Attributes: held, the plan that the controls change; told, what could not be used."""

    def setUp(self) -> None:
        super().setUp()
        self.held, self.told, self.rests = WithDamped(), cast(list[str], []), 0
        self.page = QWidget()
        self.page.resize(260, 300)
        self.box = QVBoxLayout(self.page)
        self.addCleanup(self.page.close)
        self.addCleanup(set_marks, ".", ",")

    def control(self, where: object, **look: Any) -> Any:
        made = control(where, self.held.damped, **look)
        widget = widget_for(made)
        self.box.addWidget(widget)
        widget.fill(made)
        self.page.show()

        def do(change: Edit) -> None:
            self.held = changed(self.held, change)
            widget.fill(control(where, self.held.damped, **look))

        widget.edited.connect(do)
        widget.troubled.connect(self.told.append)
        widget.rested.connect(self.rest)
        return widget

    def rest(self) -> None:
        self.rests += 1

    def write(self, widget: ControlWidget, text: str) -> None:
        line = cast(Any, widget).line
        line.setFocus()
        line.selectAll()
        QTest.keyClicks(line, text)
        QTest.keyClick(line, Qt.Key.Key_Return)

    def test_a_number_is_typed_to_any_digit(self) -> None:
        level = self.control(D.damped.level)
        self.assertIsInstance(level, NumberControl)
        self.assertEqual(level.line.text(), "0.3")
        self.write(level, "0.123456789")
        self.assertEqual(self.held.damped.level, 0.123456789)
        self.assertEqual(level.line.text(), "0.123456789")
        set_marks(",", ".")
        self.write(level, "0,25")
        self.assertEqual((self.held.damped.level, level.line.text()), (0.25, "0,25"))

    def test_what_it_cannot_be_is_refused_in_words_and_nothing_is_cut(self) -> None:
        level, factor, shift = (
            self.control(each) for each in (D.damped.level, D.damped.factor, D.damped.shift)
        )
        for widget, text, words in (
            (level, "0", "Level: “0” cannot be used; write a number above 0 and below 1. It stays at 0.3."),
            (level, "1", "above 0 and below 1"),
            (level, "half", "“half” cannot be used"),
            (factor, "1001", "write a number from 0.001 and up to 1,000"),
            (shift, "1e5", "write a number of any size"),
        ):
            with self.subTest(text):
                self.told.clear()
                self.write(widget, text)
                self.assertIn(words, self.told[0])
                self.assertEqual(self.held, WithDamped())
        self.assertEqual(level.line.text(), "0.3")
        self.write(shift, "-12345.678")
        self.assertEqual(self.held.damped.shift, -12345.678)

    def test_the_slider_goes_by_steps_and_reaches_no_open_bound(self) -> None:
        level = self.control(D.damped.level)
        self.assertTrue(level.slider.isVisible())
        level.slider.setValue(500)
        self.assertEqual(self.held.damped.level, 0.5)
        level.slider.setValue(512)
        self.assertEqual(self.held.damped.level, 0.5)
        level.slider.setValue(1000)
        self.assertEqual(self.held.damped.level, 0.5, "the bound itself cannot be")
        QTest.keyClick(level.slider, Qt.Key.Key_Home)
        self.assertEqual(self.held.damped.level, 0.5)

    def test_by_ratio_the_middle_of_the_slider_is_the_geometric_mean(self) -> None:
        factor = self.control(D.damped.factor)
        self.assertEqual(factor.slider.value(), 500)
        factor.slider.setValue(750)
        self.assertAlmostEqual(self.held.damped.factor, math.sqrt(1000), delta=0.1)
        self.assertEqual(factor.unit.text(), "times")

    def test_a_drag_is_one_gesture_and_its_end_is_told(self) -> None:
        level = self.control(D.damped.level)
        gestures: list[str] = []
        level.edited.connect(lambda change: gestures.append(change.gesture))
        level.slider.setSliderDown(True)
        for place in (400, 600):
            level.slider.setValue(place)
        level.slider.setSliderDown(False)
        self.assertEqual(gestures, ["slide damped.level"] * 2)
        self.assertEqual(self.rests, 1)

    def test_without_bounds_there_is_no_slider(self) -> None:
        self.assertFalse(self.control(D.damped.shift).slider.isVisible())

    def test_the_wheel_changes_nothing(self) -> None:
        level = self.control(D.damped.level)
        for part in (level.slider, level.line):
            turn_wheel(part, 2)
        self.assertEqual(self.held, WithDamped())

    def test_text_is_taken_when_it_is_done(self) -> None:
        note = self.control(D.damped.note)
        self.assertIsInstance(note, TextControl)
        self.write(note, "as planned")
        self.assertEqual(self.held.damped.note, "as planned")

    def test_what_cannot_be_used_says_why(self) -> None:
        for where in (D.damped.level, D.damped.note):
            widget = self.control(where, why_not="only a damped trend has one")
            self.assertFalse(widget.isEnabled())
            self.assertEqual(widget.toolTip(), "only a damped trend has one")
