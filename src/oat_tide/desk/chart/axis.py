"""The strip of periods between the bands and the tide table."""

from __future__ import annotations

import itertools
from collections.abc import Callable

from PyQt6.QtCore import QEvent, QRectF, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPixmap
from PyQt6.QtWidgets import QWidget

from oat_tide.core.language import noun, phrase
from oat_tide.core.periods.calendar import MONTHS, WEEKDAYS, Grid, date_of
from oat_tide.desk.chart.overlay import paint_hover
from oat_tide.desk.chart.scale import GUTTER, TimeScale
from oat_tide.desk.chart.steps import WiderSteps
from oat_tide.desk.look.measured import advance, written
from oat_tide.desk.look.palette import SMALL, font, palette
from oat_tide.desk.look.plain import tip
from oat_tide.stages.deck import Deck

_CENTRED = int(Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextDontClip)
_FROM_LEFT = int(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextDontClip)
"""How names stand: letters that reach below their line are not cut."""
_LEAST_DAY = 18
"""Pixels that a day needs for its number."""


class AxisStrip(QWidget):
    """The periods by name, the years at their starts, and the hovered period in full.

    Attributes:
        steps: gives the wider steps that the rows below are added up by; None where they are not.
        totalled: gives the columns that the totals at the right stand for; None where there are none.
        keeps: whether the names are kept as they were painted; a picture has them written.
    """

    def __init__(self, scale: TimeScale) -> None:
        super().__init__()
        self.scale = scale
        self.deck: Deck | None = None
        self.moved_back = False
        self.steps: Callable[[], WiderSteps | None] = lambda: None
        self.totalled: Callable[[], tuple[int, int] | None] = lambda: None
        self.keeps = True
        self._kept: QPixmap | None = None
        self._kept_for: object = None
        self.setFixedHeight(34)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self._from: int | None = None
        self._second = False
        self.setMouseTracking(True)
        self.setCursor(Qt.CursorShape.IBeamCursor)
        tip(self, phrase("Drag to select periods; with Ctrl a second range"))
        scale.selected.connect(self.update)
        scale.moved.connect(self.update)
        scale.pointed.connect(self.update)

    def show_deck(self, deck: Deck, moved_back: bool) -> None:
        """Name the periods of a deck."""
        self.deck, self.moved_back = deck, moved_back
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.deck is None:
            return
        painter = QPainter(self)
        if self.keeps:
            painter.drawPixmap(0, 0, self._names())
        else:
            painter.save()
            self._write(painter)
            painter.restore()
        self._pointed(painter)
        self._of_totals(painter)
        painter.setClipRect(QRectF(GUTTER - 1, 0, self.scale.across + 2, self.height()))
        paint_hover(painter, self.scale, self.height())
        for start, end in self.scale.selection:
            left, right = self.scale.edge(start), self.scale.edge(end + 1)
            painter.fillRect(QRectF(left, 0, right - left, 3), palette().color("kelp"))
            painter.fillRect(QRectF(left, 0, right - left, self.height()), palette().color("kelp", 40))
        if self.deck.handle("as_of") is not None:
            painter.fillRect(
                QRectF(self.scale.edge(self.deck.past) - 1, 0, 2, self.height()), palette().color("kelp")
            )

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self.scale.under(event.position().x()) >= 0:
            self._from = self.scale.column(event.position().x())
            self._second = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
            self._select(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        x = event.position().x()
        self.scale.point(self.scale.under(x))
        if self._from is not None and event.buttons() & Qt.MouseButton.LeftButton:
            self._select(event)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._from = None

    def leaveEvent(self, event: QEvent | None) -> None:
        self.scale.point(-1)

    def _select(self, event: QMouseEvent) -> None:
        assert self._from is not None
        self.scale.stretch(self._from, self.scale.column(event.position().x()), self._second)

    def _names(self) -> QPixmap:
        """The strip without what is pointed at; painted anew only when what it shows has changed."""
        assert self.deck is not None
        scale, deck, ratio = self.scale, self.deck, self.devicePixelRatioF()
        showing = (
            scale.start, scale.count, self.width(), ratio, palette(),
            deck.grid, deck.first, deck.columns, deck.axis, self.moved_back, self.steps(),
        )  # fmt: skip
        if self._kept is None or self._kept_for != showing:
            self._kept_for = showing
            self._kept = QPixmap(round(self.width() * ratio), round(self.height() * ratio))
            self._kept.setDevicePixelRatio(ratio)
            painter = QPainter(self._kept)
            self._write(painter)
            painter.end()
        return self._kept

    def _write(self, painter: QPainter) -> None:
        painter.fillRect(self.rect(), palette().color("caution" if self.moved_back else "paper"))
        painter.fillRect(QRectF(8, 0, self.width() - 16, 1.4), palette().color("ink"))
        painter.setClipRect(QRectF(GUTTER - 1, 0, self.scale.across + 2, self.height()))
        self._years(painter)
        self._periods(painter)

    def _pointed(self, painter: QPainter) -> None:
        """At the left end: the hovered period in full."""
        assert self.deck is not None
        if self.scale.hovered < 0:
            steps = self.steps()
            if steps is not None:
                painter.setPen(palette().color("quiet"))
                written(
                    painter,
                    QRectF(8, 2, GUTTER - 18, 30),
                    1,
                    phrase("added up by {kind}", kind=noun(steps.kind)),
                )
            return
        painter.setPen(palette().color("ink"))
        name = self.deck.label(self.scale.hovered)
        within = self._within(self.scale.hovered)
        written(painter, QRectF(8, 2, GUTTER - 18, 16 if within else 30), 1, name, bold=True)
        painter.setPen(palette().color("quiet"))
        written(painter, QRectF(8, 17, GUTTER - 18, 15), 1, within)

    def _of_totals(self, painter: QPainter) -> None:
        """At the right end what the totals below are of."""
        span = self.totalled()
        if self.deck is None or span is None:
            return
        many = span[1] - span[0]
        said = (
            phrase("next {many}", many=many)
            if span[0] == self.deck.past
            else phrase("{many} in sight", many=many)
        )
        painter.setPen(palette().color("quiet"))
        written(painter, QRectF(self.scale.end, 2, self.width() - self.scale.end - 18, 15), 1, said)

    def _within(self, column: int) -> str:
        """Name the days that a week holds, since weeks may start on any weekday."""
        deck = self.deck
        if deck is None or deck.axis is not None or deck.grid.kind != "week":
            return ""
        first, last = (of(deck.first + column) for of in (deck.grid.first_day, deck.grid.last_day))
        return f"{_day(first, True)} – {_day(last, True)}"

    def _years(self, painter: QPainter) -> None:
        assert self.deck is not None
        grid, start = self.deck.grid, self.deck.first
        first, stop = self.scale.visible()
        if grid.kind == "year" or stop <= first or self.deck.axis:
            return
        if grid.kind == "day" and self.steps() is None and self.scale.step >= _LEAST_DAY:
            self._months_below(painter)
            return
        years = range(int(grid.years([start + first])[0]), int(grid.years([start + stop - 1])[0]) + 1)
        painter.setFont(font(SMALL, bold=True))
        room = advance(grid.year_label(years[0]), bold=True) + 8
        last_x = -1e9
        for year in years:
            edge = self.scale.edge(grid.year_first(year) - start)
            if edge >= GUTTER:
                painter.fillRect(QRectF(edge, 0, 1, self.height()), palette().color("faint"))
            x = max(edge, GUTTER) + 3
            following = self.scale.edge(grid.year_first(year + 1) - start)
            if following - x >= room and x - last_x >= room:
                painter.setPen(palette().color("ink"))
                painter.drawText(
                    QRectF(x, 17, room, 16), Qt.AlignmentFlag.AlignVCenter, grid.year_label(year)
                )
                last_x = x

    def _periods(self, painter: QPainter) -> None:
        assert self.deck is not None
        grid, first = self.deck.grid, self.deck.first
        start, stop = self.scale.visible()
        painter.setFont(font(SMALL))
        painter.setPen(palette().color("quiet"))
        if self.deck.axis:
            self._places(painter)
            return
        steps = self.steps()
        if steps is not None:
            self._wider(painter, steps)
            return
        room = 3 if self.scale.step >= 30 else 1
        wide = advance(_widest(grid, room)) + (8 if grid.kind == "week" else 4)
        if self.scale.step < wide / (3 if grid.kind == "week" else 1) and grid.kind in ("day", "week"):
            self._months(painter)
            return
        every = max(1, -(-wide // max(int(self.scale.step), 1)))
        for column in range(start - start % every, stop, every):
            place = QRectF(self.scale.x(column) - 30, 2, 60, 15)
            weeks = grid.kind == "week"
            name = _day(grid.first_day(first + column)) if weeks else grid.short(first + column, room)
            painter.drawText(place, _CENTRED, name)

    def _months_below(self, painter: QPainter) -> None:
        """Below the days their months, with the year."""
        assert self.deck is not None
        months, grid, start = Grid("month"), self.deck.grid, self.deck.first
        first, stop = self.scale.visible()
        days = grid.first_day(start + first), grid.first_day(start + stop - 1)
        painter.setFont(font(SMALL, bold=True))
        for month in range(months.period(days[0]), months.period(days[1]) + 1):
            edges = (grid.period(months.first_day(each)) - start for each in (month, month + 1))
            left, right = (self.scale.edge(edge) for edge in edges)
            if left >= GUTTER:
                painter.fillRect(QRectF(left, 0, 1, self.height()), palette().color("faint"))
            name, x = months.label(month), max(left, GUTTER) + 3
            if advance(name, bold=True) <= min(right, self.scale.end) - x:
                painter.setPen(palette().color("ink"))
                painter.drawText(QRectF(x, 17, 90, 16), Qt.AlignmentFlag.AlignVCenter, name)

    def _wider(self, painter: QPainter, steps: WiderSteps) -> None:
        """The names of the wider steps over the sums that stand below them; years have theirs already."""
        for name, (start, end) in zip(steps.names, itertools.pairwise(steps.edges.tolist()), strict=True):
            left, right = self.scale.edge(start), self.scale.edge(end)
            painter.fillRect(QRectF(left, 17, 1, self.height() - 17), palette().color("faint"))
            place = QRectF(max(left, GUTTER), 2, min(right, self.scale.end) - max(left, GUTTER), 15)
            if steps.kind != "year" and advance(name) <= place.width():
                painter.drawText(place, Qt.AlignmentFlag.AlignCenter, name)

    def _places(self, painter: QPainter) -> None:
        """The names of columns that are no stretch of time, as many as have room."""
        assert self.deck is not None and self.deck.axis is not None
        start, stop = self.scale.visible()
        names = self.deck.axis.short
        if max(advance(name) for name in names) + 4 > self.scale.step:
            names = self.deck.axis.brief
        taken = 0.0
        for column in range(start, min(stop, len(names))):
            wide = advance(names[column])
            x = max(self.scale.x(column) - wide / 2, float(GUTTER))
            if names[column] and x > taken + 4:
                painter.drawText(QRectF(x, 2, wide + 2, 15), _FROM_LEFT, names[column])
                taken = x + wide

    def _months(self, painter: QPainter) -> None:
        """Months where days or weeks are too narrow for their own names."""
        assert self.deck is not None
        months, grid = Grid("month"), self.deck.grid
        start, stop = self.scale.visible()
        if stop <= start:
            return
        days = grid.first_day(self.deck.first + start), grid.first_day(self.deck.first + stop - 1)
        spread = months.period(days[1]) - months.period(days[0]) + 1
        each = (self.scale.edge(stop) - self.scale.edge(start)) / spread
        room = 3 if each >= 30 else 1
        if each < 11:
            return
        for month in range(months.period(days[0]), months.period(days[1]) + 1):
            x = self.scale.edge(grid.period(months.first_day(month)) - self.deck.first)
            place = QRectF(x, 2, each, 15)
            if place.left() >= GUTTER - 4:
                painter.drawText(place, Qt.AlignmentFlag.AlignCenter, months.short(month, room))


def _widest(grid: Grid, room: int) -> str:
    return {
        "day": "30",
        "week": phrase("30 Sep"),
        "month": phrase("Mar") if room == 3 else "M",
        "quarter": "Q4",
    }.get(grid.kind, "2026")


def _day(day: int, named: bool = False) -> str:
    """A day as "5 Oct", or "Mon 5 Oct"."""
    date = date_of(day)
    text = f"{date.day} {MONTHS[date.month - 1]}"
    return f"{WEEKDAYS[date.weekday()][:3]} {text}" if named else text
