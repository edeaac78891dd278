"""Windows killed at random while they edit, save and close: what is offered then against what was done."""

from __future__ import annotations

import contextlib
import datetime as dt
import importlib
import json
import os
import random
import select
import shutil
import signal
import tempfile
import time
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from tests.helpers import monthly

_LOST = 2.0
"""Seconds of work that a kill may cost."""
DAY = dt.date(2023, 4, 1)
_OWN = "HOME", "XDG_STATE_HOME", "XDG_CACHE_HOME", "XDG_CONFIG_HOME"
SIGNALS = signal.SIGKILL, signal.SIGKILL, signal.SIGKILL, signal.SIGTERM, signal.SIGHUP


@dataclass(frozen=True, slots=True)
class Killed:
    """A window that was killed.

    Attributes:
        folder: its homes, with the plan in `work`.
        done: the time of each act, and the plan after it as it is written.
        at: when it was killed; by: the signal.
        ended: whether it had closed by itself before.
    """

    folder: Path
    done: list[tuple[float, bytes]]
    at: float
    by: int
    ended: bool


def kill_one(seed: int, plan: Path, longest: float) -> Killed:
    """Fork a window that works on a copy of a plan, and kill it after a while.

    Args:
        longest: seconds.
    """
    rng = random.Random(seed)
    folder = Path(tempfile.mkdtemp(prefix="oat-tide-kills-"))
    (folder / "work").mkdir()
    mine = shutil.copy(plan, folder / "work" / "plan.oattide")
    here, there = os.pipe()
    by = rng.choice(SIGNALS)
    process = os.fork()
    if process == 0:
        os.close(here)
        code = 1
        with contextlib.suppress(BaseException):
            os.setsid()
            os.environ.update({name: str(folder / "home") for name in _OWN})
            _work(rng.random(), Path(mine), there)
            code = 0
        os._exit(code)
    os.close(there)
    told = b""
    until: float | None = None
    at = ended = 0.0
    while True:
        wait = 30.0 if until is None else max(until - time.monotonic(), 0)
        if select.select([here], [], [], wait)[0]:
            piece = os.read(here, 1 << 16)
            if not piece:
                ended = time.monotonic()
                break
            told += piece
            if until is None:
                until = time.monotonic() + rng.uniform(0.02, longest)
        if until is None or time.monotonic() >= until:
            at = time.monotonic()
            os.kill(process, by)
            break
    if not ended:
        # What it had said by then it has done.
        while piece := os.read(here, 1 << 16):
            told += piece
    os.close(here)
    os.waitpid(process, 0)
    with contextlib.suppress(ProcessLookupError):
        os.killpg(process, signal.SIGKILL)
    lines = [line.split(b" ", 1) for line in told.split(b"\n")[:-1]]
    return Killed(folder, [(float(when), data) for when, data in lines], at or ended, by, bool(ended))


def _work(seed: float, path: Path, out: int) -> None:
    """In the window's process: edit, write, undo, save and close at random, and tell what was done."""
    import msgspec
    from PyQt6.QtWidgets import QApplication

    from oat_tide.desk.window import app
    from oat_tide.desk.window.ending import follow_signals
    from oat_tide.plan.edits import edit, insert
    from oat_tide.plan.parts.evened import Ruled
    from oat_tide.plan.paths import P
    from oat_tide.system import settings

    rng = random.Random(seed)
    settings.choose("name", "Ana Analyst")
    made = app.application()
    window = app.new_window()
    follow_signals(window)
    window.show()
    window.open(path)

    def settle() -> None:
        while window.isVisible() and (window.runner.job is not None or window.session is None):
            QApplication.processEvents()
            time.sleep(0.001)

    def tell() -> None:
        os.write(out, f"{time.monotonic()} ".encode() + msgspec.json.encode(window.session.plan) + b"\n")

    settle()
    tell()
    while True:
        plan, act = window.session.plan, rng.random()
        if act < 0.35:
            window.do(edit(P.project.horizon, rng.randint(1, 24), rng.choice(("", "drag"))))
        elif act < 0.55:
            window.do(edit(P.title, f"plan {rng.randrange(10**6)}"))
        elif act < 0.7:
            note = Ruled((), DAY, DAY, "note", note=f"because {rng.randrange(100)}")
            window.do(insert(P.evened.rulings[len(plan.evened.rulings)], note))
        elif act < 0.8:
            window.undo()
        elif act < 0.85:
            window.redo()
        elif act < 0.97:
            window.saving.save()
            settle()
            if not window.isVisible():
                return
        elif rng.random() < 0.3:
            window.end()
            return
        tell()
        end = time.monotonic() + rng.choice((0, 0.005, 0.05, 0.2))
        while True:
            QApplication.processEvents()
            if not window.isVisible():
                return
            if time.monotonic() >= end:
                break
            time.sleep(0.002)
    assert made


