"""Windows beside the rolling functions of data-frame packages, and the error curve of many series.

Each kernel is timed in turns with the fastest of the packages that are here (Polars, and pandas where it is
installed), on a million points; the ratio is that of the medians. Run: python benchmarks/windows.py
"""

from __future__ import annotations

import importlib.util
import time
from collections.abc import Callable

import numpy as np
import polars as pl

from oat_tide.core.smoothing import curves, ranks, sums
from oat_tide.core.smoothing.windows import trailing

POINTS, ROUNDS = 1_000_000, 7
WINDOWS = (7, 30, 365)
Call = Callable[[], object]


def seconds(call: Call) -> float:
    """How long one call takes."""
    start = time.perf_counter()
    call()
    return time.perf_counter() - start


def in_turns(calls: dict[str, Call]) -> dict[str, float]:
    """The median time of each, called in turns."""
    taken: dict[str, list[float]] = {name: [] for name in calls}
    for _ in range(ROUNDS):
        for name, call in calls.items():
            taken[name].append(seconds(call))
    return {name: float(np.median(times)) for name, times in taken.items()}


def packages(values: np.ndarray, window: int) -> dict[str, dict[str, Call]]:
    """The same by general packages: what is reckoned, by package."""
    series = pl.Series(values)
    found: dict[str, dict[str, Call]] = {
        "mean": {"polars": lambda: series.rolling_mean(window)},
        "median": {"polars": lambda: series.rolling_median(window)},
        "lowest": {"polars": lambda: series.rolling_min(window)},
    }
    if importlib.util.find_spec("pandas"):
        import pandas as pd

        rolled = pd.Series(values).rolling(window)
        found["mean"]["pandas"] = rolled.mean
        found["median"]["pandas"] = rolled.median
        found["lowest"]["pandas"] = rolled.min
    return found


def million() -> None:
    """Rolling means, medians and extremes of a million points."""
    values = np.random.default_rng(1).integers(0, 500_000, POINTS) / 100
    goals = {"mean": 0.8, "median": 1.0, "lowest": 1.0}
    for window in WINDOWS:
        takes = trailing(window, POINTS)
        own: dict[str, Call] = {
            "mean": lambda window=window: sums.rolling_mean(values, window, 100.0),
            "median": lambda takes=takes: ranks.window_median(values, takes),
            "lowest": lambda takes=takes: ranks.window_lowest(values, takes),
        }
        for name, others in packages(values, window).items():
            found = in_turns({"own": own[name], **others})
            fastest = min((each for each in found if each != "own"), key=lambda each: found[each])
            ratio = found["own"] / found[fastest]
            print(
                f"rolling {name}, window {window}: {1e3 * found['own']:.1f} ms, {fastest} "
                f"{1e3 * found[fastest]:.1f} ms, {ratio:.2f} of it (goal {goals[name]})"
            )


def curves_of(series: int, periods: int) -> float:
    """Seconds for the error of windows 1 to 60 of every series, plain and weighted."""
    values = np.random.default_rng(2).normal(100, 10, (series, periods))

    def both() -> None:
        ready = curves.targets(values, 60)
        for rising in (False, True):
            curves.window_curve(values, ready, 60, "MAE", rising)

    return float(np.median([seconds(both) for _ in range(5)]))


def main() -> None:
    """Print the measurements beside their goals."""
    million()
    print(f"error by length, 10,000 series of 72 months: {curves_of(10_000, 72):.2f} s (goal 0.6)")
    print(f"error by length, one series of ten years of days: {1e3 * curves_of(1, 3650):.1f} ms (within 16)")


if __name__ == "__main__":
    main()
