"""The middle of the window: title, bands, axis, tide table, working card and listings of one deck."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import partial

import numpy as np
from PyQt6.QtCore import QEvent, QObject, QRect, Qt, pyqtSignal
from PyQt6.QtGui import QGuiApplication, QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QMenu, QPushButton, QVBoxLayout, QWidget

from oat_tide.core.language import phrase
from oat_tide.core.periods.calendar import Grid
from oat_tide.core.series.panel import INCOMPLETE
from oat_tide.core.working.tree import Ref
from oat_tide.desk.card.foot import WORKING, Foot
from oat_tide.desk.chart.axis import AxisStrip
from oat_tide.desk.chart.bands import BandView
from oat_tide.desk.chart.coverage import CoverageView
from oat_tide.desk.chart.overview import Overview
from oat_tide.desk.chart.scale import TimeScale
from oat_tide.desk.deck.arrangements import ArrangementRow
from oat_tide.desk.deck.headline import Headline
from oat_tide.desk.deck.main_list import MainList
from oat_tide.desk.deck.sentence import Sentence
from oat_tide.desk.deck.split_bar import SplitBar
from oat_tide.desk.look.plain import bare
from oat_tide.desk.look.turns import Turn
from oat_tide.desk.table.rows import TideRows
from oat_tide.desk.table.tally import TallyBar
from oat_tide.desk.table.tide import TideTable
from oat_tide.plan.edits import edit
from oat_tide.plan.parts.layout import share_near
from oat_tide.plan.paths import P
from oat_tide.publish.tables import number
from oat_tide.session import Session
from oat_tide.stages.deck import Deck, Figure

_AFTER_PAINT = 40
"""Milliseconds until the card follows: a drag is painted first."""
_FOREMOST = ("projected", "forecast", "smoothed", "actual", "columns", "bars")
_AHEAD = 0.4
"""The share of the columns in sight that is ahead, at the least, where something is projected."""
_SHARE = 0.45
"""The share of the height that the chart usually has."""
_FOOT = 18
"""Pixels around the foot."""
_LEAST_SIGHT = 6
"""Columns that are in sight at the least after a switch of period, and beside a short projection."""


@dataclass(frozen=True, slots=True)
class _Place:
    """What was in sight of a stage.

    Attributes:
        start, count: the columns of time in sight.
        settled: whether the user chose them.
        kept_as: the periods that they are of, by name; empty for none.
        grid, first: the periods, and that of column 0.
        selection: the stretches of columns that were selected.
    """

    start: float
    count: float
    settled: bool
    kept_as: str
    grid: Grid
    first: int
    selection: tuple[tuple[int, int], ...]

    def on(self, grid: Grid, first: int) -> tuple[float, float]:
        """The start and the count of the columns of other periods that lie over the same days."""
        begin = self.grid.first_day(self.first + int(self.start))
        end = self.grid.last_day(self.first + round(self.start + self.count) - 1)
        low, high = grid.period(begin), grid.period(end)
        return float(low - first), float(high - low + 1)


def _past_and_future(deck: Deck, ahead: int, fitting: float) -> tuple[float, float]:
    """The start and the count of columns that keep a projection beside the past that it comes from.

    A cycle of actuals, or half the horizon, stands left of the as-of line, and more while that line lies
    no further right than three fifths.
    """
    behind = min(deck.grid.cycle, -(-ahead // 2))
    count = max(ahead + behind, min(fitting, max(ahead // _AHEAD, _LEAST_SIGHT)))
    return deck.past + ahead - count, count


class DeckView(QWidget):
    """Everything of one deck but its side sheet.

    Attributes:
        scale: the one time axis.

    Signals:
        edited: (Edit) a handle is dragged.
        rested: a drag has ended.
        led: (steps) a word leads to the control of a field.
        typed: (rows) figures were written into cells: where each row begins (Ref), with its texts.
        refused: (str) why nothing was.
    """

    edited = pyqtSignal(object)
    rested = pyqtSignal()
    led = pyqtSignal(object)
    typed = pyqtSignal(object)
    refused = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("centre")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.scale = TimeScale()
        self.headline, self.sentence = Headline(), Sentence()
        self.bands, self.axis = BandView(self.scale), AxisStrip(self.scale)
        self.tide, self.coverage = TideTable(self.scale), CoverageView(self.scale)
        self.rows, self.split = TideRows(self.tide), SplitBar()
        self._share: float | None = None
        self.foot, self.main = Foot(), MainList()
        self.arrangements, self.overview = ArrangementRow(), Overview(self.scale)
        self.tally = TallyBar(self.scale, self, self._room_for_tally)
        self.card, self.listing = self.foot.card, self.foot.listing
        self.rows_button = QPushButton(phrase("Rows ⌄"))
        self.rows_button.setObjectName("link")
        self.rows_button.setAccessibleName(
            phrase("Choose the rows of the tide table, and how the actual is drawn")
        )
        self.rows_menu = QMenu(self)
        self.rows_button.setMenu(self.rows_menu)
        self.rows_menu.aboutToShow.connect(self._offer_rows)
        self.deck: Deck | None = None
        self.session: Session | None = None
        self.series = 0
        self._stage = ""
        self._grid_kind = ""
        self._in_time = (0.0, 0.0, False, "")
        self._places: dict[str, _Place] = {}
        self._after_paint = Turn(self, self._tell_next, again=True)
        self._told_later: Iterator[None] = iter(())
        self._dividing = Turn(self, self._divide_again)
        self.axis.steps, self.axis.totalled = self.tide.steps, self.tide.totalled
        self.arrangements.after, self.foot.after = self.rows_button, self.coverage
        self._lay_out()
        self._connect()

    def _lay_out(self) -> None:
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 10, 0, 10)
        box.setSpacing(0)
        head = QHBoxLayout()
        head.setContentsMargins(18, 0, 18, 0)
        head.addWidget(self.headline, 1)
        head.addWidget(self.rows_button, 0, Qt.AlignmentFlag.AlignBottom)
        box.addLayout(head)
        said = QHBoxLayout()
        said.setContentsMargins(18, 0, 18, 0)
        said.addWidget(self.sentence)
        box.addLayout(said)
        box.addWidget(self.arrangements)
        box.addSpacing(4)
        box.addWidget(self.overview)
        box.addWidget(self.bands, 1)
        box.addWidget(self.split)
        box.addWidget(self.axis)
        box.addWidget(self.rows)
        box.addWidget(self.coverage, 1)
        box.addWidget(self.main, 1)
        box.addSpacing(8)
        box.addWidget(self.foot)

    def _room_for_tally(self) -> QRect:
        """The foot, where what is pointed at is told."""
        return self.foot.geometry().adjusted(14, 0, -14, 0)

    def _connect(self) -> None:
        self.bands.edited.connect(self.edited)
        self.bands.rested.connect(self.rested)
        self.tide.hovered.connect(self._peek)
        self.tide.chosen.connect(self._keep)
        self.tide.picked.connect(self.tally.choose)
        self.tide.typed.connect(self._typed)
        self.tide.refused.connect(self.refused)
        self.tide.folded.connect(self._fold)
        self.split.moved.connect(self._move_split)
        self.split.rested.connect(lambda: self._keep_split(self._share))
        self.split.reset.connect(lambda: self._keep_split(None))
        self.foot.installEventFilter(self)
        self.tide.copied.connect(self._copy)
        self.tally.noted.connect(self._note)
        self.coverage.chosen.connect(self._go_to)
        self.coverage.hovered.connect(self.foot.hint.setText)
        self.foot.edited.connect(self.edited)
        self.main.edited.connect(self.edited)
        self.arrangements.edited.connect(self.edited)
        self.sentence.led.connect(self.led)
        self.sentence.edited.connect(self.edited)
        self.card.kept.connect(self._show_kept)

    def plain(self) -> None:
        """Show only what a picture holds: title, chart, periods and table, and nothing to take hold of."""
        self.bands.over.handles_shown = self.overview.wanted = self.axis.keeps = False
        for part in (self.foot, self.rows_button, self.arrangements, self.coverage):
            part.setMaximumSize(0, 0)

    def show_session(self, session: Session, stage: str) -> None:
        """Show the deck of a stage."""
        deck = session.shown(stage)
        self.bands.rest()
        if self.session is not session:
            # What was in sight of one document says nothing of another.
            self.deck, self._places = None, {}
            self.scale.settled = False
            self.scale.select(())
        if self.deck is not None and self._stage != stage:
            self._come_to(stage, self.deck, deck)
        else:
            self._keep_place(deck)
        self.deck, self._stage = deck, stage
        self.card.session = self.session = session
        self.card.at_rest = partial(self._at_rest, deck)
        layout = self.layout()
        assert layout is not None
        # What comes and goes would else move the chart, and draw it, several times.
        layout.setEnabled(False)
        self.arrangements.offer(deck.arrangements)
        self.headline.say(deck.title(self.series), deck.subtitle(self.series))
        self.sentence.say(deck.sentence)
        self.tide.kept_layout = session.plan.layout
        self._share = session.plan.layout.split(stage)
        self.tide.show_deck(deck, self.series)
        self._make_room(deck)
        self.bands.sizes, self.bands.columns = self.tide.sizes, session.plan.drawn == "columns"
        self.axis.show_deck(deck, session.moved_back)
        self.coverage.show_deck(deck)
        self.overview.show_deck(deck, self.series)
        self.main.show_deck(deck)
        for widget in (self.bands, self.split, self.axis, self.rows, self.rows_button):
            widget.setVisible(deck.main is None)
        self.tally.show_deck(deck, self.series)
        self.foot.show_listings(deck.stage, deck.listings)
        self.card.expect(deck)
        layout.setEnabled(True)
        # The foot would ask for another height only in a later turn, after a paint at the old one.
        self.foot.updateGeometry()
        layout.activate()
        self._divide_again()
        self.bands.show_deck(deck, self.series)
        self._told_later = self._tell_later()
        self._after_paint.start(_AFTER_PAINT)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if watched is self.foot and event is not None and event.type() == QEvent.Type.Resize:
            # A working of more lines takes its room from the table, not from the chart; what is asked for
            # while all is laid out would not be heard.
            self._dividing.start(0)
        return super().eventFilter(watched, event)

    def _divide_again(self) -> None:
        layout = self.layout()
        if self._divide() and layout is not None:
            layout.invalidate()
            layout.activate()

    def _divide(self) -> bool:
        """Give the chart its share of the height; the table has what is left, and scrolls.

        Returns:
            Whether that changed what the table has.
        """
        chart = round((self._share or _SHARE) * self.height())
        above = self.bands.y() - self._overviewed()
        below = (
            self.split.height()
            + self.axis.height()
            + max(self.foot.sizeHint().height(), self.foot.height())
            + _FOOT
        )
        return self.rows.give(self.height() - above - chart - below)

    def _move_split(self, by: int) -> None:
        """The bar is dragged: chart and table follow, and the plan keeps it once it rests."""
        tall = max(self.height(), 1)
        now = self._share or (self.bands.height() + self._overviewed()) / tall
        self._share = share_near(now + by / tall)
        self._divide()

    def _overviewed(self) -> int:
        return self.overview.height() if self.overview.isVisibleTo(self) else 0

    def _keep_split(self, share: float | None) -> None:
        if self.session is not None:
            self.edited.emit(edit(P.layout.splits, self.session.plan.layout.with_split(self._stage, share)))

    def _fold(self, name: str) -> None:
        """Fold a group of rows, or open it."""
        if self.session is not None:
            self.edited.emit(edit(P.layout.turned, self.session.plan.layout.with_turn(name)))

    def preview(self, deck: Deck) -> None:
        """Show the chart of another deck of the stage; all else stays."""
        if self.deck is not None and deck.columns == self.deck.columns and deck.sees == self.deck.sees:
            self.bands.show_deck(deck, self.series)

    @property
    def tells_later(self) -> bool:
        """Whether the working card, or a box over a column, is still to follow."""
        return self._after_paint.isActive() or self._dividing.isActive() or self.listing.roles.makes_more

    def _tell_next(self) -> None:
        # While another plan is made ready, what is in sight is of the old one, and soon gone.
        ready = self.session is not None and self.session.ready
        if not ready or next(self._told_later, self) is self:
            self._after_paint.stop()

    def _tell_later(self) -> Iterator[None]:
        """What follows the paint, a piece a turn."""
        self.card.refresh()
        self._show_kept()
        yield
        self.bands.describe()
        yield
        self.tide.read_out()
        yield
        if self.deck is not None and self.deck.main is None:
            rows = self.card.reserve(self.deck, self.series)
            # A plan that has gone on may lack what this one names.
            while self.session and self.deck is self.session.shown(self._stage) and next(rows, self) is None:
                yield
        while self.bands.prepare():
            yield

    def _come_to(self, stage: str, old: Deck, deck: Deck) -> None:
        """Another stage: what is in sight and selected of each is its own, kept until it is come back to."""
        scale = self.scale
        if old.axis is None:
            self._in_time = (scale.start, scale.count, scale.settled, f"{old.grid}")
        self._places[self._stage] = _Place(*self._in_time, old.grid, old.first, scale.selection)
        place = self._places.get(stage)
        self._grid_kind = f"{deck.grid} {deck.axis and deck.columns}"
        scale.settled = place is not None and place.settled
        scale.fit(deck.columns)
        self._in_time = (0.0, 0.0, False, "")
        same = place is not None and (place.kept_as, place.first) == (f"{deck.grid}", deck.first)
        if place is not None and place.settled:
            start, count = (place.start, place.count) if same else place.on(deck.grid, deck.first)
            self._in_time = (start, count, True, f"{deck.grid}")
        if deck.axis is not None:
            scale.look(0.0, float(deck.columns))
        elif scale.settled:
            scale.look(*self._in_time[:2])
        else:
            self._open_on_latest(deck)
        still = place.selection if place is not None and same else ()
        scale.select(tuple(each for each in still if each[1] < deck.columns))

    def _keep_place(self, deck: Deck) -> None:
        """Another kind of period keeps the place on the axis; the first deck opens on the latest periods."""
        old, mark = self.deck, f"{deck.grid} {deck.axis and deck.columns}"
        if old is not None and (old.axis or deck.axis) and mark != self._grid_kind:
            self._change_axis(old, deck)
        elif old is None or mark == self._grid_kind:
            self.scale.fit(deck.columns, follow=self.bands.over.grasped is None)
            if old is None:
                self.coverage.held = None
                self._open_on_latest(deck)
        else:
            self._change_kind(old, deck)
        # What is selected is columns: it goes where they stand for other periods, or are there no more.
        same = old is not None and mark == self._grid_kind and old.first == deck.first
        still = [(first, min(last, deck.columns - 1)) for first, last in self.scale.selection if same]
        self.scale.select(tuple(each for each in still if each[0] < deck.columns))
        self._grid_kind = mark

    def _change_kind(self, old: Deck, deck: Deck) -> None:
        """Another kind of period: the stretch in sight, its middle and the cursor's date stay."""
        scale = self.scale
        first, last = old.first + int(scale.start), old.first + round(scale.start + scale.count) - 1
        start, end = old.grid.first_day(first), old.grid.last_day(max(last, first))
        row, column = self.tide.standing
        cursor = old.grid.first_day(old.first + column)
        scale.fit(deck.columns)
        if scale.settled:
            low, high = (deck.grid.period(day) - deck.first for day in (start, end))
            middle = deck.grid.period((start + end) // 2) - deck.first + 0.5
            count = float(max(high - low + 1, min(_LEAST_SIGHT, deck.columns)))
            scale.look(middle - count / 2, count)
        else:
            # What the user has not chosen opens on as many as can be read, up to the same day.
            self._open_on_latest(deck)
            scale.look(deck.grid.period(end) + 1 - deck.first - scale.count, scale.count)
        self.tide.standing = row, min(max(deck.grid.period(cursor) - deck.first, 0), deck.columns - 1)

    def _change_axis(self, old: Deck, deck: Deck) -> None:
        """Columns that are no stretch of time are all in sight; coming back, the place in time is kept."""
        scale = self.scale
        if old.axis is None:
            self._in_time = (scale.start, scale.count, scale.settled, f"{old.grid}")
        scale.fit(deck.columns)
        if deck.axis is not None:
            scale.look(0.0, float(deck.columns))
            return
        start, count, settled, grid = self._in_time
        scale.settled = settled
        if settled and grid == f"{deck.grid}":
            scale.look(start, count)
        else:
            self._open_on_latest(deck)

    def _make_room(self, deck: Deck) -> None:
        """While the user has not chosen what is in sight, columns stay wide enough for their figures."""
        free = not self.scale.settled and self.bands.over.grasped is None and deck.axis is None
        if free:
            self._open_on_latest(deck)

    def _fitting(self, deck: Deck) -> float:
        """About eighteen periods, or as many as have room for their figures."""
        room = self.scale.across // max(self.tide.room, 1)
        return float(min(self.scale.usual, max(room, 6), max(deck.columns, 1)))

    def _open_on_latest(self, deck: Deck) -> None:
        """The latest periods, as many as fit."""
        if self.tide.deck is not deck:
            self.tide.show_deck(deck, self.series)
        count, last = self._fitting(deck), self._last_told(deck) + 1
        ahead = last - deck.past if deck.projects else 0
        if ahead > 0:
            self.scale.look(*_past_and_future(deck, ahead, count))
            return
        # A budget may reach years ahead: the history comes first.
        end = min(deck.columns, last + (count // 4 if deck.columns > count else 0))
        self.scale.look(end - count, count)

    def _last_told(self, deck: Deck) -> int:
        """The last column that anything but a scenario is drawn in."""
        drawn = (curve for band in deck.bands for curve in band.curves if curve.role != "scenario")
        rows = [~np.isnan(deck.figures[curve.figure].values[self.series]) for curve in drawn]
        told = [int(np.flatnonzero(row)[-1]) for row in rows if row.any()]
        return max(told, default=deck.columns - 1)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.scale.resize(self.width())
        self._divide()
        if self.tally.isVisible():
            self.tally.fit()
        if self.deck and not self.scale.settled and self.deck.axis is None:
            self._open_on_latest(self.deck)

    def _at_rest(self, deck: Deck) -> Ref | None:
        """The figure whose working is shown while none is pointed at: the latest of what the stage is for."""
        curves = {curve.role: curve for band in deck.bands for curve in band.curves}
        curve = next((curves[role] for role in _FOREMOST if role in curves), None)
        rows = [row.name for row in deck.rows]
        name = curve.figure if curve else "actual" if "actual" in rows else next(iter(rows), "")
        if name not in deck.figures:
            return None
        stop = (curve.stop if curve else 0) or deck.columns
        part = deck.flags[self.series] & INCOMPLETE > 0
        known = np.flatnonzero(
            (~np.isnan(deck.figures[name].values[self.series]) & ~(part & (name == "actual")))[:stop]
        )
        return Ref(deck.stage, name, self.series, int(known[-1])) if known.size else None

    def _go_to(self, row: int, column: int) -> None:
        """A cell of the coverage: its series in sight, with the lines of its period."""
        if self.deck is None or self.deck.coverage is None:
            return
        self.edited.emit(self.deck.coverage().go(row))
        if column < self.deck.columns:
            self.keep(Ref(self.deck.stage, "actual", self.series, column), again=True)

    def _note(self, first: int, last: int, text: str) -> None:
        """A note on a stretch of periods of the series in sight."""
        if self.deck is None or self.session is None:
            return
        start = self.deck.first
        self.edited.emit(self.session.noted(start + first, start + last, text))

    def _typed(self, rows: list[tuple[Figure, int, list[str]]]) -> None:
        if self.deck is not None:
            stage, series = self.deck.stage, self.series
            self.typed.emit([(Ref(stage, figure.name, series, at), texts) for figure, at, texts in rows])

    def _copy(self, figure: Figure, column: int) -> None:
        """What is selected as a table, or else the one figure, in full."""
        clipboard = QGuiApplication.clipboard()
        if clipboard and self.deck is not None:
            cell = number(float(figure.values[self.series, column]))
            clipboard.setText(self.tally.table() if self.scale.selection else cell)

    def _offer_rows(self) -> None:
        """Fill the menu of rows as it opens."""
        self.rows_menu.clear()
        for row in self.deck.rows if self.deck else ():
            name = f"{self.deck.stage}.{row.name}" if self.deck else ""
            action = self.rows_menu.addAction(bare(row.label))
            assert action is not None
            action.setCheckable(True)
            action.setChecked(name not in self.tide.kept_layout.hidden)
            action.toggled.connect(lambda on, name=name: self._choose_row(name, on))
        self.rows_menu.addSeparator()
        columns = self.rows_menu.addAction(phrase("Actual as columns in the chart"))
        assert columns is not None
        columns.setCheckable(True)
        columns.setChecked(self.bands.columns)
        columns.toggled.connect(lambda on: self.edited.emit(edit(P.drawn, "columns" if on else "line")))

    def _choose_row(self, name: str, shown: bool) -> None:
        if self.session is not None:
            self.edited.emit(edit(P.layout.hidden, self.session.plan.layout.with_row(name, shown)))

    def _peek(self, figure: object, column: int) -> None:
        if self.deck:
            self.card.peek(self.deck, figure, self.series, column)  # type: ignore[arg-type]

    def _keep(self, figure: object, column: int) -> None:
        if self.deck:
            self.keep(Ref(self.deck.stage, figure.name, self.series, column))  # type: ignore[attr-defined]

    def keep(self, ref: Ref, again: bool = False) -> None:
        """Keep a figure's working on the card; the same one again lets it go, unless it is to be kept."""
        self.foot.choose(WORKING)
        if not again and self.card.pinned == ref and len(self.card.trail) == 1:
            self.release()
            return
        self.card.keep(ref)
        self._show_kept()

    def _show_kept(self) -> None:
        if self.tide.pinned != self.card.pinned:
            self.tide.pinned = self.card.pinned
            self.tide.update()

    def release(self) -> None:
        """Let the kept working go."""
        self.card.release()
        self._show_kept()

    def point_at(self, ref: Ref | None) -> None:
        """Show the working of a fact that is pointed at."""
        if self.deck and ref is None:
            self.card.peek(self.deck, None, self.series, -1)
        elif self.deck and ref is not None:
            self.card.peek(self.deck, self.deck.figures.get(ref.figure), ref.series, ref.column)

    def dress(self) -> None:
        """Take the colours of the palette."""
        for part in (self.bands, self.sentence, self.card):
            part.dress()
        for widget in (self.headline, self.axis, self.tide, self.coverage):
            widget.update()
