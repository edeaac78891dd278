"""The header: series, period, as-of and plan."""

from __future__ import annotations

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QButtonGroup, QFrame, QHBoxLayout, QMenu, QPushButton, QWidget

from oat_tide.core.language import noun, phrase
from oat_tide.core.periods.calendar import KINDS
from oat_tide.core.series.coded import Key
from oat_tide.core.series.reading import Reading
from oat_tide.desk.look.plain import Text, bare, tip
from oat_tide.desk.window.as_of import AsOf
from oat_tide.desk.window.cut import Cut
from oat_tide.desk.window.series import Places
from oat_tide.session import Session

HEIGHT = 46
_MOST, _PARTS = (250, 220), (0.16, 0.14)
"""Pixels that the names of series and plan take at the most, and parts of the width."""
_WITH_NAME = 1100
"""Pixels of a window that has room for the name of the program."""
_ANY = 16_777_215
"""The size that says a widget may have any."""


class Header(QWidget):
    """Series, period, as-of and plan.

    Signals:
        kind_chosen: (kind) of period.
        places_chosen: (pairs) the series is narrowed to.
        stepped: (periods) the as-of is to move by.
        sent_home: the as-of is to go home.
        dated: (date) or (None) the day that the as-of is to stand on; None for home.
        edited: (Edit) how time is cut.
        troubled: (str) what cannot be used.
    """

    kind_chosen = pyqtSignal(str)
    places_chosen = pyqtSignal(object)
    stepped = pyqtSignal(int)
    sent_home = pyqtSignal()
    dated = pyqtSignal(object)
    edited = pyqtSignal(object)
    troubled = pyqtSignal(str)

    def __init__(self, plan_menu: QMenu, publish_menu: QMenu) -> None:
        super().__init__()
        self.setObjectName("head")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(HEIGHT)
        self.session: Session | None = None
        self._shown: object = None
        self._said = ("", "")
        self.row = QHBoxLayout(self)
        # It is laid out in what width the window has, whatever the names in it would like.
        self.row.setSizeConstraint(QHBoxLayout.SizeConstraint.SetNoConstraint)
        self.row.setContentsMargins(16, 0, 10, 0)
        self.row.setSpacing(4)
        self.brand = Text(phrase("Oat Tide"))
        self.brand.setObjectName("brand")
        self.row.addWidget(self.brand)
        self.row.addSpacing(8)
        self.series = QPushButton()
        self.series.setObjectName("series")
        self.series.setAccessibleName(phrase("Series"))
        self.series.clicked.connect(self._open_places)
        self.row.addWidget(self.series)
        self.row.addStretch(1)
        self.kinds = self._kinds()
        self.cut = QPushButton("⌄")
        self.cut.setAccessibleName(phrase("Calendar: fiscal year, start of week, blocks"))
        tip(self.cut, phrase("Fiscal year, start of week, blocks"))
        self.cut.clicked.connect(self._open_cut)
        self.row.addWidget(self.cut)
        self.unit = Text()
        self.row.addSpacing(6)
        self.row.addWidget(self.unit)
        self.row.addSpacing(6)
        self._as_of()
        self.row.addStretch(1)
        self.plan, self.publish = QPushButton(), QPushButton(phrase("Publish ⌄"))
        for button, menu, name in (
            (self.plan, plan_menu, phrase("Plan")),
            (self.publish, publish_menu, phrase("Publish")),
        ):
            button.setMenu(menu)
            button.setAccessibleName(name)
            self.row.addWidget(button)
        # What says nothing while no plan is open.
        self._parts = (self.frame, self.unit, self.series, self.publish, self.cut, *self.kinds.values())

    def _kinds(self) -> dict[str, QPushButton]:
        group = QButtonGroup(self)
        buttons: dict[str, QPushButton] = {}
        for kind in KINDS:
            button = QPushButton(noun(kind).capitalize())
            button.setCheckable(True)
            button.clicked.connect(lambda _, kind=kind: self.kind_chosen.emit(kind))
            group.addButton(button)
            self.row.addWidget(button)
            buttons[kind] = button
        return buttons

    def _as_of(self) -> None:
        self.frame = QFrame()
        self.frame.setObjectName("asof")
        self.frame.setFixedHeight(28)
        row = QHBoxLayout(self.frame)
        row.setContentsMargins(6, 1, 2, 1)
        row.setSpacing(0)
        self.as_of = QPushButton()
        self.as_of.setAccessibleDescription(phrase("Type the as-of, or pick it from a calendar"))
        self.as_of.clicked.connect(self._open_as_of)
        self.earlier, self.later, self.home = (
            QPushButton("◂"),
            QPushButton("▸"),
            QPushButton(phrase("Latest")),
        )
        self.earlier.setAccessibleName(phrase("As-of one period earlier"))
        self.later.setAccessibleName(phrase("As-of one period later"))
        self.home.setAccessibleName(phrase("Back to the latest complete period"))
        tip(self.home, phrase("Back to the latest complete period (Ctrl+Home)"))
        tip(self.earlier, phrase("One period earlier (Ctrl+Left)"))
        tip(self.later, phrase("One period later (Ctrl+Right)"))
        self.earlier.clicked.connect(lambda: self.stepped.emit(-1))
        self.later.clicked.connect(lambda: self.stepped.emit(1))
        self.home.clicked.connect(self.sent_home)
        for widget in (self.as_of, self.earlier, self.later, self.home):
            row.addWidget(widget)
        self.row.addWidget(self.frame)

    def show_session(self, session: Session, saved: str) -> None:
        """Say what the plan stands on."""
        key = session.plan.key(session.reading.dimensions)
        plan = session.plan
        shown = (session, session.reading, key, session.grid, plan.title, plan.periods.block, saved)
        if shown != self._shown:
            self.session, self._shown = session, shown
            self._show_plan(session, key, saved)
        # What was pressed need not have been taken.
        self.kinds[session.grid.kind].setChecked(True)
        # Only this goes along with a drag of the as-of line.
        self._show_as_of(session)

    def _show_plan(self, session: Session, key: Key, saved: str) -> None:
        members = [member for member in key if member is not None]
        self._said = " › ".join([phrase("All"), *members]) + "  ⌄", f"{session.plan.title} · {saved}  ⌄"
        for kind, why_not in session.kinds().items():
            self.kinds[kind].setEnabled(not why_not)
            tip(self.kinds[kind], why_not)
        self.kinds["block"].setText(phrase("{block} days", block=session.plan.periods.block))
        self.unit.setText(
            self.fontMetrics().elidedText(_measured(session.reading), Qt.TextElideMode.ElideRight, 150)
        )
        self._make_room()
        for widget in self._parts:
            widget.setVisible(True)

    def _show_as_of(self, session: Session) -> None:
        moved = session.moved_back
        back = session.home - session.as_of
        away = phrase(" · {back} back", back=back) if moved else ""
        self.as_of.setText(phrase("As of {as_of}{away}", as_of=session.grid.label(session.as_of), away=away))
        self._hold(moved and self.home.isVisible())
        self.home.setVisible(moved)
        self.later.setEnabled(moved)
        if bool(self.property("moved")) != moved:
            self.setProperty("moved", moved)
            style = self.style()
            if style:
                style.unpolish(self)
                style.polish(self)

    def _hold(self, held: bool) -> None:
        """Have the as-of only grow while it moves: what is of one size has nothing laid out anew."""
        room = self.as_of.sizeHint()
        if held:
            self.as_of.setFixedSize(room.expandedTo(self.as_of.size()))
        else:
            self.as_of.setMinimumSize(0, 0)
            self.as_of.setMaximumSize(_ANY, _ANY)

    def show_nothing(self) -> None:
        """No plan is open."""
        self._shown = None
        for widget in self._parts:
            widget.setVisible(False)
        self.plan.setText(phrase("Plan  ⌄"))

    def _make_room(self) -> None:
        """Give the names of series and plan what width there is; a long one never widens the window."""
        for button, said, most, part in zip((self.series, self.plan), self._said, _MOST, _PARTS, strict=True):
            self._elide(button, said, min(most, round(part * self.width())))

    def minimumSizeHint(self) -> QSize:
        """The name of the program gives way in a small window."""
        name = self.brand.sizeHint().width() + 12 if self.brand.isVisible() else 0
        return QSize(super().minimumSizeHint().width() - name, HEIGHT)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.brand.setVisible(self.width() >= _WITH_NAME)
        if self._shown is not None:
            self._make_room()

    def _elide(self, button: QPushButton, text: str, most: int) -> None:
        button.setText(bare(self.fontMetrics().elidedText(text, Qt.TextElideMode.ElideMiddle, most)))
        tip(button, text.removesuffix("  ⌄"))

    def _open_as_of(self) -> None:
        if self.session is not None and self.session.ready:
            self.days = AsOf(self.window() or self, self.session)
            self.days.chosen.connect(self.dated)
            self.days.open_below(self.as_of)

    def _open_cut(self) -> None:
        if self.session is not None and self.session.ready:
            self.cuts = Cut(self.window() or self, self.session)
            self.cuts.edited.connect(self.edited)
            self.cuts.troubled.connect(self.troubled)
            self.cuts.open_below(self.cut)

    def _open_places(self) -> None:
        if self.session is None or not self.session.ready:
            return
        reading = self.session.reading
        # A child of the window, not of the header, whose texts are light on dark.
        self.places = Places(self.window() or self, self.session, self.session.plan.key(reading.dimensions))
        self.places.chosen.connect(self.places_chosen)
        self.places.open_below(self.series)


def _measured(reading: Reading) -> str:
    """The measure, and which scenario of it is the history."""
    return f"{reading.unit}, {reading.history}" if reading.history else reading.unit
