"""What endpoints of all rooms share."""

from collections.abc import Mapping, Sequence
from typing import Annotated

from fastapi import Depends, Query, Request
from starlette.datastructures import UploadFile

from stonechat.errors import InvalidInput
from stonechat.services.history import Revision
from stonechat.text import clean_lines
from stonechat.web.desk import Look

_LONGEST_FIELD = 4_000_000  # bytes, of a field that is no file: a pasted table
_LONGEST_WHOLE = 10  # digits
_LONGEST_WORD = 80  # of a part of the page's state
_OURS = ("revision", "page", "leg", "room", "tab", "open")


class Sent:
    """A form as it was sent: what it is about, its fields, and the file that came along."""

    def __init__(self, pairs: Sequence[tuple[str, str]], files: Mapping[str, bytes]) -> None:
        self._pairs, self._files = pairs, files

    @property
    def fields(self) -> Mapping[str, str]:
        """The fields of the form itself."""
        return {key: value for key, value in self._pairs if key not in _OURS}

    def text(self, name: str) -> str:
        """Return one field, empty where it is missing."""
        return next((value for key, value in self._pairs if key == name), "")

    def texts(self, name: str) -> tuple[str, ...]:
        """Return a field that may be sent several times."""
        return tuple(value for key, value in self._pairs if key == name)

    def has_file(self, name: str) -> bool:
        """Tell whether a file came along."""
        return name in self._files

    def file(self, name: str) -> bytes:
        """Return the bytes of a file that came along."""
        if name not in self._files:
            raise InvalidInput("No file was chosen. Choose one, then send it.", subject=name)
        return self._files[name]

    @property
    def revision(self) -> Revision:
        """The revision that the page was made from, with the page's own name."""
        return Revision(self._whole("revision"), self.text("page"))

    @property
    def leg(self) -> int:
        """The current leg; it only says where the page goes on, so what is no number stands for the first."""
        given = self.text("leg")
        return int(given) if given.isascii() and given.isdigit() and len(given) < _LONGEST_WHOLE else 0

    @property
    def look(self) -> Look:
        """What of the room was looked at when the form was sent."""
        return Look(tab=self.text("tab")[:_LONGEST_WORD], open=self.text("open")[:_LONGEST_WORD])

    def _whole(self, name: str) -> int:
        given = self.text(name)
        if not given.isascii() or not given.isdigit() or len(given) >= _LONGEST_WHOLE:
            raise InvalidInput(f"The request's {name} is missing. Load the page again and repeat the change.")
        return int(given)


async def read_sent(request: Request) -> Sent:
    """Read the form of a request."""
    async with request.form(max_files=2, max_fields=6_000, max_part_size=_LONGEST_FIELD) as form:
        entries = form.multi_items()
        pairs = [(key, clean_lines(value)) for key, value in entries if isinstance(value, str)]
        files = {key: await value.read() for key, value in entries if isinstance(value, UploadFile) and value.filename}
    return Sent(pairs, files)


SentForm = Annotated[Sent, Depends(read_sent)]


def asked_look(
    tab: Annotated[str, Query(max_length=_LONGEST_WORD)] = "",
    open: Annotated[str, Query(max_length=_LONGEST_WORD)] = "",
    sort: Annotated[str, Query(max_length=_LONGEST_WORD)] = "",
    all: str = "",
    find: Annotated[str, Query(max_length=_LONGEST_WORD)] = "",
    show: Annotated[str, Query(max_length=_LONGEST_WORD)] = "",
) -> Look:
    """Read what of a room an address asks for."""
    return Look(tab=tab, open=open, sort=sort, all=all == "yes", find=find, show=show)


AskedLook = Annotated[Look, Depends(asked_look)]
