"""Supply: water and food by leg."""

from typing import Annotated

from fastapi import APIRouter, Depends
from fastapi.responses import JSONResponse, Response

from stonechat.services import supply as supply_service
from stonechat.web.call import Call, Change, changing, reading
from stonechat.web.contexts.supply import load_curve, supply_view
from stonechat.web.desk import Look, Room
from stonechat.web.forms.binding import bind
from stonechat.web.forms.supply import SupplyForm

router = APIRouter(prefix="/plans/{plan_id}/{variant_id}/do")
ROOM = Room(key="supply", name="Supply", letter="s", build=supply_view, router=router, legs=True)
Here = Annotated[Call, Depends(reading("supply"))]
Changed = Annotated[Change, Depends(changing("supply"))]


@router.get("/load.json")
def curve(call: Here) -> Response:
    """Give mass, water and food along the route for the chart."""
    return JSONResponse(load_curve(call.desk()))


@router.post("/supply/{stop_id}")
def leave_with(call: Changed, stop_id: str) -> Response:
    """Set what to leave a stop with."""
    form = bind(SupplyForm, call.fields)
    if form.value is None:
        desk = call.desk(look=Look(open=stop_id), forms={"supply": form})
        return call.show(desk, status=422)
    opened = supply_service.set_supply(
        call.workspace,
        call.plan_id,
        call.variant_id,
        revision=call.revision,
        stop_id=stop_id,
        water=form.value.water_l,
        food=form.value.food_kcal,
    )
    return call.answer(opened)
