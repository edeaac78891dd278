"""The names of months as people write them: a column is read whole in one language."""

from __future__ import annotations

import functools
import unicodedata
from collections import Counter
from collections.abc import Iterable, Mapping

from oat_tide.intake.cells.month_names import MONTH_NAMES

WORD = r"[^\W\d_]{3,}"
"""What could be such a name, for patterns."""
_SHORTEST = 3


def folded(word: str) -> str:
    """A word without case, accents and a closing mark, so that août, AOUT and Aout. are one."""
    bare = unicodedata.normalize("NFKD", word.strip().rstrip(".").casefold().replace("ı", "i"))
    return "".join(mark for mark in bare if not unicodedata.combining(mark))


@functools.cache
def _words(language: str) -> Mapping[str, int]:
    """Every name of a language, and every beginning that only one month has, with the month's number."""
    told: dict[str, int] = {}
    begins: dict[str, set[int]] = {}
    for month, names in enumerate(MONTH_NAMES[language], 1):
        for name in map(folded, names.split()):
            told.setdefault(name, month)
            for length in range(_SHORTEST, len(name)):
                begins.setdefault(name[:length], set()).add(month)
    for beginning, months in begins.items():
        if len(months) == 1:
            told.setdefault(beginning, next(iter(months)))
    return told


@functools.lru_cache(1 << 12)
def is_month(word: str) -> bool:
    """Whether a word names a month in any language."""
    text = folded(word)
    return len(text) >= _SHORTEST and any(text in _words(language) for language in MONTH_NAMES)


def month_agreed_on(word: str) -> int:
    """The month that a word names in every language that knows it; 0 where they differ, or none does."""
    found = {_words(language).get(folded(word), 0) for language in MONTH_NAMES} - {0}
    return found.pop() if len(found) == 1 else 0


def months_of(words: Iterable[str]) -> dict[str, int]:
    """The months that words name, all of them read in the language that reads the most."""
    counted = Counter(word for word in words if word)

    def read(language: str) -> int:
        own = _words(language)
        return sum(count for word, count in counted.items() if folded(word) in own)

    own = _words(max(MONTH_NAMES, key=read))
    return {word: own[folded(word)] for word in counted if folded(word) in own}
