"""Which control a knob is shown by."""

from __future__ import annotations

from oat_tide.desk.sheet.knobs import (
    BoolKnob,
    DateKnob,
    IntKnob,
    KnobWidget,
    ManyKnob,
    PickKnob,
    TextKnob,
    WeightsKnob,
)
from oat_tide.desk.sheet.numbers import NumberKnob
from oat_tide.stages.deck import Knob

KINDS: dict[str, type[KnobWidget]] = {
    "int": IntKnob,
    "number": NumberKnob,
    "text": TextKnob,
    "pick": PickKnob,
    "bool": BoolKnob,
    "many": ManyKnob,
    "date": DateKnob,
    "weights": WeightsKnob,
}


def widget_for(knob: Knob) -> KnobWidget:
    """The control for a knob."""
    return KINDS[knob.kind](knob)
