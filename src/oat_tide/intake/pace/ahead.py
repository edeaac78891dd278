"""Work done ahead: the next pieces of a file are worked on while the last one is taken."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from typing import TypeVar

_P = TypeVar("_P")
_R = TypeVar("_R")
_AT_ONCE = 3
"""The engine works on each piece with all cores, but not all the time."""


def ahead(pieces: Iterable[_P], work: Callable[[_P], _R]) -> Iterator[tuple[_P, _R]]:
    """Each piece, in order, and what `work` makes of it; `work` is called from several threads at once."""
    with ThreadPoolExecutor(_AT_ONCE) as beside:
        coming: deque[tuple[_P, Future[_R]]] = deque()
        for piece in pieces:
            coming.append((piece, beside.submit(work, piece)))
            if len(coming) > _AT_ONCE:
                first, done = coming.popleft()
                yield first, done.result()
        for first, done in coming:
            yield first, done.result()
