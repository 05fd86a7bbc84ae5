"""Showing a room, and what every room offers: undo, redo, finding."""

from typing import Annotated

from fastapi import APIRouter, Depends
from fastapi.responses import JSONResponse, Response

from stonechat.errors import NotFound
from stonechat.services import history, plans
from stonechat.web.call import Call, Change, changing, reading
from stonechat.web.contexts.shell import shell_of
from stonechat.web.respond import kept_note, part, rooms_of
from stonechat.web.rooms.common import AskedLook

router = APIRouter(prefix="/plans/{plan_id}/{variant_id}")
Here = Annotated[Call, Depends(reading("line"))]
Changed = Annotated[Change, Depends(changing("line"))]


@router.get("/{room}")
def show_room(call: Here, room: str, look: AskedLook) -> Response:
    """Show a room."""
    found = next((entry for entry in rooms_of(call.request) if entry.key == room), None)
    if found is None:
        raise NotFound(f"There is no room “{room[:30]}”.")
    desk = call.desk(room=room, look=look, note=kept_note(call.request))
    if found.seen is not None:
        found.seen(desk)
    return call.show(desk)


@router.post("/do/undo")
def undo(call: Changed) -> Response:
    """Go one step back."""
    opened = history.undo(call.workspace, call.plan_id, revision=call.revision)
    return call.answer(opened, room=_room(call))


@router.post("/do/redo")
def redo(call: Changed) -> Response:
    """Go one step forward again."""
    opened = history.redo(call.workspace, call.plan_id, revision=call.revision)
    return call.answer(opened, room=_room(call))


@router.get("/do/job")
def job(call: Here, room: str = "load") -> Response:
    """Give what is under way, for the bar; asked for again and again while something is."""
    desk = call.desk(room=_known_room(call, room))
    shell = shell_of(desk, rooms_of(call.request))
    return part("shell/_job.html", shell=shell)


@router.post("/do/variant/rename")
def rename_variant(call: Changed) -> Response:
    """Give the variant another name."""
    opened = plans.rename_variant(
        call.workspace, call.opened, call.variant_id, revision=call.revision, name=call.text("name")
    )
    return call.answer(opened, room=_room(call))


@router.post("/do/variant/add")
def add_variant(call: Changed) -> Response:
    """Add a variant: a copy of this one, or an empty one on the same bike."""
    opened, new_id = plans.add_variant(
        call.workspace,
        call.opened,
        call.variant_id,
        revision=call.revision,
        name=call.text("name"),
        empty=call.text("how") == "empty",
    )
    return call.answer(opened, room=_room(call), variant_id=new_id)


@router.post("/do/variant/delete")
def delete_variant(call: Changed) -> Response:
    """Delete the variant, and show the first of the others."""
    opened = plans.delete_variant(call.workspace, call.opened, call.variant_id, revision=call.revision)
    first = opened.plan.variants[0].id
    return call.answer(opened, room=_room(call), variant_id=first)


def _room(call: Change) -> str:
    return _known_room(call, call.text("room"))


def _known_room(call: Call, wanted: str) -> str:
    return wanted if wanted in {entry.key for entry in rooms_of(call.request)} else "line"


@router.get("/do/find")
def find(call: Here) -> Response:
    """List everything that `/` finds: rooms, things, stops, carriers and checks with where they are."""
    desk = call.desk()
    ridden = desk.evaluation.ridden
    found = [{"name": room.name, "kind": "room", "address": desk.at(room.key)} for room in rooms_of(call.request)]
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
