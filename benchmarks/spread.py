"""How long a total over 10,000 children and 12 months takes, rows and columns exact: the goal is 1 s.

The least of three runs. Run: python benchmarks/spread.py
"""

from __future__ import annotations

import time

import numpy as np

from oat_tide.core.spread import controlled, fitted, largest_remainders, spread


def main() -> None:
    """Print the time beside its goal, for shares and for seasons of their own."""
    rng = np.random.default_rng(16)
    children, months, total = 10_000, 12, 1_480_000
    weights = rng.gamma(1.0, 1.0, children)
    index = 1 + 0.3 * np.sin(np.arange(months) / months * 2 * np.pi)
    own = index[None] * rng.uniform(0.5, 1.5, (children, months))
    for name, seed in (
        ("by share", np.outer(weights, index)),
        ("each its own season", own * weights[:, None]),
    ):
        times = []
        for _ in range(3):
            start = time.perf_counter()
            over = spread(total, index, np.zeros(months, np.int64), np.ones(months, np.bool_)).parts
            rows = largest_remainders(weights / weights.sum() * total, total)
            table = controlled(fitted(seed, rows.astype(float), over.astype(float)), rows, over)
            times.append(time.perf_counter() - start)
            assert (table.sum(0) == over).all() and (table.sum(1) == rows).all()
        print(f"10,000 children x 12 months, {name}: {min(times):.2f} s of 1 s")


if __name__ == "__main__":
    main()
