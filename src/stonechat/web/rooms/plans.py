"""The list of plans, and the way in."""

import json
from uuid import UUID

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from stonechat.core.line.surface import SURFACES
from stonechat.formats.plan_json import json_schema
from stonechat.services import exchange
from stonechat.services.history import open_plan
from stonechat.web.addresses import PLANS, room_address
from stonechat.web.desk import workspace_of
from stonechat.web.respond import download, keep_note, kept_note, page, wants_fragment
from stonechat.web.rooms.common import SentForm

router = APIRouter()


def _first_room(request: Request, plan_id: UUID) -> str:
    opened = open_plan(workspace_of(request), plan_id)
    return room_address(plan_id, opened.plan.variants[0].id, "line")


@router.get("/")
def home(request: Request) -> Response:
    """Open the demo plan, else the plan changed last, else the list."""
    heads = exchange.list_plans(workspace_of(request))
    return RedirectResponse(_first_room(request, heads[0].id) if heads else PLANS, status_code=303)


@router.get(PLANS)
def plan_list(request: Request) -> Response:
    """List all plans."""
    heads = exchange.list_plans(workspace_of(request))
    return page(
        "plans/list.html",
        plans=[(head, f"{PLANS}/{head.id}") for head in heads],
        surfaces=[(surface.key, surface.name) for surface in SURFACES],
        import_address=PLANS,
        note=kept_note(request),
    )


@router.get(PLANS + "/{plan_id}")
def open_first(request: Request, plan_id: UUID) -> Response:
    """Open a plan in its first room."""
    return RedirectResponse(_first_room(request, plan_id), status_code=303)


@router.post(PLANS)
def bring_in(request: Request, sent: SentForm) -> Response:
    """Make a new plan from a course or an exported plan."""
    data = sent.file("file")
    imported = exchange.import_file(workspace_of(request), data, surface=sent.text("surface") or "tarmac")
    address = room_address(imported.plan_id, imported.variant_id, "line")
    if wants_fragment(request.headers):
        response = Response(status_code=204, headers={"HX-Redirect": address})
    else:
        response = RedirectResponse(address, status_code=303)
    keep_note(response, imported.note)
    return response


@router.post(PLANS + "/{plan_id}/delete")
def delete(request: Request, plan_id: UUID) -> Response:
    """Delete a plan with its history."""
    exchange.delete_plan(workspace_of(request), plan_id)
    return RedirectResponse(PLANS, status_code=303)


@router.get("/schema/plan.json")
def schema() -> Response:
    """Give the JSON Schema of a plan file."""
    return download(
        json.dumps(json_schema(), indent=2).encode(), name="stonechat-plan.schema.json", media_type="application/json"
    )
