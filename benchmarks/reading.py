"""Ten million sales lines, CSV and Parquet, to a month panel, against the bare query of the engine.

Usage: python benchmarks/reading.py [LINES] [FOLDER]
Each reading runs in a process of its own, ready for it as the window is that waits for its first file; the
time is from opening the file to the finished panel. The memory is the most that the process held
from its own start on, and that of the process for Parquet beside it. The yardstick reads the same columns,
parses the dates, and sums by month and series. Files are read once before, so that both find them in the
system's memory; the two take turns, so that a slow spell of the machine meets both, and medians are printed.
"""

from __future__ import annotations

import multiprocessing
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np

# The engine is loaded where it is needed: the product settles how it keeps memory before that.
SERIES = ["product", "route", "area"]
_TURNS = 7


def make(folder: Path, lines: int) -> None:
    """Seeded lines of ten years, in the columns of the demo data."""
    import polars as pl

    rng = np.random.default_rng(7)
    days = np.sort(rng.integers(0, 3650, lines)) + 16000
    frame = pl.DataFrame(
        {
            "date": pl.Series(days, dtype=pl.Int32).cast(pl.Date),
            "product": pl.Series([f"Product {i}" for i in range(40)]).gather(rng.integers(0, 40, lines)),
            "route": pl.Series(["Shops", "Wholesale", "Online"]).gather(rng.integers(0, 3, lines)),
            "area": pl.Series([f"Area {i}" for i in range(8)]).gather(rng.integers(0, 8, lines)),
            "cases": rng.integers(1, 60, lines),
            "price": np.round(rng.uniform(5, 30, lines), 2),
        }
    )
    frame.write_csv(folder / "lines.csv")
    frame.write_parquet(folder / "lines.parquet")


def ours(path: Path) -> float:
    """What the product does; returns the sum of the panel."""
    from oat_tide.documents import open_document

    return float(np.nansum(open_document(path).session.panel.values))


def bare(path: Path) -> float:
    """The bare query."""
    import polars as pl

    scan = pl.scan_parquet(path) if path.suffix == ".parquet" else pl.scan_csv(path, try_parse_dates=True)
    month = pl.col("date").dt.truncate("1mo")
    out = scan.group_by(month, *SERIES).agg(pl.col("cases").sum()).collect()
    return float(out["cases"].sum())


def peak(process: str) -> float:
    """The most megabytes that a process has held since it began; what its parent held is no part of it."""
    with Path(f"/proc/{process}/status").open() as told:
        return next(int(line.split()[1]) for line in told if line.startswith("VmHWM")) / 1024


def measured(what: str, path: Path) -> tuple[float, float, float, float]:
    """Seconds, megabytes, those of the process beside it, and sum of one reading in a process of its own."""
    done = subprocess.run(
        [sys.executable, __file__, "--one", what, str(path)], capture_output=True, text=True, check=True
    )
    seconds, memory, beside, total = map(float, done.stdout.split())
    return seconds, memory, beside, total


def one(what: str, path: Path) -> None:
    """Do one reading and print its measures."""
    if what == "ours":
        from oat_tide.documents import rehearse

        rehearse()
    else:
        import polars  # noqa: F401  # loading is no part of reading
    start = time.perf_counter()
    total = (ours if what == "ours" else bare)(path)
    seconds = time.perf_counter() - start
    others = [each.pid for each in multiprocessing.active_children()]
    print(seconds, peak("self"), sum(peak(str(each)) for each in others), total)


def main() -> None:
    """Print seconds, ratio and peak memory for both kinds of file."""
    lines = int(sys.argv[1]) if len(sys.argv) > 1 else 10_000_000
    with tempfile.TemporaryDirectory() as own:
        folder = Path(sys.argv[2]) if len(sys.argv) > 2 else Path(own)
        if not (folder / "lines.csv").exists():
            make(folder, lines)
        for name in ("lines.csv", "lines.parquet"):
            path = folder / name
            path.read_bytes()
            runs: dict[str, list[tuple[float, float, float, float]]] = {"bare": [], "ours": []}
            for _ in range(_TURNS):
                for what, taken in runs.items():
                    taken.append(measured(what, path))
            best = {what: sorted(taken)[_TURNS // 2] for what, taken in runs.items()}
            assert best["ours"][3] == best["bare"][3], "the sums differ"
            ratio = best["ours"][0] / best["bare"][0]
            print(
                f"{name} ({path.stat().st_size >> 20} MB): bare {best['bare'][0]:.2f} s, "
                f"{best['bare'][1]:.0f} MB · ours {best['ours'][0]:.2f} s, {best['ours'][1]:.0f} MB"
                f" and {best['ours'][2]:.0f} MB beside · "
                f"ratio {ratio:.2f}"
            )


if __name__ == "__main__":
    if sys.argv[1:2] == ["--one"]:
        one(sys.argv[2], Path(sys.argv[3]))
    else:
        main()
