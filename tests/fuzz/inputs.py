"""Broken files opened: each is a source that ties, saved and opened as the same, or a plain message."""

from __future__ import annotations

import contextlib
import os
import random
import resource
import shutil
import signal
import subprocess
import sys
import tempfile
import time
import traceback
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

import msgspec
import numpy as np

from oat_tide.core.user_error import UserError
from oat_tide.documents import Document, open_document, save_document
from oat_tide.intake.origins import path_permission
from oat_tide.plan.container import SUFFIX
from oat_tide.session import Session
from oat_tide.stages import ON_RAIL
from tests.fuzz.mutations import broken
from tests.fuzz.seeds import seeds
from tests.messages import judged

BATCH = 1000
_PATIENCE = 60
"""Seconds after which an input is taken for one that hangs."""
_LOOKED_INTO = 0.05
"""The share of accepted inputs of which every stage is laid out."""
_MEMORY = 8 << 30
_KINDS = {".csv": 8, ".txt": 2, ".xlsx": 5, ".ods": 3, ".parquet": 5, ".sqlite": 3, SUFFIX: 5}
"""How often each kind of file is broken."""


class Hangs(Exception):
    """An input took longer than anybody waits."""


@contextlib.contextmanager
def _patience() -> Iterator[None]:
    def over(number: int, frame: object) -> None:
        raise Hangs(f"more than {_PATIENCE} s")

    before = signal.signal(signal.SIGALRM, over)
    signal.alarm(_PATIENCE)
    try:
        yield
    finally:
        signal.alarm(0)
        signal.signal(signal.SIGALRM, before)


def tried(path: Path, rng: random.Random) -> str:
    """Open one input and hold it to what must be; returns what became of it.

    Raises:
        AssertionError: it was lost, changed, or told in words that do not help.
        Exception: whatever the product should not have raised.
    """
    try:
        document = open_document(path)
    except UserError as error:
        judged(str(error))
        return "refused"
    _held(document.session)
    again = path.with_name(f"again{SUFFIX}")
    try:
        save_document(document.session, document.stage, again)
    except UserError as error:
        judged(str(error))
        raise AssertionError(f"it was opened, and cannot be saved: {error}") from error
    _same(document, open_document(again))
    if rng.random() < _LOOKED_INTO:
        _laid_out(document.session)
    return "accepted"


def _held(session: Session) -> None:
    tie = session.tie
    assert tie.ties, f"it does not tie: {tie.gap} between {tie.source} and {tie.series}"
    assert not np.isinf(session.panel.values).any(), "a series is endless"


def _same(one: Document, other: Document) -> None:
    first, second = one.session, other.session
    assert first.plan == second.plan, "the plan changed when it was saved"
    assert first.panel.keys == second.panel.keys, "series changed when it was saved"
    np.testing.assert_array_equal(first.panel.values, second.panel.values)
    assert first.reading.read == second.reading.read, "lines were lost when it was saved"
    assert first.source.frame.equals(second.source.frame), "a line changed when it was saved"
    _held(second)


def _laid_out(session: Session) -> None:
    """Every stage, with all that it says of its figures, and the working of a cell of each."""
    for name in ON_RAIL:
        deck = session.shown(name)
        for figure in deck.figures.every():
            known = np.argwhere(~np.isnan(figure.values))
            for series, column in known[-1:].tolist():
                figure.explain(series, column)
            for series, column in np.argwhere(np.isnan(figure.values))[:1].tolist():
                figure.why_blank(series, column)
        deck.sheet()
        for said in (deck.title(0), deck.subtitle(0), deck.finding(0)):
            assert "Traceback" not in str(said)


class Outcome(msgspec.Struct):
    """What became of a batch.

    Attributes:
        counts: inputs by kind of file and what became of them.
        faults: what should not have been, each with the number of its input.
        slowest: seconds of the one that took longest.
    """

    counts: dict[str, int]
    faults: list[str]
    slowest: float


def batch(seed: int, start: int, count: int, folder: Path) -> Outcome:
    """Break and open so many inputs; the first is number `start`."""
    source, work = folder / "seeds", folder / "work"
    source.mkdir(exist_ok=True)
    work.mkdir(exist_ok=True)
    honest = seeds(source)
    data = {path: path.read_bytes() for path in honest}
    by_kind = {kind: [path for path in honest if path.suffix == kind] for kind in _KINDS}
    counts: Counter[str] = Counter()
    faults: list[str] = []
    slowest = 0.0
    for number in range(start, start + count):
        rng = random.Random(f"{seed} {number}")
        chosen = rng.choice(by_kind[rng.choices(list(_KINDS), list(_KINDS.values()))[0]])
        path = work / chosen.name
        path.write_bytes(broken(data[chosen], rng))
        (folder / "now").write_text(f"{number} {chosen.name}")
        begun = time.monotonic()
        try:
            with _patience():
                counts[f"{chosen.suffix} {tried(path, rng)}"] += 1
        except BaseException as error:
            if isinstance(error, KeyboardInterrupt):
                raise
            counts[f"{chosen.suffix} at fault"] += 1
            last = "".join(traceback.format_exception(error, limit=-4))
            faults.append(f"{number} {chosen.name}: {type(error).__name__}: {error}\n{last[-1500:]}")
            shutil.copy(path, folder / f"fault-{number}{chosen.suffix}")
        slowest = max(slowest, time.monotonic() - begun)
        path_permission._NAMED.clear()
        path.unlink(missing_ok=True)
    return Outcome(dict(counts), faults, slowest)


def many(count: int, seed: int, first: int = 0) -> int:
    """Break and open many inputs, a thousand a process; prints what became of them, returns the faults."""
    counts: Counter[str] = Counter()
    faults = 0
    slowest = 0.0
    for start in range(first, first + count, BATCH):
        folder = Path(tempfile.mkdtemp(prefix="oat-tide-fuzz-"))
        size = min(BATCH, first + count - start)
        words = [sys.executable, "-m", "tests.fuzz.inputs", *map(str, (seed, start, size)), str(folder)]
        # A file of a few rows is read sooner by one thread than shared among several.
        env = os.environ | {"POLARS_MAX_THREADS": "1"}
        done = subprocess.run(words, capture_output=True, text=True, check=False, env=env)
        if done.returncode:
            faults += 1
            now = (folder / "now").read_text() if (folder / "now").exists() else "the seeds"
            print(
                f"process ended with {done.returncode} at {now}; {folder}\n{done.stderr[-2000:]}", flush=True
            )
            continue
        outcome = msgspec.json.decode(done.stdout, type=Outcome)
        counts.update(outcome.counts)
        slowest = max(slowest, outcome.slowest)
        faults += len(outcome.faults)
        for fault in outcome.faults:
            print(f"{folder} {fault}", flush=True)
        if not outcome.faults:
            shutil.rmtree(folder, ignore_errors=True)
        print(f"{sum(counts.values()):,} inputs, {faults} faults, the slowest {slowest:.1f} s", flush=True)
    for what, number in sorted(counts.items()):
        print(f"{number:8,} {what}")
    return faults


if __name__ == "__main__":
    resource.setrlimit(resource.RLIMIT_DATA, (_MEMORY, _MEMORY))
    with contextlib.redirect_stdout(sys.stderr):
        told = batch(*map(int, sys.argv[1:4]), Path(sys.argv[4]))
    sys.stdout.buffer.write(msgspec.json.encode(told))
    sys.stdout.flush()
    os._exit(0)
