"""Showing a room, and what every room offers: undo, redo, finding."""

from uuid import UUID

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, JSONResponse, Response

from stonechat.errors import NotFound
from stonechat.services import history, plans
from stonechat.services.history import open_plan
from stonechat.services.packing import see_packing
from stonechat.web.contexts.shell import shell_of
from stonechat.web.desk import open_desk, workspace_of
from stonechat.web.respond import after_change, kept_note, render, rooms_of, show
from stonechat.web.rooms.common import AskedLook, SentForm

router = APIRouter(prefix="/plans/{plan_id}/{variant_id}")


@router.get("/{room}")
def show_room(request: Request, plan_id: UUID, variant_id: str, room: str, look: AskedLook, leg: int = 0) -> Response:
    """Show a room."""
    if room not in {entry.key for entry in rooms_of(request)}:
        raise NotFound(f"There is no room “{room[:30]}”.")
    desk = open_desk(request, plan_id, variant_id, room, leg=leg, look=look, note=kept_note(request))
    if room == "load":
        see_packing(desk.workspace, plan_id, variant_id)
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
def job(request: Request, plan_id: UUID, variant_id: str, leg: int = 0, room: str = "load") -> Response:
    """Give what is under way, for the bar; asked for again and again while something is."""
    desk = open_desk(request, plan_id, variant_id, _known_room(request, room), leg=leg)
    shell = shell_of(desk, rooms_of(request))
    return HTMLResponse(render("shell/_job.html", shell=shell), headers={"Cache-Control": "no-store"})


@router.post("/do/variant/rename")
def rename_variant(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Give the variant another name."""
    workspace = workspace_of(request)
    opened = plans.rename_variant(
        workspace, open_plan(workspace, plan_id), variant_id, revision=sent.revision, name=sent.text("name")
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, _room(request, sent), opened))


@router.post("/do/variant/add")
def add_variant(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Add a variant: a copy of this one, or an empty one on the same bike."""
    workspace = workspace_of(request)
    opened, new_id = plans.add_variant(
        workspace,
        open_plan(workspace, plan_id),
        variant_id,
        revision=sent.revision,
        name=sent.text("name"),
        empty=sent.text("how") == "empty",
    )
    return after_change(request, sent.desk(request, plan_id, new_id, _room(request, sent), opened))


@router.post("/do/variant/delete")
def delete_variant(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Delete the variant, and show the first of the others."""
    workspace = workspace_of(request)
    opened = plans.delete_variant(workspace, open_plan(workspace, plan_id), variant_id, revision=sent.revision)
    first = opened.plan.variants[0].id
    return after_change(request, sent.desk(request, plan_id, first, _room(request, sent), opened))


def _room(request: Request, sent: SentForm) -> str:
    return _known_room(request, sent.text("room"))


def _known_room(request: Request, wanted: str) -> str:
    return wanted if wanted in {entry.key for entry in rooms_of(request)} else "line"


@router.get("/do/find")
def find(request: Request, plan_id: UUID, variant_id: str, leg: int = 0) -> Response:
    """List everything that `/` finds: rooms, things, stops, carriers and checks with where they are."""
    desk = open_desk(request, plan_id, variant_id, "line", leg=leg)
    ridden = desk.evaluation.ridden
    found = [{"name": room.name, "kind": "room", "address": desk.at(room.key)} for room in rooms_of(request)]
    found += [{"name": i.name, "kind": "thing", "address": desk.at("load", open=i.id)} for i in ridden.kit.items]
    found += [{"name": c.name, "kind": "carrier", "address": desk.at("rig", open=c.id)} for c in ridden.rig.carriers]
    found += [
        {"name": entry.start_name, "kind": f"stop, km {entry.start / 1000:.0f}", "address": desk.at(leg=entry.index)}
        for entry in ridden.timetable.legs
    ]
    found += [
        {"name": finding.title, "kind": f"check, {finding.state}", "address": desk.at(finding.room)}
        for finding in desk.evaluation.findings
    ]
    return JSONResponse(found, headers={"Cache-Control": "no-store"})
