"""Run the tests and close with a line that says how many passed: python -m tests [names]."""

from __future__ import annotations

import multiprocessing
import os
import sys

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")


def main() -> int:
    """Run the named tests in this process, or all of them in several."""
    from tests import runner

    names = sys.argv[1:]
    if names == [runner.WORKER]:
        runner.work()
        return 0
    outcome = runner.run(names, sys.stderr) if names else runner.run_all()
    runner.progress(outcome)
    return 0 if outcome.passed and not outcome.failed else 1


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
