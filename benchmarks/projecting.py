"""`oat-tide project` on 10,000 series of 72 months, or so many, reading included: seconds and memory.

Run: python benchmarks/projecting.py [SERIES [METHOD]]
"""

from __future__ import annotations

import resource
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np

SERIES, MONTHS = int(sys.argv[1]) if len(sys.argv) > 1 else 10_000, 72
METHOD = sys.argv[2] if len(sys.argv) > 2 else "line"
SECONDS, MEGABYTES = 4.0, 1000


def many(folder: Path) -> Path:
    """A CSV of a line a series and month."""
    rng = np.random.default_rng(2)
    levels = rng.uniform(20, 200, SERIES)[:, None] + rng.uniform(-0.5, 1, SERIES)[:, None] * np.arange(MONTHS)
    figures = levels + rng.normal(0, 5, levels.shape)
    months = [f"{2019 + month // 12}-{month % 12 + 1:02d}-01" for month in range(MONTHS)]
    path = folder / "many.csv"
    with path.open("w") as file:
        file.write("month,item,cases\n")
        for series, row in enumerate(figures.tolist()):
            file.writelines(
                f"{month},I{series:06d},{value:.1f}\n" for month, value in zip(months, row, strict=True)
            )
    return path


def main() -> None:
    """Print both beside their goals."""
    with tempfile.TemporaryDirectory() as folder:
        path = many(Path(folder))
        call = [sys.executable, "-m", "oat_tide", "project", str(path), "--by", "item", "--horizon", "12"]
        call += ["--method", METHOD]
        start = time.perf_counter()
        subprocess.run([*call, "--output", f"{folder}/out.csv"], check=True)
        taken = time.perf_counter() - start
    memory = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024
    print(
        f"{SERIES:,} series of {MONTHS} months, {METHOD}: {taken:.1f} s, {memory:,.0f} MB "
        f"(goals of {10_000:,}: {SECONDS} s, {MEGABYTES:,} MB)"
    )


if __name__ == "__main__":
    main()
