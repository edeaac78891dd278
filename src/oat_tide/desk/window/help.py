"""What F1 shows: tasks, gestures, keys, and the words of the product in a sentence each."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from oat_tide.core.language import phrase
from oat_tide.desk.look.plain import Text
from oat_tide.desk.window.commands import COMMANDS
from oat_tide.plan.edits import Edit, edit
from oat_tide.plan.paths import P

IN_TABLE = (
    (phrase("arrows, Page Up, Page Down"), phrase("from cell to cell in the table")),
    (phrase("Home, End"), phrase("the first and the last period of the table")),
    (phrase("Enter"), phrase("keep the working of the cell; once more releases it")),
    ("Shift+Left, Shift+Right", phrase("select periods, to see their total and mean")),
    ("Ctrl+Shift+Left, Ctrl+Shift+Right", phrase("select a second range, to compare it with the first")),
    ("+, -", phrase("zoom in and out, in the table")),
    ("Ctrl+C", phrase("copy what is selected, or the cell")),
    (phrase("F2, Delete, Ctrl+V"), phrase("write in a cell that can be written in, empty it, paste rows")),
    (
        phrase("wheel, Ctrl+wheel"),
        phrase("zoom in and out; the wheel alone scrolls a table whose rows have no room"),
    ),
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


GESTURES = (
    (phrase("drag the as-of line"), phrase("see everything as it was known then; Latest brings it back.")),
    (phrase("drag the ends of spans"), phrase("set the fit span, the horizon or a window, above the chart.")),
    (phrase("drag over periods"), phrase("select them for a total and a mean; with Ctrl a second range.")),
    (
        phrase("point at a figure"),
        phrase("see its working below; a click keeps it."),
    ),
    (phrase("double-click a cell"), phrase("write in it, where it stands on white.")),
    (phrase("double-click the chart"), phrase("bring the whole history in sight.")),
    (
        phrase("drag the bar below the chart"),
        phrase("give chart or table more height; double-click for the usual."),
    ),
    (phrase("click a head in the table"), phrase("fold its rows, or open them.")),
    (phrase("point at a name"), phrase("lift its curve, and read the name in full.")),
)
"""What the mouse does, and where."""


@dataclass(frozen=True, slots=True)
class Task:
    """Something to be done, and where it is.

    Attributes:
        text: what.
        stage: the one that it is done in.
        change: what brings its place in sight; None where the stage is enough.
        back: how many periods the as-of is moved back for it.
    """

    text: str
    stage: str
    change: Edit | None = None
    back: int = 0


TASKS = (
    Task(phrase("smooth the history by an average"), "smooth"),
    Task(phrase("compare the years month by month"), "history", edit(P.history.arrangement, "overlaid")),
    Task(phrase("compare this year with earlier ones"), "history", edit(P.history.arrangement, "earlier")),
    Task(phrase("find the season"), "seasons", edit(P.seasons.arrangement, "indices")),
    Task(phrase("project the next periods"), "project"),
    Task(phrase("spread a total over periods"), "seasons", edit(P.seasons.arrangement, "spread")),
    Task(phrase("compare a projection with what sold"), "project", back=12),
)
"""How do I: each leads to where it is done."""


def keys() -> tuple[tuple[str, str], ...]:
    """List all keys with what they do: those of commands, and those of the table."""
    found = [(", ".join(each.keys), each.text.rstrip("…")) for each in COMMANDS if each.keys]
    return (*found, *IN_TABLE)


class Help(QFrame):
    """Tasks, gestures, keys and words, laid over the window until Escape or F1.

    Signals:
        led: (Task) one is to be shown where it is done.
    """

    led = pyqtSignal(object)

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("places")
        self.setAccessibleName(phrase("Help: tasks, gestures, keys and words"))
        self.area = QScrollArea()
        self.hide()

    def _fill(self) -> None:
        """Make what it says: not before it is asked for, so that no start waits for it."""
        inside = QWidget()
        columns = QHBoxLayout(inside)
        columns.setContentsMargins(28, 20, 28, 20)
        columns.setSpacing(48)
        first = QVBoxLayout()
        first.setSpacing(18)
        first.addLayout(self._tasks())
        first.addLayout(_list(phrase("Gestures"), GESTURES))
        first.addLayout(_list(phrase("Keys"), keys()))
        first.addStretch()
        columns.addLayout(first, 1)
        columns.addLayout(_list(phrase("Words"), WORDS), 1)
        self.area.setWidget(inside)
        self.area.setWidgetResizable(True)
        self.area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.area.setFrameShape(QFrame.Shape.NoFrame)
        box = QVBoxLayout(self)
        box.setContentsMargins(1, 1, 1, 1)
        closes = QPushButton(phrase("Close"))
        closes.setObjectName("link")
        closes.clicked.connect(self.hide)
        box.addWidget(closes, 0, Qt.AlignmentFlag.AlignRight)
        box.addWidget(self.area)

    def _tasks(self) -> QVBoxLayout:
        """Each as a link to where it is done."""
        column = QVBoxLayout()
        column.setSpacing(2)
        heading = Text(phrase("How do I …"))
        heading.setObjectName("stagename")
        column.addWidget(heading)
        for task in TASKS:
            link = QPushButton(f"{task.text} ›")
            link.setObjectName("link")
            link.clicked.connect(partial(self._lead, task))
            column.addWidget(link, 0, Qt.AlignmentFlag.AlignLeft)
        return column

    def _lead(self, task: Task) -> None:
        self.hide()
        self.led.emit(task)

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
