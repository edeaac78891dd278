"""The names of months as people write them: a column is read whole in one language."""

from __future__ import annotations

import functools
import unicodedata
from collections import Counter
from collections.abc import Iterable, Mapping
from pathlib import Path

_FILE = Path(__file__).with_name("month_names.tsv")
WORD = r"[^\W\d_]{3,}"
"""What could be such a name, for patterns."""
_SHORTEST = 3
_OFFICE_FORMS: dict[str, dict[int, str]] = {
    "de": {1: "jän jänn jänner jaenner", 2: "feber", 3: "mrz maerz"},
    "fr": {7: "jlt", 12: "dbre"},
    "es": {8: "agto", 9: "set setiembre"},
    "nl": {3: "mar"},
    "en": {1: "jany", 2: "febr", 9: "septr"},
}
"""What offices write beside the forms of the locale data: by language and month, parted by spaces."""


def _read() -> dict[str, tuple[str, ...]]:
    """Read the names of months by language; `script/month_names` makes the file."""
    lines = _FILE.read_text(encoding="utf-8").splitlines()
    return {language: tuple(months) for language, *months in (line.split("\t") for line in lines)}


MONTH_NAMES = _read()


def folded(word: str) -> str:
    """A word without case, accents and a closing mark, so that août, AOUT and Aout. are one."""
    bare = unicodedata.normalize("NFKD", word.strip().rstrip(".").casefold().replace("ı", "i"))
    return "".join(mark for mark in bare if not unicodedata.combining(mark))


@functools.cache
def _words(language: str) -> Mapping[str, int]:
    """Every name of a language, and every beginning that only one month has, with the month's number."""
    told: dict[str, int] = {}
    begins: dict[str, set[int]] = {}
    own = _OFFICE_FORMS.get(language, {})
    for month, names in enumerate(MONTH_NAMES[language], 1):
        for name in map(folded, f"{names} {own.get(month, '')}".split()):
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


def months_meant(word: str, language: str) -> tuple[int, ...]:
    """The months whose names a word misses by one letter: too many, too few, other, or two changed about."""
    text = folded(word)
    if len(text) < _SHORTEST:
        return ()
    near = {month for name, month in _words(language).items() if _one_letter_off(text, name)}
    return tuple(sorted(near))


def _one_letter_off(one: str, other: str) -> bool:
    if abs(len(one) - len(other)) > 1 or one == other:
        return False
    if len(one) == len(other):
        places = [place for place, (a, b) in enumerate(zip(one, other, strict=True)) if a != b]
        changed = len(places) == 2 and places[1] == places[0] + 1
        return len(places) == 1 or (
            changed and one[places[0]] == other[places[1]] and one[places[1]] == other[places[0]]
        )
    short, long = sorted((one, other), key=len)
    return any(long[:place] + long[place + 1 :] == short for place in range(len(long)))


def month_in(word: str, language: str) -> int:
    """The month that a word names in a language; 0 for none."""
    return _words(language).get(folded(word), 0)


def month_agreed_on(word: str) -> int:
    """The month that a word names in every language that knows it; 0 where they differ, or none does."""
    found = {_words(language).get(folded(word), 0) for language in MONTH_NAMES} - {0}
    return found.pop() if len(found) == 1 else 0


def language_of(words: Iterable[str]) -> str:
    """The language that reads the most of some words."""
    counted = Counter(word for word in words if word)

    def read(language: str) -> int:
        own = _words(language)
        return sum(count for word, count in counted.items() if folded(word) in own)

    return max(MONTH_NAMES, key=read)


def name_of(month: int, language: str) -> str:
    """The name of a month in a language, without marks, in small letters."""
    return MONTH_NAMES[language][month - 1].split()[0]


def months_of(words: Iterable[str]) -> dict[str, int]:
    """The months that words name, all of them read in the language that reads the most."""
    named = [word for word in words if word]
    own = _words(language_of(named))
    return {word: own[folded(word)] for word in dict.fromkeys(named) if folded(word) in own}
