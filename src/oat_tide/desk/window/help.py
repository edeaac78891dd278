"""What F1 shows: the keys, and the words of the product in a sentence each."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from oat_tide.core.language import phrase
from oat_tide.desk.look.plain import Text
from oat_tide.desk.window.commands import COMMANDS

IN_TABLE = (
    (phrase("arrows, Page Up, Page Down"), phrase("from cell to cell in the table")),
    (phrase("Home, End"), phrase("the first and the last period of the table")),
    (phrase("Enter"), phrase("keep the working of the cell; once more releases it")),
    ("Shift+Left, Shift+Right", phrase("select periods, to see their total and mean")),
    ("Ctrl+Shift+Left, Ctrl+Shift+Right", phrase("select a second range, to compare it with the first")),
    ("+, -", phrase("zoom in and out, in the table")),
    ("Ctrl+C", phrase("copy what is selected, or the cell")),
    (phrase("F2, Delete, Ctrl+V"), phrase("write in a cell that can be written in, empty it, paste rows")),
    (phrase("wheel, Ctrl+wheel"), phrase("zoom in and out")),
    (phrase("Shift+wheel"), phrase("earlier and later")),
    (phrase("Ctrl+Up, Ctrl+Down"), phrase("sort a list by the column that the keys are in")),
)
WORDS = (
    (
        phrase("adjusted actual"),
        phrase("the actual with decisions of Intake applied: left-out periods removed, others replaced."),
    ),
    (phrase("as-of"), phrase("the last period that counts as known; what sold later is only compared.")),
    (phrase("baseline"), phrase("the figure of a method, before anything is changed.")),
    (
        phrase("complete period"),
        phrase("one whose days are all in the data; averages and fits use complete periods only."),
    ),
    (
        phrase("decision"),
        phrase("what you have said of a period: left out, replaced, treated as complete, closed."),
    ),
    (phrase("detail"), phrase("the values of a column that a series is split into.")),
    (phrase("finding"), phrase("the result of a stage at present, in a line or two.")),
    (phrase("fit span"), phrase("the periods that a line or curve is fitted to.")),
    (phrase("fixed"), phrase("a period of a spread whose figure stays as written.")),
    (
        phrase("index"),
        phrase("the season of a month, week or weekday: a factor of the trend, or units added to it."),
    ),
    (phrase("lag"), phrase("how many periods a smoothed line is behind: the mean age of its weights.")),
    (phrase("left out"), phrase("a period that averages and fits do not use.")),
    (
        phrase("level"),
        phrase("the usual size of a series without trend and season, as smoothing estimates it."),
    ),
    (phrase("log"), phrase("what was done to the plan, by whom, when and why; saved with it.")),
    (
        phrase("one-step forecast"),
        phrase("the forecast of a period from the periods before it; it tests a smoother."),
    ),
    (
        phrase("past starts"),
        phrase("earlier as-of dates that a method is run from; their errors make the intervals."),
    ),
    (phrase("plan"), phrase("the document: your choices, with the sales lines that they are made on.")),
    (phrase("projection"), phrase("what a method gives for the periods of the plan.")),
    (phrase("provisional"), phrase("complete, and its figure not final.")),
    (phrase("ratio"), phrase("a period divided by, or less, its trend; an index is the mean of ratios.")),
    (phrase("scenario"), phrase("a budget or the like, kept separately from the history.")),
    (phrase("selected smoother"), phrase("the one whose controls are open and whose window is drawn.")),
    (phrase("set aside"), phrase("a sales line that could not be used; Intake lists each with the reason.")),
    (phrase("shown on the chart"), phrase("another method next to the chosen one, for comparison.")),
    (phrase("smoothed"), phrase("a period with its noise reduced, by a window or by exponential smoothing.")),
    (phrase("spread"), phrase("a total split over periods and detail, so that all parts add up.")),
    (
        phrase("stage"),
        phrase("one question asked of the history; stages are listed at the left in the order of work."),
    ),
    (phrase("tally"), phrase("the total, mean and change of selected periods.")),
    (phrase("tide table"), phrase("the rows of figures below the chart, each under its period.")),
    (
        phrase("tie-out"),
        phrase("the total of the source compared with the total of the series, to the last unit."),
    ),
    (phrase("withdrawn"), phrase("no longer sold from a period on.")),
    (phrase("working"), phrase("how a figure was computed, in plain arithmetic, down to the sales lines.")),
)


def keys() -> tuple[tuple[str, str], ...]:
    """List all keys with what they do: those of commands, and those of the table."""
    found = [(", ".join(each.keys), each.text.rstrip("…")) for each in COMMANDS if each.keys]
    return (*found, *IN_TABLE)


class Help(QFrame):
    """Keys and words, laid over the window until Escape or F1."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("places")
        self.setAccessibleName(phrase("Help: keys and words"))
        self.area = QScrollArea()
        self.hide()

    def _fill(self) -> None:
        """Make what it says: not before it is asked for, so that no start waits for it."""
        inside = QWidget()
        columns = QHBoxLayout(inside)
        columns.setContentsMargins(28, 20, 28, 20)
        columns.setSpacing(48)
        columns.addLayout(_list(phrase("Keys"), keys()), 1)
        columns.addLayout(_list(phrase("Words"), WORDS), 1)
        self.area.setWidget(inside)
        self.area.setWidgetResizable(True)
        self.area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.area.setFrameShape(QFrame.Shape.NoFrame)
        box = QVBoxLayout(self)
        box.setContentsMargins(1, 1, 1, 1)
        box.addWidget(self.area)

    def switch(self) -> None:
        """Show it, or take it away."""
        parent = self.parentWidget()
        assert parent is not None
        if self.isVisible():
            self.hide()
            return
        if self.area.widget() is None:
            self._fill()
        self.setGeometry(parent.rect().adjusted(60, 60, -60, -30))
        self.show()
        self.raise_()
        self.area.setFocus()


def _list(title: str, entries: tuple[tuple[str, str], ...]) -> QVBoxLayout:
    column, grid = QVBoxLayout(), QGridLayout()
    column.setSpacing(10)
    heading = Text(title)
    heading.setObjectName("stagename")
    column.addWidget(heading)
    grid.setHorizontalSpacing(16)
    grid.setVerticalSpacing(7)
    grid.setColumnStretch(1, 1)
    for row, (name, says) in enumerate(entries):
        for place, text in enumerate((name, says)):
            label = Text(text)
            label.setWordWrap(True)
            label.setAlignment(Qt.AlignmentFlag.AlignTop)
            label.setObjectName("head2" if place == 0 else "")
            grid.addWidget(label, row, place)
    grid.setColumnMinimumWidth(0, 150)
    column.addLayout(grid)
    column.addStretch()
    return column
