"""The real program, started as a rider starts it, to be looked at and to be killed."""

import os
import re
import signal
import stat
import subprocess
import sys
from contextlib import suppress
from pathlib import Path
from typing import Any

import httpx2 as httpx
import pytest

from stonechat.cluster import Cluster


def reachable(folder: Path) -> Path:
    """Open the folder and those above that are shut, so that the database's own user can pass."""
    for way in (folder, *folder.parents):
        if not way.stat().st_mode & stat.S_IXOTH:
            way.chmod(0o755)
    return folder


class Program:
    """A running `demo` with a data folder of its own."""

    def __init__(self, folder: Path, *, port: int = 0) -> None:
        self.folder = folder
        with (folder.parent / "program.err").open("a") as errors:
            self._process = subprocess.Popen(
                [sys.executable, "-m", "stonechat", "demo", "--port", str(port)],
                stdout=subprocess.PIPE,
                stderr=errors,
                text=True,
                start_new_session=True,
                env={**os.environ, "STONECHAT_DATA_DIR": str(folder), "PYTHONUNBUFFERED": "1"},
            )
        assert self._process.stdout is not None
        line = self._process.stdout.readline()
        found = re.search(r"http://127\.0\.0\.1:\d+", line)
        if found is None:
            self._process.kill()
            pytest.fail("The program did not start: " + line + (folder.parent / "program.err").read_text())
        self.address = found[0]

    def interrupt(self) -> int:
        """Press Ctrl-C and wait for the end."""
        os.killpg(self._process.pid, signal.SIGINT)
        return self._end()

    def terminate(self) -> int:
        """Ask the program alone to end."""
        self._process.terminate()
        return self._end()

    def kill(self) -> None:
        """Kill the program where it stands."""
        self._process.kill()
        self._end()

    @property
    def pid(self) -> int:
        """Its process."""
        return self._process.pid

    def hang_up(self) -> int:
        """Close its terminal."""
        self._process.send_signal(signal.SIGHUP)
        return self._end()

    def said(self) -> str:
        """What it wrote to stderr."""
        return (self.folder.parent / "program.err").read_text()

    def server(self) -> int:
        """Process of its database, or 0."""
        return Cluster(self.folder).serving()

    def worker(self) -> int:
        """Process of its worker, or 0."""
        for entry in Path("/proc").glob("[0-9]*/cmdline"):
            with suppress(OSError):
                words = entry.read_bytes().split(b"\0")
                if b"work" in words and str(self.folder).encode() in words:
                    return int(entry.parent.name)
        return 0

    def ready(self, *, timeout: float = 30.0) -> tuple[int, dict[str, Any]]:
        """Status and words of its readiness."""
        answer = httpx.get(self.address + "/ready", timeout=timeout)
        return answer.status_code, answer.json()

    def is_alive(self) -> bool:
        """Whether it still runs."""
        return self._process.poll() is None

    def _end(self) -> int:
        code = self._process.wait(timeout=120)  # it may compile the ride, which nothing cuts short
        assert self._process.stdout is not None
        self._process.stdout.close()
        return code
