"""The message strip: what went wrong or is asked, without stopping the work."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QRect, Qt
from PyQt6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QPlainTextEdit,
    QProgressBar,
    QPushButton,
    QWidget,
)

from oat_tide.core.language import phrase
from oat_tide.desk.look.plain import Text
from oat_tide.desk.look.text_line import TextLine

_LOW = 46
Answer = tuple[str, Callable[[], object]]


class Strip(QFrame):
    """Lies over the title while there is something to say, and moves nothing; Escape takes it away.

    Attributes:
        room: where it may lie, asked whenever it is shown.
        passes: whether what it says goes with the next thing that is done.
    """

    def __init__(self, parent: QWidget, room: Callable[[], QRect]) -> None:
        super().__init__(parent)
        self.room, self.passes = room, True
        self.setObjectName("strip")
        self.text = Text()
        self.text.setWordWrap(True)
        self.text.setTextFormat(Qt.TextFormat.PlainText)
        self.bar = QProgressBar()
        self.bar.setRange(0, 100)
        self.bar.setTextVisible(False)
        self.bar.setFixedSize(160, 8)
        self.line, self.tall = TextLine(), QPlainTextEdit()
        self.line.setMinimumWidth(320)
        self.line.returnPressed.connect(self._first_answer)
        self.tall.setFixedHeight(84)
        self.tall.setMinimumWidth(360)
        self.tall.setTabChangesFocus(True)
        self.box = QHBoxLayout(self)
        self.box.setContentsMargins(16, 4, 10, 4)
        self.box.addWidget(self.text, 1)
        self.box.addWidget(self.bar)
        for written in (self.line, self.tall):
            self.box.addWidget(written, 2)
            written.hide()
        self.answers: list[QPushButton] = []
        self.hide()

    def say(
        self,
        text: str,
        answers: tuple[Answer, ...] = (),
        calm: bool = False,
        closes: bool = True,
        stays: bool = False,
    ) -> None:
        """Say something, with answers to choose from; each answer takes the strip away.

        Args:
            closes: whether it can be closed without an answer.
            stays: whether it does until it is answered, whatever is done meanwhile.
        """
        self._dress(text, calm, stays)
        self.bar.hide()
        for label, action in answers:
            self._answer(label, action)
        if closes:
            self._answer(phrase("Cancel") if answers else phrase("Close"), lambda: None)
        self.fit()
        if answers:
            self.answers[0].setFocus()

    def pass_by(self) -> None:
        """Something was done: what was said before it goes, unless it stays."""
        if self.passes and self.isVisible():
            self.clear()

    def fit(self) -> None:
        """Lie where there is room."""
        room = self.room()
        self.setFixedWidth(room.width())
        layout = self.layout()
        if layout is not None:
            layout.activate()
            self.resize(room.width(), max(layout.totalHeightForWidth(room.width()), _LOW))
        self.move(room.topLeft())
        self.raise_()

    def ask(
        self,
        text: str,
        example: str,
        answers: tuple[tuple[str, Callable[[str], object]], ...],
        now: str = "",
        secret: bool = False,
        tall: bool = False,
    ) -> None:
        """Ask for something to be written; each answer is given what was.

        Args:
            example: shown while nothing is written.
            now: what is written already.
            secret: whether it is hidden; tall: whether it has several lines.
        """
        self._dress(text, calm=True, stays=True)
        self.bar.hide()
        self.tall.setVisible(tall)
        self.line.setVisible(not tall)
        written = self.tall if tall else self.line
        self.line.setEchoMode(QLineEdit.EchoMode.Password if secret else QLineEdit.EchoMode.Normal)
        written.setPlaceholderText(example)
        written.setAccessibleName(text)
        if tall:
            self.tall.setPlainText(now)
        else:
            self.line.setText(now)
        for label, action in answers:
            self._answer(label, lambda action=action: action(self.written(tall)))  # type: ignore[misc]
        self._answer(phrase("Cancel"), lambda: None)
        self.fit()
        written.setFocus()

    def _first_answer(self) -> None:
        self.answers[0].click()

    def written(self, tall: bool) -> str:
        """What was written; a secret is gone from here once it is asked for."""
        text = self.tall.toPlainText() if tall else self.line.text()
        self.line.clear()
        return text

    def show_progress(self, text: str, stop: Callable[[], object]) -> None:
        """Show work that takes long, with a way to stop it."""
        self._dress(text, calm=True, stays=True)
        self.bar.setValue(0)
        self.bar.show()
        self._answer(phrase("Stop"), stop)
        self.fit()

    def progress(self, share: float) -> None:
        """Say how much is done."""
        self.bar.setValue(round(100 * share))

    def clear(self) -> None:
        """Nothing to say."""
        self.hide()

    def _dress(self, text: str, calm: bool, stays: bool) -> None:
        self.passes = not stays
        self.line.hide()
        self.tall.hide()
        for button in self.answers:
            button.hide()
            button.deleteLater()
        self.answers = []
        self.text.setText(" ".join(text.split()))
        self.setAccessibleName(text)
        self.setProperty("calm", calm)
        style = self.style()
        if style:
            style.unpolish(self)
            style.polish(self)
        self.show()

    def _answer(self, label: str, action: Callable[[], object]) -> None:
        button = QPushButton(label)
        button.setObjectName("choice")

        def chosen() -> None:
            self.clear()
            action()

        button.clicked.connect(chosen)
        self.box.addWidget(button)
        # A layout counts only what is shown, and would leave too little room for the text.
        button.show()
        self.answers.append(button)
