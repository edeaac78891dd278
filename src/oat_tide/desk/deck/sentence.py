"""A sentence on the page some of whose words lead to where what they say is changed."""

from __future__ import annotations

from html import escape

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QSizePolicy

from oat_tide.desk.look.palette import palette
from oat_tide.desk.look.plain import Text, tip
from oat_tide.stages.deck import Word


class Sentence(Text):
    """A sentence with links.

    Attributes:
        words: what is said.

    Signals:
        led: (steps) the field that a word leads to.
        edited: (Edit) what a word does.
    """

    led = pyqtSignal(object)
    edited = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.words: tuple[Word, ...] = ()
        self.setObjectName("subtitle")
        self.setTextFormat(Qt.TextFormat.RichText)
        self.setWordWrap(True)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.setTextInteractionFlags(
            Qt.TextInteractionFlag.LinksAccessibleByMouse | Qt.TextInteractionFlag.LinksAccessibleByKeyboard
        )
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.linkActivated.connect(lambda place: self._take(self.words[int(place)]))
        self.linkHovered.connect(lambda place: tip(self, self.words[int(place)].tip if place else ""))
        self.hide()

    def say(self, words: tuple[Word, ...]) -> None:
        """Say a sentence; nothing for none."""
        if words != self.words:
            self.words = words
            self.dress()
            self.setAccessibleName(plain(words))
        self.setVisible(bool(words))

    def dress(self) -> None:
        """Write the words in the colours of the palette."""
        style = f"color:{palette().kelp}; text-decoration:none"
        told = ""
        for place, word in enumerate(self.words):
            text = escape(word.text)
            told += _gap(told, word)
            links = word.path or word.edit is not None
            told += f'<a href="{place}" style="{style}">{text}</a>' if links else text
        self.setText(told)

    def _take(self, word: Word) -> None:
        if word.edit is not None:
            self.edited.emit(word.edit)
        else:
            self.led.emit(word.path)


def plain(words: tuple[Word, ...]) -> str:
    """The sentence as plain text."""
    text = ""
    for word in words:
        text += _gap(text, word) + word.text
    return text


def _gap(told: str, word: Word) -> str:
    """What stands between what is told so far and the next word: nothing before a stop."""
    return "" if not told or word.text.startswith((",", ";", ".")) else " "
