"""The side sheet: controls, facts and cautions of the deck in sight."""

from __future__ import annotations

import time

from PyQt6.QtCore import QCoreApplication, QEvent, QPoint, QSize, Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QFrame,
    QPushButton,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from oat_tide.core.language import phrase
from oat_tide.core.working.tree import FACT, Ref
from oat_tide.desk.look.plain import Text, bare
from oat_tide.desk.look.style import BAR
from oat_tide.desk.look.turns import Turn
from oat_tide.desk.sheet.cards import CardsView
from oat_tide.desk.sheet.choice import ChoiceView
from oat_tide.desk.sheet.control_widgets import ControlWidget
from oat_tide.desk.sheet.fact import FactRow
from oat_tide.desk.sheet.items import ITEMS, shape_of
from oat_tide.plan.paths import FieldSteps
from oat_tide.stages.deck import Caution, Deck, Figure, Item, Note

WIDTH = 276
_MOST_PAGES = 8
"""Pages that are kept, each of hundreds of widgets: those that were in sight last."""
_NEAR_END = 240
"""Pixels at the end of the sheet that cautions may take."""
_FRAME, _SLICE = 40, 0.005
"""Milliseconds for the chart to be painted first, and seconds of making widgets at a time."""


class _Page(QWidget):
    """The widgets of one kind of deck.

    Attributes:
        parts: the widgets of the first items; making them all takes several turns of the event loop.
        growing: the cards that are to be the next one, while they are made.
        cautions: where cautions stand: at the end, or where an item says so.
        at_end: whether they stand there.
        said: those that do.
        box: lays them out.
    """

    def __init__(self, title: str) -> None:
        super().__init__()
        self.setObjectName("sheet")
        self.parts: list[QWidget] = []
        self.growing: CardsView | None = None
        self.said: tuple[Caution, ...] = ()
        self.at_end = True
        self.box = QVBoxLayout(self)
        # The bar that scrolls the sheet stands in its margin.
        self.box.setContentsMargins(16, 12, 16 - BAR, 12)
        self.box.setSpacing(5)
        head = Text(title)
        head.setObjectName("stagename")
        self.box.addWidget(head)
        self.items, self.cautions = QVBoxLayout(), QVBoxLayout()
        self.items.setSpacing(5)
        self.cautions.setSpacing(6)
        self.box.addLayout(self.items)
        self.box.addSpacing(6)
        self.box.addLayout(self.cautions)
        self.box.addStretch()

    def add(self, item: Item, widget: QWidget) -> None:
        """Add an item at the end."""
        if isinstance(item, Note) and item.kind == "head":
            self.items.addSpacing(7)
        self.items.addWidget(widget)
        self.parts.append(widget)
        if isinstance(item, Note) and item.kind == "cautions":
            widget.hide()
            self.cautions, self.at_end = QVBoxLayout(), False
            self.cautions.setSpacing(6)
            self.items.addLayout(self.cautions)
        elif not widget.testAttribute(Qt.WidgetAttribute.WA_WState_ExplicitShowHide):
            # Now, not a turn later: what is not shown is given no room.
            widget.show()


class _Rest(QPushButton):
    """What stands for all cautions after the first, and opens them."""

    def __init__(self, rest: list[QWidget]) -> None:
        super().__init__(phrase("{more} more ⌄", more=len(rest)))
        self.setObjectName("link")
        self.setAccessibleName(phrase("Show {more} more cautions", more=len(rest)))
        self._rest = rest
        for frame in rest:
            frame.hide()
        self.clicked.connect(self.open)

    def open(self) -> None:
        """Show them."""
        for frame in self._rest:
            frame.show()
        self.hide()


class _Stack(QStackedWidget):
    """Pages of which only the one in sight takes room."""

    def sizeHint(self) -> QSize:
        page = self.currentWidget()
        return page.sizeHint() if page else QSize(0, 0)

    def minimumSizeHint(self) -> QSize:
        page = self.currentWidget()
        return page.minimumSizeHint() if page else QSize(0, 0)

    def heightForWidth(self, wide: int) -> int:
        page = self.currentWidget()
        return page.heightForWidth(wide) if page else 0


