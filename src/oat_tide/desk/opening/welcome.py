"""What is shown while no plan is open: every way in, and the files of late."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from oat_tide.core.language import phrase
from oat_tide.desk.look.measured import elided
from oat_tide.desk.look.palette import TEXT
from oat_tide.desk.look.plain import Text, bare, tip
from oat_tide.desk.opening.offers import MOST, Offer, waiting
from oat_tide.desk.opening.recent import recent

_WIDE, _GAP = 400, 8
WAYS = {
    "file": (phrase("Open a file"), phrase("Sales lines or a table of figures, a workbook, or a plan")),
    "folder": (phrase("A folder of files"), phrase("Every file in it, read as one")),
    "files": (phrase("Several files as one"), phrase("Such as one a month")),
    "address": (phrase("A database"), phrase("By its address; totals are computed there")),
    "typed": (phrase("Figures typed or pasted"), phrase("A column of figures, or a table from a sheet")),
    "demo": (phrase("The demo plan"), phrase("A small mill, made up, with errors such as real data have")),
}
"""The ways in: what they are called, and what each is for."""


class Welcome(QWidget):
    """The way in while no plan is open.

    Attributes:
        ways: the buttons of WAYS, by name.
        files: those of the recent files.
        offers: what was not saved when a window ended.

    Signals:
        chosen: (str) one of WAYS.
        opened: (Path) one of the recent files.
        taken: (Left) what was not saved is to be taken up; discarded: it is not wanted.
    """

    chosen = pyqtSignal(str)
    opened = pyqtSignal(object)
    taken = pyqtSignal(object)
    discarded = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("welcome")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.ways: dict[str, QPushButton] = {}
        self.files: list[QPushButton] = []
        self.offers: list[Offer] = []
        box = QVBoxLayout(self)
        box.addStretch(2)
        title = Text(phrase("From sales lines to a projection compared with actuals"))
        title.setObjectName("title")
        text = Text(
            phrase(
                "Dates, measure and series are found by content and can be changed; lines that "
                "cannot be read are listed, never dropped."
            )
        )
        text.setObjectName("subtitle")
        for label in (title, text):
            label.setAlignment(Qt.AlignmentFlag.AlignCenter)
            box.addWidget(label)
        box.addSpacing(18)
        columns = QHBoxLayout()
        columns.setSpacing(36)
        columns.addStretch()
        columns.addLayout(self._ways())
        columns.addLayout(self._recent())
        columns.addStretch()
        box.addLayout(columns)
        box.addSpacing(14)
        drop = Text(phrase("Or drop a file anywhere on this window."))
        drop.setObjectName("quiet")
        drop.setAlignment(Qt.AlignmentFlag.AlignCenter)
        box.addWidget(drop)
        box.addStretch(3)

    def _ways(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(_GAP)
        column.addWidget(_heading(phrase("Open")))
        for name, (title, says) in WAYS.items():
            button = _choice(title, says, partial(self.chosen.emit, name))
            self.ways[name] = button
            column.addWidget(button)
        column.addStretch()
        return column

    def _recent(self) -> QVBoxLayout:
        self._column = QVBoxLayout()
        self._column.setSpacing(_GAP)
        self._none = Text(phrase("Plans and files that you open are listed here."))
        self._none.setObjectName("quiet")
        self._none.setFixedWidth(_WIDE)
        self._not_saved = _heading(phrase("Not saved when a window ended"))
        self._column.addWidget(self._not_saved)
        self._column.addWidget(_heading(phrase("Recent files")))
        self._column.addWidget(self._none)
        self._column.addStretch()
        return self._column

    def show_recent(self) -> None:
        """Show what was not saved and the recent files as they are now."""
        for widget in (*self.files, *self.offers):
            self._column.removeWidget(widget)
            # Out of sight at once: it is let go of only when nothing more is to be done.
            widget.hide()
            widget.deleteLater()
        self.files, self.offers = [], []
        for one, entries in waiting()[:MOST]:
            offer = Offer(one, entries, _WIDE)
            offer.taken.connect(self.taken)
            offer.discarded.connect(self.discarded)
            self.offers.append(offer)
            self._column.insertWidget(len(self.offers), offer)
        self._not_saved.setVisible(bool(self.offers))
        for place, path in enumerate(recent(), len(self.offers) + 2):
            button = _choice(path.name, str(path.parent), partial(self.opened.emit, path))
            self.files.append(button)
            self._column.insertWidget(place, button)
        self._none.setVisible(not self.files)


def _heading(text: str) -> Text:
    heading = Text(text)
    heading.setObjectName("head2")
    return heading


def _choice(title: str, says: str, act: Callable[[], object]) -> QPushButton:
    """A plain choice of two lines: what it is, and more of it."""
    button = QPushButton()
    button.setObjectName("plain")
    button.setAccessibleName(title)
    button.setAccessibleDescription(says)
    button.setFixedWidth(_WIDE)
    button.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
    room = _WIDE - 36
    lines = elided(title, room, TEXT, middle=True), elided(says, room, TEXT, middle=True)
    button.setText(bare("\n".join(lines)))
    tip(button, says if lines[1] != says else "")
    button.clicked.connect(lambda checked: act())
    return button
