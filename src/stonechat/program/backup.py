"""A copy of all that is kept, in one file, and the way back.

The file is a ZIP with a manifest (which state the tables are in, a check sum) and the dump of PostgreSQL's own tool.
It is brought back into a database of its own, brought up to date and looked over there, and takes the old one's place
in one step; until then nothing of the old one is touched.
"""

import hashlib
import json
import os
import subprocess
import tempfile
import zipfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from urllib.parse import parse_qs, urlencode, urlsplit, urlunsplit

import psycopg
from psycopg import sql
from sqlalchemy import text
from sqlalchemy.exc import DBAPIError

from stonechat.cluster.programs import newest_programs
from stonechat.db.migrate import known_states, migrate, state_of
from stonechat.db.session import make_engine
from stonechat.errors import Clash, StonechatError, Unavailable, UnreadableFile

_FORMAT = 1
_MANIFEST, _DUMP = "manifest.json", "database.dump"
_FRESH, _OLD = "stonechat_incoming", "stonechat_outgoing"
_PATIENCE_S = 3_600.0
_LARGEST_MANIFEST = 100_000  # bytes


@dataclass(frozen=True, kw_only=True)
class Manifest:
    """What a backup says of itself."""

    state: str  # of the tables
    plans: int
    made_at: str
    sha256: str  # of the dump


def write_backup(url: str, file: Path) -> Manifest:
    """Write all of a database to a new file, open to its owner alone; the file is whole or not there."""
    if file.exists():
        raise Clash(f"{file} is there already and was left as it is. Name a file that is not there yet.")
    state, plans = _state_and_plans(url)
    try:
        with tempfile.TemporaryDirectory(dir=file.resolve().parent, prefix=".stonechat-backup-") as folder:
            dump, whole = Path(folder) / _DUMP, Path(folder) / "whole.zip"
            _run("pg_dump", "--format=custom", "--no-owner", "--no-privileges", f"--file={dump}", f"--dbname={url}")
            made = Manifest(
                state=state, plans=plans, made_at=f"{datetime.now(UTC):%Y-%m-%dT%H:%M:%SZ}", sha256=_sum(dump)
            )
            with zipfile.ZipFile(whole, "w", zipfile.ZIP_STORED) as archive:
                told = {"made_by": "stonechat", "format": _FORMAT, **made.__dict__}
                archive.writestr(_MANIFEST, json.dumps(told, indent=2, sort_keys=True))
                archive.write(dump, _DUMP)
            whole.chmod(0o600)
            with whole.open("rb") as written:
                os.fsync(written.fileno())
            whole.replace(file)
    except OSError as exc:
        raise Unavailable(f"The backup could not be written to {file}: {exc.strerror}. Name another place.") from exc
    return made


def read_manifest(file: Path) -> Manifest:
    """Return what a backup says of itself; one that is damaged, no backup or of a newer program is refused."""
    try:
        with zipfile.ZipFile(file) as archive:
            if archive.getinfo(_MANIFEST).file_size > _LARGEST_MANIFEST:
                raise UnreadableFile(f"{file} is not a backup of Stonechat.")
            told: dict[str, Any] = json.loads(archive.read(_MANIFEST))
            archive.getinfo(_DUMP)
        found = Manifest(
            state=str(told["state"]),
            plans=int(told["plans"]),
            made_at=str(told["made_at"]),
            sha256=str(told["sha256"]),
        )
    except OSError as exc:
        raise UnreadableFile(f"{file} cannot be read: {exc.strerror}. Name another file.") from exc
    except (zipfile.BadZipFile, KeyError, ValueError, TypeError, NotImplementedError) as exc:
        raise UnreadableFile(
            f"{file} is not a whole backup of Stonechat. Name one that stonechat backup wrote."
        ) from exc
    if told.get("made_by") != "stonechat" or told.get("format") != _FORMAT or found.state not in known_states():
        raise UnreadableFile(
            f"{file} was written by a newer Stonechat (state {found.state}; this one knows up to {known_states()[0]}). "
            "Nothing was changed. Bring it back with that program."
        )
    return found


