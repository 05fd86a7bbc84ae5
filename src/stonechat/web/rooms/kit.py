"""Kit: the things and their prices."""

from uuid import UUID

from fastapi import APIRouter, Request
from fastapi.responses import Response

from stonechat.services import editing, exchange
from stonechat.services.history import open_plan
from stonechat.web.contexts.kit import NEW, kit_view
from stonechat.web.desk import Room, workspace_of
from stonechat.web.forms.binding import bind
from stonechat.web.forms.kit import ItemForm
from stonechat.web.respond import after_change, download, show
from stonechat.web.rooms.common import SentForm

ROOM = Room(key="kit", name="Kit", letter="k", build=kit_view)
router = APIRouter(prefix="/plans/{plan_id}/{variant_id}/do")


@router.get("/kit.csv")
def kit_csv(request: Request, plan_id: UUID, variant_id: str) -> Response:
    """Give the kit as CSV."""
    opened = open_plan(workspace_of(request), plan_id)
    return download(exchange.export_kit(opened), name=f"{opened.plan.name}-kit.csv", media_type="text/csv")


@router.post("/kit")
def bring_kit(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Bring a kit in from CSV."""
    opened = exchange.import_kit(
        workspace_of(request), plan_id, revision=sent.revision, data=sent.file("file"), mode=sent.text("mode")
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "kit", opened))


@router.post("/items/{item_id}")
def change_item(request: Request, plan_id: UUID, variant_id: str, item_id: str, sent: SentForm) -> Response:
    """Change a thing, or add one."""
    form = bind(ItemForm, sent.fields)
    if form.value is None:
        desk = sent.desk(request, plan_id, variant_id, "kit", edit=item_id, forms={"item": form})
        return show(request, desk, status=422)
    item = form.value.to_core("" if item_id == NEW else item_id)
    opened = editing.set_item(workspace_of(request), plan_id, revision=sent.revision, item=item)
    return after_change(request, sent.desk(request, plan_id, variant_id, "kit", opened))


@router.post("/items/{item_id}/drop")
def drop_item(request: Request, plan_id: UUID, variant_id: str, item_id: str, sent: SentForm) -> Response:
    """Take a thing out of the kit."""
    workspace = workspace_of(request)
    opened = editing.drop_item(workspace, open_plan(workspace, plan_id), revision=sent.revision, item=item_id)
    return after_change(request, sent.desk(request, plan_id, variant_id, "kit", opened))
