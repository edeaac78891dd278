"""A real PostgreSQL server for tests: started from the system's package, on a port of its own, then gone."""

from __future__ import annotations

import os
import shutil
import socket
import subprocess
import tempfile
import unittest
from pathlib import Path

USER, PASSWORD, DATABASE = "analyst", "oats and tide", "mill"


def programs() -> Path | None:
    """The folder with the server's programs, the newest version of those installed."""
    found = sorted(Path("/usr/lib/postgresql").glob("*/bin/initdb"), key=lambda path: float(path.parts[-3]))
    if found:
        return found[-1].parent
    on_path = shutil.which("initdb")
    return Path(on_path).parent if on_path else None


class Server:
    """Attributes: port; address, without the password; folder: of its data."""

    def __init__(self) -> None:
        where = programs()
        if where is None:
            raise unittest.SkipTest("PostgreSQL is not installed: sudo apt-get install postgresql")
        self._programs = where
        self.folder = Path(tempfile.mkdtemp(prefix="oat-tide-pg-"))
        # The server refuses to run as root.
        self._as = ["runuser", "-u", "postgres", "--"] if os.getuid() == 0 else []
        if self._as:
            shutil.chown(self.folder, "postgres")
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.port = int(free.getsockname()[1])
        self.address = f"postgresql://{USER}@127.0.0.1:{self.port}/{DATABASE}"
        self._run("initdb", "-D", str(self.folder / "data"), "-U", "keeper", "-A", "trust", "-N")
        self.start()
        self.sql(f"CREATE ROLE {USER} LOGIN PASSWORD '{PASSWORD}'", "postgres")
        self.sql(f"CREATE DATABASE {DATABASE} OWNER {USER}", "postgres")
        rules = self.folder / "data" / "pg_hba.conf"
        rules.write_text("local all keeper trust\nhost all all 127.0.0.1/32 scram-sha-256\n")
        self.restart()

    def _run(self, program: str, *args: str) -> None:
        done = subprocess.run(
            [*self._as, str(self._programs / program), *args], capture_output=True, text=True, cwd="/"
        )
        if done.returncode:
            raise RuntimeError(f"{program}: {done.stdout}{done.stderr}")

    def start(self) -> None:
        """Start the server and wait until it answers."""
        options = f"-p {self.port} -k {self.folder} -c listen_addresses=127.0.0.1 -c fsync=off"
        options += " -c log_statement=all -c log_connections=on -c log_line_prefix=%u:"
        log = str(self.folder / "log")
        self._run("pg_ctl", "-D", str(self.folder / "data"), "-w", "-o", options, "-l", log, "start")

    def stop(self) -> None:
        """Stop it at once, whoever is connected."""
        self._run("pg_ctl", "-D", str(self.folder / "data"), "-m", "immediate", "stop")

    def restart(self) -> None:
        """Stop and start."""
        self.stop()
        self.start()

    def heard(self, since: int = 0) -> str:
        """What it was asked and by whom, and whom it turned away, from a place in its record on."""
        if self._as:
            shown = subprocess.run(["cat", str(self.folder / "log")], capture_output=True, check=True).stdout
            return shown.decode(errors="replace")[since:]
        return (self.folder / "log").read_text(errors="replace")[since:]

    def sql(self, text: str, database: str = DATABASE) -> None:
        """Run statements as the keeper of the server."""
        self._run(
            "psql", "-h", str(self.folder), "-p", str(self.port), "-U", "keeper", "-v", "ON_ERROR_STOP=1",
            "-q", "-d", database, "-c", text,
        )  # fmt: skip

    def close(self) -> None:
        """Stop it and take its data away."""
        try:
            self.stop()
        finally:
            shutil.rmtree(self.folder, ignore_errors=True)


_server: list[Server] = []


def server() -> Server:
    """The server of this test run; it is started once, and stopped when the run ends."""
    if not _server:
        _server.append(Server())
        unittest.addModuleCleanup(_close)
    return _server[0]


def _close() -> None:
    while _server:
        _server.pop().close()
