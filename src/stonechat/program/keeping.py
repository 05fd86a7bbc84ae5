"""Looks after what the program needs: the worker and the database are started again where they died."""

import os
import subprocess
import sys
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from stonechat.cluster import revive
from stonechat.errors import StonechatError

_LOOK_S = 1.0
_CALM = 3  # restarts in a row before it takes its time
_LONGER_S = 30.0

Say = Callable[[str], None]


class Worker:
    """A worker beside the web server, as a process of its own."""

    def __init__(self, url: str, folder: Path | None) -> None:
        self._command = [sys.executable, "-m", "stonechat", "work", "--parent", str(os.getpid())]
        if folder is not None:
            self._command += ["--left-behind", str(folder)]
        self._url = url
        self._process = self._begin()

    def _begin(self) -> subprocess.Popen[bytes]:
        return subprocess.Popen(
            self._command,
            env={**os.environ, "STONECHAT_DATABASE_URL": self._url},
            stdin=subprocess.DEVNULL,
            stdout=subprocess.DEVNULL,  # the solver's banner; what matters goes to stderr
            start_new_session=True,  # Ctrl-C is for this process, which then ends the worker
        )

    def revive(self) -> bool:
        """Start it again where it died; tell whether that was so."""
        if self._process.poll() is None:
            return False
        self._process = self._begin()
        return True

    def end(self) -> None:
        """Ask it to end, and make it."""
        self._process.terminate()
        try:
            self._process.wait(timeout=10)
        except subprocess.TimeoutExpired:
            self._process.kill()


@contextmanager
def looked_after(url: str, folder: Path | None, *, say: Say) -> Iterator[None]:
    """Run a worker meanwhile, and keep it and the cluster of a folder alive (None: the database is not ours)."""
    worker, leaving = Worker(url, folder), threading.Event()
    keeper = threading.Thread(target=_keep, args=(worker, folder, leaving, say), daemon=True)
    keeper.start()
    try:
        yield
    finally:
        leaving.set()
        keeper.join(timeout=30)
        worker.end()


def _keep(worker: Worker, folder: Path | None, leaving: threading.Event, say: Say) -> None:
    in_a_row = 0
    while not leaving.wait(_LONGER_S if in_a_row > _CALM else _LOOK_S):
        try:
            database = folder is not None and revive(folder, say=say)
            worked = worker.revive()
        except (StonechatError, OSError) as exc:
            say(f"{getattr(exc, 'message', exc)} It is tried again.")
            in_a_row += 1
            continue
        if database:
            say("The database had stopped and was started again.")
        if worked:
            say("The worker had stopped and was started again.")
        in_a_row = in_a_row + 1 if database or worked else 0
