"""The data folder: ours by a mark in it, its owner's alone; what is not ours is neither removed nor taken over."""

import fcntl
import json
import os
import pwd
import shlex
import stat
import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, TextIO

from stonechat.errors import Unavailable

_MARK = "stonechat.json"
_UNFINISHED = ".mark-"  # how a mark that is being written is called; one that was cut off may lie about
_LOCKS = ("users.lock", "start.lock")
_SERVER_USER = "postgres"
_LONGEST_SOCKET = 90  # characters; the system allows 107 with the file's own name
_OTHER = "Name another folder in the setting STONECHAT_DATA_DIR."

Say = Callable[[str], None]


def default_data_dir() -> Path:
    """Return the folder for the cluster: the system's for root, the user's own otherwise."""
    if os.geteuid() == 0:
        return Path("/var/lib/stonechat")
    base = os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share"
    return Path(base) / "stonechat"


def database_owner() -> pwd.struct_passwd:
    """Return the user as whom the server runs: oneself, but for root, whom the server refuses."""
    if os.geteuid() != 0:
        try:
            return pwd.getpwuid(os.geteuid())
        except KeyError:
            raise Unavailable(
                f"The user number {os.geteuid()} has no name on this system, and the database needs one. "
                "Start the program as a user that is listed in /etc/passwd."
            ) from None
    try:
        return pwd.getpwnam(_SERVER_USER)
    except KeyError:
        raise Unavailable(
            f"The user “{_SERVER_USER}” is missing, as which root runs the database. "
            "Install Debian's package: apt-get install postgresql."
        ) from None


class DataFolder:
    """One data folder, with its database, its socket, its locks and its log."""

    def __init__(self, path: Path) -> None:
        self.path = path.resolve()
        self.owner = database_owner()
        self.data = self.path / "database"
        self.log = self.path / "database.log"

    def prepare(self) -> None:
        """Make the folder, or make sure that the one there is ours and open to its owner alone."""
        try:
            self.path.mkdir(parents=True, exist_ok=True, mode=0o700)
            self._claim()
            self._own(self.path)
            if not self._marked:
                self.note()
            self._own(self.socket_folder(make=True))
        except OSError as exc:
            raise Unavailable(f"The data folder {self.path} cannot be used: {exc.strerror}. {_OTHER}") from exc

    @property
    def _marked(self) -> bool:
        return (self.path / _MARK).exists()

    def _claim(self) -> None:
        """Refuse a folder that holds anything which we did not make."""
        if not self.path.is_dir():
            raise Unavailable(f"The data folder {self.path} is a file. {_OTHER}")
        strange = self.strangers()
        if strange:
            few = ", ".join([*strange[:3], *(["…"] if len(strange) > 3 else [])])
            raise Unavailable(
                f"The folder {self.path} holds things that Stonechat did not make ({few}); "
                f"nothing there was touched. {_OTHER}"
            )

    def strangers(self) -> tuple[str, ...]:
        """Return the names of what makes the folder somebody else's; none where it is ours, or empty."""
        names = {entry.name for entry in self.path.iterdir() if not entry.name.startswith(_UNFINISHED)}
        made_before_marks = names >= set(_LOCKS) or names <= {*_LOCKS, "run"}
        return () if self._marked or made_before_marks else tuple(sorted(names))

    def _own(self, folder: Path) -> None:
        """Let a folder of ours belong to the database's user with mode 0700; refuse one that is somebody else's."""
        found = folder.stat()
        if found.st_uid not in (self.owner.pw_uid, os.geteuid()):
            name = _user_name(found.st_uid)
            raise Unavailable(
                f"The folder {folder} belongs to {name}, not to {self.owner.pw_name}, so it was left alone. "
                f"Give it to {self.owner.pw_name}, as root: chown -R {self.owner.pw_name}: {shlex.quote(str(folder))}. "
                "Or name another folder in STONECHAT_DATA_DIR."
            )
        if found.st_uid != self.owner.pw_uid:
            os.chown(folder, self.owner.pw_uid, self.owner.pw_gid)
        if stat.S_IMODE(found.st_mode) != 0o700:
            folder.chmod(0o700)

    def notes(self) -> dict[str, Any]:
        """Return what was noted about the folder."""
        try:
            found = json.loads((self.path / _MARK).read_text())
        except (OSError, ValueError):
            return {}
        return found if isinstance(found, dict) else {}

    def note(self, **facts: object) -> None:
        """Keep facts about the folder in its mark; a cut leaves the old ones."""
        text = json.dumps({"made_by": "stonechat", **self.notes(), **facts}, indent=2, sort_keys=True)
        with tempfile.NamedTemporaryFile("w", dir=self.path, prefix=_UNFINISHED, delete=False) as new:
            new.write(text + "\n")
            new.flush()
            os.fsync(new.fileno())
        Path(new.name).replace(self.path / _MARK)

    def socket_folder(self, *, make: bool = False) -> Path:
        """Return the folder of the socket: inside ours, or, where the path would be too long, one nobody can guess."""
        own = self.path / "run"
        if len(str(own)) <= _LONGEST_SOCKET:
            if make:
                own.mkdir(exist_ok=True, mode=0o700)
            return own
        noted = Path(str(self.notes().get("socket_folder", "")))
        if noted.is_absolute() and noted.is_dir() and noted.stat().st_uid == self.owner.pw_uid:
            return noted
        made = Path(tempfile.mkdtemp(prefix="stonechat-"))
        self.note(socket_folder=str(made))
        return made

    def shut_above(self) -> Path | None:
        """Return the folder above that the database's user may not pass, by its mode; None where all are open."""
        for above in reversed(self.path.parents):
            found = above.stat()
            mine, ours = found.st_uid == self.owner.pw_uid, found.st_gid == self.owner.pw_gid
            passing = stat.S_IXUSR if mine else stat.S_IXGRP if ours else stat.S_IXOTH
            if not found.st_mode & passing:
                return above
        return None

    def set_aside(self, path: Path) -> Path:
        """Move something of ours out of the way, and return where it lies now."""
        aside = self.path / "set-aside"
        aside.mkdir(exist_ok=True, mode=0o700)
        place = aside / f"{path.name}-{datetime.now(UTC):%Y%m%d-%H%M%S-%f}"
        path.rename(place)
        return place

    @contextmanager
    def locked(self, name: str, how: int) -> Iterator[TextIO]:
        """Hold one of the folder's locks (`users` or `start`)."""
        with (self.path / f"{name}.lock").open("w") as file:
            fcntl.flock(file, how)
            yield file


def _user_name(uid: int) -> str:
    try:
        return pwd.getpwuid(uid).pw_name
    except KeyError:
        return f"user number {uid}"
