"""One database server over one data folder: made beside and renamed, started, looked after, stopped.

PostgreSQL refuses to run as root, so root runs it by way of the unprivileged user that Debian's package brings.
Who may connect is told by the system itself (peer): no other local user, whatever the folders' modes.
"""

import os
import shlex
import subprocess
import time
from pathlib import Path
from urllib.parse import quote

from stonechat.cluster.condition import Condition, State, examine, first_not_of, users_of
from stonechat.cluster.folder import DataFolder, Say
from stonechat.cluster.programs import newest_programs, programs_of
from stonechat.errors import Unavailable

DATABASE = "stonechat"
_WAIT_S = 60
_ORPHANS_S = 20.0  # how long the sessions of a killed server may take to end
_STOP_S = 20
_LOG_BYTES = 5_000_000  # a longer log is begun anew
_RESTORE = "Bring a backup into an empty folder: stonechat restore FILE."


_FULL = "The disk is full. Free some space, then start again; what was kept is still there."
_DAMAGED = f"Its files are damaged and were left as they are. {_RESTORE}"
_MEANINGS = {
    "No space left on device": _FULL,
    "Disk quota exceeded": _FULL,
    "could not locate a valid checkpoint record": _DAMAGED,
    "invalid primary checkpoint": _DAMAGED,
}
_TELLING = ("FATAL", "PANIC", "error:")


def _silent(_: str) -> None:
    """Say nothing."""


