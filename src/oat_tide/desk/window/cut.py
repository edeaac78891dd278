"""Calendar: fiscal year, start of week, blocks; opened beside the kinds of period."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QVBoxLayout, QWidget

from oat_tide.core.language import phrase
from oat_tide.desk.look.plain import Text
from oat_tide.desk.sheet.control_widgets import ControlWidget
from oat_tide.desk.sheet.controls import widget_for
from oat_tide.session import Session
from oat_tide.stages.periods import period_controls


class Cut(QFrame):
    """The controls of how time is cut.

    Signals:
        edited: (Edit).
        troubled: (str) what cannot be used.
    """

    edited = pyqtSignal(object)
    troubled = pyqtSignal(str)

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.setObjectName("places")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.box = QVBoxLayout(self)
        heading = Text(phrase("Calendar"))
        heading.setObjectName("head2")
        self.box.addWidget(heading)
        plan = session.plan.periods
        self.controls: list[ControlWidget] = []
        for control in period_controls(plan, session.reading.kind, plan.kind):
            widget = widget_for(control)
            widget.fill(control)
            self.controls.append(widget)
            widget.edited.connect(self._edited)
            widget.troubled.connect(self.troubled)
            self.box.addWidget(widget)

    def _edited(self, edit: object) -> None:
        self.edited.emit(edit)
        self.close()

    def open_below(self, widget: QWidget) -> None:
        """Open under a button."""
        self.move(widget.mapToGlobal(QPoint(0, widget.height() + 2)))
        self.setFixedWidth(276)
        self.adjustSize()
        self.show()
