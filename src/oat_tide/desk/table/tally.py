"""The tally: what the selected periods add up to, and how two stretches compare."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QRect, pyqtSignal
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QSizePolicy, QWidget

from oat_tide.core.comparison.tally import Tally, tally
from oat_tide.core.exact import known
from oat_tide.core.language import phrase
from oat_tide.core.working.number_format import decimals_for, fixed
from oat_tide.desk.chart.scale import TimeScale
from oat_tide.desk.look.plain import Text
from oat_tide.desk.look.text_line import TextLine
from oat_tide.publish.tables import number, text
from oat_tide.stages.deck import Deck, Figure


class TallyBar(QFrame):
    """What the selected columns of a row add up to, beside the selection.

    Attributes:
        deck: what is selected in.
        figure: the row of it.
        room: where it may lie, asked whenever it is shown.

    Signals:
        noted: (first column, last column, text) a note on the first stretch.
    """

    noted = pyqtSignal(int, int, str)

    def __init__(self, scale: TimeScale, parent: QWidget, room: Callable[[], QRect]) -> None:
        super().__init__(parent)
        self.room = room
        self.setObjectName("card")
        self.scale = scale
        self.deck: Deck | None = None
        self.figure: Figure | None = None
        self.series = 0
        self.text = Text()
        self.text.setWordWrap(True)
        self.text.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.note = TextLine()
        self.note.setPlaceholderText(phrase("Note on these periods"))
        self.note.setAccessibleName(phrase("Note on the selected periods"))
        self.note.setFixedWidth(170)
        self.note.returnPressed.connect(self._noted)
        self.copy, self.close_button = QPushButton(phrase("Copy table")), QPushButton(phrase("Clear"))
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 3, 8, 3)
        row.addWidget(self.text, 1)
        row.addWidget(self.note)
        for button in (self.copy, self.close_button):
            button.setObjectName("link")
            row.addWidget(button)
        self.copy.clicked.connect(self._copied)
        self.close_button.clicked.connect(lambda checked: self.scale.select(()))
        scale.selected.connect(self.refresh)
        self.hide()

    def show_deck(self, deck: Deck, series: int) -> None:
        """Tally in another deck; the figure stays when the deck has it."""
        name = self.figure.name if self.figure else ""
        self.deck, self.series = deck, series
        self.figure = deck.figures.get(name) or next(iter(deck.rows), None)
        self.refresh()

    def choose(self, figure: Figure) -> None:
        """Tally another row."""
        self.figure = figure
        self.refresh()

    def tallies(self) -> list[Tally]:
        """The tally of each stretch."""
        if self.deck is None or self.figure is None:
            return []
        # A total of the year is no period of it: it is not added once more.
        values = self.figure.values[self.series, : self.deck.closes]
        return [
            tally(values, np.arange(first, last + 1), self.deck.grid, self.deck.first)
            for first, last in self._stretches()
        ]

    def _stretches(self) -> list[tuple[int, int]]:
        """The stretches selected that the figure has: a shorter axis may have come since."""
        many = 0 if self.figure is None else self.figure.values.shape[1]
        if self.deck is not None and self.deck.axis is not None:
            many = min(many, len(self.deck.axis.full))
        return [stretch for stretch in self.scale.selection if stretch[1] < many]

    def refresh(self) -> None:
        """Say what is selected; nothing selected, nothing said."""
        found = self.tallies()
        self.setVisible(bool(found))
        if not found or self.deck is None or self.figure is None:
            return
        self.note.setVisible(self.deck.axis is None)
        parts = [self._said(*stretch, each) for stretch, each in zip(self._stretches(), found, strict=True)]
        if len(found) == 2:
            parts.append(self._compared(*found))
        self.text.setText("\n".join(parts))
        self.setAccessibleName(phrase("Tally: ") + "; ".join(parts))
        self.fit()

    def fit(self) -> None:
        """Lie at the bottom of its room: a table that moved would not be what the pointer is on."""
        room, layout = self.room(), self.layout()
        assert layout is not None
        layout.activate()
        tall = layout.totalHeightForWidth(room.width())
        self.setGeometry(room.x(), room.bottom() - tall + 1, room.width(), tall)
        self.raise_()

    def _number(self, value: float, plus: bool = False) -> str:
        assert self.figure is not None
        if not known(value):
            return "–"
        return fixed(value, decimals_for(np.array([value])), plus=plus)

    def _said(self, first: int, last: int, found: Tally) -> str:
        assert self.deck is not None and self.figure is not None
        names = self.deck.label(first) + (f" – {self.deck.label(last)}" if last > first else "")
        head = phrase(
            "{label}, {names} · {count} known", label=self.figure.label, names=names, count=found.count
        )
        if not found.count:
            return head
        # Of shares and differences no growth is told.
        level, total = (
            self.figure.unit != "%" and not self.figure.signed,
            phrase("total {number}", number=self._number(found.total)),
        )
        # Averages, indices and running totals are not added up.
        parts = [head, *([total] if self.figure.adds_up else [])]
        parts += [
            phrase("mean {number}", number=self._number(found.mean)),
            phrase("median {number}", number=self._number(found.median)),
        ]
        parts += [
            phrase("lowest {number}", number=self._number(found.lowest)),
            phrase("highest {number}", number=self._number(found.highest)),
        ]
        if found.steps:
            change = phrase("first to last {number}", number=self._number(found.change, plus=True))
            if known(found.change_share) and level:
                change += f" ({fixed(found.change_share, 1, plus=True)} %)"
            parts.append(change)
        step = self.deck.axis.step if self.deck.axis else self.deck.grid.kind
        if known(found.compound) and level and step:
            parts.append(
                phrase(
                    "compound {compound} % a {step}", compound=fixed(found.compound, 2, plus=True), step=step
                )
            )
        if known(found.share) and level and self.figure.adds_up and self.deck.axis is None:
            parts.append(phrase("{share} % of its years", share=fixed(found.share, 1)))
        return " · ".join(parts)

    def _compared(self, one: Tally, other: Tally) -> str:
        gap, parts = other.total - one.total, []
        if self.figure is not None and self.figure.adds_up:
            grows = one.total > 0 and not self.figure.signed
            share = f" ({fixed(100 * gap / one.total, 1, plus=True)} %)" if grows else ""
            parts.append(phrase("total {number}{share}", number=self._number(gap, plus=True), share=share))
        parts.append(phrase("mean {number}", number=self._number(other.mean - one.mean, plus=True)))
        return phrase("second on first: {parts}", parts=", ".join(parts))

    def table(self) -> str:
        """What is selected as rows and tab-separated columns: the periods, then every row of the table."""
        if self.deck is None:
            return ""
        columns = [c for first, last in self.scale.selection for c in range(first, last + 1)]
        lines = ["\t".join(["", *(self.deck.label(c) for c in columns)])]
        for row in self.deck.rows:
            cells = [row.values[self.series, c] for c in columns]
            lines.append("\t".join([text(row.label), *(number(float(cell)) for cell in cells)]))
        return "\n".join(lines)

    def _copied(self) -> None:
        clipboard = QGuiApplication.clipboard()
        if clipboard:
            clipboard.setText(self.table())

    def _noted(self) -> None:
        text = self.note.text().strip()
        if text and self.scale.selection:
            self.noted.emit(*self.scale.selection[0], text)
            self.note.setText("")
