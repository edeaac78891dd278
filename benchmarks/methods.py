"""How long the methods of Project take: one series of ten years of months, and 10,000 of 72.

Goals: one series, every method, 0.2 s; 10,000 series, every method not found by steps, 2 s on two cores;
those found by steps are told apart. Each is timed three times and the least stands. Run:
python benchmarks/methods.py
"""

from __future__ import annotations

import resource
import time

import numpy as np

from oat_tide.core.methods.shape import How
from oat_tide.core.methods.table import METHODS
from oat_tide.core.smoothing.running import Exponential, Smoother

HORIZON, CYCLE, RUNS = 12, 12, 3


def made(many: int, past: int) -> np.ndarray:
    """Series that grow and have a season."""
    t = np.arange(past)
    noise = np.random.default_rng(0).normal(0, 5, (many, past))
    found: np.ndarray = np.maximum(1, 100 + t + 20 * np.sin(2 * np.pi * t / CYCLE) + noise)
    return found


def taken(values: np.ndarray) -> dict[str, float]:
    """Seconds of each method."""
    past = values.shape[1]
    at = np.arange(past + HORIZON)
    how = How(
        cycle=CYCLE, place=at % CYCLE, years=at // CYCLE, phase=(at % CYCLE) / CYCLE, year=CYCLE, back=CYCLE,
        smoother=Smoother(Exponential("level")),
    )  # fmt: skip
    weights, starts, found = np.ones_like(values), np.array([past]), {}
    for name, method in METHODS.items():
        times = []
        for _ in range(1 if method.iterated and len(values) > 1 else RUNS):
            start = time.perf_counter()
            method.kernel(values, weights, starts, HORIZON, how)
            times.append(time.perf_counter() - start)
        found[name] = min(times)
    return found


def main() -> None:
    """Print the times beside their goals."""
    one = taken(made(1, 120))
    print(f"one series of 120 months, every method: {sum(one.values()):.3f} s of 0.2 s")
    many = taken(made(10_000, 72))
    plain = sum(seconds for name, seconds in many.items() if not METHODS[name].iterated)
    print(f"10,000 series of 72 months, methods not found by steps: {plain:.2f} s of 2 s")
    for name, seconds in many.items():
        if METHODS[name].iterated:
            print(f"  by steps, {name}: {seconds:.1f} s")
    print(f"most memory: {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:,.0f} MB of 1,024")


if __name__ == "__main__":
    main()
