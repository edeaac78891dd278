"""Frame times on ten years of days, and the time to the first painted window.

A frame is measured from the edit to the end of the painting that it causes (the event loop is empty
again), in a 1280x800 window on Qt's offscreen platform. All lines are run in three rounds, and of each the
run with the least 95th percentile stands: what else the machine does comes in bursts and can only add. Run:
python benchmarks/frames.py [words of the lines to run]
"""

from __future__ import annotations

import datetime as dt
import functools
import os
import subprocess
import sys
import time
from collections.abc import Callable, Iterable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np

FRAMES, RUNS = 240, 3


def ten_years(folder: Path) -> Path:
    """A CSV of ten years of days, one line a day and product."""
    rng = np.random.default_rng(10)
    first = dt.date(2016, 1, 1)
    rows = ["date,product,cases"]
    for day in range(3653):
        date = first + dt.timedelta(days=day)
        for product, level in (("Oat drink", 60), ("Porridge oats", 80)):
            rows.append(f"{date},{product},{max(1, int(level + 0.01 * day + rng.normal(0, 12)))}")
    path = folder / "ten-years.csv"
    path.write_text("\n".join(rows) + "\n")
    return path


def measure(path: Path, words: list[str]) -> dict[str, np.ndarray]:
    """Milliseconds of each frame, by what is moved; of the lines whose names hold one of the words."""
    from PyQt6.QtWidgets import QApplication

    from oat_tide.desk.window.app import application, settle_down
    from oat_tide.desk.window.window import Window
    from oat_tide.documents import open_document
    from oat_tide.plan.edits import edit
    from oat_tide.plan.paths import P

    app = application()
    window = Window()
    window.show_document(open_document(path))
    window.show()
    window.choose_kind("day")
    deadline = time.monotonic() + 2
    while time.monotonic() < deadline:
        QApplication.processEvents()
    settle_down(window)
    window.deck.scale.all()

    def timed(acts: Iterable[Callable[[], object]]) -> np.ndarray:
        app.processEvents()
        taken = []
        for act in acts:
            start = time.perf_counter()
            act()
            app.processEvents()
            taken.append((time.perf_counter() - start) * 1e3)
        return np.array(taken)

    def frames(stage: str, changes: list[object]) -> np.ndarray:
        window.show_stage(stage)
        app.processEvents()
        window.deck.scale.all()
        return timed(functools.partial(window.do, change) for change in changes)

    def zooms() -> np.ndarray:
        window.show_stage("history")
        scale = window.deck.scale
        return timed(functools.partial(scale.zoom, (0.9, 1 / 0.9)[i // 40 % 2], 700.0) for i in range(FRAMES))

    def hovers() -> np.ndarray:
        window.show_stage("history")
        window.deck.scale.all()
        return timed(functools.partial(window.deck.scale.point, 10 + 7 * i) for i in range(FRAMES))

    end = dt.date(2025, 11, 30)
    windows = [edit(P.smooth.smoothers[0].window, 2 + i % 59, "slide") for i in range(FRAMES)]
    days = [edit(P.as_of, end - dt.timedelta(days=i % 1500), "drag") for i in range(FRAMES)]

    def arranged(stage: str, name: str) -> Callable[[], np.ndarray]:
        field = getattr(P, stage).arrangement
        return lambda: frames(stage, [edit(field, name), *days[1:]])[1:]

    lines: dict[str, Callable[[], np.ndarray]] = {
        "window slider, Smooth": lambda: frames("smooth", windows),
        "as-of drag, Smooth": lambda: frames("smooth", days),
        "as-of drag, Project": lambda: frames("project", days),
        "as-of drag, History": lambda: frames("history", days),
        "zoom, History": zooms,
        "hover, History": hovers,
        **{
            f"as-of drag, {name}": arranged("history", name)
            for name in ("overlaid", "running", "trailing", "usual", "earlier")
        },
        **{
            f"as-of drag, {name}": arranged("seasons", name)
            for name in ("parts", "indices", "deseasonalised")
        },
    }
    asked = {name: line for name, line in lines.items() if any(word in name for word in words)}

    def every() -> dict[str, np.ndarray]:
        # Each round begins with the arrangements as they open.
        window.do(edit(P.history.arrangement, "sequence"))
        return {name: line() for name, line in asked.items()}

    rounds = [every() for _ in range(RUNS)]
    return {
        name: min((each[name] for each in rounds), key=lambda taken: np.percentile(taken, 95))
        for name in asked
    }


def first_paint() -> list[float]:
    """Seconds from starting the interpreter to the first painted window with the demo plan."""
    code = (
        "import os; from oat_tide import cli; real = cli._run\n"
        "def run(path):\n"
        "    import gc; gc.disable()\n"
        "    import oat_tide.desk.window.window as window; show = window.Window.show_document\n"
        "    def shown(self, document):\n"
        "        show(self, document); from PyQt6.QtWidgets import QApplication\n"
        "        QApplication.processEvents(); os._exit(7)\n"
        "    window.Window.show_document = shown\n"
        "    return real(path)\n"
        "cli._run = run; cli.main(['demo'])\n"
    )
    taken = []
    for _ in range(5):
        start = time.perf_counter()
        left = subprocess.run([sys.executable, "-c", code], check=False, stderr=subprocess.DEVNULL).returncode
        taken.append(time.perf_counter() - start)
        # The code it leaves with once it has painted.
        assert left == 7, left
    return taken


def main() -> None:
    """Print the measurements beside their goals."""
    import tempfile

    with tempfile.TemporaryDirectory() as folder:
        for name, taken in measure(ten_years(Path(folder)), sys.argv[1:] or [""]).items():
            p95 = np.percentile(taken, 95)
            print(f"{name}: median {np.median(taken):.1f} ms, p95 {p95:.1f} ms, {p95 / 16:.2f} of 16 ms")
    start = np.median(first_paint())
    print(f"first painted window: median {start:.2f} s, {start / 1.5:.2f} of 1.5 s")


if __name__ == "__main__":
    main()
