"""What was asked for last, and no more of it: what can be reckoned again need not fill the memory."""

from __future__ import annotations

import itertools
from collections.abc import Hashable
from typing import Generic, TypeVar

_V = TypeVar("_V")


class Latest(Generic[_V]):
    """Things by what they were made of, so many at the most; those not asked for the longest go first."""

    def __init__(self, most: int) -> None:
        self._most = most
        self._held: dict[Hashable, _V] = {}
        self._asked: dict[Hashable, int] = {}
        self._turn = itertools.count()

    def __contains__(self, key: Hashable) -> bool:
        return key in self._held

    def __setitem__(self, key: Hashable, value: _V) -> None:
        self._held[key], self._asked[key] = value, next(self._turn)
        while len(self._held) > self._most:
            oldest = min(self._asked, key=self._asked.__getitem__)
            del self._held[oldest], self._asked[oldest]

    def get(self, key: Hashable) -> _V | None:
        """What was kept, if it still is."""
        if key in self._held:
            self._asked[key] = next(self._turn)
        return self._held.get(key)

    def take_in(self, other: Latest[_V]) -> None:
        """Keep what another one keeps."""
        for key, value in list(other._held.items()):
            self[key] = value
