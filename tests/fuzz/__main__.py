"""The long runs, by hand; __init__ tells how."""

from __future__ import annotations

import sys

from tests.fuzz import clicks, edits, inputs, kills

_RUNS = {"inputs": inputs.many, "edits": edits.many, "clicks": clicks.long_walk, "kills": kills.many}

if __name__ == "__main__":
    chosen, count, *rest = sys.argv[1:]
    sys.exit(bool(_RUNS[chosen](int(count), *map(int, rest or ["1"]))))
