"""The list of plans, and the way in."""

import json
from collections.abc import Mapping
from typing import Any
from urllib.parse import quote
from uuid import UUID

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from stonechat.core.plan.limits import LIMITS
from stonechat.errors import Clash, InvalidInput
from stonechat.formats.course_file import CourseChoice, chosen_track
from stonechat.formats.detect import is_plan
from stonechat.formats.line_csv import read_heights
from stonechat.formats.plan_json import json_schema
from stonechat.services import exchange
from stonechat.services import plans as catalogue
from stonechat.services.history import open_plan
from stonechat.services.kit import bring
from stonechat.services.kit.shelf import shelf_items
from stonechat.web.addresses import PLANS, UPLOADS, room_address
from stonechat.web.contexts.choose import choose_view
from stonechat.web.contexts.plans import plans_view
from stonechat.web.desk import workspace_of
from stonechat.web.forms.begin import BeginForm, begin_fields
from stonechat.web.forms.binding import bind, typed_figure
from stonechat.web.respond import NOTE_COOKIE, download, go_back, go_on, kept_note, page
from stonechat.web.rooms.common import Sent, SentForm

router = APIRouter()


def _first_room(request: Request, plan_id: UUID) -> str:
    opened = open_plan(workspace_of(request), plan_id)
    return room_address(plan_id, opened.plan.variants[0].id, "line")


@router.get("/")
def home(request: Request) -> Response:
    """Open the demo plan, else the plan changed last, else the list."""
    heads = catalogue.list_plans(workspace_of(request))
    return RedirectResponse(_first_room(request, heads[0].id) if heads else PLANS, status_code=303)


@router.get(PLANS)
def plan_list(request: Request, find: str = "") -> Response:
    """List all plans, or those with some words in their names."""
    return _list(request, words=find[:80])


def _list(request: Request, *, words: str = "", error: str = "", status: int = 200) -> Response:
    workspace, note = workspace_of(request), kept_note(request)
    heads, gone = catalogue.list_plans(workspace), catalogue.deleted_plans(workspace)
    view = plans_view(heads, gone, words=words, note=note, error=error)
    response = page("plans/list.html", status=status, view=view)
    if note:
        response.delete_cookie(NOTE_COOKIE)
    return response


@router.get(PLANS + "/{plan_id}")
def open_first(request: Request, plan_id: UUID) -> Response:
    """Open a plan in its first room."""
    return RedirectResponse(_first_room(request, plan_id), status_code=303)


@router.post(PLANS)
def bring_in(request: Request, sent: SentForm) -> Response:
    """Begin a plan with a course, which is looked over first, or bring in an exported plan."""
    workspace, data = workspace_of(request), sent.file("file")
    if is_plan(data):
        same = () if sent.text("again") else exchange.same_plans(workspace, data)
        if same:
            raise Clash(
                f"This very plan is here already, as {same[0].name}. Open it from the list; to have it twice, "
                "copy it there."
            )
        return _arrived(request, exchange.import_file(workspace, data, mine=bool(sent.text("mine"))))
    course = exchange.read_course_file(workspace, data)
    if not course.needs_choice:
        chosen_track(course, CourseChoice())  # what no choice can mend is said at once
    upload = exchange.stage_upload(workspace, course.name, data)
    return go_on(request, f"{UPLOADS}/{upload}?surface={quote(sent.text('surface') or 'tarmac')}")


def _arrived(request: Request, imported: exchange.Imported) -> Response:
    return go_on(request, room_address(imported.plan_id, imported.variant_id, "line"), imported.note)


@router.get(UPLOADS + "/{upload_id}")
def look_over(request: Request, upload_id: UUID, surface: str = "") -> Response:
    """Show what a file holds, to choose from, and ask what there is to say of the plan."""
    return _beginning(request, upload_id, given={"surface": surface})


def _beginning(
    request: Request, upload_id: UUID, *, given: Mapping[str, str], status: int = 200, **more: Any
) -> Response:
    workspace = workspace_of(request)
    file = exchange.read_course_file(workspace, exchange.staged_upload(workspace, upload_id).data)
    here = tuple(
        (head.name, f"{PLANS}/{head.id}", head.changed_at) for head in exchange.plans_of_course(workspace, file)
    )
    address = f"{UPLOADS}/{upload_id}"
    view = choose_view(file, address=address, given=given, shelf=shelf_items(workspace), here=here, **more)
    return page("plans/choose.html", status=status, view=view)


@router.post(UPLOADS + "/{upload_id}")
def begin(request: Request, upload_id: UUID, sent: SentForm) -> Response:
    """Make a plan of a file that was looked over."""
    workspace = workspace_of(request)
    form = bind(BeginForm, begin_fields(sent.fields))
    picked = frozenset(sent.texts("thing"))
    again: dict[str, Any] = {"given": sent.fields, "form": form, "picked": picked, "status": 422}
    if form.value is None:
        return _beginning(request, upload_id, **again)
    kit = form.value.kit
    things = tuple(item for item in shelf_items(workspace) if kit == "shelf" and item.id in picked)
    try:
        table = bring.stage_table(workspace, "the kit", sent.file("kit_table")) if kit == "file" else None
        imported = exchange.import_staged(
            workspace,
            upload_id,
            surface=sent.text("surface") or "tarmac",
            choice=_choice(sent),
            name=form.value.name,
            spoken=form.value.to_core(things),
        )
    except InvalidInput as exc:
        return _beginning(request, upload_id, error=exc.message, **again)
    if table is None:
        return _arrived(request, imported)
    kit = room_address(imported.plan_id, imported.variant_id, "kit", tab="bring", open=table)
    return go_on(request, kit, f"{imported.note} Now the kit: look its columns over.")


def _choice(sent: Sent) -> CourseChoice:
    """Return what a person chose of a file."""

    def km(name: str) -> float | None:
        text = sent.text(name).strip()
        return None if not text else 1000.0 * typed_figure(text, "km")

    line, heights = sent.text("line"), sent.text("heights")
    flat = None
    if heights == "flat":
        flat = typed_figure(sent.text("flat_m") or "0", "m")
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


@router.post(PLANS + "/{plan_id}/rename")
def rename(request: Request, plan_id: UUID, sent: SentForm) -> Response:
    """Give a plan another name."""
    try:
        catalogue.rename_plan(workspace_of(request), plan_id, revision=sent.revision, name=sent.text("name"))
    except InvalidInput as exc:
        return _list(request, error=exc.message, status=422)
    return go_back(PLANS)


@router.post(PLANS + "/{plan_id}/copy")
def copy(request: Request, plan_id: UUID) -> Response:
    """Make a copy of a plan."""
    catalogue.duplicate_plan(workspace_of(request), plan_id)
    return go_back(PLANS)


@router.post(PLANS + "/{plan_id}/delete")
def delete(request: Request, plan_id: UUID) -> Response:
    """Take a plan off the list; it can be brought back."""
    head = catalogue.delete_plan(workspace_of(request), plan_id)
    return go_back(PLANS, f"{head.name} is deleted. It waits below, should you want it back.")


@router.post(PLANS + "/{plan_id}/restore")
def restore(request: Request, plan_id: UUID) -> Response:
    """Bring a deleted plan back."""
    head = catalogue.restore_plan(workspace_of(request), plan_id)
    return go_back(PLANS, f"{head.name} is back.")


@router.get("/schema/plan.json")
def schema() -> Response:
    """Give the JSON Schema of a plan file."""
    return download(
        json.dumps(json_schema(), indent=2).encode(), name="stonechat-plan.schema.json", media_type="application/json"
    )
