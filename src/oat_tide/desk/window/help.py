"""What F1 shows: the keys, and the tool's own words in a sentence each."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from oat_tide.desk.look.plain import Text

KEYS = (
    ("Ctrl+1 to Ctrl+5", "the stages, from the first"),
    ("Ctrl+Left, Ctrl+Right", "the as-of one period earlier or later"),
    ("Ctrl+Home", "the as-of home: the last complete period"),
    ("Ctrl+0", "the whole history in sight"),
    ("arrows, Page Up, Page Down", "from cell to cell in the table"),
    ("Home, End", "the first and the last period of the table"),
    ("Enter", "keep the working of the cell; once more lets it go"),
    ("Shift+Left, Shift+Right", "select periods, to see what they add up to"),
    ("Ctrl+Shift+Left, Ctrl+Shift+Right", "select a second stretch, to hold it against the first"),
    ("+, -", "nearer and farther, in the table"),
    ("Ctrl+C", "copy what is selected, or the cell"),
    ("F2, Delete, Ctrl+V", "write in a cell that can be written in, empty it, paste rows"),
    ("Ctrl+Z, Ctrl+Shift+Z, Ctrl+Y", "take back, and make again"),
    ("Ctrl+O, Ctrl+S, Ctrl+Shift+S", "open, save, save as"),
    ("Ctrl+L", "the log of what was done, and away again"),
    ("Ctrl+Shift+V", "figures typed or pasted as a source"),
    ("Ctrl+E, Ctrl+Shift+E", "figures of this view, a picture of this view"),
    ("F5", "look for newer figures in the sources"),
    ("Escape", "close a message or this help, let a working go"),
    ("F1", "this help"),
    ("Ctrl+Q", "close the window"),
)
WORDS = (
    ("plan", "the document: your choices, with the sales lines they are made on."),
    ("stage", "one question asked of the history; they stand at the left in the order of work."),
    ("rail", "the stages with what each has found."),
    ("finding", "what a stage comes to at present, in a line or two."),
    ("band", "one chart; several stand over each other on one time axis."),
    ("tide table", "the rows of figures whose columns stand under the periods of the chart."),
    ("working", "how a figure came about, in plain arithmetic; its terms lead down to the sales lines."),
    ("as-of line", "everything is reckoned as if today were its period; what sold later is only laid over."),
    ("fit span", "the periods that a line or curve is fitted to."),
    ("log", "what was done to the plan, by whom, when and why; saved with it."),
    ("tally", "what selected periods add up to."),
    ("tie-out", "what the source holds against what the series hold, to the last unit."),
    (
        "ruling",
        "what you have said of a period: left out, an expected figure put in its place, taken as whole.",
    ),
    ("part period", "one that the data do not hold all of; it is kept out of fits and averages."),
    ("provisional", "complete, and its figure not final."),
    ("smoothed", "the value of a period with its noise taken out, by a window or by exponential smoothing."),
    ("one-step forecast", "what was forecast for a period from the periods before it only."),
    ("lag", "how many periods a smoothed line lies behind: the mean age of its weights."),
    ("in hand", "the smoother whose controls are open and whose window is drawn."),
    ("settled", "what sold with rulings heeded: what averages, baselines and fits stand on."),
)


class Help(QFrame):
    """Keys and words, laid over the window until Escape or F1."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("places")
        self.setAccessibleName("Help: keys and words")
        self.area = QScrollArea()
        self.hide()

    def _fill(self) -> None:
        """Make what it says: not before it is asked for, so that no start waits for it."""
        inside = QWidget()
        columns = QHBoxLayout(inside)
        columns.setContentsMargins(28, 20, 28, 20)
        columns.setSpacing(48)
        columns.addLayout(_list("Keys", KEYS), 1)
        columns.addLayout(_list("The tool's own words", WORDS), 1)
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
