"""Run the tests and close with a line that says how many passed: python -m tests [names]."""

from __future__ import annotations

import multiprocessing
import os
import sys
import unittest
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")


def main() -> int:
    """Run the named tests, or all of them."""
    top = Path(__file__).parent.parent
    loader = unittest.defaultTestLoader
    names = sys.argv[1:]
    suite = (
        loader.loadTestsFromNames(names)
        if names
        else loader.discover(str(top / "tests"), top_level_dir=str(top))
    )
    result = unittest.TextTestRunner(verbosity=1).run(suite)
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    passed = result.testsRun - failed - len(result.skipped)
    print(f"{passed} passed, {failed} failed, {len(result.skipped)} skipped")
    return 0 if result.wasSuccessful() and passed else 1


if __name__ == "__main__":
    code = main()
    for child in multiprocessing.active_children():
        # A worker that outlived this process would keep whoever reads its output waiting.
        child.terminate()
        child.join(5)
    sys.stdout.flush()
    sys.stderr.flush()
    # Hundreds of windows were opened: taking them down with the interpreter, in no order, can crash in Qt.
    os._exit(code)
