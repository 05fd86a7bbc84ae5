"""Static files under names that change with their content, so that a browser keeps them for good."""

import hashlib
from functools import cache
from importlib import resources
from pathlib import Path
from typing import Any

from fastapi.responses import Response
from starlette.staticfiles import StaticFiles
from starlette.types import Scope

FOLDER = Path(str(resources.files("stonechat").joinpath("web/static")))
_DIGITS = 12
_YEAR = 31_536_000  # s


@cache
def static_digest() -> str:
    """Return what the names of all static files carry: it changes when any of them does."""
    digest = hashlib.sha256()
    for file in sorted(path for path in FOLDER.rglob("*") if path.is_file()):
        digest.update(file.relative_to(FOLDER).as_posix().encode())
        digest.update(file.read_bytes())
    return digest.hexdigest()[:_DIGITS]


def static_root() -> str:
    """Return the folder that pages take their static files from."""
    return f"/static/{static_digest()}"


class HashedStatic(StaticFiles):
    """Files that are kept for good under the name of this version; any other version's name gives them once."""

    def get_path(self, scope: Scope) -> str:
        """Return the file's path without the version in it."""
        path = super().get_path(scope)
        first, slash, rest = path.partition("/")
        is_version = bool(slash) and len(first) == _DIGITS and all(c in "0123456789abcdef" for c in first)
        scope["stonechat.kept"] = is_version and first == static_digest()
        return rest if is_version else path

    def file_response(self, *args: Any, **kwargs: Any) -> Response:
        """Answer with the file."""
        response = super().file_response(*args, **kwargs)
        scope: Scope = kwargs["scope"] if "scope" in kwargs else args[2]
        kept = f"public, max-age={_YEAR}, immutable" if scope.get("stonechat.kept") else "no-cache"
        response.headers["Cache-Control"] = kept
        return response
