"""Load: what rides where, by hand and by the solver."""

from uuid import UUID

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, JSONResponse, Response

from stonechat.errors import InvalidInput
from stonechat.services import editing, packing
from stonechat.services.history import open_plan
from stonechat.services.load import options_for
from stonechat.web.contexts.load import load_view, pack_view
from stonechat.web.desk import Room, open_desk, workspace_of
from stonechat.web.respond import after_change, render, show, wants_fragment
from stonechat.web.rooms.common import SentForm

ROOM = Room(key="load", name="Load", letter="o", build=load_view)
router = APIRouter(prefix="/plans/{plan_id}/{variant_id}/do")
_HOLD_NOTHING = {"Cache-Control": "no-store"}


@router.get("/options")
def options(request: Request, plan_id: UUID, variant_id: str, item: str) -> Response:
    """Give what a held thing would cost in each carrier, and why it may not ride in some."""
    opened = open_plan(workspace_of(request), plan_id)
    found = options_for(opened, variant_id, item)
    return JSONResponse(
        [
            {
                "carrier": entry.carrier_id,
                "change_min": round(entry.change, 3),
                "reason": entry.reason,
                "possible": entry.is_possible,
            }
            for entry in found
        ],
        headers=_HOLD_NOTHING,
    )


@router.post("/move")
def move(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Move things to a carrier, home, or to no place."""
    workspace = workspace_of(request)
    items, place = sent.texts("item"), sent.text("place")
    if not items:
        raise InvalidInput("No thing was named. Choose one, then its place.", subject="item")
    opened = editing.move_items(
        workspace,
        open_plan(workspace, plan_id),
        variant_id,
        revision=sent.revision,
        places=dict.fromkeys(items, place),
    )
    room = "kit" if sent.text("room") == "kit" else "load"
    return after_change(request, sent.desk(request, plan_id, variant_id, room, opened, edit=sent.text("edit")))


@router.post("/pin")
def pin(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Pin a thing where it is, or let it go."""
    workspace = workspace_of(request)
    opened = editing.pin_item(
        workspace, open_plan(workspace, plan_id), variant_id, revision=sent.revision, item=sent.text("item")
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "load", opened))


@router.post("/carriers/{carrier_id}/empty")
def empty(request: Request, plan_id: UUID, variant_id: str, carrier_id: str, sent: SentForm) -> Response:
    """Put everything of a carrier on the floor."""
    workspace = workspace_of(request)
    opened = editing.empty_carrier(
        workspace, open_plan(workspace, plan_id), variant_id, revision=sent.revision, carrier_id=carrier_id
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "load", opened))


@router.post("/carriers/{carrier_id}/pin")
def pin_all(request: Request, plan_id: UUID, variant_id: str, carrier_id: str, sent: SentForm) -> Response:
    """Pin everything in a carrier, or let it all go."""
    workspace = workspace_of(request)
    opened = editing.pin_carrier(
        workspace, open_plan(workspace, plan_id), variant_id, revision=sent.revision, carrier_id=carrier_id
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "load", opened))


@router.post("/start-from")
def start_from(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Pack by a rule of thumb, to go on from there."""
    opened = packing.pack_by_rule(
        workspace_of(request), plan_id, variant_id, revision=sent.revision, rule=sent.text("rule")
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "load", opened, edit="tab:starts"))


@router.post("/check-off")
def switch_check(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Do without a check, or want it again."""
    opened = editing.switch_check(
        workspace_of(request), plan_id, variant_id, revision=sent.revision, code=sent.text("check")
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "load", opened, edit="tab:checks"))


@router.post("/pack")
def start_pack(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Start the solver."""
    packing.start_packing(workspace_of(request), plan_id, variant_id)
    return after_change(request, sent.desk(request, plan_id, variant_id, "load"))


@router.get("/pack")
def watch_pack(request: Request, plan_id: UUID, variant_id: str, leg: int = 0) -> Response:
    """Give where the solver stands; asked for again and again while it runs, and once it is over the whole stage."""
    desk = open_desk(request, plan_id, variant_id, "load", leg=leg)
    pack = pack_view(desk)
    if not wants_fragment(request.headers) or pack.run is None or not pack.run.is_active:
        response = show(request, desk)
        response.headers["HX-Retarget"] = "#stage"
        return response
    context = {"pack": pack, "revision": desk.opened.revision, "leg": desk.leg}
    return HTMLResponse(render("load/_pack.html", **context), headers=_HOLD_NOTHING)


@router.post("/pack/stop")
def stop_pack(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Let the solver end with the best it has."""
    packing.stop_packing(workspace_of(request), plan_id, variant_id)
    return after_change(request, sent.desk(request, plan_id, variant_id, "load"))


@router.post("/pack/take")
def take_pack(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Take the moves that are ticked."""
    proposed, taken = set(sent.texts("proposed")), set(sent.texts("take"))
    opened = packing.take_packing(
        workspace_of(request), plan_id, variant_id, revision=sent.revision, refused=proposed - taken
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "load", opened))
