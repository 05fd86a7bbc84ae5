"""Answers: a whole page, or for a script the parts that changed."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from fastapi import Request
from fastapi.responses import HTMLResponse, RedirectResponse, Response

from stonechat.render.environment import environment
from stonechat.web.contexts.shell import shell_of
from stonechat.web.desk import Desk, Room
from stonechat.web.static_files import static_root

NOTE_COOKIE = "stonechat_note"
_VARY = {"Vary": "HX-Request, HX-Request-Type", "Cache-Control": "no-store"}


def wants_fragment(headers: Mapping[str, str]) -> bool:
    """Tell whether the script asked for a part of the page (htmx 4, else htmx 2)."""
    if "HX-Request-Type" in headers:
        return headers["HX-Request-Type"] == "partial"
    return (
        headers.get("HX-Request") == "true"
        and "HX-Boosted" not in headers
        and "HX-History-Restore-Request" not in headers
    )


def render(template: str, **context: Any) -> str:
    """Return a template filled in."""
    return environment().get_template(template).render(static=static_root(), **context)


def page(template: str, *, status: int = 200, **context: Any) -> HTMLResponse:
    """Return a page of its own, outside a plan."""
    return HTMLResponse(render(template, **context), status_code=status, headers=_VARY)


def rooms_of(request: Request) -> tuple[Room, ...]:
    """Return the rooms of the running program."""
    rooms: tuple[Room, ...] = request.app.state.rooms
    return rooms


def show(request: Request, desk: Desk, *, status: int = 200) -> Response:
    """Return a room: as a page, or for the script its stage with tape, ledger and bar beside it."""
    rooms = rooms_of(request)
    build = next(room.build for room in rooms if room.key == desk.room)
    context = {"shell": shell_of(desk, rooms), "view": build(desk)}
    template = "shell/swap.html" if wants_fragment(request.headers) else "shell/room.html"
    headers = {**_VARY, "X-Revision": str(desk.opened.revision)}
    response = HTMLResponse(render(template, **context), status_code=status, headers=headers)
    if desk.note:
        response.delete_cookie(NOTE_COOKIE)
    return response


def after_change(request: Request, desk: Desk, note: str = "") -> Response:
    """Answer a change: the parts that changed for the script, else the way back to the room's page."""
    if wants_fragment(request.headers):
        response = show(request, replace(desk, note=note or desk.note))
        response.headers["HX-Push-Url"] = desk.here
        return response
    return go_back(desk.here, note)


def keep_note(response: Response, note: str) -> None:
    """Let the next page say one sentence."""
    response.set_cookie(NOTE_COOKIE, note.encode().hex(), max_age=60, httponly=True, samesite="strict")


def go_back(address: str, note: str = "") -> Response:
    """Send the browser to another page after a change, where one sentence is said."""
    response = RedirectResponse(address, status_code=303)
    if note:
        keep_note(response, note)
    return response


def go_on(request: Request, address: str, note: str = "") -> Response:
    """Send the browser, or the script, to another page, where one sentence is said."""
    if not wants_fragment(request.headers):
        return go_back(address, note)
    response = Response(status_code=204, headers={"HX-Redirect": address})
    if note:
        keep_note(response, note)
    return response


def part(template: str, **context: Any) -> HTMLResponse:
    """Return a part of a page that a script asks for again and again, or when it is needed."""
    return HTMLResponse(render(template, **context), headers={"Cache-Control": "no-store"})


def kept_note(request: Request) -> str:
    """Return the sentence that the last answer left."""
    try:
        return bytes.fromhex(request.cookies.get(NOTE_COOKIE, "")).decode()[:400]
    except ValueError:
        return ""


def download(data: bytes, *, name: str, media_type: str) -> Response:
    """Return a file to keep."""
    plain = "".join(c if c.isascii() and (c.isalnum() or c in "-._") else "-" for c in name.replace(" ", "-"))
    return Response(
        data, media_type=media_type, headers={"Content-Disposition": f'attachment; filename="{plain[:80]}"'}
    )