class SideSheet(QScrollArea):
    """The side sheet of the deck in sight.

    Signals:
        edited: (Edit).
        rested: a turning has ended.
        troubled: (str).
        pointed: (Ref) or (None), of a fact under the pointer.
        chosen: (Ref) or (None), of a fact clicked.
    """

    edited = pyqtSignal(object)
    rested = pyqtSignal()
    troubled = pyqtSignal(str)
    pointed = pyqtSignal(object)
    previewed = pyqtSignal(object)
    chosen = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("sheet")
        self.setFixedWidth(WIDTH)
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        # Its room is always kept: else whatever comes to need it is laid out twice.
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setAccessibleName(phrase("Side sheet"))
        self._pages: dict[object, _Page] = {}
        self._page = _Page("")
        self._stack = _Stack()
        self._stack.setObjectName("sheet")
        self._stack.addWidget(self._page)
        self.setWidget(self._stack)
        self._deck: Deck | None = None
        self._series = 0
        self._items: tuple[Item, ...] = ()
        self._stale: list[int] = []
        self._wanted: FieldSteps | None = None
        self._making = Turn(self, self._make_some, again=True)
        self._painting = Turn(self, lambda: self.setUpdatesEnabled(True))
        bar = self.verticalScrollBar()
        if bar is not None:
            bar.valueChanged.connect(self._scrolled)
            bar.rangeChanged.connect(lambda low, high: bar.setEnabled(high > low))

    def show_deck(self, deck: Deck, series: int, title: str) -> None:
        """Show a deck; the widgets are kept while the items are of the same kinds."""
        self._deck, self._series = deck, series
        self._items = deck.sheet()
        page = self._page_for(self._items, title)
        self._fill_those_in_sight(page)
        if page is not self._page:
            self._stack.setCurrentWidget(page)
            self._page, self._wanted = page, None
            self._stack.updateGeometry()
            bar = self.verticalScrollBar()
            if bar is not None:
                # Another page begins at its top, however far down the last one was.
                bar.setValue(0)
            self._make_room()
            # Chart, table and a whole page of controls in one paint would take most of what a turn may.
            self.setUpdatesEnabled(False)
            self._painting.start(0)
        if not self._all_made or self._stale or not self._sees_end(page):
            self._making.start(_FRAME)
        else:
            self._make_some()

    def _fill_those_in_sight(self, page: _Page) -> None:
        """Have the widgets in sight show the deck; the others follow when there is time."""
        self._stale = []
        for place, widget in enumerate(page.parts[: len(self._items)]):
            if page is not self._page or self._in_sight(widget):
                self._fill(widget, self._items[place])
            else:
                self._stale.append(place)

    def _in_sight(self, widget: QWidget) -> bool:
        """Whether any of it can be seen."""
        viewport = self.viewport()
        assert viewport is not None
        return viewport.rect().intersects(widget.rect().translated(widget.mapTo(viewport, QPoint(0, 0))))

    def _scrolled(self) -> None:
        """What has come in sight shows the deck at once."""
        for place in [place for place in self._stale if self._in_sight(self._page.parts[place])]:
            self._stale.remove(place)
            self._fill(self._page.parts[place], self._items[place])

    def _sees_end(self, page: _Page) -> bool:
        """Whether the end of the sheet, where cautions stand, is in sight; elsewhere they follow later."""
        bar = self.verticalScrollBar()
        if not page.at_end:
            return False
        return bar is None or page is not self._page or bar.value() >= bar.maximum() - _NEAR_END

    def _make_some(self) -> None:
        """Do what there is time for before the next frame."""
        # Laid out once, not with each of the widgets.
        box = self._page.box
        box.setEnabled(False)
        try:
            self._fill_or_make()
        finally:
            box.setEnabled(True)
            box.invalidate()
        self._make_room()
        if not self._making.isActive():
            # Now everything has its place.
            self._reveal_wanted()

    def _make_room(self) -> None:
        """Give the page in sight its height before it is painted, or it is squeezed for a frame or two."""
        viewport = self.viewport()
        assert viewport is not None
        wide = viewport.width()
        self._stack.resize(wide, max(viewport.height(), self._stack.heightForWidth(wide)))

    def _fill_or_make(self) -> None:
        """Fill what is out of sight, make what is missing; the cautions come last."""
        assert self._deck is not None
        end = time.perf_counter() + _SLICE
        page = self._page
        while self._stale:
            place = self._stale.pop(0)
            self._fill(page.parts[place], self._items[place])
            if time.perf_counter() > end:
                return
        while not self._all_made:
            self._make_next(page, self._items[len(page.parts)])
            if time.perf_counter() > end:
                return
        self._making.stop()
        self._show_cautions(page, self._deck.cautions(self._series))

    def _make_next(self, page: _Page, item: Item) -> None:
        """Make the widget of the next item, or some more of the cards that it is."""
        widget = page.growing or ITEMS[type(item)].make(item, self)
        if isinstance(widget, CardsView):
            widget.setParent(page)
            page.growing = widget if widget.grow() else None
        if page.growing is None:
            page.add(item, widget)
            self._fill(widget, item)

    @property
    def _all_made(self) -> bool:
        """Whether every item of the deck has its widget, though not all of them may show it yet."""
        return len(self._page.parts) >= len(self._items)

    @property
    def makes_more(self) -> bool:
        """Whether some of it is still to be made, or painted."""
        return self._making.isActive() or self._painting.isActive()

    def finish(self) -> None:
        """Make at once what is still to be made."""
        while self._making.isActive():
            self._make_some()

    def _page_for(self, items: tuple[Item, ...], title: str) -> _Page:
        """The page for widgets of these kinds, empty at first."""
        shape = (title, tuple(shape_of(item) for item in items))
        page = self._pages.pop(shape, None)
        if page is None:
            if len(self._pages) >= _MOST_PAGES:
                # Never the page in sight: the edit that brought us here may come from one of its controls.
                old = next(each for each, kept in self._pages.items() if kept is not self._page)
                oldest = self._pages.pop(old)
                self._stack.removeWidget(oldest)
                oldest.deleteLater()
            page = _Page(title)
            self._stack.addWidget(page)
        # The last one in sight is let go last.
        self._pages[shape] = page
        return page

    def control(self, path: FieldSteps, kind: str = "") -> ControlWidget:
        """The control of a field; where it has several, the one of a kind."""
        self.finish()
        widgets = (each for each in self._page.findChildren(ControlWidget) if each.control.path == path)
        return next(each for each in widgets if kind in ("", each.control.kind))

    def reveal(self, path: FieldSteps) -> None:
        """Bring the control of a field in sight, ready to be used, once it is made."""
        self._wanted = path
        if self._all_made:
            self.finish()
            self._reveal_wanted()

    def _reveal_wanted(self) -> None:
        path, self._wanted = self._wanted, None
        found = None if path is None else self._about(path)
        if found is None:
            return
        for cards in self._page.findChildren(CardsView):
            cards.open_for(found)
        self.ensureWidgetVisible(found, 0, 60)
        for part in found.findChildren(QWidget):
            if part.focusPolicy() & Qt.FocusPolicy.TabFocus and part.isEnabled() and part.isVisibleTo(found):
                part.setFocus(Qt.FocusReason.OtherFocusReason)
                break

    def in_sight(self, path: FieldSteps) -> bool:
        """Whether the control of a field can be seen, or there is none here to be seen."""
        if not self._all_made:
            return False
        self.finish()
        found, viewport = self._about(path), self.viewport()
        assert viewport is not None
        if found is None:
            return True
        if not found.isVisibleTo(self):
            # It is folded away.
            return False
        place = found.rect().translated(found.mapTo(viewport, QPoint(0, 0)))
        return viewport.rect().intersects(place)

    def _about(self, path: FieldSteps) -> QWidget | None:
        """What a field is changed by: its control, what offers an edit of it, or what lies within it."""
        # What was just made has no place yet.
        QCoreApplication.sendPostedEvents(None, QEvent.Type.LayoutRequest.value)
        for control in self._page.findChildren(ControlWidget):
            if control.control.path == path:
                return control
        for part in self._page.findChildren(ChoiceView):
            if part.choice is not None:
                entries = [edit for _, edit in part.choice.outcomes if edit is not None]
                if any(edit.path == path for edit in entries):
                    return part
        return None

    def fact(self, name: str) -> FactRow:
        """The row of a fact."""
        self.finish()
        rows = self._page.findChildren(FactRow)
        return next(each for each in rows if each.figure and each.figure.name == name)

    def ref_of(self, figure: Figure, column: int = FACT) -> Ref:
        """The address of a figure of the deck in sight."""
        assert self._deck is not None
        return Ref(self._deck.stage, figure.name, self._series, column)

    def _fill(self, widget: QWidget, item: Item) -> None:
        assert self._deck is not None
        ITEMS[type(item)].fill(widget, item, self._deck, self._series)

    def _show_cautions(self, page: _Page, cautions: tuple[Caution, ...]) -> None:
        if cautions == page.said:
            return
        page.said = cautions
        while (taken := page.cautions.takeAt(0)) is not None:
            widget = taken.widget()
            if widget:
                widget.hide()
                widget.deleteLater()
        shown = [self._caution(caution) for caution in cautions]
        for frame in shown:
            page.cautions.addWidget(frame)
        if len(shown) > 1:
            page.cautions.addWidget(_Rest(shown[1:]))

    def _caution(self, caution: Caution) -> QWidget:
        frame = QFrame()
        frame.setObjectName("caution")
        box = QVBoxLayout(frame)
        box.setContentsMargins(10, 7, 10, 7)
        text = Text(caution.text)
        text.setWordWrap(True)
        box.addWidget(text)
        if caution.way_out is not None:
            button = QPushButton(bare(f"{caution.way_out_text} ›"))
            button.setObjectName("link")
            button.clicked.connect(lambda: self.edited.emit(caution.way_out))
            box.addWidget(button)
        if caution.evidence:
            button = QPushButton(phrase("Show the working ›"))
            button.setObjectName("link")
            button.clicked.connect(lambda: self.chosen.emit(caution.evidence[0]))
            box.addWidget(button)
        return frame
