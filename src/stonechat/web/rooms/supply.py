"""Supply: water and food by leg."""

from uuid import UUID

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response

from stonechat.services import editing
from stonechat.web.contexts.supply import load_curve, supply_view
from stonechat.web.desk import Look, Room, open_desk, workspace_of
from stonechat.web.forms.binding import bind
from stonechat.web.forms.supply import SupplyForm
from stonechat.web.respond import after_change, show
from stonechat.web.rooms.common import SentForm

ROOM = Room(key="supply", name="Supply", letter="s", build=supply_view)
router = APIRouter(prefix="/plans/{plan_id}/{variant_id}/do")


@router.get("/load.json")
def curve(request: Request, plan_id: UUID, variant_id: str) -> Response:
    """Give mass, water and food along the route for the chart."""
    return JSONResponse(load_curve(open_desk(request, plan_id, variant_id, "supply")))


@router.post("/supply/{stop_id}")
def leave_with(request: Request, plan_id: UUID, variant_id: str, stop_id: str, sent: SentForm) -> Response:
    """Set what to leave a stop with."""
    form = bind(SupplyForm, sent.fields)
    if form.value is None:
        desk = sent.desk(request, plan_id, variant_id, "supply", look=Look(open=stop_id), forms={"supply": form})
        return show(request, desk, status=422)
    opened = editing.set_supply(
        workspace_of(request),
        plan_id,
        variant_id,
        revision=sent.revision,
        stop_id=stop_id,
        water=form.value.water_l,
        food=form.value.food_kcal,
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "supply", opened))
