"""Which widget a control is shown by."""

from __future__ import annotations

from oat_tide.desk.sheet.control_widgets import (
    BoolControl,
    ControlWidget,
    DateControl,
    IntControl,
    ManyControl,
    PickControl,
    TextControl,
    WeightsControl,
)
from oat_tide.desk.sheet.numbers import NumberControl
from oat_tide.stages.deck import Control

KINDS: dict[str, type[ControlWidget]] = {
    "int": IntControl,
    "number": NumberControl,
    "text": TextControl,
    "pick": PickControl,
    "bool": BoolControl,
    "many": ManyControl,
    "date": DateControl,
    "weights": WeightsControl,
}


def widget_for(control: Control) -> ControlWidget:
    """The widget of a control."""
    return KINDS[control.kind](control)
