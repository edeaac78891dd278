"""Months as readers type them, in English and in the language of their desktop; digits of any script."""

from __future__ import annotations

import unicodedata
from collections.abc import Sequence

from oat_tide.core.periods.calendar import MONTH_NAMES

_SHORTEST = 3
_local: list[tuple[str, ...]] = [()]


def use_names(months: Sequence[str]) -> None:
    """Know the months from January by the names of a language too; done at start."""
    _local[0] = tuple(months)


def month_named(word: str) -> int:
    """The month from 1 that a word names, in full or by three letters or more; 0 for none."""
    return _place(word, MONTH_NAMES, _local[0]) + 1


def plain_digits(text: str) -> str:
    """Return a text with the digits of every script written as 0 to 9."""
    return "".join(str(unicodedata.decimal(mark)) if mark.isdecimal() else mark for mark in text)


def _place(word: str, *languages: Sequence[str]) -> int:
    """The place of the only name of a language that a word begins; -1 for none."""
    begun = _folded(word)
    for names in languages:
        found = [place for place, name in enumerate(names) if _folded(name).startswith(begun)]
        exact = [place for place in found if _folded(names[place]) == begun]
        if exact or (len(found) == 1 and len(begun) >= _SHORTEST):
            return (exact or found)[0]
    return -1


def _folded(word: str) -> str:
    bare = unicodedata.normalize("NFKD", word.strip().rstrip(".").casefold())
    return "".join(mark for mark in bare if not unicodedata.combining(mark))
