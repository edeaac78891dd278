"""The message strip: what went wrong or is asked, without stopping the work."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QProgressBar, QPushButton

Answer = tuple[str, Callable[[], object]]


class Strip(QFrame):
    """Stands above the deck while there is something to say; Escape takes it away."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("strip")
        self.text = QLabel()
        self.text.setWordWrap(True)
        self.text.setTextFormat(Qt.TextFormat.PlainText)
        self.bar = QProgressBar()
        self.bar.setRange(0, 100)
        self.bar.setTextVisible(False)
        self.bar.setFixedSize(160, 8)
        self.box = QHBoxLayout(self)
        self.box.setContentsMargins(16, 6, 10, 6)
        self.box.addWidget(self.text, 1)
        self.box.addWidget(self.bar)
        self.answers: list[QPushButton] = []
        self.hide()

    def say(self, text: str, answers: tuple[Answer, ...] = (), calm: bool = False) -> None:
        """Say something, with answers to choose from; each answer takes the strip away."""
        self._dress(text, calm)
        self.bar.hide()
        for label, action in answers:
            self._answer(label, action)
        self._answer("Close", lambda: None)
        self.answers[0].setFocus()

    def show_progress(self, text: str, stop: Callable[[], object]) -> None:
        """Show work that takes long, with a way to stop it."""
        self._dress(text, calm=True)
        self.bar.setValue(0)
        self.bar.show()
        self._answer("Stop", stop)

    def progress(self, share: float) -> None:
        """Say how much is done."""
        self.bar.setValue(round(100 * share))

    def clear(self) -> None:
        """Nothing to say."""
        self.hide()

    def _dress(self, text: str, calm: bool) -> None:
        for button in self.answers:
            button.hide()
            button.deleteLater()
        self.answers = []
        self.text.setText(text)
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
        self.answers.append(button)
