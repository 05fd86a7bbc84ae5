"""What state the files of a database are in, read from the files alone."""

import os
from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path

VERSION_FILE = "PG_VERSION"
_DATABASES = 3  # template1, template0, postgres: a cluster that was made to the end has them


class State(StrEnum):
    """What can be said of a folder that should hold a database."""

    ABSENT = "absent"
    WHOLE = "whole"
    HALF_MADE = "half made"  # whoever made it was cut off before anything could be kept in it
    VERSION_LOST = "version lost"  # whole but for the file that tells its version
    DAMAGED = "damaged"  # it was whole once


@dataclass(frozen=True, kw_only=True)
class Condition:
    """State of a database's files, and the server's major version where it is known."""

    state: State
    version: int = 0


def examine(data: Path, *, was_whole: bool) -> Condition:
    """Return the condition of the files in `data`; `was_whole` tells that it was made to the end before."""
    if not data.exists():
        return Condition(state=State.ABSENT)
    version = _version(data)
    inner = [file.parent for file in (data / "base").glob(f"*/{VERSION_FILE}")]
    if (data / "global" / "pg_control").exists() and len(inner) >= _DATABASES:
        state = State.WHOLE if version else State.VERSION_LOST
        return Condition(state=state, version=version or max(_version(folder) for folder in inner))
    # our own database is the fourth, so one who kept something has more than initdb's three
    kept_something = was_whole or len(inner) > _DATABASES
    return Condition(state=State.DAMAGED if kept_something else State.HALF_MADE, version=version)


def _version(folder: Path) -> int:
    try:
        text = (folder / VERSION_FILE).read_text(errors="replace").strip()
    except OSError:
        return 0
    return int(text) if text.isdigit() else 0


def first_not_of(data: Path, owner: int) -> Path | None:
    """Return the first file of `data` that belongs to somebody else, as after a copy made by root."""
    for folder, names, files in os.walk(data):
        for path in (Path(folder), *(Path(folder) / name for name in (*names, *files))):
            try:
                if path.lstat().st_uid != owner:
                    return path
            except FileNotFoundError:  # a running server removes files
                continue
    return None


def users_of(data: Path) -> tuple[int, ...]:
    """Return the processes that work in `data`: a server changes into the folder it serves."""
    wanted = data.resolve()
    found = []
    for entry in Path("/proc").iterdir():
        if not entry.name.isdigit():
            continue
        try:
            if Path(os.readlink(entry / "cwd")) == wanted:
                found.append(int(entry.name))
        except OSError:  # it ended, or is somebody else's
            continue
    return tuple(found)
