"""Looks the installation over, without changing anything, and says what to do about what is wrong."""

import os
import shutil
import stat
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from stonechat.cluster import Cluster
from stonechat.cluster.condition import State, examine, first_not_of
from stonechat.cluster.programs import installed_versions
from stonechat.db.migrate import known_states, state_of
from stonechat.db.session import make_engine, make_probe
from stonechat.errors import StonechatError
from stonechat.services.health import readiness

_LITTLE_ROOM = 500e6  # bytes


@dataclass(frozen=True, kw_only=True)
class Finding:
    """One thing that was looked at."""

    what: str
    fine: bool
    sentence: str


def look_over(folder: Path | None, url: str) -> tuple[Finding, ...]:
    """Return what was found of the server's programs, the data folder and the database (`url` where it is not ours)."""
    try:
        if folder is None:
            return tuple(_database(url))
        return (*_programs(), *_folder(folder))
    except StonechatError as exc:
        return (Finding(what="installation", fine=False, sentence=exc.message),)


def _programs() -> Iterator[Finding]:
    there = installed_versions()
    words = (
        f"PostgreSQL {', '.join(map(str, sorted(there)))} is installed."
        if there
        else ("PostgreSQL's server is missing. Install it: apt-get install postgresql.")
    )
    yield Finding(what="server", fine=bool(there), sentence=words)


def _folder(path: Path) -> Iterator[Finding]:
    if not path.exists():
        words = f"{path} is not there yet; the first start makes it."
        yield Finding(what="data folder", fine=True, sentence=words)
        return
    if not os.access(path, os.R_OK | os.X_OK):
        yield Finding(what="data folder", fine=False, sentence=f"{path} is closed to you. Start as its owner.")
        return
    cluster = Cluster(path)
    strange = cluster.folder.strangers()
    if strange:
        words = f"{path} holds things that Stonechat did not make ({strange[0]}); a start refuses it. Name another one."
        yield Finding(what="data folder", fine=False, sentence=words)
        return
    owner, found = cluster.folder.owner, path.stat()
    closed = found.st_uid == owner.pw_uid and stat.S_IMODE(found.st_mode) == 0o700
    words = (
        f"{path} belongs to {owner.pw_name} alone."
        if closed
        else (f"{path} is open to others or belongs to somebody else; the next start closes it where it may.")
    )
    yield Finding(what="data folder", fine=closed, sentence=words)
    free = shutil.disk_usage(path).free
    words = f"{free / 1e9:.1f} GB are free." + ("" if free > _LITTLE_ROOM else " That is little; free some space.")
    yield Finding(what="disk", fine=free > _LITTLE_ROOM, sentence=words)
    yield from _files(cluster)


def _files(cluster: Cluster) -> Iterator[Finding]:
    data = cluster.folder.data
    condition = examine(data, was_whole=bool(cluster.folder.notes().get("complete")))
    foreign = first_not_of(data, cluster.folder.owner.pw_uid) if condition.state is State.WHOLE else None
    words = {
        State.ABSENT: "There is no database yet; the first start makes it.",
        State.WHOLE: f"The files are whole, of version {condition.version}.",
        State.HALF_MADE: "The database was never finished; the next start sets it aside and makes a new one.",
        State.VERSION_LOST: "The file PG_VERSION is gone; the next start says how to put it back.",
        State.DAMAGED: "Parts of the database are gone. Bring a backup into an empty folder: stonechat restore FILE.",
    }[condition.state]
    if foreign is not None:
        words = f"{foreign} belongs to another user; the next start says how to mend it."
    fine = condition.state in (State.ABSENT, State.WHOLE) and foreign is None
    yield Finding(what="files", fine=fine, sentence=words)
    if not cluster.serving():
        yield Finding(what="database", fine=True, sentence="It does not run; a start runs it.")
    else:
        yield from _database(cluster.url)


def _database(url: str) -> Iterator[Finding]:
    engine = make_engine(url)
    probe = make_probe(engine)
    found = readiness(probe)
    yield Finding(what="database", fine=found.database, sentence=found.sentence)
    if found.database:
        state = state_of(probe)
        newest = known_states()[0]
        words = f"Its tables are in state {state or 'none'}; this program knows up to {newest}."
        yield Finding(what="tables", fine=not state or state in known_states(), sentence=words)
    engine.dispose()
