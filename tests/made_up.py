"""A made-up language: every text of the code in letters that English does not have, to see what was missed.

python -m tests.made_up FILE      writes the translation
python -m tests.made_up decks     lists words of decks that were missed, where a translation is in force
python -m tests.made_up window    the same of the window and its help
"""

from __future__ import annotations

import ast
import json
import re
import sys
import unittest
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import ClassVar

from PyQt6.QtCore import QObject
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QAbstractButton, QComboBox, QLabel, QLineEdit, QWidget

import oat_tide
from oat_tide.desk.window.help import WORDS, keys
from oat_tide.stages import ON_RAIL
from tests.desk.case import DeskCase
from tests.helpers import daily, wavy
from tests.stages.test_rules import InEveryWay
from tests.texts import texts_of

SOURCE = Path(oat_tide.__file__).parent
_GIVEN = {"phrase", "UserError"}
_LETTERS = str.maketrans({chr(65 + at): chr(0x0410 + at) for at in range(26)}) | str.maketrans(
    {chr(97 + at): chr(0x0430 + at) for at in range(26)}
)
_PLACE = re.compile(r"(\{[^{}]*(?:\{[^{}]*\}[^{}]*)*\})")


def texts() -> Iterator[tuple[str, bool]]:
    """Every text that goes through `phrase`, and whether it has places."""
    for path in sorted(SOURCE.rglob("*.py")):
        nodes = list(ast.walk(ast.parse(path.read_text())))
        if path.is_relative_to(SOURCE / "plan"):
            # What fields of a plan say of themselves, and can be, goes through where it is shown.
            own = [
                each.value for each in nodes if isinstance(each, ast.Constant) and isinstance(each.value, str)
            ]
            yield from ((text, False) for text in own)
        for node in nodes:
            if not (
                isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id in _GIVEN
            ):
                continue
            for text in ast.walk(node.args[0]) if node.args else ():
                if isinstance(text, ast.Constant) and isinstance(text.value, str):
                    yield text.value, bool(node.keywords)


def made_up(text: str, places: bool) -> str:
    """A text in the made-up language; its places stay."""
    parts = _PLACE.split(text) if places else [text]
    return "".join(part if at % 2 else part.translate(_LETTERS) for at, part in enumerate(parts))


def written(path: Path) -> None:
    """Write the translation of all there is."""
    path.write_text(json.dumps({text: made_up(text, places) for text, places in texts()}, ensure_ascii=False))


_SAME = re.compile(
    "Bran|North|South|Oat|drink|cases|product|area|date|sales|csv|storm|Easter|Christmas|Monday|listed|"
    "UTF|CSV|AICc|MAE|RMSE|MAPE|WAPE|Ctrl|Shift|Up|Down|Home|Right|Left|Escape"
)
"""What is the same in every language: names of the data and of the plan, signs, keys."""


def _missed(said: Iterable[tuple[str, str]]) -> dict[str, str]:
    """Words that are still English, each with where."""
    found: dict[str, str] = {}
    for where, text in said:
        for word in re.findall(r"[A-Za-z]{2,}", re.sub(r"<[^>]*>", "", text)):
            if not _SAME.fullmatch(word):
                found.setdefault(word, f"{where}: {text}")
    return found


class _Decks(InEveryWay):
    said: ClassVar[list[tuple[str, str]]] = []

    def test_every_text(self) -> None:
        for name, _, deck in self.decks():
            self.said.extend((f"{name}, {deck.stage}, {where}", text) for where, text in texts_of(deck))


class _OfWindow(DeskCase):
    said: ClassVar[list[tuple[str, str]]] = []

    def test_every_text(self) -> None:
        self.open(self.file(daily(400, wavy)))
        for stage in ON_RAIL:
            self.window.show_stage(stage)
            self.settle()
            self.said.extend((f"{stage}, {type(each).__name__}", text) for each, text in _shown(self.window))
        self.said.extend(("help", text) for pair in (*WORDS, *keys()) for text in pair)


def _shown(window: QWidget) -> Iterator[tuple[QObject, str]]:
    """The texts of what is in the window, and of its actions."""
    for each in (*window.findChildren(QLabel), *window.findChildren(QAbstractButton)):
        yield from ((each, text) for text in (each.text(), each.toolTip(), each.accessibleName()))
    for box in window.findChildren(QComboBox):
        yield from ((box, box.itemText(place)) for place in range(box.count()))
    for field in window.findChildren(QLineEdit):
        yield from ((field, text) for text in (field.placeholderText(), field.accessibleName()))
    for action in window.findChildren(QAction):
        # A library's own stands in a menu that no one opens.
        if action.text() != "Export...":
            yield action, action.text()


def _walked(walk: type[_Decks | _OfWindow]) -> dict[str, str]:
    result = unittest.TestResult()
    walk("test_every_text").run(result)
    troubles = {str(case): trouble for case, trouble in result.errors + result.failures}
    return _missed(walk.said) | troubles


if __name__ == "__main__":
    if sys.argv[1] in ("decks", "window"):
        print(json.dumps(_walked(_Decks if sys.argv[1] == "decks" else _OfWindow)))
    else:
        written(Path(sys.argv[1]))
