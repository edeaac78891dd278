"""Choosing the as-of: typed, or picked from a calendar; opened from the header."""

from __future__ import annotations

import datetime as dt

from PyQt6.QtCore import QDate, QPoint, Qt, pyqtSignal
from PyQt6.QtGui import QTextCharFormat
from PyQt6.QtWidgets import QCalendarWidget, QFrame, QVBoxLayout, QWidget

from oat_tide.core.language import phrase
from oat_tide.core.periods.calendar import date_of
from oat_tide.desk.look.dates import days_of
from oat_tide.desk.look.palette import palette
from oat_tide.desk.look.plain import Text
from oat_tide.desk.look.text_line import TextLine
from oat_tide.session import Session


class AsOf(QFrame):
    """A line to type the as-of in, and a calendar.

    Signals:
        chosen: (date) the day that the as-of is to stand on.
    """

    chosen = pyqtSignal(object)

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.setObjectName("places")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        grid = session.grid
        self.first = date_of(grid.first_day(session.panel.first))
        self.last = date_of(grid.last_day(session.home))
        now = date_of(grid.last_day(session.as_of))
        self.line = TextLine(now.isoformat())
        self.line.setAccessibleName(phrase("As of"))
        self.line.returnPressed.connect(self._typed)
        self.said = Text(
            phrase("A day, month, quarter or year from {first} to {last}", first=self.first, last=self.last)
        )
        self.said.setObjectName("quiet")
        self.said.setWordWrap(True)
        self.calendar = QCalendarWidget()
        self.calendar.setAccessibleName(phrase("Days to choose the as-of from"))
        self.calendar.setVerticalHeaderFormat(QCalendarWidget.VerticalHeaderFormat.NoVerticalHeader)
        self.calendar.setFirstDayOfWeek(Qt.DayOfWeek(grid.week_start + 1))
        self.calendar.setDateRange(_qdate(self.first), _qdate(self.last))
        self.calendar.setSelectedDate(_qdate(now))
        plain = QTextCharFormat()
        plain.setForeground(palette().color("ink"))
        for day in (Qt.DayOfWeek.Saturday, Qt.DayOfWeek.Sunday):
            self.calendar.setWeekdayTextFormat(day, plain)
        self.calendar.clicked.connect(self._picked)
        self.calendar.activated.connect(self._picked)
        box = QVBoxLayout(self)
        for widget in (self.line, self.said, self.calendar):
            box.addWidget(widget)

    def _picked(self, day: QDate) -> None:
        self._choose(dt.date(day.year(), day.month(), day.day()))

    def _typed(self) -> None:
        try:
            last = days_of(self.line.text())[1]
        except ValueError as error:
            self.said.setText(
                phrase("{error}. Write it as in 2026-03, 31 Mar 2026 or 2026-03-31.", error=error)
            )
            return
        if last < self.first:
            self.said.setText(
                phrase("{last} lies before the first day, {first}.", last=last, first=self.first)
            )
            return
        self._choose(last)

    def _choose(self, day: dt.date) -> None:
        self.chosen.emit(day if day < self.last else None)
        self.close()

    def open_below(self, widget: QWidget) -> None:
        """Open under the as-of, ready to be typed in."""
        self.move(widget.mapToGlobal(QPoint(0, widget.height() + 2)))
        self.resize(300, 330)
        self.show()
        self.line.setFocus()
        self.line.selectAll()


def _qdate(day: dt.date) -> QDate:
    return QDate(day.year, day.month, day.day)
