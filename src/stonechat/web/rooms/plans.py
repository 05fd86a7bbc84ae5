"""The list of plans, and the way in."""

import json
from urllib.parse import quote
from uuid import UUID

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from stonechat.core.line.surface import SURFACES
from stonechat.core.plan.limits import LIMITS
from stonechat.errors import InvalidInput
from stonechat.formats.course_file import CourseChoice
from stonechat.formats.detect import is_plan
from stonechat.formats.line_csv import read_heights
from stonechat.formats.numbers import parse_number
from stonechat.formats.plan_json import json_schema
from stonechat.services import exchange
from stonechat.services.history import open_plan
from stonechat.web.addresses import PLANS, UPLOADS, room_address
from stonechat.web.contexts.choose import choose_view
from stonechat.web.desk import workspace_of
from stonechat.web.respond import download, keep_note, kept_note, page, wants_fragment
from stonechat.web.rooms.common import Sent, SentForm

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
    """Make a new plan from a course or an exported plan; a course that leaves a choice is looked over first."""
    workspace, data = workspace_of(request), sent.file("file")
    if not is_plan(data):
        course = exchange.read_course_file(workspace, data)
        if course.needs_choice or sent.text("look"):
            upload = exchange.stage_upload(workspace, course.name, data)
            return _go(request, f"{UPLOADS}/{upload}?surface={quote(sent.text('surface') or 'tarmac')}")
    imported = exchange.import_file(workspace, data, surface=sent.text("surface") or "tarmac")
    return _arrived(request, imported)


def _arrived(request: Request, imported: exchange.Imported) -> Response:
    response = _go(request, room_address(imported.plan_id, imported.variant_id, "line"))
    keep_note(response, imported.note)
    return response


def _go(request: Request, address: str) -> Response:
    if wants_fragment(request.headers):
        return Response(status_code=204, headers={"HX-Redirect": address})
    return RedirectResponse(address, status_code=303)


@router.get(UPLOADS + "/{upload_id}")
def look_over(request: Request, upload_id: UUID, surface: str = "") -> Response:
    """Show what a file holds, to choose from."""
    workspace = workspace_of(request)
    file = exchange.read_course_file(workspace, exchange.staged_upload(workspace, upload_id).data)
    given = {"surface": surface}
    return page("plans/choose.html", view=choose_view(file, address=f"{UPLOADS}/{upload_id}", given=given))


@router.post(UPLOADS + "/{upload_id}")
def choose(request: Request, upload_id: UUID, sent: SentForm) -> Response:
    """Make a plan of a file that was looked over."""
    workspace = workspace_of(request)
    try:
        imported = exchange.import_staged(
            workspace, upload_id, surface=sent.text("surface") or "tarmac", choice=_choice(sent)
        )
    except InvalidInput as exc:
        file = exchange.read_course_file(workspace, exchange.staged_upload(workspace, upload_id).data)
        view = choose_view(file, address=f"{UPLOADS}/{upload_id}", given=sent.fields, error=exc.message)
        return page("plans/choose.html", status=422, view=view)
    return _arrived(request, imported)


def _choice(sent: Sent) -> CourseChoice:
    """Return what a person chose of a file."""

    def km(name: str) -> float | None:
        text = sent.text(name).strip()
        return None if not text else 1000.0 * parse_number(text, unit="km")

    line, heights = sent.text("line"), sent.text("heights")
    flat = None
    if heights == "flat":
        flat = parse_number(sent.text("flat_m") or "0", unit="m")
        if not LIMITS["height"].low <= flat <= LIMITS["height"].high:
            raise InvalidInput(f"{flat:g} m is no height to ride at; -500 to 9,000 m can be.", subject="flat_m")
    return CourseChoice(
        line=int(line) if line.isdigit() else None,
        gaps="longest" if sent.text("gaps") == "longest" else "join",
        reverse=bool(sent.text("reverse")),
        start=km("start_km") or 0.0,
        end=km("end_km"),
        flat=flat,
        heights=read_heights(sent.file("heights_table")) if heights == "table" else None,
    )


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
