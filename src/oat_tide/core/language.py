"""Every text that a person sees goes through `phrase`, so that a translation is a file.

The file is JSON: each text as it stands in the code, with its places in braces, to what is said instead, with
the same places in any order. `OAT_TIDE_LANGUAGE` names it; without it the texts are said as they stand.
"""

from __future__ import annotations

import json
import os
from pathlib import Path

LANGUAGE = "OAT_TIDE_LANGUAGE"
"""The variable of the environment that names the file of a translation."""


def _read(path: str) -> dict[str, str]:
    """The texts of a translation; empty where there is none that can be read."""
    if not path:
        return {}
    try:
        said = json.loads(Path(path).read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return {}
    return {text: other for text, other in said.items() if isinstance(other, str)}


_TRANSLATED = _read(os.environ.get(LANGUAGE, ""))


def phrase(text: str, /, **places: object) -> str:
    """A text in the language of the reader.

    Args:
        text: as it is said in English; where it has places, each is a name in braces, such as "{count:,}".
        places: what stands in each of them.
    """
    said = _TRANSLATED.get(text, text)
    return said.format_map(places) if places else said


_NOUNS = {
    "block": (phrase("block"), phrase("blocks")),
    "cell": (phrase("cell"), phrase("cells")),
    "column": (phrase("column"), phrase("columns")),
    "cycle": (phrase("cycle"), phrase("cycles")),
    "day": (phrase("day"), phrase("days")),
    "figure": (phrase("figure"), phrase("figures")),
    "line": (phrase("line"), phrase("lines")),
    "month": (phrase("month"), phrase("months")),
    "period": (phrase("period"), phrase("periods")),
    "quarter": (phrase("quarter"), phrase("quarters")),
    "ratio": (phrase("ratio"), phrase("ratios")),
    "row": (phrase("row"), phrase("rows")),
    "sales line": (phrase("sales line"), phrase("sales lines")),
    "season": (phrase("season"), phrase("seasons")),
    "setting": (phrase("setting"), phrase("settings")),
    "step": (phrase("step"), phrase("steps")),
    "total row": (phrase("total row"), phrase("total rows")),
    "value": (phrase("value"), phrase("values")),
    "week": (phrase("week"), phrase("weeks")),
    "year": (phrase("year"), phrase("years")),
}
"""What is counted: of one, and of several."""


def noun(word: str) -> str:
    """A word of what is counted, as of one of it."""
    return _NOUNS[word][0] if word in _NOUNS else word


def nouns(word: str) -> str:
    """A word of what is counted, as of several."""
    return _NOUNS[word][1] if word in _NOUNS else f"{word}s"


def counted(count: int, word: str) -> str:
    """ "1 line", "2 lines"."""
    return f"{count:,} {noun(word) if count == 1 else nouns(word)}"
