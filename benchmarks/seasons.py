"""Decompositions of many series, and of ten years of days. Run: python benchmarks/seasons.py"""

from __future__ import annotations

import time
from collections.abc import Callable

import numpy as np

from oat_tide.core.seasons.classical import classical
from oat_tide.core.seasons.loess import decompose

SERIES, MONTHS, DAYS, ROUNDS = 10_000, 72, 3650, 3


def seconds(call: Callable[[], object]) -> float:
    """The median time of a call."""
    taken = []
    for _ in range(ROUNDS):
        start = time.perf_counter()
        call()
        taken.append(time.perf_counter() - start)
    return float(np.median(taken))


def main() -> None:
    """Print the measurements beside their goals."""
    rng = np.random.default_rng(3)
    months, days = rng.normal(100, 10, (SERIES, MONTHS)), rng.normal(100, 10, (1, DAYS))
    place = np.arange(MONTHS) % 12
    by_average = seconds(lambda: classical(months, place, 12, multiplicative=True))
    print(f"classical, {SERIES:,} series of {MONTHS} months: {by_average:.2f} s (goal 0.1)")
    by_loess = seconds(lambda: decompose(months, 12))
    print(f"local regression, {SERIES:,} series of {MONTHS} months: {by_loess:.1f} s (goal 10)")
    one = seconds(lambda: classical(days, np.arange(DAYS) % 7, 7, multiplicative=True))
    print(f"classical, ten years of days: {1e3 * one:.1f} ms (within a frame)")
    robust = seconds(lambda: decompose(days, 7, robust=True))
    print(f"robust local regression, ten years of days: {1e3 * robust:.0f} ms (goal 100)")


if __name__ == "__main__":
    main()
