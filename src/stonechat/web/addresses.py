"""Every address of ours, as a path."""

from urllib.parse import urlencode
from uuid import UUID

PLANS = "/plans"
UPLOADS = "/uploads"
MANUAL = "/manual"
DATA = "/data"
MEASURES = "/measures"
SHARED = "/shared"


def manual_address(page: str) -> str:
    """Return a page of the manual, such as a room's."""
    return f"{MANUAL}/{page}"


def room_address(plan_id: UUID, variant_id: str, room: str, **query: object) -> str:
    """Return the page of a room."""
    return with_query(f"{PLANS}/{plan_id}/{variant_id}/{room}", **query)


def action_address(plan_id: UUID, variant_id: str, *parts: str, **query: object) -> str:
    """Return where a change of a variant is sent to, or where a file of it comes from."""
    return with_query("/".join((PLANS, str(plan_id), variant_id, "do", *parts)), **query)


def with_query(path: str, **query: object) -> str:
    """Return a path with the parts of its query that are set."""
    given = {key: value for key, value in query.items() if value not in (None, "", False)}
    return f"{path}?{urlencode(given)}" if given else path
