"""The keys of a panel by small numbers, so that what belongs to a level is found without a look at each."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Key = tuple[str | None, ...]
"""One entry a dimension; None stands for all of it."""
Codes = NDArray[np.int64]

_FEW = 4
"""Levels for which one look at all series each is quicker than to sort the series once."""
_MOST = 1 << 62


def with_member(key: Key, at: int, member: str | None) -> Key:
    """A key with another member of one dimension; None for all of it."""
    return (*key[:at], member, *key[at + 1 :])


@dataclass(frozen=True, eq=False, slots=True, weakref_slot=True)
class Coded:
    """Keys by numbers.

    Attributes:
        many: how many keys there are.
        codes: a dimension, the number of each key's member, by order of first appearance.
        numbers: a dimension, the number of each member.
    """

    many: int
    codes: tuple[Codes, ...]
    numbers: tuple[dict[str | None, int], ...]

    @staticmethod
    def of(keys: tuple[Key, ...]) -> Coded:
        """Number the members of keys."""
        codes, numbers = [], []
        for place in range(len(keys[0]) if keys else 0):
            known: dict[str | None, int] = {}
            found = (known.setdefault(key[place], len(known)) for key in keys)
            codes.append(np.fromiter(found, np.int64, len(keys)))
            numbers.append(known)
        return Coded(len(keys), tuple(codes), tuple(numbers))

    def keys(self) -> tuple[Key, ...]:
        """The keys again."""
        if not self.codes:
            return ((),) * self.many
        pairs = zip(self.codes, self.numbers, strict=True)
        members = (np.array(list(numbers), object)[codes].tolist() for codes, numbers in pairs)
        return tuple(zip(*members, strict=True))

    def within(self, level: Key) -> NDArray[np.bool_]:
        """(series,) which belong to a level."""
        out = np.ones(self.many, np.bool_)
        for codes, numbers, member in zip(self.codes, self.numbers, level, strict=False):
            if member is not None:
                out &= codes == numbers.get(member, -1)
        return out

    def around(self, key: Key) -> NDArray[np.bool_]:
        """(series,) which a key belongs to, open in what the key is narrowed in or narrowed alike."""
        out = np.ones(self.many, np.bool_)
        for codes, numbers, member in zip(self.codes, self.numbers, key, strict=False):
            out &= (codes == numbers.get(None, -1)) | (codes == numbers.get(member, -1))
        return out

    def members(self, level: Key, at: int) -> dict[str, int]:
        """The members of a dimension within a level, by first appearance, each with its number."""
        seen, first = np.unique(self.codes[at][self.within(level)], return_index=True)
        names = list(self.numbers[at])
        return {str(names[code]): int(code) for code in seen[np.argsort(first)].tolist()}

    def rows(self, levels: tuple[Key, ...]) -> list[NDArray[np.intp]]:
        """The series of each level, in their order."""
        found: dict[int, NDArray[np.intp]] = {}
        for places, alike in _by_open(levels).items():
            if len(alike) <= _FEW or not self._fits(places):
                found |= {row: np.flatnonzero(self.within(levels[row])) for row in alike}
                continue
            own, wanted = np.zeros(self.many, np.int64), np.zeros(len(alike), np.int64)
            known = np.ones(len(alike), np.bool_)
            for place in places:
                numbers = self.numbers[place]
                codes = np.array([numbers.get(levels[row][place], -1) for row in alike])
                own, wanted = own * len(numbers) + self.codes[place], wanted * len(numbers) + codes
                known &= codes >= 0
            order = np.argsort(own, kind="stable")
            low = np.searchsorted(own[order], wanted, "left")
            high = np.where(known, np.searchsorted(own[order], wanted, "right"), low)
            for row, start, stop in zip(alike, low.tolist(), high.tolist(), strict=True):
                found[row] = order[start:stop]
        return [found[row] for row in range(len(levels))]

    def _fits(self, places: Iterable[int]) -> bool:
        """Whether members of several dimensions have a number together."""
        size = 1
        for place in places:
            size *= max(len(self.numbers[place]), 1)
        return size < _MOST


def _by_open(levels: tuple[Key, ...]) -> dict[tuple[int, ...], list[int]]:
    """Levels that are narrowed in the same dimensions, by those."""
    found: dict[tuple[int, ...], list[int]] = {}
    for row, level in enumerate(levels):
        found.setdefault(tuple(_narrowed(level)), []).append(row)
    return found


def _narrowed(level: Key) -> Iterator[int]:
    return (place for place, member in enumerate(level) if member is not None)
