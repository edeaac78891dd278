"""Tests in several processes: a class at a time, and those that need the machine to themselves at the end.

A class with `ALONE = True` measures time, or loads the machine so that others who do would suffer. The tests
of a class with `LONG = True` are shared out one by one, before all others.
"""

from __future__ import annotations

import json
import os
import subprocess
import sys
import threading
import time
import unittest
from collections.abc import Iterable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path
from queue import Empty, SimpleQueue
from typing import Any, TextIO

TOP = Path(__file__).parent.parent
WORKER = "--worker"
_SLOWEST = 20
"""Classes whose time is told at the end."""


@dataclass(slots=True)
class Outcome:
    """What became of some tests.

    Attributes:
        passed, skipped: how many.
        failed: of each that did not pass its name and why.
        took: seconds by class.
    """

    passed: int = 0
    skipped: int = 0
    failed: list[tuple[str, str]] = field(default_factory=list)
    took: dict[str, float] = field(default_factory=dict)

    def add(self, other: Outcome) -> None:
        """Take in what became of others."""
        self.passed += other.passed
        self.skipped += other.skipped
        self.failed += other.failed
        self.took |= other.took


class _Result(unittest.TextTestResult):
    """Counts those that passed, too; a test with subtests passes where all of them do."""

    def outcome(self) -> Outcome:
        """What became of all of them."""
        told = [(str(test), why) for test, why in (*self.failures, *self.errors)]
        told += [(str(test), "It passed, and was expected to fail.") for test in self.unexpectedSuccesses]
        failed = {str(getattr(test, "test_case", test)) for test, _ in (*self.failures, *self.errors)}
        passed = self.testsRun - len(failed) - len(self.skipped) - len(self.unexpectedSuccesses)
        return Outcome(passed, len(self.skipped), told)


def _tests(suite: unittest.TestSuite) -> Iterator[unittest.TestCase]:
    for each in suite:
        if isinstance(each, unittest.TestSuite):
            yield from _tests(each)
        else:
            yield each


def run(names: list[str], stream: TextIO) -> Outcome:
    """Run tests by name in this process."""
    suite = unittest.defaultTestLoader.loadTestsFromNames(names)
    result = unittest.TextTestRunner(stream, verbosity=1, resultclass=_Result).run(suite)
    assert isinstance(result, _Result)
    return result.outcome()


def work() -> None:
    """Run the classes that are named, one a line, and tell what became of each, one a line."""
    # What tests print must not come between, and what they start must not read the names.
    named, told = os.fdopen(os.dup(0)), os.fdopen(os.dup(1), "w", buffering=1)
    os.dup2(os.open(os.devnull, os.O_RDONLY), 0)
    os.dup2(2, 1)
    with Path(os.devnull).open("w") as nowhere:
        for line in named:
            begun = time.perf_counter()
            outcome = run([line.strip()], nowhere)
            outcome.took[line.strip()] = time.perf_counter() - begun
            told.write(json.dumps(_plain(outcome)) + "\n")


def _plain(outcome: Outcome) -> dict[str, Any]:
    return {name: getattr(outcome, name) for name in ("passed", "skipped", "failed", "took")}


def run_all() -> Outcome:
    """Run all tests, as many classes at a time as there are processors."""
    found = unittest.defaultTestLoader.discover(str(TOP / "tests"), top_level_dir=str(TOP))
    outcome, many = Outcome(), os.cpu_count() or 1
    long, short, alone = dict[str, None](), dict[str, None](), dict[str, None]()
    for test in _tests(found):
        kind = test.__class__
        name = f"{kind.__module__}.{kind.__qualname__}"
        if kind.__module__ == "unittest.loader":
            # It says what could not be imported.
            result = unittest.TestResult()
            test.run(result)
            outcome.failed.append((str(test), result.errors[0][1]))
        elif getattr(kind, "LONG", False):
            long[test.id()] = None
        else:
            (alone if getattr(kind, "ALONE", False) else short)[name] = None
    together = _queue((*long, *short))
    with ThreadPoolExecutor(many) as pool:
        for done in pool.map(_drain, [together] * many):
            outcome.add(done)
    outcome.add(_drain(_queue(alone)))
    return outcome


def _queue(names: Iterable[str]) -> SimpleQueue[str]:
    queue = SimpleQueue[str]()
    for name in names:
        queue.put(name)
    return queue


_printing = threading.Lock()


def _drain(names: SimpleQueue[str]) -> Outcome:
    """Have a process run classes until none is left; one that dies is a failure of its class."""
    outcome, process = Outcome(), _started()
    while True:
        try:
            name = names.get_nowait()
        except Empty:
            process.communicate()
            return outcome
        assert process.stdin is not None and process.stdout is not None
        process.stdin.write(name + "\n")
        process.stdin.flush()
        said = process.stdout.readline()
        if said:
            done = Outcome(**json.loads(said))
        else:
            done = Outcome(failed=[(name, f"Its process ended with {process.wait()}.")])
            process = _started()
        outcome.add(done)
        with _printing:
            sys.stderr.write("." * done.passed + "s" * done.skipped + "F" * len(done.failed))
            for test, why in done.failed:
                sys.stderr.write(f"\nFAIL: {test}\n{why}\n")
            sys.stderr.flush()


def _started() -> subprocess.Popen[str]:
    return subprocess.Popen(
        [sys.executable, "-m", "tests", WORKER],
        cwd=TOP,
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        text=True,
    )


def progress(outcome: Outcome) -> None:
    """Print the slowest classes, each failure once more, and how many passed as the last line."""
    slowest = sorted(outcome.took.items(), key=lambda each: -each[1])[:_SLOWEST]
    if slowest:
        print("\nThe slowest: " + ", ".join(f"{name} {took:.0f} s" for name, took in slowest))
    for name, why in outcome.failed:
        print(f"\nFAIL: {name}\n{why}")
    print(f"{outcome.passed} passed, {len(outcome.failed)} failed, {outcome.skipped} skipped")
