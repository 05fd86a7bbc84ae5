"""The database server's programs, by version."""

import shutil
import subprocess
from pathlib import Path

from stonechat.errors import Unavailable

_INSTALLED = Path("/usr/lib/postgresql")
_NEEDED = ("initdb", "pg_ctl", "postgres", "createdb")


def installed_versions() -> dict[int, Path]:
    """Return the folder of the programs of each server that Debian's packages put there, by major version."""
    found = {}
    for folder in _INSTALLED.glob("*/bin"):
        version = folder.parent.name
        if version.isdigit() and all((folder / program).exists() for program in _NEEDED):
            found[int(version)] = folder
    return found


def newest_programs() -> tuple[int, Path]:
    """Return version and programs of the newest installed server."""
    found = installed_versions() or _on_path()
    if not found:
        raise Unavailable("PostgreSQL's server is missing. Install it: apt-get install postgresql.")
    version = max(found)
    return version, found[version]


def programs_of(version: int) -> Path:
    """Return the programs of one version of the server; a cluster is read only by its own."""
    found = {**_on_path(), **installed_versions()}
    if version not in found:
        there = ", ".join(str(v) for v in sorted(found)) or "none"
        raise Unavailable(
            f"The database was made by PostgreSQL {version}, which is not installed (here: {there}); it was left as "
            f"it is. Install it (apt-get install postgresql-{version}), or name an empty folder in "
            "STONECHAT_DATA_DIR and bring a backup in there: stonechat restore FILE."
        )
    return found[version]


def _on_path() -> dict[int, Path]:
    """Return the server that stands on the search path, for systems with another layout."""
    found = shutil.which("initdb")
    if found is None:
        return {}
    folder = Path(found).resolve().parent
    told = subprocess.run([str(folder / "initdb"), "--version"], capture_output=True, text=True, check=False).stdout
    words = told.replace("(", " ").split()
    major = next((word.split(".")[0] for word in words if word[:1].isdigit()), "")
    return {int(major): folder} if major.isdigit() else {}
