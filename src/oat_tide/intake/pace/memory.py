"""What is freed while a file is read is kept for the next piece, and handed back at the end.

The system clears each page that it hands out. Reading ten million lines takes and frees several gigabytes
in pieces; with the usual settings a sixth of the time went into clearing pages that had just been freed.
"""

from __future__ import annotations

import ctypes
import os

_TRIM, _MMAP, _ARENAS = -1, -3, -8
"""The numbers of M_TRIM_THRESHOLD, M_MMAP_THRESHOLD and M_ARENA_MAX of the GNU C library."""
_LIBC = ctypes.CDLL(None)
_ENGINE = "dirty_decay_ms:10000,muzzy_decay_ms:-1,background_thread:true,narenas:2"


def keep_freed() -> None:
    """Settle how memory is kept; the engine's own part only counts before it is loaded."""
    os.environ.setdefault("_RJEM_MALLOC_CONF", _ENGINE)
    if hasattr(_LIBC, "mallopt"):
        for what, value in ((_MMAP, 32 << 20), (_TRIM, 256 << 20), (_ARENAS, 1)):
            _LIBC.mallopt(what, value)


def give_back() -> None:
    """Hand back what nothing holds any more."""
    if hasattr(_LIBC, "malloc_trim"):
        _LIBC.malloc_trim(0)
