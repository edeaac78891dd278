"""Processes of our own: they end with their parent, say how they ended, and leave nothing behind."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import textwrap
import time
import unittest
from multiprocessing.connection import Connection
from pathlib import Path

import numpy as np

from oat_tide.system import child
from oat_tide.system.child import Child, is_there, receive, send
from tests.helpers import FolderCase, monthly

TOP = Path(__file__).parent.parent.parent


def echo(line: Connection) -> None:
    """Say what was said."""
    while True:
        send(line, receive(line))


def hands_over(line: Connection) -> None:
    """Fill a folder that nobody takes."""
    folder = child.folder_to_hand_over(child.shelves()[0])
    (Path(folder) / "lines").write_bytes(b"x" * 1000)
    send(line, folder)
    receive(line)


def dies_of_itself(line: Connection) -> None:
    receive(line)
    os.abort()


class SalesLines(unittest.TestCase):
    def test_what_is_sent_comes_back_with_its_arrays(self) -> None:
        own = Child(echo)
        self.addCleanup(own.end)
        values = np.arange(200_000.0).reshape(400, 500)
        own.ask(("a panel", {"values": values}))
        said, held = own.answer()
        self.assertEqual(said, "a panel")
        np.testing.assert_array_equal(held["values"], values)

    def test_how_one_ended_is_told(self) -> None:
        ends = {signal.SIGKILL: "outside", signal.SIGTERM: "outside", signal.SIGSEGV: "itself"}
        for number, why in ends.items():
            own = Child(echo)
            own.ask("ready?")
            self.assertEqual(own.answer(), "ready?")
            os.kill(own.process.pid, number)
            with self.subTest(number):
                self.assertRaises((EOFError, OSError), own.answer)
                self.assertEqual(own.why_gone(), why)
            own.end()
        own = Child(dies_of_itself)
        own.ask("now")
        self.assertRaises((EOFError, OSError), own.answer)
        self.assertEqual(own.why_gone(), "itself")
        own.end()

    def test_ctrl_c_is_for_the_first_process_alone(self) -> None:
        own = Child(echo)
        self.addCleanup(own.end)
        own.ask(1)
        own.answer()
        os.kill(own.process.pid, signal.SIGINT)
        own.ask(2)
        self.assertEqual(own.answer(), 2)

    def test_what_one_handed_over_goes_with_it(self) -> None:
        own = Child(hands_over)
        folder = Path(own.answer())
        self.assertTrue((folder / "lines").exists())
        child.clear_folders()
        self.assertTrue(folder.exists(), "it belongs to a process that is there")
        own.end()
        self.assertFalse(folder.exists())


class EndsWithItsParent(FolderCase):
    def run_script(self, text: str, *args: str) -> subprocess.Popen[str]:
        path = self.file(textwrap.dedent(text), "script.py")
        return subprocess.Popen(
            [sys.executable, str(path), *args],
            stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True,
            env=os.environ | {"XDG_STATE_HOME": str(self.folder / "state"), "PYTHONPATH": str(TOP)},
        )  # fmt: skip

    def test_however_that_ends_and_holds_no_pipe_open(self) -> None:
        script = """
            import sys, time
            from tests.system.test_child import hands_over, Child
            if __name__ == "__main__":
                own = Child(hands_over)
                print(own.process.pid, own.answer(), flush=True)
                time.sleep(60)
        """
        for number in (signal.SIGKILL, signal.SIGTERM, signal.SIGHUP):
            with self.subTest(number):
                parent = self.run_script(script)
                pid, folder = parent.stdout.readline().split()
                self.assertTrue(is_there(int(pid)) and Path(folder).exists())
                parent.send_signal(number)
                # The pipe ends when nobody holds it any more.
                begun = time.monotonic()
                parent.communicate(timeout=20)
                self.assertLess(time.monotonic() - begun, 10)
                end = time.monotonic() + 10
                while is_there(int(pid)) and time.monotonic() < end:
                    time.sleep(0.02)
                self.assertFalse(is_there(int(pid)))
                self.assertFalse(Path(folder).exists())

    def test_its_own_words_go_into_the_log(self) -> None:
        script = """
            from tests.system.test_child import dies_of_itself, Child
            if __name__ == "__main__":
                own = Child(dies_of_itself)
                own.ask(1)
                try:
                    own.answer()
                except EOFError:
                    print(own.why_gone())
                own.end()
        """
        done = self.run_script(script)
        out, err = done.communicate(timeout=60)
        self.assertEqual((out, err), ("itself\n", ""))
        log = self.folder / "state" / "oat-tide" / "log" / "oat-tide.log"
        self.assertIn("Fatal Python error: Aborted", log.read_text())

    def test_a_script_without_the_usual_guard_is_told_so(self) -> None:
        sales = self.file(monthly([1, 2, 3]))
        script = """
            import sys
            from pathlib import Path
            from oat_tide.core.user_error import UserError
            from oat_tide.documents import open_document, save_document
            try:
                session = open_document(Path(sys.argv[1])).session
                save_document(session, "history", Path(sys.argv[2]))
                open_document(Path(sys.argv[2]))
            except UserError as trouble:
                print(trouble)
        """
        done = self.run_script(script, str(sales), str(self.folder / "plan.oattide"))
        out, err = done.communicate(timeout=60)
        self.assertIn("if __name__ == '__main__'", out)
        self.assertNotIn("damaged", out)
        self.assertEqual(err, "")