class Cluster:
    """One private cluster in one folder."""

    def __init__(self, folder: Path, *, durable: bool = True, say: Say = _silent) -> None:
        self.folder = DataFolder(folder)
        self._data = self.folder.data
        self._durable = durable
        self._say = say
        self._programs = newest_programs()[1]

    @property
    def url(self) -> str:
        """Address of the database."""
        return f"postgresql:///{DATABASE}?host={quote(str(self.folder.socket_folder()))}&user={DATABASE}"

    def serving(self) -> int:
        """Return the process that serves the folder, or 0; a number that another program got since is none."""
        try:
            pid = int((self._data / "postmaster.pid").read_text().split("\n", 1)[0])
        except (OSError, ValueError):
            return 0
        return pid if pid in users_of(self._data) else 0

    def start(self) -> None:
        """Make the cluster where there is none and start it where it does not run."""
        self.folder.prepare()
        condition = self._look_at_it()
        if condition.state is State.ABSENT:
            self._create()
        else:
            self._programs = programs_of(condition.version)
            self._check_owner()
        running = bool(self.serving())
        self._let_in_only_us(reload=running)
        if not running:
            self._clear_what_a_crash_left()
            self._start_server()
        if not self.folder.notes().get("complete"):  # also where a first start was cut off between the two
            self._ensure_database()
            self.folder.note(complete=True)

    def _look_at_it(self) -> Condition:
        """Return the condition, after setting aside what was never finished; what is damaged is a sentence."""
        for begun in self.folder.path.glob("database.new-*"):
            self._tell_set_aside(begun)
        condition = examine(self._data, was_whole=bool(self.folder.notes().get("complete")))
        if condition.state is State.HALF_MADE:
            self._tell_set_aside(self._data)
            return Condition(state=State.ABSENT)
        if condition.state is State.VERSION_LOST:
            file = self._data / "PG_VERSION"
            raise Unavailable(
                f"The file {file} is gone; the rest of the database (version {condition.version}) looks whole and was "
                f"left as it is. Put the file back: echo {condition.version} > {shlex.quote(str(file))}"
            )
        if condition.state is State.DAMAGED:
            raise Unavailable(
                f"Parts of the database in {self._data} are gone; what is there was left as it is. {_RESTORE} "
                "Or move the folder away to begin anew."
            )
        return condition

    def _tell_set_aside(self, path: Path) -> None:
        place = self.folder.set_aside(path)
        self._say(
            f"A database whose making was cut off lay in {path}; nothing was kept in it yet. It was set aside as "
            f"{place} and a new one is made; you may delete what was set aside."
        )

    def _check_owner(self) -> None:
        other = first_not_of(self._data, self.folder.owner.pw_uid)
        if other is not None:
            name = self.folder.owner.pw_name
            raise Unavailable(
                f"{other} does not belong to {name}, as after a copy made by another user; the database cannot be read "
                f"so and was left as it is. Give it to {name}, as root: chown -R {name}: {shlex.quote(str(self._data))}"
            )
        self._data.chmod(0o700)  # a plain copy opens it to others, and the server refuses that

    def _create(self) -> None:
        """Make the cluster in a fresh folder beside, and give it its name when it is whole."""
        fresh = self.folder.path / f"database.new-{os.getpid()}-{time.time_ns():x}"
        sync = [] if self._durable else ["--no-sync"]
        made = self._run(
            "initdb", "-D", fresh.name, "-U", DATABASE, "--auth-local=peer", "--auth-host=reject",
            "-E", "UTF8", "--locale=C.UTF-8", "--no-instructions", *sync,
        )  # fmt: skip
        if made.returncode != 0:
            raise Unavailable(f"The database could not be made in {self.folder.path}: {self._why(made.stderr)}")
        fresh.rename(self._data)
        _sync_folder(self.folder.path)

    def _let_in_only_us(self, *, reload: bool = False) -> None:
        """Write who may connect: the one that runs the server, and root where root runs it for another."""
        names = dict.fromkeys((self.folder.owner.pw_name, "root" if os.geteuid() == 0 else ""))
        wanted = {
            "pg_hba.conf": f"# written by Stonechat at each start\nlocal all {DATABASE} peer map={DATABASE}\n",
            "pg_ident.conf": "# written by Stonechat at each start\n"
            + "".join(f'{DATABASE} "{name}" {DATABASE}\n' for name in names if name),
        }
        changed = False
        for name, text in wanted.items():
            file = self._data / name
            if file.exists() and file.read_text(errors="replace") == text:
                continue
            new = file.with_suffix(".new")
            new.write_text(text)
            os.chown(new, self.folder.owner.pw_uid, self.folder.owner.pw_gid)
            new.chmod(0o600)
            new.replace(file)
            changed = True
        if changed and reload:
            self._run("pg_ctl", "-D", self._data.name, "reload")

    def _clear_what_a_crash_left(self) -> None:
        """Move locks away that name a process which is not the server any more; the server removes the others."""
        end = time.monotonic() + _ORPHANS_S
        while users_of(self._data) and time.monotonic() < end:
            time.sleep(0.2)
        if users_of(self._data):
            raise Unavailable(
                f"Sessions of a server that was killed still work in {self._data} "
                f"(processes {', '.join(map(str, users_of(self._data)))}). End them, then start again."
            )
        lock = self._data / "postmaster.pid"
        if lock.exists() and _names_somebody_else(lock):
            self._say(
                f"The database was not stopped properly the last time; its old lock is now "
                f"{self.folder.set_aside(lock)}."
            )
        for left in self.folder.socket_folder().glob(".s.PGSQL.*"):
            left.unlink(missing_ok=True)

    def _start_server(self) -> None:
        log = self.folder.log
        if log.exists() and log.stat().st_uid != self.folder.owner.pw_uid:
            self.folder.set_aside(log)  # from a copy made by another user; the server could not write to it
        if log.exists() and log.stat().st_size > _LOG_BYTES:
            log.replace(log.with_suffix(".log.1"))
        sockets = shlex.quote(str(self.folder.socket_folder()))
        options = f"-c listen_addresses= -k {sockets} -c unix_socket_permissions=0700 -c timezone=UTC"
        if not self._durable:
            options += " -c fsync=off -c synchronous_commit=off -c full_page_writes=off"
        before = log.stat().st_size if log.exists() else 0
        began = ("-D", self._data.name, "-l", log.name, "-o", options, "-w", "-t", str(_WAIT_S), "start")
        started = self._run("pg_ctl", *began)
        if started.returncode != 0:
            with_it = _since(log, before) or started.stderr
            raise Unavailable(f"The database did not start: {self._why(with_it)} Log: {log}.")

    def _ensure_database(self) -> None:
        made = self._run("createdb", "-h", str(self.folder.socket_folder()), "-U", DATABASE, DATABASE)
        if made.returncode != 0 and "already exists" not in made.stderr:
            raise Unavailable(f"The database could not be made: {self._why(made.stderr)}")

    def stop(self) -> None:
        """Stop the server; what was committed is on the disk. One that does not listen is stopped the hard way."""
        for how in ("fast", "immediate"):
            stopped = self._run("pg_ctl", "-D", self._data.name, "-m", how, "-w", "-t", str(_STOP_S), "stop")
            if stopped.returncode == 0 or not self.serving():
                return
        self._say(f"The database in {self._data} does not stop; its process is {self.serving()}.")

    def _run(self, program: str, *arguments: str) -> subprocess.CompletedProcess[str]:
        owner = self.folder.owner
        foreign = owner.pw_uid != os.geteuid()
        keep = {key: value for key, value in os.environ.items() if not key.startswith("PG")}
        try:
            return subprocess.run(
                [str(self._programs / program), *arguments],
                user=owner.pw_uid if foreign else None,
                group=owner.pw_gid if foreign else None,
                extra_groups=[] if foreign else None,
                cwd=self.folder.path,
                env={**keep, "LC_ALL": "C.UTF-8"},
                stdin=subprocess.DEVNULL,
                capture_output=True,
                text=True,
                errors="replace",
                timeout=2 * _WAIT_S,
            )
        except subprocess.TimeoutExpired as exc:
            raise Unavailable(
                f"{program} did not end within {2 * _WAIT_S} s. Is the disk of {self.folder.path} asleep or full?"
            ) from exc

    def _why(self, output: str) -> str:
        """Return what a program's last words mean; a way that is barred to the database's user is named."""
        shut = self.folder.shut_above() if "Permission denied" in output else None
        if shut is None:
            return _told(output)
        return (
            f"{shut} is closed to {self.folder.owner.pw_name}, as whom the database runs. "
            "Name another folder in the setting STONECHAT_DATA_DIR, "
            f"or open that one for passing through: chmod o+x {shlex.quote(str(shut))}."
        )


def _names_somebody_else(lock: Path) -> bool:
    """Tell whether a lock names a living process, or nothing that can be read: then the server would not start."""
    first = lock.read_text(errors="replace").split("\n", 1)[0].strip()
    return not first.isdigit() or Path(f"/proc/{first}").exists()


def _since(log: Path, size: int) -> str:
    """Return what was added to a log after it had `size` bytes."""
    if not log.exists():
        return ""
    with log.open("rb") as file:
        file.seek(size)
        return file.read(100_000).decode(errors="replace")


def _told(output: str) -> str:
    """Return what a program's last words mean, as a sentence with what to do."""
    for mark, meaning in _MEANINGS.items():
        if mark in output:
            return meaning
    lines = [line.strip() for line in output.splitlines() if line.strip()] or ["it gave no reason"]
    telling = [line for line in lines if any(mark in line for mark in _TELLING)] or lines
    return telling[-1].rstrip(".") + "."


def _sync_folder(folder: Path) -> None:
    """Let a rename in a folder outlive a power cut."""
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
