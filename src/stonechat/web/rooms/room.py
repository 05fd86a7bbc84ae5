"""Showing a room, and what every room offers: undo, redo, finding."""

from uuid import UUID

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, JSONResponse, Response

from stonechat.errors import NotFound
from stonechat.services import history
from stonechat.web.contexts.shell import shell_of
from stonechat.web.desk import open_desk, workspace_of
from stonechat.web.respond import after_change, kept_note, render, rooms_of, show
from stonechat.web.rooms.common import SentForm

router = APIRouter(prefix="/plans/{plan_id}/{variant_id}")


@router.get("/{room}")
def show_room(request: Request, plan_id: UUID, variant_id: str, room: str, leg: int = 0, edit: str = "") -> Response:
    """Show a room."""
    if room not in {entry.key for entry in rooms_of(request)}:
        raise NotFound(f"There is no room “{room[:30]}”.")
    desk = open_desk(request, plan_id, variant_id, room, leg=leg, edit=edit[:80], note=kept_note(request))
    return show(request, desk)


@router.post("/do/undo")
def undo(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Go one step back."""
    opened = history.undo(workspace_of(request), plan_id, revision=sent.revision)
    return after_change(request, sent.desk(request, plan_id, variant_id, _room(request, sent), opened))


@router.post("/do/redo")
def redo(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Go one step forward again."""
    opened = history.redo(workspace_of(request), plan_id, revision=sent.revision)
    return after_change(request, sent.desk(request, plan_id, variant_id, _room(request, sent), opened))


@router.get("/do/job")
def job(request: Request, plan_id: UUID, variant_id: str, leg: int = 0) -> Response:
    """Give what is under way, for the bar; asked for again and again while something is."""
    desk = open_desk(request, plan_id, variant_id, "load", leg=leg)
    shell = shell_of(desk, rooms_of(request))
    return HTMLResponse(render("shell/_job.html", shell=shell), headers={"Cache-Control": "no-store"})


def _room(request: Request, sent: SentForm) -> str:
    wanted = sent.text("room")
    return wanted if wanted in {entry.key for entry in rooms_of(request)} else "line"


@router.get("/do/find")
def find(request: Request, plan_id: UUID, variant_id: str, leg: int = 0) -> Response:
    """List everything that `/` finds: rooms, things, stops, carriers and checks with where they are."""
    desk = open_desk(request, plan_id, variant_id, "line", leg=leg)
    ridden = desk.evaluation.ridden
    found = [{"name": room.name, "kind": "room", "address": desk.at(room.key)} for room in rooms_of(request)]
    found += [{"name": i.name, "kind": "thing", "address": desk.at("load", edit=i.id)} for i in ridden.items]
    found += [{"name": c.name, "kind": "carrier", "address": desk.at("rig", edit=c.id)} for c in ridden.carriers]
    found += [
        {"name": entry.start_name, "kind": f"stop, km {entry.start / 1000:.0f}", "address": desk.at(leg=entry.index)}
        for entry in ridden.legs
    ]
    found += [
        {"name": finding.title, "kind": f"check, {finding.state}", "address": desk.at(finding.room)}
        for finding in desk.evaluation.findings
    ]
    return JSONResponse(found, headers={"Cache-Control": "no-store"})
