"""The private database cluster: made once in a data folder, started on a socket of its own, stopped with the program.

PostgreSQL refuses to run as root, so root runs it by way of the unprivileged user that Debian's package brings.
"""

import fcntl
import hashlib
import os
import pwd
import shutil
import subprocess
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from stonechat.errors import Unavailable

_SERVER_USER = "postgres"
_DATABASE = "stonechat"
_LONGEST_SOCKET = 90  # characters; the system allows 107 with the file's own name


def default_data_dir() -> Path:
    """Return the folder for the cluster: the system's for root, the user's own otherwise."""
    if os.geteuid() == 0:
        return Path("/var/lib/stonechat")
    base = os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share"
    return Path(base) / "stonechat"


def server_programs() -> Path:
    """Return the folder of the newest installed server's programs."""
    found = sorted(
        Path("/usr/lib/postgresql").glob("*/bin/initdb"), key=lambda p: int(p.parts[4]) if p.parts[4].isdigit() else 0
    )
    if found:
        return found[-1].parent
    on_path = shutil.which("initdb")
    if on_path is None:
        raise Unavailable("PostgreSQL's server is missing. Install it: apt-get install postgresql.")
    return Path(on_path).resolve().parent


class Cluster:
    """One private cluster in one folder."""

    def __init__(self, folder: Path, *, durable: bool = True) -> None:
        self._programs = server_programs()
        self._folder = folder.resolve()
        self._data = self._folder / "database"
        self._durable = durable
        self._owner = self._find_owner()

    @property
    def url(self) -> str:
        """Address of the database."""
        return f"postgresql:///{_DATABASE}?host={self._socket_dir()}&user={_DATABASE}"

    def _find_owner(self) -> pwd.struct_passwd | None:
        if os.geteuid() != 0:
            return None
        try:
            return pwd.getpwnam(_SERVER_USER)
        except KeyError:
            raise Unavailable(
                f"The user “{_SERVER_USER}” is missing, as which root runs the database. "
                "Install Debian's package: apt-get install postgresql."
            ) from None

    def _socket_dir(self) -> Path:
        own = self._folder / "run"
        if len(str(own)) <= _LONGEST_SOCKET:
            return own
        digest = hashlib.sha256(str(own).encode()).hexdigest()[:12]
        return Path(tempfile.gettempdir()) / f"stonechat-{digest}"

    def _run(self, program: str, *arguments: str) -> subprocess.CompletedProcess[str]:
        command = [str(self._programs / program), *arguments]
        keep = {key: value for key, value in os.environ.items() if not key.startswith("PG")}
        return subprocess.run(
            command,
            user=self._owner.pw_uid if self._owner else None,
            group=self._owner.pw_gid if self._owner else None,
            extra_groups=[] if self._owner else None,
            cwd=self._folder,
            env={**keep, "LC_ALL": "C.UTF-8"},
            stdin=subprocess.DEVNULL,
            capture_output=True,
            text=True,
            timeout=120,
        )

    def make_folders(self) -> None:
        """Make the data folder, open to its owner alone."""
        try:
            for folder in (self._folder, self._socket_dir()):
                folder.mkdir(parents=True, exist_ok=True, mode=0o700)
                if self._owner:
                    os.chown(folder, self._owner.pw_uid, self._owner.pw_gid)
        except OSError as exc:
            raise Unavailable(
                f"The data folder {self._folder} cannot be made: {exc.strerror}. "
                "Name another one in the setting STONECHAT_DATA_DIR."
            ) from exc

    def is_running(self) -> bool:
        """Tell whether a server runs on the folder."""
        return self._data.exists() and self._run("pg_ctl", "-D", str(self._data), "status").returncode == 0

    def start(self) -> None:
        """Make the cluster where there is none and start it where it does not run."""
        self.make_folders()
        if not (self._data / "PG_VERSION").exists():
            self._create()
        if self.is_running():
            return
        options = f"-c listen_addresses='' -k '{self._socket_dir()}' -c timezone=UTC"
        if not self._durable:
            options += " -c fsync=off -c synchronous_commit=off -c full_page_writes=off"
        log = self._folder / "database.log"
        started = self._run("pg_ctl", "-D", str(self._data), "-l", str(log), "-o", options, "-w", "-t", "60", "start")
        if started.returncode != 0:
            last = log.read_text(errors="replace").strip().splitlines()[-1:] if log.exists() else []
            raise Unavailable(f"The database did not start: {' '.join(last) or started.stderr.strip()}. Log: {log}.")
        self._ensure_database()

    def _create(self) -> None:
        made = self._run(
            "initdb", "-D", str(self._data), "-U", _DATABASE, "--auth-local=trust", "--auth-host=reject",
            "-E", "UTF8", "--locale=C.UTF-8", "--no-instructions",
        )  # fmt: skip
        if made.returncode != 0:
            shutil.rmtree(self._data, ignore_errors=True)
            raise Unavailable(f"The database could not be made in {self._data}: {made.stderr.strip()[-300:]}")

    def _ensure_database(self) -> None:
        made = self._run("createdb", "-h", str(self._socket_dir()), "-U", _DATABASE, _DATABASE)
        if made.returncode != 0 and "already exists" not in made.stderr:
            raise Unavailable(f"The database could not be made: {made.stderr.strip()[-300:]}")

    def stop(self) -> None:
        """Stop the server; what was committed is on the disk."""
        self._run("pg_ctl", "-D", str(self._data), "-m", "fast", "-w", "-t", "60", "stop")


@contextmanager
def running_cluster(folder: Path, *, durable: bool = True) -> Iterator[str]:
    """Run the cluster of a folder and give its address; whoever leaves last stops it.

    Every user holds a shared lock, so a cluster left running by a killed program is taken over and stopped, and one
    that another program still uses is left alone.
    """
    cluster = Cluster(folder, durable=durable)
    cluster.make_folders()
    with (folder / "users.lock").open("w") as users:
        fcntl.flock(users, fcntl.LOCK_SH)
        with (folder / "start.lock").open("w") as starting:
            fcntl.flock(starting, fcntl.LOCK_EX)
            cluster.start()
        try:
            yield cluster.url
        finally:
            try:
                fcntl.flock(users, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except BlockingIOError:
                pass
            else:
                cluster.stop()
