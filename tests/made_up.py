"""A made-up language: every text of the code in letters that English does not have, to see what was missed.

python -m tests.made_up FILE      writes the translation
python -m tests.made_up missed    lists words of decks that were missed, where a translation is in force
"""

from __future__ import annotations

import ast
import json
import re
import sys
import unittest
from collections.abc import Iterator
from pathlib import Path

import oat_tide
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


_OF_THE_DATA = {
    "Bran",
    "North",
    "South",
    "Oat",
    "drink",
    "cases",
    "product",
    "area",
    "date",
    "sales",
    "csv",
    "storm",
}
_OF_THE_PLAN = {"Easter", "Christmas", "Monday", "listed"}
_SIGNS = {"UTF", "AICc", "MAE", "RMSE", "MAPE", "WAPE"}
"""What is the same in every language."""


def missed() -> dict[str, str]:
    """Words that decks still say in English, each with where; for a process in the made-up language."""

    class Walk(InEveryWay):
        def test_every_text(self) -> None:
            for name, _, deck in self.decks():
                for where, text in texts_of(deck):
                    for word in re.findall(r"[A-Za-z]{2,}", text):
                        if word not in _OF_THE_DATA | _OF_THE_PLAN | _SIGNS:
                            found.setdefault(word, f"{name}, {deck.stage}, {where}: {text}")

    found: dict[str, str] = {}
    result = unittest.TestResult()
    Walk("test_every_text").run(result)
    found |= {str(case): trouble for case, trouble in result.errors + result.failures}
    return found


if __name__ == "__main__":
    if sys.argv[1] == "missed":
        print(json.dumps(missed()))
    else:
        written(Path(sys.argv[1]))