def fault_of(killed: Killed) -> str:
    """What was lost, or left behind, of a window that was killed; empty for nothing."""
    import msgspec

    from oat_tide.documents import open_document, save_document
    from oat_tide.journal import left, take_up
    from oat_tide.plan.plan import Plan

    before = {name: os.environ.get(name) for name in _OWN}
    os.environ.update({name: str(killed.folder / "home") for name in _OWN})
    path = killed.folder / "work" / "plan.oattide"
    try:
        offered = left()
        if len(offered) > 1:
            return f"{len(offered)} are offered"
        document = take_up(offered[0]) if offered else open_document(path)
        plans = [msgspec.json.decode(data, type=Plan) for _, data in killed.done]
        history = document.session.history
        # What it was about to tell when it was killed is one step on from what it told last.
        if history.back and history.undo().now == plans[-1]:
            plans.append(history.now)
        places = [place for place, plan in enumerate(plans) if plan == history.now]
        if not places:
            return "what is offered was never there"
        later = [when for when, _ in killed.done[places[-1] + 1 :]]
        if later and later[0] < killed.at - _LOST:
            return f"{killed.at - later[0]:.1f} s of work are gone"
        while history.back:
            history = history.undo()
        if history.now != plans[0]:
            return "undo does not lead back to what was opened"
        save_document(document.session, "history", path)
        names = {each.name for each in path.parent.iterdir()} - {".plan.oattide.open"}
        if names != {"plan.oattide"}:
            return f"left beside the plan: {names}"
        if open_document(path).session.plan != document.session.plan:
            return "what was taken up and saved is another"
        return ""
    finally:
        for name, value in before.items():
            if value is None:
                os.environ.pop(name, None)
            else:
                os.environ[name] = value


def _apart(work: Callable[[], str]) -> str:
    """What work says in a fork: what it starts, processes and threads, is none of this one's."""
    here, there = os.pipe()
    process = os.fork()
    if process == 0:
        try:
            said = work()
        except BaseException as error:
            said = f"{type(error).__name__}: {error}"
        os.write(there, json.dumps(said).encode())
        from oat_tide.intake.origins import subprocess_reader

        subprocess_reader.end()
        os._exit(0)
    os.close(there)
    said = json.loads(os.read(here, 1 << 16) or b'"the judge died"')
    os.close(here)
    os.waitpid(process, 0)
    return str(said)


def _made(path: Path) -> str:
    """A small plan to work on."""
    from oat_tide.documents import open_document, save_document

    sales = path.with_name("sales.csv")
    sales.write_text(monthly([40 + n % 12 + n / 5 for n in range(60)]), encoding="utf-8")
    save_document(open_document(sales).session, "project", path)
    return ""


def many(count: int, seed: int = 1, longest: int = 4000) -> int:
    """Kill many windows; prints what became of them, returns the faults.

    Args:
        longest: milliseconds that one works before it is killed.
    """
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    # Loaded once: each window is forked from here, before there is any thread.
    for name in ("oat_tide.desk.window.app", "polars", "scipy.special"):
        importlib.import_module(name)
    faults, counts, acts = 0, Counter[str](), 0
    with tempfile.TemporaryDirectory() as folder:
        plan = Path(folder) / "plan.oattide"
        assert not (said := _apart(lambda: _made(plan))), said
        for number in range(seed, seed + count):
            killed = kill_one(number, plan, longest / 1000)
            said = _apart(lambda killed=killed: fault_of(killed))  # type: ignore[misc]
            acts += len(killed.done)
            counts["closed" if killed.ended else signal.Signals(killed.by).name] += 1
            if said:
                faults += 1
                print(
                    f"{number}: {said} ({signal.Signals(killed.by).name}, {len(killed.done)} acts)",
                    flush=True,
                )
            else:
                shutil.rmtree(killed.folder, ignore_errors=True)
    print(f"{count:,} kills, {acts:,} acts, {dict(counts)}, {faults} faults", flush=True)
    return faults