def restore_backup(url: str, file: Path, *, replace: bool) -> Manifest:
    """Put what a backup holds in the place of what is there; without `replace` only where nothing of a rider is."""
    manifest = read_manifest(file)
    own = _own_plans(url)
    if own and not replace:
        raise Clash(
            f"Plans of yours are here ({own}) and would be replaced; nothing was changed. Keep a copy first (stonechat "
            "backup FILE), then add --replace."
        )
    with _fresh_database(url) as fresh:
        with tempfile.TemporaryDirectory(prefix="stonechat-restore-") as folder:
            dump = Path(folder) / _DUMP
            _unpack(file, dump, manifest)
            _run("pg_restore", "--no-owner", "--no-privileges", "--exit-on-error", f"--dbname={fresh}", str(dump))
        engine = make_engine(fresh, patience=_PATIENCE_S)
        try:
            migrate(engine)
        finally:
            engine.dispose()
        found = _state_and_plans(fresh)[1]
        if found != manifest.plans:
            raise UnreadableFile(
                f"{file} says it holds {manifest.plans} plans, and {found} came out. Nothing was changed."
            )
        _swap(url)
    return manifest


def _unpack(file: Path, dump: Path, manifest: Manifest) -> None:
    try:
        with zipfile.ZipFile(file) as archive, archive.open(_DUMP) as source, dump.open("wb") as target:
            while piece := source.read(1_000_000):
                target.write(piece)
    except (zipfile.BadZipFile, OSError, EOFError) as exc:
        raise UnreadableFile(f"{file} is damaged; nothing was changed. Use another copy.") from exc
    if _sum(dump) != manifest.sha256:
        raise UnreadableFile(
            f"{file} is damaged (its check sum does not agree); nothing was changed. Use another copy."
        )


@contextmanager
def _fresh_database(url: str) -> Iterator[str]:
    """Give the address of an empty database beside; what is left of it afterwards goes."""
    with _admin(url) as admin:
        admin.execute(sql.SQL("drop database if exists {} with (force)").format(sql.Identifier(_FRESH)))
        admin.execute(sql.SQL("create database {} template template0").format(sql.Identifier(_FRESH)))
    try:
        yield _with_database(url, _FRESH)
    finally:
        with _admin(url) as admin:
            for name in (_FRESH, _OLD):
                admin.execute(sql.SQL("drop database if exists {} with (force)").format(sql.Identifier(name)))


def _swap(url: str) -> None:
    """Let the fresh database take the old one's name, in one step."""
    name = urlsplit(url).path.lstrip("/")
    with _admin(url) as admin:
        admin.execute(
            "select pg_terminate_backend(pid) from pg_stat_activity where datname = any(%s)",
            ([name, _FRESH],),
        )
        with admin.transaction():
            for old, new in ((name, _OLD), (_FRESH, name)):
                rename = sql.SQL("alter database {} rename to {}")
                admin.execute(rename.format(sql.Identifier(old), sql.Identifier(new)))


@contextmanager
def _admin(url: str) -> Iterator[psycopg.Connection[Any]]:
    try:
        with psycopg.connect(_with_database(url, "postgres"), autocommit=True) as connection:
            yield connection
    except psycopg.Error as exc:
        reason = str(exc).strip().splitlines()[0]
        raise Unavailable(f"The database does not let itself be replaced: {reason}. Nothing was changed.") from exc


def _with_database(url: str, name: str) -> str:
    parts = urlsplit(url)
    query = urlencode({key: values[0] for key, values in parse_qs(parts.query).items()})
    # an address without a host has an empty place for it, which urlunsplit would leave out
    return urlunsplit((parts.scheme, parts.netloc, f"/{name}", query, "")).replace(":/" + name, ":///" + name, 1)


def _state_and_plans(url: str) -> tuple[str, int]:
    engine = make_engine(url, patience=_PATIENCE_S)
    try:
        with engine.connect() as connection:
            count = connection.execute(text("select count(*) from plan")).scalar_one()
        return state_of(engine), int(count)
    except DBAPIError as exc:
        raise Unavailable("The database does not answer, or holds no tables of Stonechat's.") from exc
    finally:
        engine.dispose()


def _own_plans(url: str) -> int:
    engine = make_engine(url)
    try:
        with engine.connect() as connection:
            return int(connection.execute(text("select count(*) from plan where not demo")).scalar_one())
    except DBAPIError:
        return 0  # no tables yet
    finally:
        engine.dispose()


def _run(program: str, *arguments: str) -> None:
    command = [str(newest_programs()[1] / program), *arguments]
    try:
        done = subprocess.run(
            command, capture_output=True, text=True, errors="replace", timeout=_PATIENCE_S, check=False
        )
    except FileNotFoundError as exc:
        raise Unavailable(f"{program} is missing. Install it: apt-get install postgresql.") from exc
    if done.returncode != 0:
        told = [line for line in done.stderr.splitlines() if line.strip()]
        reason = told[0] if told else "it gave no reason"
        raise StonechatError(f"{program} failed: {reason.rstrip('.')}. Nothing was changed.")


def _sum(file: Path) -> str:
    with file.open("rb") as source:
        return hashlib.file_digest(source, "sha256").hexdigest()
